#include "media/worker/preview_match.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "formats/thumbnail_match.h"

namespace dreskel::media {
namespace {

// Samples to a block, each way: as many of each colour, whatever the filter (2 x 2, 6 x 6).
constexpr std::uint32_t kBlockSide = 12;
// Cameras show what they measure with about this curve (IEC 61966-2-1).
constexpr double kGamma = 1 / 2.2;
constexpr float kUnits = 64;  // to a level, in BlockMeans

}  // namespace

std::optional<std::uint32_t> strangeFrom(const SensorSamples& sensor, const Picture& preview) {
    const auto wide = sensor.width / kBlockSide, high = sensor.height / kBlockSide;
    const bool allThere = sensor.left + std::uint64_t{sensor.width} <= sensor.stride &&
                          (sensor.top + std::uint64_t{sensor.height}) * sensor.stride <= sensor.all.size();
    const bool shown = preview.rgb.size() == std::size_t{preview.width} * preview.height * 3;
    if (wide == 0 || high == 0 || sensor.white <= sensor.black || !allThere || !shown) return std::nullopt;
    std::vector<std::int16_t> means(std::size_t{wide} * high);
    std::vector<std::uint64_t> sums(wide);
    const auto range = static_cast<double>(sensor.white - sensor.black) * kBlockSide * kBlockSide;
    for (std::uint32_t row = 0; row < high; ++row) {
        std::fill(sums.begin(), sums.end(), 0);
        for (std::uint32_t y = 0; y < kBlockSide; ++y) {
            const auto* line =
                sensor.all.data() + (sensor.top + row * kBlockSide + y) * sensor.stride + sensor.left;
            for (std::uint32_t block = 0; block < wide; ++block) {
                for (std::uint32_t x = 0; x < kBlockSide; ++x) sums[block] += line[block * kBlockSide + x];
            }
        }
        const auto black = std::uint64_t{sensor.black} * kBlockSide * kBlockSide;
        std::transform(sums.begin(), sums.end(), means.begin() + std::ptrdiff_t{row} * wide, [&](auto sum) {
            const auto share = static_cast<double>(sum - std::min(sum, black)) / range;
            return static_cast<std::int16_t>(std::pow(std::min(share, 1.0), kGamma) * 255 * kUnits);
        });
    }
    const ThumbnailMatch match(greyOf(preview), wide, high,
                               static_cast<double>(sensor.width) / sensor.height);
    const auto strange = match.strangeFrom({means.data(), wide, wide, high, 1 / kUnits, 0});
    return strange ? std::optional(*strange * kBlockSide) : std::nullopt;
}

}  // namespace dreskel::media
