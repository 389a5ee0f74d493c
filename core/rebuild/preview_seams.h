// The previews of raw files in pieces. What decodes as a JPEG decodes anywhere, and of thousands of places
// that are tried some lead to its end; but the rows on both sides of a join must fit. Where the file holds
// another preview, in one piece, that shows whether what is behind the join is the same picture.
#pragma once

#include <vector>

#include "formats/jpeg/continuity.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// How the rows fit at the joins of a file that lies in these places, where they lie in one of its previews:
// the worst of them. Fits when there is none.
jpeg::Seam seamsOfPreviews(CardView& card, const std::vector<ByteRange>& places,
                           const std::vector<ByteRange>& previews);

}  // namespace dreskel::rebuild
