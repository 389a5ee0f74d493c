#include "formats/vp9/stream_check.h"

#include <memory>
#include <utility>

#include "formats/vp9/tables.h"

namespace dreskel::vp9 {
namespace {

// The frames of a packet (annex B).
std::vector<Bytes> framesOf(Bytes packet) {
    if (packet.empty()) return {};
    const auto mark = packet.back();
    const std::size_t count = (mark & 7U) + 1, width = (mark >> 3 & 3U) + 1, length = 2 + count * width;
    if ((mark & 0xe0) != 0xc0 || packet.size() < length || packet[packet.size() - length] != mark)
        return {packet};
    std::vector<Bytes> frames;
    std::size_t at = 0;
    const auto end = packet.size() - length;
    for (std::size_t i = 0; i < count; ++i) {
        std::size_t size = 0;
        for (std::size_t k = 0; k < width; ++k)
            size |= std::size_t{packet[end + 1 + i * width + k]} << (8 * k);
        if (size > end - at) return {};
        if (size > 0) frames.push_back(packet.subspan(at, size));
        at += size;
    }
    return at == end ? frames : std::vector<Bytes>{};
}

// Where a part begins (6.4, get_tile_offset), in places of eight pixels.
std::uint32_t partAt(std::uint32_t number, std::uint32_t wide, std::uint32_t parts, std::uint32_t places) {
    return std::min((number * wide >> parts) * 8, places);
}

}  // namespace

StreamCheck::StreamCheck() : chances_(kUsualChances) {
    learnt_.fill(kUsualChances);
}

std::optional<PictureFault> StreamCheck::unit(Bytes packet) {
    const auto frames = framesOf(packet);
    if (frames.empty() && !packet.empty()) {
        lost_ = true;
        return PictureFault{0, "it holds no frame"};
    }
    std::optional<PictureFault> fault;
    for (const auto& each : frames) {
        const auto* why = frame(each);
        if (why == nullptr) continue;
        lost_ = true;
        fault = PictureFault{static_cast<std::size_t>(each.data() - packet.data()) + each.size(), why};
        break;
    }
    if (!lost_ || fault) followed();
    return fault;
}

const char* StreamCheck::frame(Bytes frame) {
    auto kept = kept_;
    const auto head = readFrameHead(frame, kept);
    if (head && head->key && std::uint64_t{head->size.width} * head->size.height <= kMostPixels)
        lost_ = false;
    if (lost_) return nullptr;
    if (!head) return "it holds no frame";
    if (std::uint64_t{head->size.width} * head->size.height > kMostPixels) {
        lost_ = true;
        return nullptr;
    }
    kept_ = kept;
    return head->showsAnother ? nullptr : follow(frame, *head);
}

// What nothing was learnt of (7.2, setup_past_independence and reset_frame_context).
void StreamCheck::begin(const FrameHead& head) {
    if (!head.anew()) {
        chances_ = learnt_[head.context];
        return;
    }
    chances_ = kUsualChances;
    if (head.key || head.resilient || head.reset == 3) {
        learnt_.fill(kUsualChances);
    } else if (head.reset == 2) {
        learnt_[head.context] = kUsualChances;
    }
    std::fill(segmentsBefore_.begin(), segmentsBefore_.end(), std::uint8_t{0});
}

const char* StreamCheck::follow(Bytes frame, const FrameHead& head) {
    const std::size_t places = std::size_t{head.size.columns()} * head.size.rows();
    if (segmentsBefore_.size() != places) segmentsBefore_.assign(places, 0);
    segments_.resize(places);
    begin(head);
    // What is anew keeps what it learns in the first place.
    const auto context = head.anew() ? 0 : head.context;
    const auto stated = head.statedLength <= frame.size() - head.length
                            ? readStatedChances(frame.subspan(head.length, head.statedLength), head, chances_)
                            : std::nullopt;
    if (!stated) return "what its chances are is damaged";
    std::swap(field_, before_);
    const bool useBefore = !head.resilient && beforeShown_ && before_.size() == head.size;
    if (!(field_.size() == head.size)) field_ = Field(head.size);
    counts_ = {};
    const Picture picture{
        head,      *stated, kept_,  chances_, useBefore ? &before_ : nullptr, segmentsBefore_,
        segments_, field_,  counts_};
    if (const auto* why = tiles(frame.subspan(head.length + head.statedLength), picture)) return why;
    if (!head.inParallel) {
        const Adapting how{head.inter(), head.switchableFilter, stated->selectsTransform, head.eighths,
                           beforeKey_ ? Follows::AfterKey : Follows::Slowly};
        adapt(chances_, learnt_[context], counts_, how);
    }
    if (head.keepsChances) learnt_[context] = chances_;
    if (kept_.segmentation.enabled) std::swap(segments_, segmentsBefore_);
    for (std::size_t i = 0; i < 8; ++i) {
        if ((head.refreshes >> i & 1) != 0) kept_.sizes[i] = head.size;
    }
    beforeShown_ = head.shown;
    beforeKey_ = head.key;
    return nullptr;
}

const char* StreamCheck::tiles(Bytes data, const Picture& picture) {
    const auto& head = picture.head;
    const auto& size = head.size;
    Edge above(size);
    ByteReader reader(data);
    const std::uint32_t rows = 1U << head.rowParts, columns = 1U << head.columnParts;
    for (std::uint32_t row = 0; row < rows; ++row) {
        for (std::uint32_t column = 0; column < columns; ++column) {
            const bool last = row + 1 == rows && column + 1 == columns;
            const std::uint64_t length = last ? reader.left() : reader.u32();
            if (!reader.ok() || length > reader.left()) return "its parts reach over its end";
            const TileBounds bounds{partAt(row, size.wideRows(), head.rowParts, size.rows()),
                                    partAt(row + 1, size.wideRows(), head.rowParts, size.rows()),
                                    partAt(column, size.wideColumns(), head.columnParts, size.columns()),
                                    partAt(column + 1, size.wideColumns(), head.columnParts, size.columns())};
            if (const auto* why = Tile(reader.take(length), bounds, picture, above).follow()) return why;
        }
    }
    return nullptr;
}

}  // namespace dreskel::vp9
