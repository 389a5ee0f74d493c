#include "formats/loud_noise.h"

#include <algorithm>
#include <cmath>

namespace dreskel {

bool isLoudNoise(std::span<const float> samples, unsigned channels) {
    constexpr std::size_t kDistances = 8;
    const auto count = samples.size();
    if (count < 256 || channels == 0 || count < 4 * kDistances * channels) return false;
    double sum = 0;
    for (const float value : samples) sum += value;
    const double mean = sum / static_cast<double>(count);
    double energy = 0;
    for (const float value : samples) energy += (value - mean) * (value - mean);
    const double loudness = std::sqrt(energy / static_cast<double>(count));
    if (loudness < 0.45 || loudness > 0.70) return false;
    for (std::size_t distance = 1; distance <= kDistances; ++distance) {
        double together = 0;
        for (std::size_t i = distance * channels; i < count; ++i) {
            together += (samples[i] - mean) * (samples[i - distance * channels] - mean);
        }
        if (std::abs(together / energy) > 0.15) return false;
    }
    return true;
}

}  // namespace dreskel
