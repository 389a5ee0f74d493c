// A Matroska or WebM file (RFC 9559) of which a part is lost, as one that plays: what is no element is passed
// over, and pictures that are damaged or build on what is lost are left out. No byte moves: what is left out
// becomes Void elements.
#pragma once

#include <vector>

#include "base/control.h"
#include "base/result.h"
#include "rebuild/playing_clip.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// Follows every picture. Fault::Failed with the reason when its head is not there or none of its pictures is
// left.
Result<PlayingClip> makePlayingMatroska(CardView& card, const std::vector<Piece>& file, Control& control);

}  // namespace dreskel::rebuild
