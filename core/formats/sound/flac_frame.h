// One frame of FLAC (RFC 9639, section 9), parsed to its last bit without rebuilding the samples: where it
// ends, and whether its checksums agree. A frame does not say how long it is; nothing but parsing tells.
#pragma once

#include "base/bytes.h"

namespace dreskel::sound {

struct FlacStream {
    std::uint32_t rate = 0, channels = 0, bits = 0;
    std::uint64_t samples = 0;  // of each channel; 0: not known
};

enum class FlacOutcome { Good, BadSum, NotHere, TooShort };

struct FlacFrame {
    FlacOutcome outcome = FlacOutcome::NotHere;
    std::size_t length = 0;     // bytes
    std::uint32_t samples = 0;  // of each channel
};

// TooShort: the bytes end before the frame does.
FlacFrame readFlacFrame(Bytes bytes, const FlacStream& stream);

}  // namespace dreskel::sound
