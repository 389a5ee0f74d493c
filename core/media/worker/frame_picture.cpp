#include "media/worker/frame_picture.h"

extern "C" {
#include <libswscale/swscale.h>
}

#include <algorithm>
#include <array>

namespace dreskel::media {

Picture pictureFromFrame(const AVFrame& frame, int side) {
    const int largest = std::max(frame.width, frame.height);
    if (largest <= 0) return {};
    const double scale = std::min(1.0, static_cast<double>(side) / largest);
    const int width = std::max(1, static_cast<int>(frame.width * scale));
    const int height = std::max(1, static_cast<int>(frame.height * scale));
    SwsContext* scaler = sws_getContext(frame.width, frame.height, static_cast<AVPixelFormat>(frame.format),
                                        width, height, AV_PIX_FMT_RGB24, SWS_AREA, nullptr, nullptr, nullptr);
    if (scaler == nullptr) return {};
    Picture picture;
    picture.width = static_cast<std::uint32_t>(width);
    picture.height = static_cast<std::uint32_t>(height);
    // The scaler may write a little past a row; rows go through a padded buffer.
    const int stride = (width * 3 + 63) / 64 * 64;
    std::vector<std::uint8_t> padded(static_cast<std::size_t>(stride) * static_cast<std::size_t>(height) +
                                     64);
    const std::array<std::uint8_t*, 4> planes{padded.data(), nullptr, nullptr, nullptr};
    const std::array<int, 4> strides{stride, 0, 0, 0};
    sws_scale(scaler, frame.data, frame.linesize, 0, frame.height, planes.data(), strides.data());
    sws_freeContext(scaler);
    const auto row = static_cast<std::size_t>(width) * 3;
    picture.rgb.reserve(row * static_cast<std::size_t>(height));
    for (int y = 0; y < height; ++y) {
        const auto* from = padded.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(stride);
        picture.rgb.insert(picture.rgb.end(), from, from + row);
    }
    return picture;
}

}  // namespace dreskel::media
