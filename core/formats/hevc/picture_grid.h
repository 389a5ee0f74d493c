// What the blocks of a picture that are decoded already say about those that follow: the order of the tree
// blocks, the slices they belong to, depths, skipped blocks and directions of intra prediction (ITU-T H.265,
// 6.4 and 6.5).
#pragma once

#include <cstdint>
#include <vector>

#include "formats/hevc/parameter_sets.h"

namespace dreskel::hevc {

class PictureGrid {
  public:
    static constexpr std::uint8_t kPlanar = 0, kMean = 1, kHorizontal = 10, kVertical = 26;

    PictureGrid(const Sequence& sequence, const PictureSet& picture);

    std::uint32_t count() const { return static_cast<std::uint32_t>(fromTiles_.size()); }
    std::uint32_t wide() const { return wide_; }
    // Between the order of rows and that of tiles, and the tile of a tree block (by the order of rows).
    std::uint32_t inRows(std::uint32_t inTiles) const { return fromTiles_[inTiles]; }
    std::uint32_t inTiles(std::uint32_t inRows) const { return toTiles_[inRows]; }
    std::uint32_t tile(std::uint32_t inRows) const { return tile_[inRows]; }
    std::uint32_t tileLeft(std::uint32_t inRows) const { return tileLeft_[inRows]; }

    // `slice`: a number that no other slice of any picture has; never 0.
    void begin(std::uint32_t inRows, std::uint32_t slice) { slice_[inRows] = slice; }
    // Whether what is at a place may be referred to from the tree block in hand.
    bool available(int x, int y, std::uint32_t current) const;

    struct Block {
        std::uint8_t depth = 0;
        bool skipped = false;
    };
    const Block& block(int x, int y) const { return blocks_[at(x, y, minBlock_, blocksWide_)]; }
    void setBlock(int x, int y, int size, Block block);
    std::uint8_t intra(int x, int y) const { return intra_[at(x, y, 2, intraWide_)]; }
    void setIntra(int x, int y, int size, std::uint8_t mode);

  private:
    static std::size_t at(int x, int y, unsigned unit, std::size_t wide) {
        return static_cast<std::size_t>(y >> unit) * wide + static_cast<std::size_t>(x >> unit);
    }
    void layTiles(const PictureSet& picture, std::uint32_t high);

    unsigned treeBlock_, minBlock_;
    int width_, height_;
    std::uint32_t wide_;
    std::vector<std::uint32_t> fromTiles_, toTiles_, tile_, tileLeft_;
    std::vector<std::uint32_t> slice_;
    std::size_t blocksWide_, intraWide_;
    std::vector<Block> blocks_;
    std::vector<std::uint8_t> intra_;
};

}  // namespace dreskel::hevc
