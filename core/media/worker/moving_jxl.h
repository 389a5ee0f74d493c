// Every frame of a moving JPEG XL (ISO/IEC 18181-1): libav decodes the first one only.
#pragma once

#include <optional>

#include "media/worker/tasks.h"

namespace dreskel::media {

// How much of the file was taken, from 0 to 1, when a frame of it did not decode; nothing when all do, or it
// does not move. Of others only the beginning is read.
std::optional<double> brokenFrameOf(PieceReader& file, const SignOfLife& alive);

}  // namespace dreskel::media
