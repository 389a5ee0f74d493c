#include "media/worker/photo_parts.h"

#include <algorithm>
#include <utility>

#include "media/decoder_process.h"
#include "media/worker/tasks.h"
#include "source/card_view.h"

namespace dreskel::media {
namespace {

constexpr std::size_t kLargestHeld = 768U << 20;  // bytes

// The mean of each square of pixels.
std::vector<std::uint8_t> shrunk(const Picture& photo, std::uint32_t left, std::uint32_t top,
                                 std::uint32_t wide, std::uint32_t high, std::uint32_t by) {
    std::vector<std::uint8_t> pixels;
    pixels.reserve(std::size_t{wide / by} * (high / by) * 3);
    const auto row = std::size_t{photo.width} * 3;
    for (std::uint32_t y = 0; y + by <= high; y += by) {
        for (std::uint32_t x = 0; x + by <= wide; x += by) {
            const auto* corner = photo.rgb.data() + (top + y) * row + (left + x) * std::size_t{3};
            for (std::size_t colour = 0; colour < 3; ++colour) {
                std::uint32_t sum = 0;
                for (std::size_t down = 0; down < by; ++down) {
                    for (std::size_t across = 0; across < by; ++across)
                        sum += corner[down * row + across * 3 + colour];
                }
                pixels.push_back(static_cast<std::uint8_t>(sum / (by * by)));
            }
        }
    }
    return pixels;
}

}  // namespace

Message PhotoParts::part(const Message& request) {
    if (auto about = aboutOf(request); held_.rgb.empty() || about != about_) {
        letGo();
        CardView card(source_);
        auto photo = decodePhoto(card, request, kLargestHeld);
        held_ = {photo.head.value("width", 0U), photo.head.value("height", 0U), std::move(photo.payload)};
        about_ = std::move(about);
        if (held_.rgb.empty() || held_.rgb.size() < std::size_t{held_.width} * held_.height * 3) {
            letGo();
            return photo;
        }
    }
    const auto by = std::clamp(request.head.value("shrink", 1U), 1U, DecoderProcess::kMostShrunk);
    const auto left = std::min(request.head.value("left", 0U), held_.width);
    const auto top = std::min(request.head.value("top", 0U), held_.height);
    const auto wide =
        std::min({request.head.value("wide", 0U), held_.width - left, DecoderProcess::kLargestPart * by});
    const auto high =
        std::min({request.head.value("high", 0U), held_.height - top, DecoderProcess::kLargestPart * by});
    return {{{"width", wide / by},
             {"height", high / by},
             {"full_width", held_.width},
             {"full_height", held_.height}},
            shrunk(held_, left, top, wide, high, by)};
}

}  // namespace dreskel::media
