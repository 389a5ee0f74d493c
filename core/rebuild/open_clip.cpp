#include "rebuild/open_clip.h"

#include <algorithm>

#include "base/words.h"
#include "rebuild/made_index.h"

namespace dreskel::rebuild {
namespace {

void append(std::vector<Piece>& pieces, const CardView& card, const std::vector<ByteRange>& places) {
    for (const auto& place : places) {
        for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
    }
}

// The part of a file that lies in these places.
std::vector<ByteRange> partOf(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to) {
    std::vector<ByteRange> part;
    std::uint64_t at = 0;
    for (const auto& place : places) {
        const auto begin = std::clamp(from, at, at + place.length);
        const auto end = std::clamp(to, at, at + place.length);
        if (end > begin) part.push_back({place.offset + (begin - at), end - begin});
        at += place.length;
    }
    return part;
}

}  // namespace

std::vector<Piece> OpenClip::pieces(const CardView& card) const {
    std::vector<Piece> all;
    append(all, card, places);
    return all;
}

std::optional<Walked> walkOpenClip(CardView& card, const OpenClip& clip, const ClipTemplate& like,
                                   std::uint64_t most, const SoundLengths& sound, const Control& control) {
    auto all = clip.pieces(card);
    const auto length = totalLength(all);
    const auto stated = clip.head.mediaEnd > 0 ? std::min(clip.head.mediaEnd, length) : length;
    if (clip.head.mediaAt >= stated) return std::nullopt;
    PieceReader reader(card, std::move(all));
    return walkSamples(like, reader, {clip.head.mediaAt, std::min(stated - clip.head.mediaAt, most)}, sound,
                       control);
}

std::size_t picturesIn(const ClipTemplate& like, const Walked& walked) {
    std::size_t pictures = 0;
    for (std::size_t i = 0; i < like.tracks.size(); ++i) {
        if (like.tracks[i].kind == isobmff::TrackKind::Video) pictures += walked.tracks[i].size();
    }
    return pictures;
}

std::vector<Piece> withNewIndex(const CardView& card, const OpenClip& clip, const ClipTemplate& like,
                                const Walked& walked) {
    auto header = makeMediaHeader(walked.end - clip.head.mediaAt);
    const auto shift = static_cast<std::int64_t>(clip.head.mediaHeaderAt + header.size()) -
                       static_cast<std::int64_t>(clip.head.mediaAt);
    std::vector<Piece> pieces;
    append(pieces, card, partOf(clip.places, 0, clip.head.mediaHeaderAt));
    pieces.push_back(madePiece(std::move(header), "states how long the media data are"));
    append(pieces, card, partOf(clip.places, clip.head.mediaAt, walked.end));
    pieces.push_back(madePiece(makeIndex(like, walked, shift), accountOf(like, walked)));
    return pieces;
}

std::string accountOf(const ClipTemplate& like, const Walked& walked) {
    std::uint64_t unknown = 0;
    for (const auto& gap : walked.gaps) unknown += gap.length;
    auto text = "its index was lost; a new one for " + grouped(picturesIn(like, walked)) +
                " pictures was written after " + like.name;
    if (unknown > 0) text += "; " + grouped(unknown) + " bytes between them belong to nothing that is known";
    return text;
}

}  // namespace dreskel::rebuild
