#include "media/worker/frame_picture.h"

extern "C" {
#include <libswscale/swscale.h>
}

#include <algorithm>
#include <array>
#include <memory>
#include <optional>

namespace dreskel::media {

namespace {

struct Size {
    int width = 0, height = 0;
};

std::optional<Size> sizeWithin(const AVFrame& frame, int side) {
    const int largest = std::max(frame.width, frame.height);
    if (largest <= 0) return std::nullopt;
    const double scale = std::min(1.0, static_cast<double>(side) / largest);
    return Size{std::max(1, static_cast<int>(frame.width * scale)),
                std::max(1, static_cast<int>(frame.height * scale))};
}

Picture scaled(SwsContext& scaler, const AVFrame& frame, Size size, std::vector<std::uint8_t>& padded) {
    Picture picture;
    picture.width = static_cast<std::uint32_t>(size.width);
    picture.height = static_cast<std::uint32_t>(size.height);
    // The scaler may write a little past a row; rows go through a padded buffer.
    const int stride = (size.width * 3 + 63) / 64 * 64;
    padded.resize(static_cast<std::size_t>(stride) * static_cast<std::size_t>(size.height) + 64);
    const std::array<std::uint8_t*, 4> planes{padded.data(), nullptr, nullptr, nullptr};
    const std::array<int, 4> strides{stride, 0, 0, 0};
    sws_scale(&scaler, frame.data, frame.linesize, 0, frame.height, planes.data(), strides.data());
    const auto row = static_cast<std::size_t>(size.width) * 3;
    picture.rgb.reserve(row * static_cast<std::size_t>(size.height));
    for (int y = 0; y < size.height; ++y) {
        const auto* from = padded.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(stride);
        picture.rgb.insert(picture.rgb.end(), from, from + row);
    }
    return picture;
}

}  // namespace

Picture pictureFromFrame(const AVFrame& frame, int side) {
    const auto size = sizeWithin(frame, side);
    if (!size) return {};
    const std::unique_ptr<SwsContext, void (*)(SwsContext*)> scaler(
        sws_getContext(frame.width, frame.height, static_cast<AVPixelFormat>(frame.format), size->width,
                       size->height, AV_PIX_FMT_RGB24, SWS_AREA, nullptr, nullptr, nullptr),
        sws_freeContext);
    std::vector<std::uint8_t> padded;
    return scaler ? scaled(*scaler, frame, *size, padded) : Picture();
}

FrameScaler::~FrameScaler() {
    sws_freeContext(scaler_);
}

Picture FrameScaler::scale(const AVFrame& frame, int side) {
    const auto size = sizeWithin(frame, side);
    if (!size) return {};
    scaler_ = sws_getCachedContext(scaler_, frame.width, frame.height,
                                   static_cast<AVPixelFormat>(frame.format), size->width, size->height,
                                   AV_PIX_FMT_RGB24, SWS_FAST_BILINEAR, nullptr, nullptr, nullptr);
    return scaler_ != nullptr ? scaled(*scaler_, frame, *size, padded_) : Picture();
}

}  // namespace dreskel::media
