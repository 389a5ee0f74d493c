// The blocks of one picture of VP9, by places of eight pixels.
#pragma once

#include <algorithm>
#include <vector>

#include "formats/vp9/block.h"
#include "formats/vp9/frame_head.h"

namespace dreskel::vp9 {

struct Place {
    std::uint32_t row = 0, column = 0;  // of eight pixels
};

class Field {
  public:
    Field() = default;
    explicit Field(Size size)
        : size_(size), columns_(size.columns()), rows_(size.rows()), blocks_(std::size_t{columns_} * rows_) {}

    const Size& size() const { return size_; }
    std::uint32_t columns() const { return columns_; }
    std::uint32_t rows() const { return rows_; }
    const Block& at(Place place) const { return blocks_[std::size_t{place.row} * columns_ + place.column]; }
    Block& at(Place place) { return blocks_[std::size_t{place.row} * columns_ + place.column]; }

    // A block lies where it does, as far as that is in the picture.
    void put(Place place, const Block& block) {
        const auto width = std::min(eightsOf(kWidths[block.size]), columns_ - place.column);
        const auto height = std::min(eightsOf(kHeights[block.size]), rows_ - place.row);
        for (std::uint32_t row = 0; row < height; ++row) {
            auto* first = &at({place.row + row, place.column});
            std::fill(first, first + width, block);
        }
    }

  private:
    Size size_;
    std::uint32_t columns_ = 0, rows_ = 0;
    std::vector<Block> blocks_;
};

}  // namespace dreskel::vp9
