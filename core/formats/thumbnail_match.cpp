#include "formats/thumbnail_match.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>
#include <utility>

#include "formats/pairs.h"

namespace dreskel {
namespace {

// Pictures whose shapes differ by no more than that are the same, rounded.
constexpr double kSameShape = 0.03;
// Fewer cells say nothing, nor do fewer rows of them.
constexpr std::uint32_t kLeastRows = 2, kLeastRowsToLearn = 10;
constexpr std::size_t kLeastCells = 150, kLeastCellsToLearn = 1000;
// How well they must go together to be believed; and where nothing goes up and down, how far they may be
// apart, in levels.
constexpr double kGoTogether = 0.9, kSpread = 6, kApart = 3;
// What even stretches differ by, as contrast: rounding, and what coding costs.
constexpr double kEven = 4;
// How much more than usual they may differ, and what is usual at least: a share of the contrast.
constexpr double kTimes = 2.5, kLeastUsual = 0.3;
// A picture is gone through in so many steps, and what it has in common with the small one is learnt from the
// first of these shares that is enough.
constexpr std::uint32_t kSteps = 32;
constexpr std::array kLearntFrom{0.125, 0.25, 0.5};
// Strains. A stretch that is not the photo's begins with a step of more than the first, over so many steps
// strains by more than the second, and by more than the third against whatever is so many cells away.
// Measured: docs/measures.md, "What thumbnails tell".
constexpr double kDoubtful = 1.2, kStrange = 2.0, kStrangeAround = 1.5;
constexpr int kAround = 8, kAroundStep = 2;
// An edge is so much more than the mean step from row to row of so many rows on both sides, beyond those that
// are as near as it may be itself.
constexpr double kEdgeTimes = 1.8, kEdgeLevels = 2;
constexpr std::ptrdiff_t kNearEdge = 1, kRowsBeside = 5;
// What is known must have ups and downs to be sure by, in levels from cell to cell, and they must be the
// same.
constexpr double kSlopes = 2.5, kSameSlopes = 0.6;
constexpr std::uint32_t kStrangeSteps = 3;
// What was learnt of other levels may not hold for these: a stretch that goes up and down as the small
// picture does is its own whatever its brightness; an even one may be so far from what is expected, in
// levels.
constexpr double kAlikeByItself = 0.7, kApartUnseen = 20;

// The straight line, bent to where there are enough of the known levels: away from edges, where the two may
// be off by a part of a cell.
std::array<float, 33> curveOf(std::span<const float> small, std::span<const float> contrast,
                              std::span<const float> large, double gain, double offset) {
    constexpr double kLine = 16;   // cells that it counts for
    constexpr float kNoEdge = 12;  // levels
    std::array<double, 33> sums{}, counts{};
    for (std::size_t cell = 0; cell < small.size(); ++cell) {
        if (contrast[cell] > kNoEdge) continue;
        const auto at = std::min(static_cast<std::size_t>(std::lround(small[cell] / 8)), sums.size() - 1);
        sums[at] += large[cell] - gain * small[cell] - offset;
        ++counts[at];
    }
    std::array<float, 33> curve{};
    for (std::size_t at = 0; at < curve.size(); ++at)
        curve[at] =
            static_cast<float>(gain * 8 * static_cast<double>(at) + offset + sums[at] / (counts[at] + kLine));
    return curve;
}

// Whether both change alike from cell to cell, along and down.
bool sameSlopes(std::span<const float> small, std::span<const float> large, std::uint32_t columns) {
    Pairs slopes;
    for (std::size_t cell = columns + 1; cell < small.size(); ++cell) {
        if (cell % columns == 0) continue;
        slopes.add(small[cell] - small[cell - 1], large[cell] - large[cell - 1]);
        slopes.add(small[cell] - small[cell - columns], large[cell] - large[cell - columns]);
    }
    return slopes.varianceOfA() >= kSlopes * kSlopes && slopes.correlation() >= kSameSlopes;
}

}  // namespace

ThumbnailMatch::ThumbnailMatch(const Grey& small, std::uint32_t wide, std::uint32_t high, double aspect) {
    if (small.width == 0 || small.height == 0 || wide == 0 || high == 0) return;
    const double own = static_cast<double>(small.width) / small.height;
    place(small, {}, {}, wide, high);
    if (std::abs(own / aspect - 1) <= kSameShape) return;
    // Framed in black, or cut at both sides.
    const auto middle = [](double share) { return Span{(1 - share) / 2, (1 + share) / 2}; };
    const Part lying{{}, middle(own / aspect)}, standing{middle(aspect / own), {}};
    const auto& framed = own < aspect ? lying : standing;
    place(small, framed, {}, wide, high);
    place(small, {}, own < aspect ? Part{middle(own / aspect), {}} : Part{{}, middle(aspect / own)}, wide,
          high);
}

void ThumbnailMatch::place(const Grey& small, const Part& shown, const Part& of, std::uint32_t wide,
                           std::uint32_t high) {
    struct Side {
        std::vector<std::uint32_t> pixels, blocks;  // where each cell begins, and where the last ends
    };
    const auto side = [](std::uint32_t pixels, Span shownOf, std::uint32_t blocks, Span ofBlocks) {
        const auto cut = [](Span span, std::uint32_t all) {
            const auto at = [all](double share) {
                return static_cast<std::uint32_t>(std::lround(share * all));
            };
            const auto from = std::min(at(span.from), all - 1);
            return std::pair{from, std::max(from + 1, at(span.to))};
        };
        const auto [pixel, lastPixel] = cut(shownOf, pixels);
        const auto [block, lastBlock] = cut(ofBlocks, blocks);
        const auto cells = std::min(lastPixel - pixel, lastBlock - block);
        Side sides;
        for (std::uint64_t cell = 0; cell <= cells; ++cell) {
            sides.pixels.push_back(pixel + static_cast<std::uint32_t>((lastPixel - pixel) * cell / cells));
            sides.blocks.push_back(block + static_cast<std::uint32_t>((lastBlock - block) * cell / cells));
        }
        return sides;
    };
    auto columns = side(small.width, shown.across, wide, of.across);
    auto rows = side(small.height, shown.down, high, of.down);
    Placing placing;
    placing.columns = static_cast<std::uint32_t>(columns.blocks.size() - 1);
    placing.rows = static_cast<std::uint32_t>(rows.blocks.size() - 1);
    placing.levels.reserve(std::size_t{placing.columns} * placing.rows);
    for (std::uint32_t row = 0; row < placing.rows; ++row) {
        for (std::uint32_t column = 0; column < placing.columns; ++column) {
            std::uint32_t sum = 0, count = 0;
            for (auto y = rows.pixels[row]; y < rows.pixels[row + 1]; ++y) {
                for (auto x = columns.pixels[column]; x < columns.pixels[column + 1]; ++x) {
                    sum += small.samples[std::size_t{y} * small.width + x];
                    ++count;
                }
            }
            placing.levels.push_back(static_cast<float>(sum) / static_cast<float>(std::max(count, 1U)));
        }
    }
    const auto level = [&](std::uint32_t row, std::uint32_t column) {
        return placing.levels[std::size_t{row} * placing.columns + column];
    };
    for (std::uint32_t row = 0; row < placing.rows; ++row) {
        for (std::uint32_t column = 0; column < placing.columns; ++column) {
            const auto here = level(row, column);
            const auto beside = column > 0 ? std::abs(here - level(row, column - 1)) : 0;
            const auto above = row > 0 ? std::abs(here - level(row - 1, column)) : 0;
            placing.contrast.push_back(std::max(beside, above));
        }
    }
    placing.fromColumn = std::move(columns.blocks);
    placing.fromRow = std::move(rows.blocks);
    placings_.push_back(std::move(placing));
}

std::pair<std::uint32_t, std::uint32_t> ThumbnailMatch::cellRows(const Placing& placing, std::uint32_t from,
                                                                 std::uint32_t to) {
    const auto& rows = placing.fromRow;
    const auto first = std::lower_bound(rows.begin(), rows.end(), from) - rows.begin();
    const auto behind = std::upper_bound(rows.begin(), rows.end(), to) - rows.begin();  // ends within `to`
    const auto last = std::max<std::ptrdiff_t>(behind - 1, 0);
    return {static_cast<std::uint32_t>(std::min(first, last)), static_cast<std::uint32_t>(last)};
}

void ThumbnailMatch::meansOf(const BlockMeans& picture, const Placing& placing, std::uint32_t row,
                             std::vector<float>& into) {
    into.assign(placing.columns, 0);
    const auto from = placing.fromRow[row], to = std::min(placing.fromRow[row + 1], picture.high);
    for (auto y = from; y < to; ++y) {
        const auto* line = picture.values + y * picture.stride;
        for (std::uint32_t column = 0; column < placing.columns; ++column) {
            std::int32_t sum = 0;
            const auto end = std::min(placing.fromColumn[column + 1], picture.wide);
            for (auto x = placing.fromColumn[column]; x < end; ++x) sum += line[x];
            into[column] += static_cast<float>(sum);
        }
    }
    for (std::uint32_t column = 0; column < placing.columns; ++column) {
        const auto blocks = (to - from) * (placing.fromColumn[column + 1] - placing.fromColumn[column]);
        into[column] = into[column] * picture.scale / static_cast<float>(std::max(blocks, 1U)) + picture.zero;
    }
}

std::optional<ThumbnailMatch::Learnt> ThumbnailMatch::learn(const BlockMeans& picture,
                                                            std::uint32_t rows) const {
    std::optional<Learnt> best;
    double least = 0;
    std::vector<float> means;
    for (std::size_t number = 0; number < placings_.size(); ++number) {
        const auto& placing = placings_[number];
        const auto [first, last] = cellRows(placing, 0, rows);
        const auto cells = std::size_t{last - first} * placing.columns;
        if (last < first + kLeastRowsToLearn || cells < kLeastCellsToLearn) continue;
        Pairs pairs;
        std::vector<float> all;
        for (auto row = first; row < last; ++row) {
            meansOf(picture, placing, row, means);
            for (std::uint32_t column = 0; column < placing.columns; ++column)
                pairs.add(placing.levels[std::size_t{row} * placing.columns + column], means[column]);
            all.insert(all.end(), means.begin(), means.end());
        }
        const auto small = pairs.varianceOfA(), large = pairs.varianceOfB();
        const bool even = std::min(small, large) < kSpread * kSpread;
        const double gain = even ? 1 : pairs.covariance() / small;
        const double offset = pairs.b / pairs.count - gain * pairs.a / pairs.count;
        // Of an even stretch the levels themselves must be the same: one mean goes with any other.
        if (even && std::abs(offset) > kApart) continue;
        Learnt learnt{number, {}, static_cast<float>(std::max(gain, 0.0)), 0};
        const std::span levels(placing.levels.data() + std::size_t{first} * placing.columns, cells);
        const std::span around(placing.contrast.data() + std::size_t{first} * placing.columns, cells);
        learnt.curve = curveOf(levels, around, all, gain, offset);
        double apart = 0, squares = 0, contrast = 0;
        for (std::size_t cell = 0; cell < cells; ++cell) {
            const double by = all[cell] - learnt.levelFor(levels[cell]);
            apart += std::abs(by);
            squares += by * by;
            contrast += learnt.gain * around[cell] + kEven;
        }
        const auto count = static_cast<double>(cells);
        const double unlike = squares / count / std::max(large, 1.0);  // share of its ups and downs
        if (even ? apart / count > kApart : unlike > 1 - kGoTogether * kGoTogether) continue;
        learnt.usual = static_cast<float>(std::max(kLeastUsual, apart / contrast));
        learnt.sure = sameSlopes(levels, all, placing.columns);
        if (best && unlike >= least) continue;
        best = learnt;
        least = unlike;
    }
    return best;
}

std::optional<double> ThumbnailMatch::strain(const BlockMeans& picture, const Learnt& learnt,
                                             std::uint32_t from, std::uint32_t to) const {
    const auto& placing = placings_[learnt.placing];
    const auto rows = cellRows(placing, from, to);
    const auto count = rows.second - rows.first;
    if (count < kLeastRows || std::size_t{count} * placing.columns < kLeastCells) return std::nullopt;
    return strainOf(picture, learnt, rows, 0, 0);
}

double ThumbnailMatch::strainOf(const BlockMeans& picture, const Learnt& learnt,
                                std::pair<std::uint32_t, std::uint32_t> rows, int down, int right) const {
    const auto& placing = placings_[learnt.placing];
    std::vector<float> means;
    double apart = 0, contrast = 0;
    const auto within = [](std::int64_t at, std::uint32_t count) {
        return static_cast<std::size_t>(std::clamp<std::int64_t>(at, 0, std::int64_t{count} - 1));
    };
    for (auto row = rows.first; row < rows.second; ++row) {
        meansOf(picture, placing, row, means);
        const auto other = within(std::int64_t{row} + down, placing.rows) * placing.columns;
        for (std::uint32_t column = 0; column < placing.columns; ++column) {
            const auto cell = other + within(std::int64_t{column} + right, placing.columns);
            apart += std::abs(means[column] - learnt.levelFor(placing.levels[cell]));
            contrast += learnt.gain * placing.contrast[cell] + kEven;
        }
    }
    return apart / (kTimes * learnt.usual * contrast);
}

bool ThumbnailMatch::isAnother(const BlockMeans& picture, const Learnt& learnt, std::uint32_t from,
                               std::uint32_t to) const {
    if (!learnt.sure || strain(picture, learnt, from, to).value_or(0) <= kStrange) return false;
    const auto rows = cellRows(placings_[learnt.placing], from, to);
    for (int down = -kAround; down <= kAround; down += kAroundStep) {
        for (int right = -kAround; right <= kAround; right += kAroundStep) {
            if (strainOf(picture, learnt, rows, down, right) <= kStrangeAround) return false;
        }
    }
    return !alikeByThemselves(picture, learnt, rows);
}

bool ThumbnailMatch::alikeByThemselves(const BlockMeans& picture, const Learnt& learnt,
                                       std::pair<std::uint32_t, std::uint32_t> rows) const {
    const auto& placing = placings_[learnt.placing];
    Pairs pairs;
    std::vector<float> means;
    for (auto row = rows.first; row < rows.second; ++row) {
        meansOf(picture, placing, row, means);
        for (std::uint32_t column = 0; column < placing.columns; ++column)
            pairs.add(placing.levels[std::size_t{row} * placing.columns + column], means[column]);
    }
    if (pairs.count == 0) return true;
    if (std::max(pairs.varianceOfA(), pairs.varianceOfB()) >= kSpread * kSpread)
        return pairs.correlation() >= kAlikeByItself;
    const auto expected = learnt.levelFor(static_cast<float>(pairs.a / pairs.count));
    return std::abs(pairs.b / pairs.count - expected) <= kApartUnseen;
}

bool ThumbnailMatch::showsEdge(const Learnt& learnt, std::uint32_t row) const {
    const auto& placing = placings_[learnt.placing];
    const auto& rows = placing.fromRow;
    const auto cell = std::upper_bound(rows.begin(), rows.end(), row) - rows.begin() - 1;
    const auto step = [&](std::ptrdiff_t at) -> double {
        if (at < 1 || at >= std::ptrdiff_t{placing.rows}) return 0;
        const auto* here = placing.levels.data() + at * std::ptrdiff_t{placing.columns};
        double sum = 0;
        for (std::uint32_t column = 0; column < placing.columns; ++column)
            sum += std::abs(here[column] - here[std::ptrdiff_t{column} - std::ptrdiff_t{placing.columns}]);
        return sum / placing.columns;
    };
    double edge = 0, around = 0;
    for (std::ptrdiff_t by = -kNearEdge; by <= kNearEdge + 1; ++by) edge = std::max(edge, step(cell + by));
    for (std::ptrdiff_t by = kNearEdge + 2; by < kNearEdge + 2 + kRowsBeside; ++by)
        around += (step(cell - by) + step(cell + by)) / (2 * kRowsBeside);
    return edge > kEdgeTimes * around + kEdgeLevels;
}

std::optional<std::uint32_t> ThumbnailMatch::strangeFrom(const BlockMeans& picture) const {
    const auto step = std::max(1U, picture.high / kSteps);
    std::optional<Learnt> learnt;
    std::uint32_t row = 0;
    for (auto share = kLearntFrom.begin(); !(learnt && learnt->sure) && share != kLearntFrom.end(); ++share) {
        row = static_cast<std::uint32_t>(picture.high * *share);
        learnt = learn(picture, row);
    }
    if (!learnt || !learnt->sure) return std::nullopt;
    for (; row + kStrangeSteps * step <= picture.high; row += step) {
        const auto doubt = strain(picture, *learnt, row, row + step).value_or(0);
        if (doubt > kDoubtful && isAnother(picture, *learnt, row, row + kStrangeSteps * step)) return row;
    }
    return std::nullopt;
}

}  // namespace dreskel
