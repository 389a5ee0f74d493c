// Bare streams of coded pictures, without a container: H.264 and HEVC behind start codes.
#pragma once

#include <optional>

#include "formats/clip/picture_order.h"

namespace dreskel {

// Of the stream that begins at the front of `head` (Format::kHead bytes); nothing when none does.
std::optional<PictureCoding> bareCodingOf(Bytes head);

}  // namespace dreskel
