// Coding blocks and how they are predicted (7.3.8.5 to 7.3.8.7, 7.3.8.9).
#include <algorithm>
#include <utility>

#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {
namespace {

enum PartMode : unsigned { Whole, Rows, Columns, Quarters, RowAbove, RowBelow, ColumnLeft, ColumnRight };

constexpr std::uint8_t kNotDerived = 34;

// Table 8-3, for pictures with half as many columns of colour as rows (mode of 4:2:2).
constexpr std::array<std::uint8_t, 35> kHalfWide{0,  1,  2,  2,  2,  2,  3,  5,  7,  8,  10, 11,
                                                 13, 15, 16, 18, 19, 20, 21, 22, 23, 23, 24, 24,
                                                 25, 25, 26, 27, 27, 28, 28, 29, 29, 30, 31};

}  // namespace

void SliceData::codingBlock(int x, int y, unsigned size, unsigned depth) {
    const int side = 1 << size;
    CodingBlock block;
    block.x = x;
    block.y = y;
    block.size = size;
    if (picture_.bypass) block.bypass = bit(element::kBypass);
    bool skipped = false;
    if (head_.type != SliceType::I) {
        const bool left = grid_.available(x - 1, y, current_) && grid_.block(x - 1, y).skipped;
        const bool above = grid_.available(x, y - 1, current_) && grid_.block(x, y - 1).skipped;
        skipped = bit(element::kSkip + (left ? 1U : 0U) + (above ? 1U : 0U));
    }
    grid_.setBlock(x, y, side, {static_cast<std::uint8_t>(depth), skipped});
    if (skipped) {
        mergeIndex();
        grid_.setIntra(x, y, side, PictureGrid::kMean);
        return;
    }
    if (head_.type != SliceType::I) block.intra = bit(element::kPredMode);
    unsigned mode = Whole;
    if (!block.intra || size == sequence_.minBlock) mode = partMode(block);
    block.plainShape = mode == Whole;
    block.split = block.intra && mode == Quarters;
    bool merged = false;
    if (block.intra) {
        if (mode == Whole && sequence_.plain && size >= sequence_.minPlain && size <= sequence_.maxPlain &&
            arithmetic_.terminate()) {
            grid_.setIntra(x, y, side, PictureGrid::kMean);
            return plainSamples(size);
        }
        intraParts(block);
    } else {
        grid_.setIntra(x, y, side, PictureGrid::kMean);
        interParts(block, mode, depth, merged);
    }
    const bool told = !block.intra && !(mode == Whole && merged);
    if (told && !bit(element::kRootCoded)) return;
    const auto maxDepth = block.intra ? sequence_.intraDepth + (block.split ? 1U : 0U) : sequence_.interDepth;
    transformTree(block, {x, y, x, y, size, 0, 0}, {{true, true}, {true, true}}, maxDepth);
}

unsigned SliceData::partMode(const CodingBlock& block) {  // 9.3.3.7
    if (bit(element::kPartMode)) return Whole;
    if (block.intra) return Quarters;
    const bool rows = bit(element::kPartMode + 1);
    if (block.size == sequence_.minBlock) {
        if (rows) return Rows;
        if (block.size == 3) return Columns;
        return bit(element::kPartMode + 2) ? Columns : Quarters;
    }
    if (!sequence_.asymmetric || bit(element::kPartMode + 3)) return rows ? Rows : Columns;
    const bool second = arithmetic_.bypass();
    if (rows) return second ? RowBelow : RowAbove;
    return second ? ColumnRight : ColumnLeft;
}

void SliceData::interParts(const CodingBlock& block, unsigned mode, unsigned depth, bool& merged) {
    const auto side = 1U << block.size;
    const auto two = [&](unsigned wide, unsigned high) {
        interPart(wide, high, depth);
        interPart(wide == side ? side : side - wide, high == side ? side : side - high, depth);
    };
    switch (mode) {
        case Whole: merged = interPart(side, side, depth); break;
        case Rows: two(side, side / 2); break;
        case Columns: two(side / 2, side); break;
        case RowAbove: two(side, side / 4); break;
        case RowBelow: two(side, side - side / 4); break;
        case ColumnLeft: two(side / 4, side); break;
        case ColumnRight: two(side - side / 4, side); break;
        default:
            for (int i = 0; i < 4; ++i) interPart(side / 2, side / 2, depth);
    }
}

void SliceData::mergeIndex() {
    if (head_.mergeCandidates > 1) counted(element::kMergeIndex, 1, head_.mergeCandidates - 1);
}

// Whether it takes all from a neighbour.
bool SliceData::interPart(unsigned wide, unsigned high, unsigned depth) {
    if (bit(element::kMergeFlag)) {
        mergeIndex();
        return true;
    }
    bool first = true;
    bool second = false;
    if (head_.type == SliceType::B) {
        if (wide + high != 12 && bit(element::kDirection + depth)) {
            second = true;
        } else {
            second = bit(element::kDirection + 4);
            first = !second;
        }
    }
    for (std::size_t list = 0; list < 2; ++list) {
        if (!(list == 0 ? first : second)) continue;
        if (head_.references[list] > 1) counted(element::kReference, 2, head_.references[list] - 1);
        if (list == 0 || !head_.noSecondDifference || !first) vectorDifference();
        bit(element::kPredictor);
    }
    return false;
}

