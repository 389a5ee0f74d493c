// A WAV that was never closed, or lost its end, as one that plays everywhere: with lengths that are true.
#pragma once

#include <vector>

#include "base/result.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// The file with its two lengths written anew; no pieces when they are true already. Fault::Failed with the
// reason when no samples follow its head, or when it is too long for them.
Result<std::vector<Piece>> makePlayingWav(CardView& card, const std::vector<Piece>& file);

}  // namespace dreskel::rebuild
