// One frame of VP8 (RFC 6386), followed to its last bit without rebuilding a sample: foreign bytes in it
// decode, too, but do not end with the picture. Pure functions over bytes in memory.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "base/bytes.h"
#include "formats/vp8/tables.h"

namespace dreskel::vp8 {

// What stands in front of the coded data (9.1).
struct FrameHead {
    bool key = false;
    std::uint32_t width = 0, height = 0;  // pixels; of key frames, others have the size of the last one
    Bytes first, behind;                  // the first partition, and what is behind it
};
// Nothing when it is no frame.
std::optional<FrameHead> readFrameHead(Bytes frame);

// What frames take over from those in front of them.
struct Kept {
    CoefficientChances coefficients = kUsualChances;
    std::array<std::uint8_t, 4> lumaModes = kUsualLumaModes;
    std::array<std::uint8_t, 3> chromaModes = kUsualChromaModes;
    MotionChances motion = kUsualMotion;
    std::array<bool, 4> turned{};  // by reference: motion in it counts backwards (9.7)
};

struct FrameFault {
    const char* why = "";
    std::uint32_t row = 0, rows = 0;  // of macroblocks, from 1; 0: of the whole frame
};
// `kept`: of the frames in front; then for those behind. A key frame begins anew.
std::optional<FrameFault> followFrame(const FrameHead& head, std::uint32_t width, std::uint32_t height,
                                      Kept& kept);

}  // namespace dreskel::vp8
