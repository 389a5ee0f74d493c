#include "formats/jpeg/continuity.h"

#include <algorithm>
#include <cmath>

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

// How a run of MCUs of one component fits the blocks above it.
struct Fit {
    double step = 0;         // mean difference, levels
    double spread = 0;       // standard deviation of the run itself, levels
    double correlation = 0;  // with what is above
};

Fit fitOf(const Frame& frame, const DcPlanes::Plane& plane, const Component& component, std::uint64_t from,
          std::uint64_t to) {
    double count = 0, step = 0, a = 0, b = 0, aa = 0, bb = 0, ab = 0;
    for (auto mcu = from; mcu < to; ++mcu) {
        const auto y = mcu / frame.mcusWide;
        if (y == 0) continue;
        const auto* row =
            plane.dc.data() + y * component.v * plane.width + mcu % frame.mcusWide * component.h;
        for (std::uint32_t h = 0; h < component.h; ++h) {
            const double here = row[h];
            const double above = *(row + h - static_cast<std::ptrdiff_t>(plane.width));
            step += std::abs(here - above);
            a += here;
            b += above;
            aa += here * here;
            bb += above * above;
            ab += here * above;
            ++count;
        }
    }
    Fit fit;
    if (count < 2) return fit;
    const double scale = plane.quant / 8.0;
    const double varianceA = std::max(0.0, aa / count - a / count * (a / count));
    const double varianceB = std::max(0.0, bb / count - b / count * (b / count));
    fit.step = step / count * scale;
    fit.spread = std::sqrt(std::min(varianceA, varianceB)) * scale;
    const double both = std::sqrt(varianceA * varianceB);
    if (both > 0) fit.correlation = (ab / count - a / count * (b / count)) / both;
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
            return Jump{(scanStart / DcPlanes::kMarkStep + 1 + i) * DcPlanes::kMarkStep, at};
        }
    }
    return std::nullopt;
}

Seam seamAt(const Frame& frame, const DcPlanes& planes, std::uint64_t scanStart, std::uint64_t byte,
            bool complete) {
    if (planes.planes.empty() || frame.mcusWide < 4 || byte <= scanStart || byte % DcPlanes::kMarkStep != 0)
        return Seam::CannotTell;
    const auto index = byte / DcPlanes::kMarkStep - (scanStart / DcPlanes::kMarkStep + 1);
    if (index >= planes.marks.size()) return complete ? Seam::CannotTell : Seam::NotYetDecoded;
    const std::uint64_t wide = frame.mcusWide;
    const auto all = wide * frame.mcusHigh;
    // The MCU in which the join lies belongs to neither side.
    const auto from = planes.marks[index] + 1;
    const auto to = std::min(from + wide, all);
    const auto reached = complete ? all : planes.marks.back();
    if (from <= wide || to < from + std::min<std::uint64_t>(wide, kLeastSeam)) return Seam::CannotTell;
    if (reached < to) return Seam::NotYetDecoded;
    bool told = false;
    for (std::size_t i = 0; i < frame.components.size() && i < planes.planes.size(); ++i) {
        const auto& component = frame.components[i];
        if (component.paddedWide != frame.mcusWide * component.h) return Seam::CannotTell;
        const auto fit = [&](std::uint64_t first, std::uint64_t last) {
            return fitOf(frame, planes.planes[i], component, first, last);
        };
        const auto seam = fit(from, to);
        double step = 0;
        double correlation = 1;
        const auto compare = [&](const Fit& usual) {
            step = std::max(step, usual.step);
            if (usual.spread > kSpread) correlation = std::min(correlation, usual.correlation);
        };
        for (std::uint64_t back = 1; back <= kRowsAround && from >= (back + 2) * wide; ++back)
            compare(fit(from - 1 - back * wide, from - 1 - (back - 1) * wide));
        for (std::uint64_t on = 1; on <= kRowsAround && from + (on + 1) * wide <= reached; ++on)
            compare(fit(from + on * wide, from + (on + 1) * wide));
        if (seam.step > kSeamTimes * step + kSeamLevels) return Seam::DoesNotFit;
        if (seam.spread > kSpread && 1 - seam.correlation > kSeamApart * (1 - correlation) + kSeamLoose)
            return Seam::DoesNotFit;
        told = told || seam.spread > kSpread;
    }
    return told ? Seam::Fits : Seam::CannotTell;
}

}  // namespace dreskel::jpeg
