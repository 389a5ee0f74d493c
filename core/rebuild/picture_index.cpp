#include "rebuild/picture_index.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;

constexpr int kMostBoxesInFront = 16;
constexpr std::uint64_t kLargestTile = 64 << 20;  // bytes, as of other items

// Pictures that a decoder with the same settings understands are the samples of one track.
std::vector<isobmff::SampleTrack> tracksOf(const std::vector<isobmff::Item>& items) {
    std::vector<isobmff::SampleTrack> tracks;
    for (const auto& item : items) {
        const bool hevc = item.coding == isobmff::Item::Coding::Hevc && item.lengthBytes() > 0;
        const bool jpeg = item.coding == isobmff::Item::Coding::Jpeg;
        if ((!hevc && !jpeg) || item.extents.size() != 1 || item.extents[0].length > kLargestTile) continue;
        const auto coding =
            hevc ? isobmff::SampleTrack::Coding::Hevc : isobmff::SampleTrack::Coding::MotionJpeg;
        auto track = std::ranges::find_if(tracks, [&](const isobmff::SampleTrack& each) {
            return each.coding == coding && (!hevc || each.settings == item.settings);
        });
        if (track == tracks.end()) {
            track = tracks.emplace(tracks.end());
            track->kind = isobmff::TrackKind::Video;
            track->coding = coding;
            track->settings = item.settings;
            if (hevc) track->lengthBytes = static_cast<unsigned>(item.lengthBytes());
        }
        track->samples.push_back(
            {item.extents[0].offset, static_cast<std::uint32_t>(item.extents[0].length)});
    }
    return tracks;
}

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
            picture.index.tracks = tracksOf(picture.items);
        }
        at = *next;
    }
    return std::nullopt;
}

std::uint64_t damagedFacts(CardView& card, const std::vector<ByteRange>& places,
                           const std::vector<isobmff::Item>& items, std::uint64_t from, std::uint64_t to) {
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
    }
    PieceReader reader(card, std::move(pieces));
    std::uint64_t damaged = 0;
    for (const auto& item : items) {
        if (item.coding != isobmff::Item::Coding::Exif && item.coding != isobmff::Item::Coding::Notes)
            continue;
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
