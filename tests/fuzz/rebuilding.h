// Targets for what puts files together and makes others of them: any bytes as a file, and as the card it lies
// on.
#pragma once

#include "base/bytes.h"

namespace dreskel::fuzz {

// A file as a damaged clip, of either kind, with a hole in the middle.
void playing(Bytes bytes);
// A picture or recording of plain samples, its header in front of all the clusters that follow.
void plainInPieces(Bytes bytes);
// A bare stream whose second quarter changed places with the third.
void bareInPieces(Bytes bytes);
// A clip as one in fragments, all of them where they are.
void inFragments(Bytes bytes);
// A clip as a template for its own samples, as if it had lost its index.
void lostIndex(Bytes bytes);
// A photo that lends its header to its own second half.
void withoutBeginning(Bytes bytes);

}  // namespace dreskel::fuzz