void SliceData::vectorDifference() {
    const std::array<bool, 2> some{bit(element::kVectorGreater0), bit(element::kVectorGreater0)};
    std::array<bool, 2> more{};
    for (std::size_t i = 0; i < 2; ++i) more[i] = some[i] && bit(element::kVectorGreater1);
    for (std::size_t i = 0; i < 2; ++i) {
        if (more[i] && exponentialGolomb(1) > (1U << 15)) wrong("a motion that cannot be");
        if (some[i]) arithmetic_.bypass();
    }
}

void SliceData::intraParts(CodingBlock& block) {
    const std::size_t parts = block.split ? 4 : 1;
    const int side = (1 << block.size) / (block.split ? 2 : 1);
    std::array<bool, 4> predicted{};
    for (std::size_t i = 0; i < parts; ++i) predicted[i] = bit(element::kPrevIntra);
    for (std::size_t i = 0; i < parts; ++i) {
        const int x = block.x + static_cast<int>(i & 1) * side;
        const int y = block.y + static_cast<int>(i >> 1) * side;
        const unsigned index = predicted[i] ? counted(0, 0, 2) : 3;
        const unsigned remaining = predicted[i] ? 0 : arithmetic_.bypass(5);
        block.luma[i] = lumaDirection(x, y, index, remaining);
        grid_.setIntra(x, y, side, block.luma[i]);
    }
    if (!block.split) block.luma.fill(block.luma[0]);
    if (sequence_.chromaArray() == 0) return;
    const std::size_t chromaParts = sequence_.chromaArray() == 3 ? parts : 1;
    for (std::size_t i = 0; i < chromaParts; ++i) {
        const unsigned mode = bit(element::kChromaMode) ? arithmetic_.bypass(2) : 4;
        block.chromaMode[i] = static_cast<std::uint8_t>(mode);
        block.chroma[i] = chromaDirection(block.luma[i], mode);
    }
    if (chromaParts == 1) {
        block.chroma.fill(block.chroma[0]);
        block.chromaMode.fill(block.chromaMode[0]);
    }
}

// 8.4.2. `predicted`: which of the three likeliest; 3: none of them, but the `remaining`th of the others.
std::uint8_t SliceData::lumaDirection(int x, int y, unsigned predicted, unsigned remaining) const {
    const auto left = grid_.available(x - 1, y, current_) ? grid_.intra(x - 1, y) : PictureGrid::kMean;
    const bool sameRow = (y & ((1 << sequence_.treeBlock) - 1)) != 0;
    const auto above =
        sameRow && grid_.available(x, y - 1, current_) ? grid_.intra(x, y - 1) : PictureGrid::kMean;
    std::array<std::uint8_t, 3> likely{left, above, PictureGrid::kVertical};
    if (left == above && left < 2) {
        likely = {PictureGrid::kPlanar, PictureGrid::kMean, PictureGrid::kVertical};
    } else if (left == above) {
        likely = {left, static_cast<std::uint8_t>(2 + (left + 29) % 32),
                  static_cast<std::uint8_t>(2 + (left - 1) % 32)};
    } else if (left != PictureGrid::kPlanar && above != PictureGrid::kPlanar) {
        likely[2] = PictureGrid::kPlanar;
    } else if (left != PictureGrid::kMean && above != PictureGrid::kMean) {
        likely[2] = PictureGrid::kMean;
    }
    if (predicted < 3) return likely[predicted];
    std::sort(likely.begin(), likely.end());
    auto mode = remaining;
    for (const auto one : likely) mode += mode >= one ? 1 : 0;
    return static_cast<std::uint8_t>(mode);
}

std::uint8_t SliceData::chromaDirection(std::uint8_t luma, unsigned mode) const {  // 8.4.3
    constexpr std::array<std::uint8_t, 4> kModes{PictureGrid::kPlanar, PictureGrid::kVertical,
                                                 PictureGrid::kHorizontal, PictureGrid::kMean};
    std::uint8_t direction = luma;
    if (mode < 4) direction = kModes[mode] == luma ? kNotDerived : kModes[mode];
    return sequence_.chromaArray() == 2 ? kHalfWide[direction] : direction;
}

void SliceData::plainSamples(unsigned size) {  // 7.3.8.7
    if (!arithmetic_.endsClean()) return wrong("samples do not begin where they must");
    const std::size_t luma = std::size_t{1} << (2 * size);
    constexpr std::array<std::size_t, 4> kOf4{0, 2, 4, 8};  // both colours together, in quarters of the luma
    const auto bits = luma * sequence_.plainLumaDepth +
                      luma * kOf4[sequence_.chromaArray()] / 4 * sequence_.plainChromaDepth;
    arithmetic_.restart((bits + 7) / 8);
}

}  // namespace dreskel::hevc
