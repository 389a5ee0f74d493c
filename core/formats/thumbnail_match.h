// Holds what of a large picture is decoded against a small picture of the same: cameras put one into nearly
// every photo. What goes on from a join may be as smooth as it likes, here it is seen whether it is that
// picture.
//
// A small picture is believed only as far as it goes with what is known to be the photo's: it may be of
// before the photo was edited, or be framed in black, or cut. Thread-safe once made.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>
#include <utility>
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

class ThumbnailMatch {
  public:
    // `wide` and `high`: of the large picture, in blocks; `aspect`: its width by its height.
    ThumbnailMatch(const Grey& small, std::uint32_t wide, std::uint32_t high, double aspect);

    // How the two go together, learnt from rows of the large picture.
    struct Learnt {
        std::size_t placing = 0;  // of the small picture
        // The large picture's level for every eighth of the small one's: cameras show what they measure by
        // curves of their own.
        std::array<float, 33> curve{};
        float gain = 1;   // how steep it is, by and large
        float usual = 0;  // what the two differ by, for each level of contrast
        // They go up and down at the same places, to a cell. Else it may be of the photo before it was cut.
        bool sure = false;
        float levelFor(float small) const {
            const auto at = std::min(small / 8, 31.999F);
            const auto below = static_cast<std::size_t>(at);
            const auto part = at - static_cast<float>(below);
            return curve[below] * (1 - part) + curve[below + 1] * part;
        }
    };
    // From rows 0 to `rows` of blocks. Nothing where they do not go together, or are too few to say.
    std::optional<Learnt> learn(const BlockMeans& picture, std::uint32_t rows) const;

    // How much more rows `from` to `to` differ than is usual: up to 1 they are this picture's. Nothing where
    // they are too few to say.
    std::optional<double> strain(const BlockMeans& picture, const Learnt& learnt, std::uint32_t from,
                                 std::uint32_t to) const;

    // Whether rows `from` to `to` are not this picture's for certain, nor any of it that is a little apart,
    // as in a photo that was cut without its thumbnail being made anew.
    bool isAnother(const BlockMeans& picture, const Learnt& learnt, std::uint32_t from,
                   std::uint32_t to) const;
    // Whether the small picture has an edge from side to side about where a row of blocks begins.
    bool showsEdge(const Learnt& learnt, std::uint32_t row) const;
    // From which row of blocks on a complete picture is not what the small one shows any more, about; nothing
    // where all of it may be.
    std::optional<std::uint32_t> strangeFrom(const BlockMeans& picture) const;

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
    // How rows of cells differ from those that stand so many cells further down and to the right.
    double strainOf(const BlockMeans& picture, const Learnt& learnt,
                    std::pair<std::uint32_t, std::uint32_t> rows, int down, int right) const;
    // Whether rows of cells go with the small picture's, whatever was learnt of others.
    bool alikeByThemselves(const BlockMeans& picture, const Learnt& learnt,
                           std::pair<std::uint32_t, std::uint32_t> rows) const;
    // The large picture's levels in one row of cells.
    static void meansOf(const BlockMeans& picture, const Placing& placing, std::uint32_t row,
                        std::vector<float>& into);

    std::vector<Placing> placings_;
};

}  // namespace dreskel
