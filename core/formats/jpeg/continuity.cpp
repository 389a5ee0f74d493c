#include "formats/jpeg/continuity.h"

#include <algorithm>
#include <cmath>

#include "formats/pairs.h"

namespace dreskel::jpeg {
namespace {

// How much rougher than its surroundings the row behind a join has to be, and by how many levels of
// brightness.
constexpr double kTimesRougher = 3.0;
constexpr double kLevels = 8.0;
// The same where the join is known: against the roughest of so many rows before and behind it.
constexpr double kSeamTimes = 1.5;
constexpr double kSeamLevels = 1.5;
constexpr std::uint64_t kRowsAround = 4;
// Rows of one picture go up and down together. How much less the row behind a join may than its neighbours
// do; told only where there is something to go up and down, in levels.
constexpr double kSeamApart = 3.0;
constexpr double kSeamLoose = 0.08;
constexpr double kSpread = 1.5;
constexpr std::uint64_t kLeastSeam = 8;  // MCUs
// Of a row that is not all decoded yet; of so few MCUs only how far they are from those above tells.
constexpr std::uint64_t kLeastPart = 48, kGlimpse = 16;  // MCUs
constexpr double kPastDoubt = 4.0;                       // strain
// The same of the numbers of coefficients: rows that are told by, how much they vary, how alike neighbouring
// rows are at least, and by what share of that a seam may differ beside chance.
constexpr std::size_t kLeastBusy = 24;  // blocks
constexpr double kBusySpread = 0.5;
constexpr double kLeastLikeness = 0.25;
constexpr double kBusyApart = 0.3;
// MCUs that say something about a stretch.
constexpr std::uint64_t kShortest = 6;

// For each MCU the difference in brightness between its top row of blocks and the blocks above, 0 to 255.
std::vector<float> stepsDown(const Frame& frame, const DcPlanes::Plane& luma, const Component& component) {
    const auto wide = frame.mcusWide;
    std::vector<float> steps(std::size_t{wide} * frame.mcusHigh, 0);
    const float scale = static_cast<float>(luma.quant) / 8.0F;
    for (std::uint32_t y = 1; y < frame.mcusHigh; ++y) {
        const auto* row = luma.dc.data() + std::size_t{y} * component.v * luma.width;
        const auto* above = row - luma.width;
        for (std::uint32_t x = 0; x < wide; ++x) {
            float sum = 0;
            for (std::uint32_t h = 0; h < component.h; ++h) {
                const auto at = std::size_t{x} * component.h + h;
                sum += std::abs(static_cast<float>(row[at] - above[at]));
            }
            steps[std::size_t{y} * wide + x] = sum / component.h * scale;
        }
    }
    return steps;
}

// Nothing when one of the two varies less than `spread` (standard deviation).
std::optional<double> correlationOf(const Pairs& pairs, double spread) {
    if (pairs.count < 2 || std::min(pairs.varianceOfA(), pairs.varianceOfB()) < spread * spread)
        return std::nullopt;
    return pairs.correlation();
}

// How a run of MCUs of one component fits the blocks above it.
struct Fit {
    double step = 0;         // mean difference, levels
    double spread = 0;       // standard deviation of the run itself, levels
    double correlation = 0;  // with what is above
};

Fit fitOf(const Frame& frame, const DcPlanes::Plane& plane, const Component& component, std::uint64_t from,
          std::uint64_t to) {
    Pairs pairs;
    double step = 0;
    for (auto mcu = from; mcu < to; ++mcu) {
        const auto y = mcu / frame.mcusWide;
        if (y == 0) continue;
        const auto* row =
            plane.dc.data() + y * component.v * plane.width + mcu % frame.mcusWide * component.h;
        for (std::uint32_t h = 0; h < component.h; ++h) {
            const double here = row[h];
            const double above = *(row + h - static_cast<std::ptrdiff_t>(plane.width));
            step += std::abs(here - above);
            pairs.add(here, above);
        }
    }
    Fit fit;
    if (pairs.count < 2) return fit;
    const double scale = plane.quant / 8.0;
    fit.step = step / pairs.count * scale;
    fit.spread = std::sqrt(std::min(pairs.varianceOfA(), pairs.varianceOfB())) * scale;
    fit.correlation = pairs.correlation();
    return fit;
}

}  // namespace

std::optional<Jump> findJump(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart) {
    if (planes.planes.empty() || frame.mcusWide < 8 || frame.mcusHigh < 5) return std::nullopt;
    const auto& component = frame.components[0];
    const auto& luma = planes.planes[0];
    if (component.paddedWide != frame.mcusWide * component.h) return std::nullopt;
    const auto steps = stepsDown(frame, luma, component);
    std::vector<double> sums(steps.size() + 1, 0);
    for (std::size_t i = 0; i < steps.size(); ++i) sums[i + 1] = sums[i] + steps[i];
    const auto mean = [&](std::uint64_t from, std::uint64_t to) {
        return (sums[to] - sums[from]) / static_cast<double>(to - from);
    };

    const std::uint64_t wide = frame.mcusWide;
    for (std::size_t i = 0; i < planes.marks.size(); ++i) {
        const auto at = planes.marks[i];
        // A whole row before it that has a row above, and two rows behind it.
        if (at < 2 * wide || at + 2 * wide > steps.size()) continue;
        // The row behind a join lies partly in one row of the picture and partly in the next. Both parts must
        // be rough, and the rest of both rows must not: an edge in the picture itself does not step down just
        // there.
        const auto rowStart = at / wide * wide;
        const auto cut = at - rowStart;
        if (cut < kShortest || wide - cut < kShortest) continue;
        const double cold = std::max(
            {mean(rowStart, at - 1), mean(at + wide + 1, rowStart + 2 * wide), mean(at - wide, rowStart)});
        const double hot = std::min(mean(at + 1, rowStart + wide), mean(rowStart + wide, at + wide - 1));
        if (hot > kTimesRougher * cold + kLevels) {
            return Jump{planes.byteOf(planes.steps(scanStart) + 1 + i), at};
        }
    }
    return std::nullopt;
}

namespace {

// In a scan of coefficients: how the numbers of a row of blocks go with those of the row above, or with those
// that were known of the same blocks.
SeamLook lookAtBusyness(const Frame& frame, const DcPlanes& planes, std::uint64_t number, bool complete) {
    const auto& later = planes.later;
    const auto scan = std::find_if(later.rbegin(), later.rend(), [number](const DcPlanes::Later& one) {
        return one.firstMark != 0 && one.firstMark <= number;
    });
    if (scan == later.rend()) return {};
    const auto index = static_cast<std::size_t>(number - scan->firstMark);
    const auto silent = complete || scan != later.rbegin() ? Seam::CannotTell : Seam::NotYetDecoded;
    if (index >= scan->marks.size()) return {silent, 0};
    const std::size_t wide = frame.components[scan->component].blocksWide;
    const auto from = static_cast<std::size_t>(scan->marks[index]) + 1;
    const bool over = complete || scan != later.rbegin();
    const auto reached = over ? scan->busy.size() : static_cast<std::size_t>(scan->marks.back());
    if (from <= wide || wide < kLeastBusy) return {};
    if (reached < from + wide) return {silent, 0};
    const auto addRow = [&](Pairs& to, std::size_t at) {
        for (auto i = at; i < at + wide; ++i)
            to.add(scan->busy[i], scan->known.empty() ? scan->busy[i - wide] : scan->known[i]);
    };
    Pairs behind, around;
    addRow(behind, from);
    for (std::size_t row = 1; row <= kRowsAround; ++row) {
        if (from > (row + 1) * wide) addRow(around, from - 1 - row * wide);
        if (from + (row + 1) * wide <= reached) addRow(around, from + row * wide);
    }
    const auto seam = correlationOf(behind, kBusySpread);
    const auto usual = correlationOf(around, kBusySpread);
    if (!seam || !usual) return {};
    // By chance a row's correlation is off by about one over the root of its length. Where most coefficients
    // are known few are left to be told: the usual may be below zero.
    const auto chance = 1 / std::sqrt(static_cast<double>(wide));
    if (std::abs(*usual) < std::max(kLeastLikeness, 4 * chance)) return {};
    const auto strain = std::abs(*seam - *usual) / (2.5 * chance + kBusyApart * std::abs(*usual));
    return {strain > 1 ? Seam::DoesNotFit : Seam::Fits, strain};
}

// Rows above MCU `from` that are compared with theirs.
std::uint64_t rowsBefore(const Frame& frame, std::uint64_t from) {
    return std::min<std::uint64_t>(kRowsAround, (from - 1) / frame.mcusWide - 1);
}

bool wholeRows(const Frame& frame, std::size_t component) {
    return frame.components[component].paddedWide == frame.mcusWide * frame.components[component].h;
}

std::size_t componentsOf(const Frame& frame, const DcPlanes& planes) {
    return std::min(frame.components.size(), planes.planes.size());
}

void compare(UsualAbove::Rows& usual, const Fit& row) {
    usual.step = std::max(usual.step, row.step);
    if (row.spread > kSpread) usual.correlation = std::min(usual.correlation, row.correlation);
}

UsualAbove usualAbove(const Frame& frame, const DcPlanes& planes, std::uint64_t from) {
    const std::uint64_t wide = frame.mcusWide;
    const auto before = rowsBefore(frame, from);
    UsualAbove usual;
    for (std::size_t i = 0; i < componentsOf(frame, planes) && wholeRows(frame, i); ++i) {
        auto& rows = usual.components.emplace_back();
        for (std::uint64_t back = 1; back <= before; ++back)
            compare(rows, fitOf(frame, planes.planes[i], frame.components[i], from - 1 - back * wide,
                                from - 1 - (back - 1) * wide));
    }
    return usual;
}

// How MCUs `from` to `to`, a row at most, fit what is above them, against the rows before and, as far as
// `reached`, behind them. Nothing where there is no row to compare with.
std::optional<SeamLook> compareRow(const Frame& frame, const DcPlanes& planes, const UsualAbove& above,
                                   std::uint64_t from, std::uint64_t to, std::uint64_t reached) {
    const std::uint64_t wide = frame.mcusWide;
    const auto behind =
        reached < from + wide ? 0 : std::min<std::uint64_t>(kRowsAround, (reached - from) / wide - 1);
    if (rowsBefore(frame, from) == 0 && behind == 0) return std::nullopt;
    bool told = false;
    double strain = 0;
    for (std::size_t i = 0; i < componentsOf(frame, planes); ++i) {
        if (!wholeRows(frame, i)) return SeamLook{};
        const auto fit = [&](std::uint64_t first, std::uint64_t last) {
            return fitOf(frame, planes.planes[i], frame.components[i], first, last);
        };
        const auto seam = fit(from, to);
        auto usual = above.components[i];
        for (std::uint64_t on = 1; on <= behind; ++on)
            compare(usual, fit(from + on * wide, from + (on + 1) * wide));
        strain = std::max(strain, seam.step / (kSeamTimes * usual.step + kSeamLevels));
        if (seam.spread > kSpread) {
            strain = std::max(strain,
                              (1 - seam.correlation) / (kSeamApart * (1 - usual.correlation) + kSeamLoose));
            told = true;
        }
    }
    return SeamLook{strain > 1 ? Seam::DoesNotFit : told ? Seam::Fits : Seam::CannotTell, strain};
}

// How far MCUs `from` to `to` are from what is above them; 0 where there is no row to compare with.
double glimpse(const Frame& frame, const DcPlanes& planes, const UsualAbove& above, std::uint64_t from,
               std::uint64_t to) {
    if (rowsBefore(frame, from) == 0) return 0;
    double strain = 0;
    for (std::size_t i = 0; i < above.components.size(); ++i) {
        const auto part = fitOf(frame, planes.planes[i], frame.components[i], from, to);
        strain = std::max(strain, part.step / (kSeamTimes * above.components[i].step + kSeamLevels));
    }
    return strain;
}

// A seam in the first scan, behind MCU `from` - 1. `reached`: MCUs that are decoded.
template <class Above>
SeamLook lookAtRow(const Frame& frame, const DcPlanes& planes, std::uint64_t from, std::uint64_t reached,
                   bool firstScanOver, double pastDoubt, const Above& above) {
    const std::uint64_t wide = frame.mcusWide;
    const auto all = wide * frame.mcusHigh;
    const auto to = std::min(from + wide, all);
    const auto rows = static_cast<double>(all - std::min(all, from)) / static_cast<double>(wide);
    if (from <= wide || to < from + std::min<std::uint64_t>(wide, kLeastSeam))
        return {Seam::CannotTell, 0, rows};
    if (reached < to) {
        // Of a part of the row only what is past all doubt is said.
        if (reached < from + kGlimpse) return {Seam::NotYetDecoded, 0};
        const auto length = reached - from, least = std::max(wide / 4, kLeastPart);
        if (length < least) {
            // An edge of the picture's own may fill so little of a row.
            const auto strain = glimpse(frame, planes, above(from), from, reached);
            const auto doubt = std::sqrt(static_cast<double>(least) / static_cast<double>(length));
            return {Seam::NotYetDecoded, strain > pastDoubt * doubt ? strain : 0};
        }
        const auto part = compareRow(frame, planes, above(from), from, reached, reached);
        return {Seam::NotYetDecoded, part && part->strain > pastDoubt ? part->strain : 0};
    }
    auto look = compareRow(frame, planes, above(from), from, to, reached);
    // What is usual in this picture cannot be said yet: of the first rows there are none before it.
    if (!look) return {firstScanOver ? Seam::CannotTell : Seam::NotYetDecoded, 0, rows};
    look->rows = rows;
    return *look;
}

// The mark of the first scan at `byte`: how many there are before it.
std::uint64_t markOf(const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte) {
    return planes.steps(byte) - (planes.steps(scanStart) + 1);
}

bool cannotLook(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte) {
    return planes.planes.empty() || frame.mcusWide < 4 || byte <= scanStart ||
           (byte + planes.phase) % DcPlanes::kMarkStep != 0;
}

}  // namespace

SeamLook lookAtSeam(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte,
                    bool complete) {
    if (cannotLook(frame, planes, scanStart, byte)) return {};
    const auto index = markOf(planes, scanStart, byte);
    const bool firstScanOver = complete || !planes.later.empty();
    if (index >= planes.marks.size()) {
        if (!firstScanOver) return {Seam::NotYetDecoded, 0};
        if (planes.later.empty()) return {Seam::CannotTell, 0, 0};
        return lookAtBusyness(frame, planes, planes.steps(byte), complete);
    }
    // The MCU in which the join lies belongs to neither side.
    const auto from = planes.marks[index] + 1;
    const auto reached = firstScanOver ? std::uint64_t{frame.mcusWide} * frame.mcusHigh : planes.marks.back();
    return lookAtRow(frame, planes, from, reached, firstScanOver, kPastDoubt,
                     [&](std::uint64_t at) { return usualAbove(frame, planes, at); });
}

SeamLook SeamWatch::look(const StreamDecoder& decoder) {
    const auto& frame = decoder.frame();
    const auto scanStart = decoder.codedDataAt();
    if (cannotLook(frame, planes_, scanStart, byte_)) return {};
    const auto index = markOf(planes_, scanStart, byte_);
    if (!planes_.later.empty() || index >= planes_.marks.size())
        return lookAtSeam(frame, planes_, scanStart, byte_);
    const auto from = planes_.marks[index] + 1;
    const auto above = [&](std::uint64_t at) -> const UsualAbove& {
        if (from_ != at) above_ = usualAbove(frame, planes_, at);
        from_ = at;
        return above_;
    };
    const bool over = decoder.scans() > 1;
    return lookAtRow(frame, planes_, from,
                     over ? std::uint64_t{frame.mcusWide} * frame.mcusHigh : decoder.mcu(), over,
                     std::min(pastDoubt_, kPastDoubt), above);
}

Seam seamAt(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte,
            bool complete) {
    return lookAtSeam(frame, planes, scanStart, byte, complete).seam;
}

}  // namespace dreskel::jpeg
