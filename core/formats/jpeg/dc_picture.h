// A picture at one eighth of the size, from the DC values that decoding passed by anyway.
#pragma once

#include "formats/format.h"
#include "formats/jpeg/stream_decoder.h"

namespace dreskel::jpeg {

// At most `side` pixels in each direction. What was not decoded is mid-grey. Nothing for an image without
// planes.
std::optional<Picture> pictureOf(const Frame& frame, const DcPlanes& planes, std::uint32_t side,
                                 bool rgbCoded);

}  // namespace dreskel::jpeg
