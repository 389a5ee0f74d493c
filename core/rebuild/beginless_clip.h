// A clip whose beginning was overwritten, though its index is still there (ISO/IEC 14496-12): its samples are
// where the index says, and a new beginning in front of them makes a file of it.
#pragma once

#include <optional>
#include <vector>

#include "rebuild/clip_index.h"
#include "rebuild/sample_places.h"

namespace dreskel::rebuild {

struct BeginlessClip {
    // The file: what was made, what was found, what was not, and the index.
    std::vector<Piece> pieces;
    std::uint64_t at = 0;  // on the source, where the first sample that was found lies
};

// `pool`: what is free; `samples`: in it. Nothing when too few of its samples are found, or there is no room
// in front of the first for a beginning.
std::optional<BeginlessClip> withoutBeginning(CardView& card, const LooseIndex& index, const ClipPool& pool,
                                              const SamplePlaces& samples, const Control& control);

}  // namespace dreskel::rebuild
