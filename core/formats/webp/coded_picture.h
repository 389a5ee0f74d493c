// The coded pictures inside of WebP files, followed to their last bit without rebuilding a sample: foreign
// bytes among them decode, too, but do not end with the picture. Pure functions over bytes in memory.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/bytes.h"

namespace dreskel::webp {

struct Followed {
    std::uint32_t width = 0, height = 0;  // pixels; 0 when there is no such picture
    std::string wrong;                    // empty: it ends where its bytes end
    // Its codes are mostly of one length, so that foreign bytes hold about as many pixels.
    bool loose = false;
    bool tooLarge = false;
};

// Some codes take no bits, so that a few bytes may state any number of pixels: `most` of them are followed,
// more are told as `wrong` with `tooLarge`.
//
// A VP8 key frame (RFC 6386), the content of a chunk `VP8 `.
Followed followLossy(Bytes frame, std::uint64_t most);
// A lossless picture (WebP Lossless Bitstream Specification), the content of a chunk `VP8L`.
Followed followLossless(Bytes picture, std::uint64_t most);
// The opacity of a lossy picture of this size, the content of a chunk `ALPH` (WebP Container Specification).
// What is wrong with it, or nothing; nothing, too, of more than `most` pixels.
std::string followOpacity(Bytes chunk, std::uint32_t width, std::uint32_t height, std::uint64_t most);

}  // namespace dreskel::webp
