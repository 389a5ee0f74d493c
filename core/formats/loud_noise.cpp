#include "formats/loud_noise.h"

#include <array>
#include <cmath>
#include <numeric>

namespace dreskel {

namespace {

// The sum of `term(i)`, several at a time: one after the other, each would wait for the one before.
template <class Term>
double sumOf(std::size_t from, std::size_t to, const Term& term) {
    std::array<double, 8> sums{};
    auto i = from;
    for (; i + sums.size() <= to; i += sums.size()) {
        for (std::size_t k = 0; k < sums.size(); ++k) sums[k] += term(i + k);
    }
    for (; i < to; ++i) sums[0] += term(i);
    return std::accumulate(sums.begin(), sums.end(), 0.0);
}

}  // namespace

bool isLoudNoise(std::span<const float> samples, unsigned channels) {
    constexpr std::size_t kDistances = 8;
    const auto count = samples.size();
    if (count < 256 || channels == 0 || count < 4 * kDistances * channels) return false;
    const double mean = sumOf(0, count, [&](std::size_t i) { return static_cast<double>(samples[i]); }) /
                        static_cast<double>(count);
    const auto aside = [&](std::size_t i) { return static_cast<double>(samples[i]) - mean; };
    const double energy = sumOf(0, count, [&](std::size_t i) { return aside(i) * aside(i); });
    const double loudness = std::sqrt(energy / static_cast<double>(count));
    if (loudness < 0.45 || loudness > 0.70) return false;
    for (std::size_t distance = 1; distance <= kDistances; ++distance) {
        const auto apart = distance * channels;
        const double together =
            sumOf(apart, count, [&](std::size_t i) { return aside(i) * aside(i - apart); });
        if (std::abs(together / energy) > 0.15) return false;
    }
    return true;
}

}  // namespace dreskel
