// Probabilities that VP8 begins with (RFC 6386).
#pragma once

#include <array>
#include <cstdint>

namespace dreskel::vp8 {

// By the kind of block, the band of the coefficient, what is known of neighbours, and the question.
using CoefficientChances = std::array<std::array<std::array<std::array<std::uint8_t, 11>, 3>, 8>, 4>;

extern const CoefficientChances kUsualChances;   // section 13.5
extern const CoefficientChances kChangeChances;  // 13.4: whether a frame states another one
// 11.5: of a subblock's mode, by the mode above and the mode on the left, numbered as in 11.2.
extern const std::array<std::array<std::array<std::uint8_t, 9>, 10>, 10> kSubblockModes;

// 16.2: of frames that build on others.
constexpr std::array<std::uint8_t, 4> kUsualLumaModes{112, 86, 140, 37};
constexpr std::array<std::uint8_t, 3> kUsualChromaModes{162, 101, 204};
constexpr std::array<std::uint8_t, 9> kPlainSubblockModes{120, 90, 79, 133, 87, 85, 80, 111, 151};

// Of motion vectors (17.2), rows first: whether it is short, the sign, the tree of short ones, long ones'
// bits.
struct MotionPart {
    static constexpr std::size_t kIsLong = 0, kSign = 1, kShort = 2, kBits = 9;
    std::array<std::uint8_t, 19> chances;
};
using MotionChances = std::array<MotionPart, 2>;
constexpr MotionChances kUsualMotion{{
    {{162, 128, 225, 146, 172, 147, 214, 39, 156, 128, 129, 132, 75, 145, 178, 206, 239, 254, 254}},
    {{164, 128, 204, 170, 119, 235, 140, 230, 228, 128, 130, 130, 74, 148, 180, 203, 236, 254, 254}},
}};
constexpr MotionChances kChangeMotion{{
    {{237, 246, 253, 253, 254, 254, 254, 254, 254, 254, 254, 254, 254, 254, 250, 250, 252, 254, 254}},
    {{231, 243, 245, 253, 254, 254, 254, 254, 254, 254, 254, 254, 254, 254, 251, 251, 254, 254, 254}},
}};
// 16.3: of how a macroblock moves, by how many of its neighbours move so.
constexpr std::array<std::array<std::uint8_t, 4>, 6> kMotionModes{{{7, 1, 1, 143},
                                                                   {14, 18, 14, 107},
                                                                   {135, 64, 57, 68},
                                                                   {60, 56, 128, 65},
                                                                   {159, 134, 128, 34},
                                                                   {234, 188, 128, 28}}};
// Of how a part of one moves, by what the parts on the left and above do: unlike each other, the left one
// stands still, the one above does, they move alike, both stand still.
constexpr std::array<std::array<std::uint8_t, 3>, 5> kPartModes{
    {{147, 136, 18}, {106, 145, 1}, {179, 121, 1}, {223, 1, 34}, {208, 1, 1}}};

}  // namespace dreskel::vp8
