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

constexpr std::size_t kLine = 64;  // bytes that the scaler may write at once

}  // namespace

Picture pictureFromFrame(const AVFrame& frame, int side) {
    const auto size = sizeWithin(frame, side);
    if (!size) return {};
    const std::unique_ptr<SwsContext, void (*)(SwsContext*)> scaler(
        sws_getContext(frame.width, frame.height, static_cast<AVPixelFormat>(frame.format), size->width,
                       size->height, AV_PIX_FMT_RGB24, SWS_AREA, nullptr, nullptr, nullptr),
        sws_freeContext);
    if (!scaler) return {};
    Picture picture;
    picture.width = static_cast<std::uint32_t>(size->width);
    picture.height = static_cast<std::uint32_t>(size->height);
    // The scaler may write a little past a row; rows go through a padded buffer.
    const auto row = std::size_t{picture.width} * 3;
    const auto stride = (row + kLine - 1) / kLine * kLine;
    std::vector<std::uint8_t> padded(stride * picture.height + kLine);
    const std::array<std::uint8_t*, 4> planes{padded.data(), nullptr, nullptr, nullptr};
    const std::array<int, 4> strides{static_cast<int>(stride), 0, 0, 0};
    sws_scale(scaler.get(), frame.data, frame.linesize, 0, frame.height, planes.data(), strides.data());
    picture.rgb.reserve(row * picture.height);
    for (std::size_t y = 0; y < picture.height; ++y) {
        const auto* from = padded.data() + y * stride;
        picture.rgb.insert(picture.rgb.end(), from, from + row);
    }
    return picture;
}

FrameScaler::~FrameScaler() {
    sws_freeContext(scaler_);
}

std::optional<FrameScaler::Layout> FrameScaler::layoutOf(const AVFrame& frame, int side) {
    const auto size = sizeWithin(frame, side);
    if (!size) return std::nullopt;
    const auto stride = (static_cast<std::size_t>(size->width) * 4 + kLine - 1) / kLine * kLine;
    return Layout{size->width, size->height, stride, stride * static_cast<std::size_t>(size->height) + kLine};
}

bool FrameScaler::scale(const AVFrame& frame, const Layout& layout, std::span<std::uint8_t> into) {
    if (into.size() < layout.size) return false;
    scaler_ = sws_getCachedContext(scaler_, frame.width, frame.height,
                                   static_cast<AVPixelFormat>(frame.format), layout.width, layout.height,
                                   AV_PIX_FMT_BGRA, SWS_FAST_BILINEAR, nullptr, nullptr, nullptr);
    if (scaler_ == nullptr) return false;
    const std::array<std::uint8_t*, 4> planes{into.data(), nullptr, nullptr, nullptr};
    const std::array<int, 4> strides{static_cast<int>(layout.stride), 0, 0, 0};
    return sws_scale(scaler_, frame.data, frame.linesize, 0, frame.height, planes.data(), strides.data()) ==
           layout.height;
}

}  // namespace dreskel::media
