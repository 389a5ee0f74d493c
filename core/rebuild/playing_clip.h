// A clip of which a part is lost, as one that plays: its index written anew for what is there. Pictures that
// cannot be decoded without what is lost are left out with it; the last one before a gap stands still until
// it is over, and sound stays in step.
#pragma once

#include <vector>

#include "base/result.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct PlayingClip {
    std::vector<Piece> pieces;    // of the new file: the old ones, and what was made
    std::uint64_t pictures = 0;   // that are left
    std::uint64_t leftOut = 0;    // pictures
    double length = 0, gaps = 0;  // seconds of the pictures' track, and how many of them stand still
};

// `clip`: a file with an index (moov) that can be read. `damaged`: bytes of it that are not what they should
// be; what its pieces say was filled is added. Fault::Failed with the reason when no such clip can be made.
Result<PlayingClip> makePlayingClip(CardView& card, const std::vector<Piece>& clip, RangeSet damaged);

}  // namespace dreskel::rebuild
