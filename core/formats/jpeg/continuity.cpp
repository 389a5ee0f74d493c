#include "formats/jpeg/continuity.h"

#include <algorithm>
#include <cmath>

namespace dreskel::jpeg {
namespace {

// How much rougher than its surroundings the row behind a join has to be, and by how many levels of
// brightness.
constexpr double kTimesRougher = 3.0;
constexpr double kLevels = 8.0;
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

}  // namespace dreskel::jpeg
