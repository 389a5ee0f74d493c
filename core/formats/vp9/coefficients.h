// The coefficients of one block of VP9, passed over (sections 6.4.25 and 9.3.1).
#pragma once

#include "formats/vp9/chances.h"
#include "formats/vp9/scans.h"

namespace dreskel::vp9 {

struct BlockKind {
    std::uint8_t transform = 0;
    bool chroma = false, inter = false;
    ScanKind scan = ScanKind::Both;
};

// `beside`: how many of the blocks above and on the left have any. Whether this one has.
bool passCoefficients(BoolDecoder& bits, const BlockKind& kind, std::size_t beside, unsigned sampleBits,
                      const Chances& chances, Counts& counts);

}  // namespace dreskel::vp9
