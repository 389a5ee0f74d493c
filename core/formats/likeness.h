// Holds what of a large picture is decoded against a small picture of the same: cameras put one into nearly
// every photo. What goes on from a join may be as smooth as it likes, here it is seen whether it is that
// picture.
//
// A small picture is believed only as far as it goes with what is known to be the photo's: it may be of
// before the photo was edited, or be framed in black, or cut. Thread-safe once made.
#pragma once

#include <optional>
#include <vector>

#include "formats/grey.h"

namespace dreskel {

// The large picture as means of its blocks, row by row.
struct BlockMeans {
    const std::int16_t* values = nullptr;
    std::size_t stride = 0;            // values from row to row
    std::uint32_t wide = 0, high = 0;  // blocks
    float scale = 1;                   // levels (of 256) a unit
    float zero = 0;                    // the level of 0
};

class Likeness {
  public:
    // `wide` and `high`: of the large picture, in blocks; `aspect`: its width by its height.
    Likeness(const Grey& small, std::uint32_t wide, std::uint32_t high, double aspect);

    // How the two go together, learnt from rows of the large picture.
    struct Learnt {
        std::size_t placing = 0;      // of the small picture
        double gain = 1, offset = 0;  // from its levels to the large picture's
        double usual = 0;             // what they differ by, for each level of contrast
    };
    // From rows 0 to `rows` of blocks. Nothing where they do not go together, or are too few to say.
    std::optional<Learnt> learn(const BlockMeans& picture, std::uint32_t rows) const;

    // How much more rows `from` to `to` differ than is usual: up to 1 they are this picture's. Nothing where
    // they are too few to say.
    std::optional<double> strain(const BlockMeans& picture, const Learnt& learnt, std::uint32_t from,
                                 std::uint32_t to) const;

  private:
    // Where the small picture shows the large one: a grid of cells, each some blocks of that.
    struct Placing {
        std::uint32_t columns = 0, rows = 0;
        std::vector<float> levels, contrast;             // of the small picture, by cell
        std::vector<std::uint32_t> fromColumn, fromRow;  // blocks, and one more that ends the last cell
    };
    struct Span {
        double from = 0, to = 1;
    };
    struct Part {
        Span across, down;
    };
    // `shown` of the small picture is `of` the large one.
    void place(const Grey& small, const Part& shown, const Part& of, std::uint32_t wide, std::uint32_t high);
    // The rows of cells that lie within rows `from` to `to` of blocks.
    static std::pair<std::uint32_t, std::uint32_t> cellRows(const Placing& placing, std::uint32_t from,
                                                            std::uint32_t to);
    // The large picture's levels in one row of cells.
    static void meansOf(const BlockMeans& picture, const Placing& placing, std::uint32_t row,
                        std::vector<float>& into);

    std::vector<Placing> placings_;
};

}  // namespace dreskel
