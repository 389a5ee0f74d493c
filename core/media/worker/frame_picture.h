// Decoded frames as small RGB pictures.
#pragma once

extern "C" {
#include <libavutil/frame.h>
}

#include "formats/format.h"

namespace dreskel::media {

// At most `side` pixels in each direction; empty when the frame cannot be converted.
Picture pictureFromFrame(const AVFrame& frame, int side);

}  // namespace dreskel::media
