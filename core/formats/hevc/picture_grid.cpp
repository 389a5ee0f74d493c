#include "formats/hevc/picture_grid.h"

#include <algorithm>

namespace dreskel::hevc {
namespace {

// Where tiles begin, in tree blocks; one more at the end (6.5.1).
std::vector<std::uint32_t> borders(std::uint32_t count, const std::vector<std::uint32_t>& sizes,
                                   std::uint32_t whole) {
    std::vector<std::uint32_t> places{0};
    for (std::uint32_t i = 1; i < count; ++i) {
        const auto next = sizes.empty() ? static_cast<std::uint32_t>(std::uint64_t{i} * whole / count)
                                        : places.back() + sizes[i - 1];
        places.push_back(std::min(next, whole));
    }
    places.push_back(whole);
    return places;
}

}  // namespace

PictureGrid::PictureGrid(const Sequence& sequence, const PictureSet& picture)
    : treeBlock_(sequence.treeBlock),
      minBlock_(sequence.minBlock),
      width_(static_cast<int>(sequence.width)),
      height_(static_cast<int>(sequence.height)),
      wide_(sequence.treeBlocksWide()),
      blocksWide_(sequence.width >> sequence.minBlock),
      intraWide_(sequence.width / 4) {
    const auto high = sequence.treeBlocksHigh();
    const auto count = std::size_t{wide_} * high;
    toTiles_.resize(count);
    tile_.resize(count);
    tileLeft_.resize(count);
    slice_.resize(count);
    blocks_.resize(blocksWide_ * (sequence.height >> sequence.minBlock));
    intra_.resize(intraWide_ * (sequence.height / 4), kMean);
    layTiles(picture, high);
}

void PictureGrid::layTiles(const PictureSet& picture, std::uint32_t high) {
    const auto columns = borders(picture.tileColumns, picture.columns, wide_);
    const auto rows = borders(picture.tileRows, picture.rows, high);
    std::uint32_t tile = 0;
    for (std::size_t row = 0; row + 1 < rows.size(); ++row) {
        for (std::size_t column = 0; column + 1 < columns.size(); ++column, ++tile) {
            for (auto y = rows[row]; y < rows[row + 1]; ++y) {
                for (auto x = columns[column]; x < columns[column + 1]; ++x) {
                    const auto inRows = y * wide_ + x;
                    toTiles_[inRows] = static_cast<std::uint32_t>(fromTiles_.size());
                    tile_[inRows] = tile;
                    tileLeft_[inRows] = columns[column];
                    fromTiles_.push_back(inRows);
                }
            }
        }
    }
}

bool PictureGrid::available(int x, int y, std::uint32_t current) const {
    if (x < 0 || y < 0 || x >= width_ || y >= height_) return false;
    const auto other = static_cast<std::uint32_t>(at(x, y, treeBlock_, wide_));
    return other == current || (slice_[other] == slice_[current] && tile_[other] == tile_[current]);
}

void PictureGrid::setBlock(int x, int y, int size, Block block) {
    const auto units = std::max<std::size_t>(1, static_cast<std::size_t>(size) >> minBlock_);
    const auto first = at(x, y, minBlock_, blocksWide_);
    for (std::size_t row = 0; row < units; ++row)
        std::fill_n(blocks_.begin() + static_cast<std::ptrdiff_t>(first + row * blocksWide_), units, block);
}

void PictureGrid::setIntra(int x, int y, int size, std::uint8_t mode) {
    const auto units = static_cast<std::size_t>(size) / 4;
    const auto first = at(x, y, 2, intraWide_);
    for (std::size_t row = 0; row < units; ++row)
        std::fill_n(intra_.begin() + static_cast<std::ptrdiff_t>(first + row * intraWide_), units, mode);
}

}  // namespace dreskel::hevc
