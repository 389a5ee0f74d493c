// What stands in front of the frames of a JPEG XL codestream (ISO/IEC 18181-1, annexes A and B), and the
// numbers that its headers are written with.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "formats/prefix_code.h"

namespace dreskel::jxl {

// One of four ways to write a number: so many bits, added to an offset.
struct Way {
    std::uint32_t offset = 0;
    int bits = 0;
};
std::uint32_t number(LowBits& bits, const std::array<Way, 4>& ways);
// Steps over so many bits.
void pass(LowBits& bits, std::uint64_t count);
// Moves on to the next byte. False when what is passed is not zero.
bool toByte(LowBits& bits);
// A name: how many bytes, and the bytes.
void passName(LowBits& bits);
std::uint64_t largeNumber(LowBits& bits);
// Extensions of a header that nobody has written yet; their bits are passed. False when there are impossibly
// many.
bool passExtensions(LowBits& bits);

struct Header {
    std::uint32_t width = 0, height = 0;  // pixels
    std::uint32_t previewWidth = 0, previewHeight = 0;
    int orientation = 1;  // as Exif has it
    bool animated = false, timecodes = false;
    bool perceptual = true;  // XYB
    std::uint32_t extraChannels = 0;
    // Its colour profile was followed, and ended as only a profile does.
    bool proven = false;
};

constexpr std::uint64_t kMostPixels = 1ULL << 30;

// From the mark on, to the byte where the first frame begins. Nothing when it is none, or when the bytes end
// before (!bits.ok()).
std::optional<Header> readHeader(LowBits& bits);

}  // namespace dreskel::jxl
