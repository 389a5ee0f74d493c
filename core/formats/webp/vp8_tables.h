// Probabilities that VP8 key frames begin with (RFC 6386).
#pragma once

#include <array>
#include <cstdint>

namespace dreskel::webp {

// By the kind of block, the band of the coefficient, what is known of neighbours, and the question.
using CoefficientChances = std::array<std::array<std::array<std::array<std::uint8_t, 11>, 3>, 8>, 4>;

extern const CoefficientChances kUsualChances;   // section 13.5
extern const CoefficientChances kChangeChances;  // 13.4: whether a frame states another one
// 11.5: of a subblock's mode, by the mode above and the mode on the left, numbered as in 11.2.
extern const std::array<std::array<std::array<std::uint8_t, 9>, 10>, 10> kSubblockModes;

}  // namespace dreskel::webp
