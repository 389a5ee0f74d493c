// An AVI (RIFF; the AVI file format with its idx1 index) that was never closed, or lost its end or a stretch
// in the middle, as one that plays: sizes that are true, an index of the chunks that are there, and what is
// no chunk passed over.
#pragma once

#include <vector>

#include "base/result.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct PlayingAvi {
    std::vector<Piece> pieces;
    std::uint64_t pictures = 0;
    std::uint64_t passedOver = 0;  // bytes
};

// Fault::Failed with the reason when its head is not there, it has no picture, or it consists of several
// parts (as files above 1 GB may).
Result<PlayingAvi> makePlayingAvi(CardView& card, const std::vector<Piece>& file);

}  // namespace dreskel::rebuild
