// What a frame of VP9 says in front of its coded data (section 6.2).
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel::vp9 {

struct Size {
    std::uint32_t width = 0, height = 0;  // pixels
    bool operator==(const Size&) const = default;
    // In blocks of eight pixels, and of 64.
    std::uint32_t columns() const { return (width + 7) / 8; }
    std::uint32_t rows() const { return (height + 7) / 8; }
    std::uint32_t wideColumns() const { return (columns() + 7) / 8; }
    std::uint32_t wideRows() const { return (rows() + 7) / 8; }
};

// Of one of up to eight kinds of blocks, what holds for all of them (6.2.11), as far as coding depends on it.
struct SegmentRule {
    std::optional<std::uint8_t> reference;
    bool skipped = false;
};

struct Segmentation {
    bool enabled = false, updatesMap = false, foretold = false;
    std::array<std::uint8_t, 7> chances{};
    std::array<std::uint8_t, 3> foretoldChances{};
    std::array<SegmentRule, 8> rules{};  // kept from frame to frame
};

// Kept from frame to frame.
struct Kept {
    std::array<Size, 8> sizes{};  // of the frames that others may build on
    Segmentation segmentation;
    unsigned profile = 0, bits = 8;            // of a sample
    bool halfWidth = true, halfHeight = true;  // colours
};

struct FrameHead {
    bool showsAnother = false;  // nothing else is in it
    bool key = false, shown = false, resilient = false, intraOnly = false;
    std::uint32_t reset = 0;  // of what was learnt: see 7.2, reset_frame_context
    Size size;
    std::uint8_t refreshes = 0;    // a bit for each frame that it takes the place of
    std::array<bool, 4> turned{};  // by reference: motion in it counts backwards
    bool eighths = false;          // motion is that fine
    bool switchableFilter = false;
    bool keepsChances = false, inParallel = false;
    std::uint32_t context = 0;  // whose chances it begins with
    bool lossless = false;
    std::uint32_t columnParts = 0, rowParts = 0;  // tiles, as logarithms
    std::size_t length = 0, statedLength = 0;     // bytes: of this, and of the chances behind it

    bool inter() const { return !key && !intraOnly; }
    // Begins with what nothing was learnt of.
    bool anew() const { return !inter() || resilient; }
};

// Nothing when it is no frame, or builds on one that is not there. `kept` changes.
std::optional<FrameHead> readFrameHead(Bytes frame, Kept& kept);

}  // namespace dreskel::vp9
