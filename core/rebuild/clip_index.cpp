#include "rebuild/clip_index.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;
using isobmff::readBoxHeader;

constexpr int kMostBoxesInFront = 16;
constexpr std::size_t kPortion = 4 << 20;
constexpr std::size_t kIndexHead = 16;  // enough of an index to know it by
// Between the last sample and the end of the media data some writers leave padding.
constexpr std::uint64_t kMostPadding = 4 << 20;

template <class Visit>
void eachPlaceOf(std::string_view mark, Bytes bytes, Visit&& visit) {
    for (std::size_t from = 0; from + mark.size() <= bytes.size();) {
        const auto* hit = static_cast<const std::uint8_t*>(
            ::memmem(bytes.data() + from, bytes.size() - from, mark.data(), mark.size()));
        if (hit == nullptr) return;
        const auto place = static_cast<std::size_t>(hit - bytes.data());
        visit(place);
        from = place + mark.size();
    }
}

// "00dc", "01wb" and their like: two digits and what is in it.
bool isChunkOfStream(Bytes name) {
    const auto digit = [](std::uint8_t c) { return c >= '0' && c <= '9'; };
    const auto letter = [](std::uint8_t c) { return c >= 'a' && c <= 'z'; };
    return name.size() == 4 && digit(name[0]) && digit(name[1]) && letter(name[2]) && letter(name[3]);
}

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
            // More than the card could hold is no clip of it.
            return *next <= card.size() ? std::optional(head) : std::nullopt;
        }
        // What stands in front of the media data is short, but for an index.
        if (box->size > limits::kLargestIndex) return std::nullopt;
        at = *next;
    }
    return std::nullopt;
}

std::optional<ClipHead> readClipHead(CardView& card, std::uint64_t start, const LooseIndex& index) {
    if (index.places.empty() || index.box.offset < start) return std::nullopt;
    ClipHead head;
    head.start = start;
    head.indexInFront = true;
    head.indexAt = index.box.offset - start;
    std::vector<std::uint8_t> buffer(16);
    const auto boxAt = [&](std::uint64_t place) {
        const auto got = card.read(place, buffer);
        return readBoxHeader(Bytes(buffer).first(got));
    };
    // Nothing but short boxes between the clip's beginning and it.
    std::uint64_t at = 0;
    for (int i = 0; at < head.indexAt && i < kMostBoxesInFront; ++i) {
        const auto box = boxAt(start + at);
        if (!box || box->size == 0 || box->size > head.indexAt - at) return std::nullopt;
        at += box->size;
    }
    if (at != head.indexAt) return std::nullopt;
    at += index.box.length;
    auto place = index.places.back().end();
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        const auto box = boxAt(place);
        if (!box || box->size == 0 || box->size > card.size()) break;
        if (box->type == fourCc("mdat")) {
            head.media = {at + box->headerSize, box->size - box->headerSize};
            break;
        }
        at += box->size;
        place += box->size;
    }
    // Where a cluster ends with the index, what it lists is all there is to go by.
    if (head.media.offset > index.firstByte || head.media.end() < index.lastByte)
        head.media = {index.firstByte, index.lastByte - index.firstByte};
    return index.firstByte >= head.indexAt + index.box.length ? std::optional(head) : std::nullopt;
}

std::uint64_t boxesBehind(CardView& card, std::uint64_t end, std::uint64_t room) {
    constexpr std::array behind{fourCc("free"), fourCc("skip"), fourCc("udta"),
                                fourCc("uuid"), fourCc("meta"), fourCc("mfra")};
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t length = 0;
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        const auto box = readBoxHeader(Bytes(buffer).first(card.read(end + length, buffer)));
        const bool known = box && std::find(behind.begin(), behind.end(), box->type) != behind.end();
        if (!known || box->size == 0 || box->size > room - length) break;
        length += box->size;
    }
    return length;
}

std::optional<OpenHead> readOpenHead(CardView& card, std::uint64_t start) {
    constexpr std::uint64_t kLeastMedia = 64;  // less is a place holder
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t at = 0;
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        if (card.read(start + at, buffer) < buffer.size()) return std::nullopt;
        ByteReader reader(buffer);
        const std::uint64_t size = reader.u32();
        const auto type = reader.u32();
        const auto far = reader.u64();
        if (type == fourCc("moov")) return std::nullopt;
        if (type == fourCc("mdat")) {
            const bool wide = size == 1;
            const auto stated = wide ? far : size;
            const auto end = checkedAdd(at, stated);
            OpenHead head{at, at + (wide ? 16 : 8), 0};
            if (stated >= kLeastMedia && end && *end <= card.size()) head.mediaEnd = *end;
            return head;
        }
        if (size < 8 || size > limits::kLargestIndex) return std::nullopt;
        at += size;
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
    auto index = parseIndex(bytes);
    if (!index) return std::nullopt;
    index->box = {at, box->size};
    index->places = {index->box};
    return index;
}

