// The beginnings and the indexes of clips that lie apart (ISO/IEC 14496-12; AVI, idx1): which belongs to
// which is told by where the index must stand in the file, and by what it says of the media data.
#pragma once

#include <algorithm>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/isobmff/sample_table.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// What the front of a clip says of its layout.
struct ClipHead {
    std::uint64_t start = 0;    // on the source
    ByteRange media;            // of the file: the inside of the mdat box
    std::uint64_t indexAt = 0;  // of the file: where the moov box must stand
    bool indexInFront = false;
    bool avi = false;
    std::uint64_t length = 0;  // of the file, where its head states it
};
// Nothing when there is no mdat box of a stated length near the front.
std::optional<ClipHead> readClipHead(CardView& card, std::uint64_t start);
// Of a clip that ends at this byte of the card but for what writers put behind it: the bytes of the boxes
// that follow there (free space, users' data), `room` at most.
std::uint64_t boxesBehind(CardView& card, std::uint64_t end, std::uint64_t room);
// Of an AVI: nothing when it was never closed.
std::optional<ClipHead> readAviHead(CardView& card, std::uint64_t start);

// The same of one whose index stands in front and lies in pieces: what follows it does so where its last
// piece ends. Nothing when `index` is not that clip's.
struct LooseIndex;
std::optional<ClipHead> readClipHead(CardView& card, std::uint64_t start, const LooseIndex& index);

// The front of a clip whose index may be anywhere or nowhere: one that was never closed, too.
struct OpenHead {
    std::uint64_t mediaHeaderAt = 0;  // of the file: the mdat box
    std::uint64_t mediaAt = 0;        // its inside
    std::uint64_t mediaEnd = 0;       // where it states to end; 0: it does not
};
// Nothing when there is no mdat box near the front, or an index in front of it.
std::optional<OpenHead> readOpenHead(CardView& card, std::uint64_t start);

// An index anywhere on the card.
struct LooseIndex {
    ByteRange box;                  // where it begins on the source, and its length, header included
    std::vector<ByteRange> places;  // where it lies, in order
    // Of one that lies in parts between the media data, as fragments do: where each begins in the file, and
    // lies.
    std::vector<std::pair<std::uint64_t, ByteRange>> parts;
    std::uint64_t firstByte = 0, lastByte = 0;  // of the file: the media data that it lists
    std::vector<isobmff::SampleTrack> tracks;
    bool fragmented = false;  // it says that fragments follow
    std::uint64_t end = 0;    // of the file: behind the media data of the last of them that is known
    bool goesOn = false;      // with another, which could not be read
};
// One that lies in one piece; see index_in_pieces.h for others.
std::optional<LooseIndex> readLooseIndex(CardView& card, std::uint64_t at);
// What the bytes of a moov box say; where it lies is not filled in. Nothing when they are damaged.
std::optional<LooseIndex> parseIndex(Bytes box);
// An AVI's counts from places that only its head tells. Nothing when it cannot be this clip's.
std::optional<LooseIndex> readAviIndex(CardView& card, std::uint64_t at, const ClipHead& head);

// Of the file, bytes.
inline std::uint64_t lengthOf(const ClipHead& head, const LooseIndex& index) {
    const auto told = head.indexInFront ? head.media.end() : head.indexAt + index.box.length;
    return std::max({told, head.length, index.end});
}

// Samples of no more bytes tell nothing by how they begin.
inline constexpr std::uint32_t kTellsNothing = 8;

// Where indexes begin in these stretches, at any byte. Reads all of them once.
struct FoundIndexes {
    std::vector<std::uint64_t> movies;     // moov boxes
    std::vector<std::uint64_t> fragments;  // moof boxes
    std::vector<std::uint64_t> chunks;     // idx1 chunks of AVI
};
FoundIndexes findIndexes(CardView& card, const std::vector<ByteRange>& stretches, const Control& control);

// Whether an index can be this clip's; `cluster` and `origin` as in Pool.
bool fits(const ClipHead& head, const LooseIndex& index, std::uint64_t cluster);

}  // namespace dreskel::rebuild
