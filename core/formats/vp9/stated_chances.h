// The chances that a frame of VP9 states, and how its blocks may be transformed and foretold (section 6.3).
#pragma once

#include "formats/vp9/chances.h"
#include "formats/vp9/frame_head.h"

namespace dreskel::vp9 {

enum class References { Single, Compound, Selected };

struct Stated {
    std::uint8_t largestTransform = 0;  // 4 << it samples a side
    bool selectsTransform = false;
    References references = References::Single;
};

// Changes `chances`; nothing when the bytes do not end with what they state.
std::optional<Stated> readStatedChances(Bytes bytes, const FrameHead& head, Chances& chances);

}  // namespace dreskel::vp9
