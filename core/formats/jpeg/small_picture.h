// A small picture decoded to its brightness, sample by sample: what photos hold of themselves in their
// headers (ITU-T T.81, baseline in one scan, which is all that Exif allows there: CIPA DC-008, 4.5.8).
#pragma once

#include <optional>

#include "base/bytes.h"
#include "formats/grey.h"

namespace dreskel::jpeg {

// At most so many pixels in each direction.
inline constexpr std::uint32_t kSmallSide = 1024;

// Nothing where it is larger, otherwise coded, or damaged.
std::optional<Grey> decodeSmall(Bytes jpeg);

}  // namespace dreskel::jpeg
