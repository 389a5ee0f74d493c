// The blocks of one part of a picture of VP9 (tile, section 6.4), followed without rebuilding a sample.
#pragma once

#include <vector>

#include "formats/vp9/motion.h"
#include "formats/vp9/references.h"
#include "formats/vp9/stated_chances.h"

namespace dreskel::vp9 {

// What goes on from tile to tile of a picture: along its upper edge, whether blocks of four samples have
// coefficients, for each plane, and how those of eight pixels are divided.
struct Edge {
    explicit Edge(const Size& size);
    std::array<std::vector<std::uint8_t>, 3> coefficients;
    std::vector<std::uint8_t> divisions;
};

// All are kept by the caller.
struct Picture {
    const FrameHead& head;
    const Stated& stated;
    const Kept& kept;
    const Chances& chances;
    const Field* before;                              // whose motion may be used
    const std::vector<std::uint8_t>& segmentsBefore;  // by places of eight pixels
    std::vector<std::uint8_t>& segments;
    Field& field;
    Counts& counts;
};

// In places of eight pixels.
struct TileBounds {
    std::uint32_t firstRow = 0, endRow = 0, firstColumn = 0, endColumn = 0;
};

class Tile {
  public:
    Tile(Bytes bytes, const TileBounds& bounds, const Picture& picture, Edge& above);
    // What is wrong with it; nothing when its bytes end with it.
    const char* follow();

  private:
    static constexpr std::uint32_t kWide = 8;  // places of the largest block

    void divide(Place place, BlockSize size);
    std::size_t readDivision(Place place, BlockSize size);
    void block(Place place, BlockSize size);
    bool passPlane(const Block& block, std::size_t plane);
    void clearPlane(const Block& block, std::size_t plane);

    // In block_modes.cpp, of the block in hand.
    void readModes(Block& block);
    void readSegment(Block& block);
    std::uint8_t segmentBefore(const Block& block) const;
    std::size_t readSegmentNumber();
    void keepSegment(const Block& block, bool asBefore);
    void readSkipped(Block& block);
    void readTransform(Block& block, bool choice);
    bool readInter(const Block& block);
    void readKeyModes(Block& block);
    void readIntraModes(Block& block);
    void readReferences(Block& block);
    void readMotion(Block& block);
    void readQuarters(Block& block, const std::array<Vector, 2>& best, std::size_t context);
    std::uint8_t readMotionMode(std::size_t context);
    void readFilter(Block& block);
    std::array<Vector, 2> readMoved(const Block& block, const std::array<Vector, 2>& from);
    std::array<Vector, 2> quarterMotion(const Block& block, std::size_t quarter, std::uint8_t mode) const;

    bool counted(std::uint8_t chance, std::array<std::uint32_t, 2>& counts) {
        const bool one = bits_.bit(chance);
        ++counts[one ? 1 : 0];
        return one;
    }
    const SegmentRule& ruleOf(const Block& block) const;
    // Blocks of four samples of a plane, in a place of eight pixels.
    std::uint32_t across(std::size_t plane) const { return plane > 0 && picture_.kept.halfWidth ? 1 : 2; }
    std::uint32_t down(std::size_t plane) const { return plane > 0 && picture_.kept.halfHeight ? 1 : 2; }

    BoolDecoder bits_;
    TileBounds bounds_;
    const Picture& picture_;
    const Chances& chances_;
    Counts& counts_;
    Field& field_;
    Edge& above_;
    // Along the left edge of the largest block.
    std::array<std::array<std::uint8_t, 2 * kWide>, 3> left_{};
    std::array<std::uint8_t, kWide> leftDivisions_{};
    Pairs pairs_;
    Surroundings around_;
    Place place_;  // of the block in hand
    Beside beside_;
    const char* wrong_ = nullptr;
};

}  // namespace dreskel::vp9
