// The beginnings and the indexes of clips that lie apart (ISO/IEC 14496-12): which belongs to which is told
// by where the index must stand in the file, and by what it says of the media data.
#pragma once

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
};
// Nothing when there is no mdat box of a stated length near the front.
std::optional<ClipHead> readClipHead(CardView& card, std::uint64_t start);

// An index anywhere on the card, in one piece.
struct LooseIndex {
    ByteRange box;                              // on the source, header included
    std::uint64_t firstByte = 0, lastByte = 0;  // of the file: the media data that it lists
    std::vector<isobmff::SampleTrack> tracks;
};
std::optional<LooseIndex> readLooseIndex(CardView& card, std::uint64_t at);

// Where moov boxes begin in these stretches, at any byte. Reads all of them once.
std::vector<std::uint64_t> findIndexes(CardView& card, const std::vector<ByteRange>& stretches,
                                       const Control& control);

// Whether an index can be this clip's; `cluster` and `origin` as in Pool.
bool fits(const ClipHead& head, const LooseIndex& index, std::uint64_t cluster);

}  // namespace dreskel::rebuild
