// How a lossless WebP picture writes its prefix codes (WebP Lossless Bitstream Specification, section 6.2).
#pragma once

#include "formats/prefix_code.h"

namespace dreskel::webp {

// Section 6.2: one code as it is written in the picture.
std::optional<PrefixCode> readPrefixCode(LowBits& bits, std::size_t symbols);

}  // namespace dreskel::webp