std::optional<LooseIndex> parseIndex(Bytes box) {
    const auto body = box.subspan(8);
    auto tracks = isobmff::readSamples(body);
    const auto movie = isobmff::readMovie(body);
    if (!tracks || tracks->empty() || !movie) return std::nullopt;
    LooseIndex index;
    index.firstByte = UINT64_MAX;
    for (const auto& track : movie->tracks) {
        for (const auto& chunk : track.chunks) {
            index.firstByte = std::min(index.firstByte, chunk.offset);
            index.lastByte = std::max(index.lastByte, chunk.end());
        }
    }
    if (index.lastByte == 0) return std::nullopt;
    index.tracks = std::move(*tracks);
    index.fragmented = movie->fragmented;
    return index;
}

FoundIndexes findIndexes(CardView& card, const std::vector<ByteRange>& stretches, const Control& control) {
    FoundIndexes found;
    std::vector<std::uint8_t> buffer(kPortion);
    for (const auto& stretch : stretches) {
        for (auto at = stretch.offset; at + kIndexHead <= stretch.end() && !control.stopped();) {
            const auto want = static_cast<std::size_t>(std::min<std::uint64_t>(kPortion, stretch.end() - at));
            const auto got = card.read(at, MutableBytes(buffer).first(want));
            const auto bytes = Bytes(buffer).first(got);
            // moov and moof.
            eachPlaceOf("moo", bytes, [&](std::size_t place) {
                if (place < 4) return;
                const auto name = slice(bytes, place + 3, 1);
                if (startsWith(name, "v") && startsWith(slice(bytes, place + 8, 4), "mvhd"))
                    found.movies.push_back(at + place - 4);
                if (startsWith(name, "f") && startsWith(slice(bytes, place + 8, 4), "mfhd"))
                    found.fragments.push_back(at + place - 4);
            });
            eachPlaceOf("idx1", bytes, [&](std::size_t place) {
                if (isChunkOfStream(slice(bytes, place + 8, 4))) found.chunks.push_back(at + place);
            });
            if (got < want || at + got >= stretch.end()) break;
            at += got - (kIndexHead - 1);
        }
    }
    return found;
}

std::optional<ClipHead> readAviHead(CardView& card, std::uint64_t start) {
    std::vector<std::uint8_t> buffer(12);
    ClipHead head;
    head.start = start;
    head.avi = true;
    std::uint64_t at = 0;
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        const auto got = card.read(start + at, buffer);
        ByteReader reader(Bytes(buffer).first(got), Endian::Little);
        const auto name = reader.take(4);
        const std::uint64_t size = reader.u32();
        const auto form = reader.take(4);
        if (!reader.ok() || size < 4) return std::nullopt;
        if (i == 0) {
            if (!startsWith(name, "RIFF") || !startsWith(form, "AVI ")) return std::nullopt;
            head.length = size + 8;
            at = 12;
            continue;
        }
        const auto end = at + 8 + size + (size & 1);
        if (startsWith(name, "LIST") && startsWith(form, "movi")) {
            head.media = {at + 12, size - 4};
            head.indexAt = end;
            return end < head.length && head.length <= card.size() ? std::optional(head) : std::nullopt;
        }
        if (size > limits::kLargestIndex) return std::nullopt;
        at = end;
    }
    return std::nullopt;
}

std::optional<LooseIndex> readAviIndex(CardView& card, std::uint64_t at, const ClipHead& head) {
    constexpr std::size_t kEntry = 16;  // name, flags, offset, length
    std::vector<std::uint8_t> bytes(8);
    if (card.read(at, bytes) < bytes.size()) return std::nullopt;
    ByteReader reader(bytes, Endian::Little);
    reader.skip(4);
    const std::uint64_t size = reader.u32();
    if (size < kEntry || size > limits::kLargestIndex || head.indexAt + 8 + size > head.length)
        return std::nullopt;
    bytes.resize(static_cast<std::size_t>(size));
    if (card.read(at + 8, bytes) < bytes.size()) return std::nullopt;
    LooseIndex index;
    index.box = {at, 8 + size};
    index.places = {index.box};
    index.firstByte = UINT64_MAX;
    isobmff::SampleTrack track;
    track.kind = isobmff::TrackKind::Video;
    track.coding = isobmff::SampleTrack::Coding::RiffChunk;
    reader = ByteReader(bytes, Endian::Little);
    std::optional<std::uint64_t> base;
    while (reader.left() >= kEntry) {
        const auto tag = reader.u32();
        reader.skip(4);
        const std::uint64_t offset = reader.u32();
        const std::uint64_t length = reader.u32();
        // Counted from the list's own name, or from the file's beginning.
        if (!base) base = offset >= head.media.offset ? 0 : head.media.offset - 4;
        const auto from = *base + offset;
        if (length > UINT32_MAX - 8) return std::nullopt;
        track.samples.push_back({from, static_cast<std::uint32_t>(length + 8), tag});
        index.firstByte = std::min(index.firstByte, from);
        index.lastByte = std::max(index.lastByte, from + 8 + length);
    }
    index.tracks.push_back(std::move(track));
    return index;
}

bool fits(const ClipHead& head, const LooseIndex& index, std::uint64_t cluster) {
    if (index.firstByte < head.media.offset || index.lastByte > head.media.end()) return false;
    if (head.media.end() - index.lastByte > kMostPadding) return false;
    if (head.indexInFront) return head.start + head.indexAt == index.box.offset;
    // The file's clusters lie on the card's.
    return (index.box.offset - head.start) % cluster == head.indexAt % cluster;
}

}  // namespace dreskel::rebuild
