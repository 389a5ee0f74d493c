// Segments, tree blocks and the quadtree (7.3.8.1 to 7.3.8.4). Coding blocks are in coding_block.cpp,
// transforms in transform.cpp.
#include "formats/hevc/slice_data.h"

#include <algorithm>

namespace dreskel::hevc {

void SliceData::startContexts(std::uint32_t inRows) {  // 9.3.1
    const auto x = inRows % grid_.wide();
    const bool rowBegins = picture_.rowsAlone && x == grid_.tileLeft(inRows);
    if (rowBegins && inRows >= grid_.wide()) {
        // From the row above, when the block to the upper right may be referred to.
        const int size = 1 << sequence_.treeBlock;
        const auto y = static_cast<int>(inRows / grid_.wide());
        if (grid_.available((static_cast<int>(x) + 1) * size, (y - 1) * size, inRows)) {
            entropy_ = afterRow_;
            return;
        }
    } else if (!rowBegins && head_.dependent) {
        const auto inTiles = grid_.inTiles(inRows);
        if (inTiles > 0 && grid_.tile(inRows) == grid_.tile(grid_.inRows(inTiles - 1))) {
            entropy_ = afterSegment_;
            return;
        }
    }
    const unsigned type = head_.type == SliceType::I                        ? 0
                          : (head_.type == SliceType::P) != head_.cabacInit ? 1
                                                                            : 2;
    entropy_ = {initialContexts(type, head_.qp), {}};
}

// What is known of the blocks behind is of another try; each is told anew before anything refers to it.
bool SliceData::takeUp(const State& state, Bytes body) {
    arithmetic_ = state.arithmetic;
    arithmetic_.goOnIn(body);
    entropy_ = state.entropy;
    afterRow_ = state.afterRow;
    afterSegment_ = state.afterSegment;
    next_ = state.next;
    slices_ = state.slices;
    head_.dependent = state.dependent;
    return state.starts;
}

std::optional<PictureFault> SliceData::slice(const SliceHead& head, Bytes body, Stops* stops) {
    head_ = head;
    wrong_ = nullptr;
    bool starts = true;
    if (stops != nullptr && stops->last() != nullptr) {
        starts = takeUp(*stops->last(), body);
    } else {
        arithmetic_ = ArithmeticDecoder(body, head.dataAt);
        if (head.address >= grid_.count() || grid_.inTiles(head.address) != next_)
            return fault("a part of the picture is missing");
        if (!head.dependent) ++slices_;
    }
    for (;;) {
        if (stops != nullptr && stops->due(arithmetic_.position()))
            stops->add(arithmetic_.position(), arithmetic_.needed(), state(starts));
        current_ = grid_.inRows(next_);
        grid_.begin(current_, slices_);
        if (starts) startContexts(current_);
        starts = false;
        treeBlock(current_);
        if (wrong_ != nullptr) return fault(wrong_);
        if (arithmetic_.overrun()) return fault("its data end inside a block");
        const bool over = arithmetic_.terminate();
        ++next_;
        const auto left = grid_.tileLeft(current_);
        const auto x = current_ % grid_.wide();
        // The second block of a row.
        if (picture_.rowsAlone && x == left + 1) afterRow_ = entropy_;
        if (over) break;
        if (next_ == grid_.count()) return fault("its data go on behind the last block");
        const auto following = grid_.inRows(next_);
        const bool newTile = grid_.tile(following) != grid_.tile(current_);
        if (newTile || (picture_.rowsAlone && following % grid_.wide() == grid_.tileLeft(following))) {
            if (!arithmetic_.terminate() || !arithmetic_.endsClean())
                return fault("a row or tile of it does not end where it must");
            arithmetic_.restart(0);
            starts = true;
            // What a tile or row begins with does not depend on the segment before.
            if (newTile) head_.dependent = false;
        }
    }
    afterSegment_ = entropy_;
    if (!arithmetic_.endsClean() || arithmetic_.position() != body.size())
        return fault("its data do not end with its last block");
    return std::nullopt;
}

std::uint32_t SliceData::exponentialGolomb(unsigned order) {
    const auto value = arithmetic_.exponentialGolomb(order);
    if (!value) wrong("a number that cannot be");
    return value.value_or(0);
}

// Ones that are counted, each with a context of its own as far as there are any.
unsigned SliceData::counted(std::size_t place, unsigned contexts, unsigned most) {
    unsigned count = 0;
    while (count < most && (count < contexts ? bit(place + count) : arithmetic_.bypass())) ++count;
    return count;
}

void SliceData::treeBlock(std::uint32_t inRows) {
    if (head_.lumaOffsets || head_.chromaOffsets) sampleOffsets(inRows);
    const auto x = static_cast<int>(inRows % grid_.wide()) << sequence_.treeBlock;
    const auto y = static_cast<int>(inRows / grid_.wide()) << sequence_.treeBlock;
    quadtree(x, y, sequence_.treeBlock, 0);
}

void SliceData::sampleOffsets(std::uint32_t inRows) {  // 7.3.8.3
    const int size = 1 << sequence_.treeBlock;
    const auto x = static_cast<int>(inRows % grid_.wide()) * size;
    const auto y = static_cast<int>(inRows / grid_.wide()) * size;
    if (grid_.available(x - size, y, inRows) && bit(element::kOffsetsMerge)) return;
    if (grid_.available(x, y - size, inRows) && bit(element::kOffsetsMerge)) return;
    unsigned type = 0;
    for (unsigned colour = 0; colour < (sequence_.chromaArray() != 0 ? 3U : 1U); ++colour) {
        if (!(colour == 0 ? head_.lumaOffsets : head_.chromaOffsets)) continue;
        if (colour < 2) type = !bit(element::kOffsetsType) ? 0 : arithmetic_.bypass() ? 2 : 1;
        if (type == 0) continue;
        const auto depth = std::min(colour == 0 ? sequence_.lumaDepth : sequence_.chromaDepth, 10U);
        const unsigned most = (1U << (depth - 5)) - 1;
        unsigned coded = 0;
        for (int i = 0; i < 4; ++i) coded += counted(0, 0, most) > 0 ? 1 : 0;
        if (type == 1) {
            arithmetic_.bypass(coded + 5);
        } else if (colour < 2) {
            arithmetic_.bypass(2);
        }
    }
}

void SliceData::quadtree(int x, int y, unsigned size, unsigned depth) {
    if (wrong_ != nullptr || arithmetic_.overrun()) return;
    const int side = 1 << size;
    const auto width = static_cast<int>(sequence_.width);
    const auto height = static_cast<int>(sequence_.height);
    bool split = size > sequence_.minBlock;
    if (split && x + side <= width && y + side <= height) {
        const bool left = grid_.available(x - 1, y, current_) && grid_.block(x - 1, y).depth > depth;
        const bool above = grid_.available(x, y - 1, current_) && grid_.block(x, y - 1).depth > depth;
        split = bit(element::kSplit + (left ? 1U : 0U) + (above ? 1U : 0U));
    }
    if (picture_.qpDelta && size + picture_.qpDeltaDepth >= sequence_.treeBlock) qpDeltaCoded_ = false;
    if (head_.chromaQpOffsets && size + picture_.chromaOffsetDepth >= sequence_.treeBlock)
        chromaOffsetCoded_ = false;
    if (!split) return codingBlock(x, y, size, depth);
    const int half = side / 2;
    for (int part = 0; part < 4; ++part) {
        const int partX = x + (part & 1) * half;
        const int partY = y + (part >> 1) * half;
        if (partX < width && partY < height) quadtree(partX, partY, size - 1, depth + 1);
    }
}

}  // namespace dreskel::hevc
