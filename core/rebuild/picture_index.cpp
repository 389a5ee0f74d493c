#include "rebuild/picture_index.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;

constexpr int kMostBoxesInFront = 16;
constexpr std::uint64_t kLargestTile = 64 << 20;

}  // namespace

std::optional<PictureIndex> readPictureIndex(CardView& card, std::uint64_t start) {
    PictureIndex picture;
    picture.head.start = start;
    picture.head.indexInFront = true;
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t at = 0;
    for (int i = 0; i < kMostBoxesInFront; ++i) {
        const auto got = card.read(start + at, buffer);
        const auto box = isobmff::readBoxHeader(Bytes(buffer).first(got));
        if (!box || box->size == 0) return std::nullopt;
        const auto next = checkedAdd(at, box->size);
        if (!next || *next > card.size()) return std::nullopt;
        if (box->type == fourCc("mdat")) {
            if (picture.items.empty()) return std::nullopt;
            picture.head.media = {at + box->headerSize, box->size - box->headerSize};
            return picture;
        }
        if (box->size > limits::kLargestIndex) return std::nullopt;
        if (box->type == fourCc("meta")) {
            std::vector<std::uint8_t> bytes(static_cast<std::size_t>(box->size));
            if (card.read(start + at, bytes) < bytes.size()) return std::nullopt;
            picture.head.indexAt = at;
            picture.index.box = {start + at, box->size};
            picture.index.places = {picture.index.box};
            picture.items = isobmff::readItemIndex(Bytes(bytes).subspan(box->headerSize)).items;
            isobmff::SampleTrack track;
            track.kind = isobmff::TrackKind::Video;
            track.coding = isobmff::SampleTrack::Coding::Hevc;
            for (const auto& tile : picture.items) {
                if (tile.coding != isobmff::Item::Coding::Hevc || tile.extents.size() != 1 ||
                    tile.extents[0].length > UINT32_MAX)
                    continue;
                if (track.samples.empty()) track.lengthBytes = static_cast<unsigned>(tile.lengthBytes());
                if (tile.lengthBytes() != track.lengthBytes || track.lengthBytes == 0) continue;
                track.samples.push_back(
                    {tile.extents[0].offset, static_cast<std::uint32_t>(tile.extents[0].length)});
            }
            picture.index.tracks.push_back(std::move(track));
        }
        at = *next;
    }
    return std::nullopt;
}

std::uint64_t damagedItems(CardView& card, const std::vector<ByteRange>& places,
                           const std::vector<isobmff::Item>& items, std::uint64_t from, std::uint64_t to) {
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
    }
    PieceReader reader(card, std::move(pieces));
    std::uint64_t damaged = 0;
    for (const auto& item : items) {
        const bool within =
            std::any_of(item.extents.begin(), item.extents.end(),
                        [&](const ByteRange& extent) { return extent.offset < to && extent.end() > from; });
        if (!within) continue;
        std::vector<std::uint8_t> bytes;
        for (const auto& extent : item.extents) {
            if (extent.length > kLargestTile || bytes.size() > kLargestTile) break;
            const auto before = bytes.size();
            bytes.resize(before + static_cast<std::size_t>(extent.length));
            bytes.resize(before + reader.read(extent.offset, MutableBytes(bytes).subspan(before)));
        }
        if (isobmff::faultOf(item, bytes)) ++damaged;
    }
    return damaged;
}

}  // namespace dreskel::rebuild
