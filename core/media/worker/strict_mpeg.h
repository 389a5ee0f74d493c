// MPEG-2 video (ISO/IEC 13818-2). Encoders may fill up with zeros in front of a start code,
// so a decoder must not complain of those; whether bytes are missing shows in the slices, which lie in one
// row of macroblocks each and follow each other without a gap from the first to the last (6.1.2.2).
#pragma once

#include <string>

#include "base/bytes.h"

namespace dreskel::media {

// `coded`: a frame, or two fields, with what stands in front of it. `height` in pixels. Empty when nothing is
// wrong.
std::string complaintAboutSlices(Bytes coded, int height);

}  // namespace dreskel::media
