#include "media/likeness.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>
#include <vector>

namespace dreskel::media {
namespace {

constexpr std::size_t kGrid = 32;  // brightness is looked at in so many columns and rows
constexpr std::size_t kLow = 8;    // and as many of its frequencies kept each way
constexpr std::size_t kParts = 4;
constexpr double kLeastContrast = 2;  // of 255, on average

struct Means {
    std::array<double, 3> rgb{};
};

// The mean colour of a part of the picture; bounds as shares of it.
Means meanOf(const Picture& picture, double left, double top, double right, double bottom) {
    const auto x0 = static_cast<std::uint32_t>(left * picture.width);
    const auto y0 = static_cast<std::uint32_t>(top * picture.height);
    const auto x1 = std::max(x0 + 1, static_cast<std::uint32_t>(right * picture.width));
    const auto y1 = std::max(y0 + 1, static_cast<std::uint32_t>(bottom * picture.height));
    Means means;
    for (auto y = y0; y < std::min(y1, picture.height); ++y) {
        for (auto x = x0; x < std::min(x1, picture.width); ++x) {
            const auto* pixel = picture.rgb.data() + (std::size_t{y} * picture.width + x) * 3;
            for (std::size_t c = 0; c < 3; ++c) means.rgb[c] += pixel[c];
        }
    }
    const double count =
        static_cast<double>(std::min(x1, picture.width) - x0) * (std::min(y1, picture.height) - y0);
    for (auto& mean : means.rgb) mean /= count;
    return means;
}

double brightness(const Means& means) {
    return 0.299 * means.rgb[0] + 0.587 * means.rgb[1] + 0.114 * means.rgb[2];
}

using Grid = std::array<double, kGrid * kGrid>;

// The lowest frequencies of the cosine transform, by rows and then by columns.
std::array<double, kLow * kLow> lowFrequencies(const Grid& grid) {
    static const auto cosines = [] {
        std::array<double, kLow * kGrid> made{};
        for (std::size_t u = 0; u < kLow; ++u) {
            for (std::size_t x = 0; x < kGrid; ++x) {
                made[u * kGrid + x] = std::cos((2 * static_cast<double>(x) + 1) * static_cast<double>(u) *
                                               std::numbers::pi / (2 * static_cast<double>(kGrid)));
            }
        }
        return made;
    }();
    std::array<double, kGrid * kLow> rows{};
    for (std::size_t y = 0; y < kGrid; ++y) {
        for (std::size_t u = 0; u < kLow; ++u) {
            for (std::size_t x = 0; x < kGrid; ++x)
                rows[y * kLow + u] += grid[y * kGrid + x] * cosines[u * kGrid + x];
        }
    }
    std::array<double, kLow * kLow> low{};
    for (std::size_t v = 0; v < kLow; ++v) {
        for (std::size_t u = 0; u < kLow; ++u) {
            for (std::size_t y = 0; y < kGrid; ++y)
                low[v * kLow + u] += rows[y * kLow + u] * cosines[v * kGrid + y];
        }
    }
    return low;
}

}  // namespace

std::optional<Likeness> likenessOf(const Picture& picture) {
    if (picture.width < 16 || picture.height < 16 ||
        picture.rgb.size() < std::size_t{picture.width} * picture.height * 3)
        return std::nullopt;
    Likeness likeness;
    const auto part = [&](std::size_t x, std::size_t y, std::size_t of) {
        const auto n = static_cast<double>(of);
        return meanOf(picture, static_cast<double>(x) / n, static_cast<double>(y) / n,
                      static_cast<double>(x + 1) / n, static_cast<double>(y + 1) / n);
    };
    Grid grid{};
    double sum = 0;
    for (std::size_t i = 0; i < grid.size(); ++i) {
        grid[i] = brightness(part(i % kGrid, i / kGrid, kGrid));
        sum += grid[i];
    }
    const auto mean = sum / static_cast<double>(grid.size());
    double contrast = 0;
    for (const auto value : grid) contrast += std::abs(value - mean);
    if (contrast / static_cast<double>(grid.size()) < kLeastContrast) return std::nullopt;
    const auto low = lowFrequencies(grid);
    // All but the first, which is the mean: above and below the middle of them.
    auto sorted = low;
    std::nth_element(sorted.begin() + 1, sorted.begin() + kLow * kLow / 2, sorted.end());
    const auto middle = sorted[kLow * kLow / 2];
    for (std::size_t i = 1; i < low.size(); ++i) {
        if (low[i] > middle) likeness.shapes |= std::uint64_t{1} << i;
    }
    for (std::size_t i = 0; i < kParts * kParts; ++i) {
        const auto means = part(i % kParts, i / kParts, kParts);
        const auto light = brightness(means);
        const auto byte = [](double value) {
            return static_cast<std::uint8_t>(std::clamp(value, 0.0, 255.0));
        };
        likeness.colours[i * 3] = byte(light);
        likeness.colours[i * 3 + 1] = byte(128 + 0.564 * (means.rgb[2] - light));
        likeness.colours[i * 3 + 2] = byte(128 + 0.713 * (means.rgb[0] - light));
    }
    return likeness;
}

double apart(const Likeness& a, const Likeness& b) {
    // Of pictures that have nothing to do with each other half the signs differ, and colours by some 40
    // levels.
    const auto shapes = std::popcount(a.shapes ^ b.shapes) / 32.0;
    double colours = 0;
    for (std::size_t i = 0; i < a.colours.size(); ++i) {
        // Colour tells more than brightness, which the exposure moves.
        const double weight = i % 3 == 0 ? 0.5 : 1.25;
        colours += weight * std::abs(int{a.colours[i]} - int{b.colours[i]});
    }
    colours /= static_cast<double>(a.colours.size()) * 25;
    return 0.6 * std::min(1.0, shapes) + 0.4 * std::min(1.0, colours);
}

}  // namespace dreskel::media
