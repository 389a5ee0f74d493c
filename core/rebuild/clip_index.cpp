#include "rebuild/clip_index.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;
using isobmff::readBoxHeader;

constexpr int kMostBoxesInFront = 16;
constexpr std::size_t kPortion = 4 << 20;
constexpr std::size_t kMovieHeader = 16;  // the moov box's header and the next one's
// Between the last sample and the end of the media data some writers leave padding.
constexpr std::uint64_t kMostPadding = 4 << 20;

}  // namespace

std::optional<ClipHead> readClipHead(CardView& card, std::uint64_t start) {
    ClipHead head;
    head.start = start;
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t at = 0;
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        const auto got = card.read(start + at, buffer);
        const auto box = readBoxHeader(Bytes(buffer).first(got));
        if (!box || box->size == 0) return std::nullopt;
        const auto next = checkedAdd(at, box->size);
        if (!next) return std::nullopt;
        if (box->type == fourCc("moov")) {
            head.indexInFront = true;
            head.indexAt = at;
        }
        if (box->type == fourCc("mdat") && box->size > 4096) {
            head.media = {at + box->headerSize, box->size - box->headerSize};
            if (!head.indexInFront) head.indexAt = *next;
            return head;
        }
        // What stands in front of the media data is short, but for an index.
        if (box->size > limits::kLargestIndex) return std::nullopt;
        at = *next;
    }
    return std::nullopt;
}

std::optional<LooseIndex> readLooseIndex(CardView& card, std::uint64_t at) {
    std::vector<std::uint8_t> bytes(8);
    if (card.read(at, bytes) < bytes.size()) return std::nullopt;
    const auto box = readBoxHeader(bytes);
    if (!box || box->type != fourCc("moov") || box->headerSize != 8 || box->size < 64 ||
        box->size > limits::kLargestIndex)
        return std::nullopt;
    bytes.resize(static_cast<std::size_t>(box->size));
    if (card.read(at, bytes) < bytes.size()) return std::nullopt;
    auto tracks = isobmff::readSamples(Bytes(bytes).subspan(8));
    const auto movie = isobmff::readMovie(Bytes(bytes).subspan(8));
    if (!tracks || tracks->empty() || !movie) return std::nullopt;
    LooseIndex index;
    index.box = {at, box->size};
    index.firstByte = UINT64_MAX;
    for (const auto& track : movie->tracks) {
        for (const auto& chunk : track.chunks) {
            index.firstByte = std::min(index.firstByte, chunk.offset);
            index.lastByte = std::max(index.lastByte, chunk.end());
        }
    }
    if (index.lastByte == 0) return std::nullopt;
    index.tracks = std::move(*tracks);
    return index;
}

std::vector<std::uint64_t> findIndexes(CardView& card, const std::vector<ByteRange>& stretches,
                                       const Control& control) {
    std::vector<std::uint64_t> found;
    std::vector<std::uint8_t> buffer(kPortion);
    for (const auto& stretch : stretches) {
        for (auto at = stretch.offset; at + kMovieHeader <= stretch.end() && !control.stopped();) {
            const auto want = static_cast<std::size_t>(std::min<std::uint64_t>(kPortion, stretch.end() - at));
            const auto got = card.read(at, MutableBytes(buffer).first(want));
            if (got < kMovieHeader) break;
            for (std::size_t from = 4; from + 12 <= got;) {
                const auto* hit =
                    static_cast<const std::uint8_t*>(::memmem(buffer.data() + from, got - from, "moov", 4));
                if (hit == nullptr) break;
                const auto place = static_cast<std::size_t>(hit - buffer.data());
                const auto box =
                    Bytes(buffer).subspan(place - 4, std::min<std::size_t>(kMovieHeader, got - place + 4));
                if (box.size() == kMovieHeader && startsWith(box.subspan(12), "mvhd"))
                    found.push_back(at + place - 4);
                from = place + 4;
            }
            if (got < want || at + got >= stretch.end()) break;
            at += got - (kMovieHeader - 1);
        }
    }
    return found;
}

bool fits(const ClipHead& head, const LooseIndex& index, std::uint64_t cluster) {
    if (index.firstByte < head.media.offset || index.lastByte > head.media.end()) return false;
    if (head.media.end() - index.lastByte > kMostPadding) return false;
    if (head.indexInFront) return head.start + head.indexAt == index.box.offset;
    // The file's clusters lie on the card's.
    return (index.box.offset - head.start) % cluster == head.indexAt % cluster;
}

}  // namespace dreskel::rebuild
