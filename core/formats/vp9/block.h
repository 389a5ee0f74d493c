// The blocks of a picture of VP9: their sizes, and what is known of each that further ones are coded by.
#pragma once

#include <array>
#include <cstdint>
#include <cstdlib>

namespace dreskel::vp9 {

struct Vector {
    std::int16_t row = 0, column = 0;  // eighths of a pixel
    bool operator==(const Vector&) const = default;
    // Small enough for its last bit to be coded (5.1, use_mv_hp).
    bool fine() const { return std::abs(row) < 64 && std::abs(column) < 64; }
};

// What a block is foretold from.
using Reference = std::int8_t;
constexpr Reference kNone = -1, kInside = 0, kLast = 1, kGolden = 2, kOther = 3;

// 4x4, 4x8, 8x4, 8x8, ... 64x64 samples (3, block sizes).
using BlockSize = std::uint8_t;
constexpr BlockSize kEight = 3, kLargest = 12;
// Logarithms of width and height, of four samples.
constexpr std::array<std::uint8_t, 13> kWidths{0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4};
constexpr std::array<std::uint8_t, 13> kHeights{0, 1, 0, 1, 2, 1, 2, 3, 2, 3, 4, 3, 4};
constexpr std::uint32_t eightsOf(std::uint8_t logarithm) {
    return ((1U << logarithm) + 1) / 2;
}

constexpr std::uint8_t kDc = 0;  // of the modes of blocks that are foretold from their own picture
enum MotionMode : std::uint8_t { kNearest, kNear, kZero, kNew };

struct Block {
    BlockSize size = 0;
    std::uint8_t transform = 0;
    std::uint8_t filter = 0;
    std::uint8_t segment = 0;
    bool skipped = false;   // nothing of it is in the coded data
    bool foretold = false;  // its segment is that of the picture before
    std::array<Reference, 2> references{kInside, kNone};
    std::array<std::uint8_t, 4> modes{};             // by quarter; of one as a whole all the same
    std::array<std::array<Vector, 2>, 4> vectors{};  // by quarter and reference

    bool inter() const { return references[0] > kInside; }
    bool compound() const { return references[1] > kInside; }
};

}  // namespace dreskel::vp9
