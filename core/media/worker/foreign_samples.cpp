#include "media/worker/foreign_samples.h"

extern "C" {
#include <libavutil/frame.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <vector>

#include "formats/loud_noise.h"

namespace dreskel::media {

void ForeignSamples::add(std::span<const std::uint8_t> samples) {
    std::array<float, kStretch> scaled{};
    for (; samples.size() >= kStretch; samples = samples.subspan(kStretch)) {
        std::transform(samples.begin(), samples.begin() + kStretch, scaled.begin(),
                       [](std::uint8_t sample) { return (static_cast<float>(sample) - 127.5F) / 127.5F; });
        ++stretches_;
        foreign_ += isLoudNoise(scaled, 1) ? 1 : 0;
    }
}

void ForeignSamples::add(std::span<const std::uint16_t> samples, std::uint16_t most) {
    std::array<float, kStretch> scaled{};
    const auto half = static_cast<float>(most) / 2;
    // Saturated sensors give more than the white level, up to what their bits hold.
    const auto beyond = std::bit_ceil(most + 1U) - 1;
    for (; samples.size() >= kStretch; samples = samples.subspan(kStretch)) {
        std::size_t impossible = 0;
        for (std::size_t i = 0; i < kStretch; ++i) {
            impossible += samples[i] > beyond ? 1 : 0;
            scaled[i] = std::min(static_cast<float>(samples[i]) / half - 1, 1.0F);
        }
        ++stretches_;
        foreign_ += impossible > kStretch / 8 || isLoudNoise(scaled, 1) ? 1 : 0;
    }
}

bool holdsForeignSamples(const AVFrame& frame) {
    const auto* about = av_pix_fmt_desc_get(static_cast<AVPixelFormat>(frame.format));
    if (about == nullptr || (about->flags & (AV_PIX_FMT_FLAG_PLANAR | AV_PIX_FMT_FLAG_PAL)) != 0)
        return false;
    const bool wide = about->comp[0].depth == 16;
    if (!wide && about->comp[0].depth != 8) return false;
    const auto rowBytes =
        static_cast<std::size_t>(frame.width) * static_cast<std::size_t>(about->comp[0].step);
    ForeignSamples check;
    std::vector<std::uint8_t> all;  // rows behind one another, as they are stored
    std::vector<std::uint16_t> words;
    const auto look = [&](std::size_t bytes) {
        if (wide) {
            words.resize(bytes / 2);
            std::memcpy(words.data(), all.data(), bytes);
            check.add(words, 65535);
        } else {
            check.add(std::span(all).first(bytes));
        }
        all.erase(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(bytes));
    };
    constexpr auto stretch = 2 * ForeignSamples::kStretch;
    for (int y = 0; y < frame.height; ++y) {
        const auto* row = frame.data[0] + static_cast<std::ptrdiff_t>(y) * frame.linesize[0];
        all.insert(all.end(), row, row + rowBytes);
        look(all.size() / stretch * stretch);
    }
    return check.found();
}

}  // namespace dreskel::media
