#include "formats/vp8/stream_check.h"

namespace dreskel::vp8 {

std::optional<PictureFault> StreamCheck::unit(Bytes frame) {
    // Nothing has changed: recorders leave such frames out in this way.
    if (frame.empty()) {
        followed();
        return std::nullopt;
    }
    const auto head = readFrameHead(frame);
    if (!head) {
        width_ = height_ = 0;
        return PictureFault{0, "it holds no frame"};
    }
    if (head->key) {
        const bool tooLarge = std::uint64_t{head->width} * head->height > kMostPixels;
        width_ = tooLarge ? 0 : head->width;
        height_ = tooLarge ? 0 : head->height;
    }
    if (width_ == 0) return std::nullopt;
    const auto fault = followFrame(*head, width_, height_, kept_);
    followed();
    if (!fault) return std::nullopt;
    // Those behind it are coded by what it should have left behind.
    width_ = height_ = 0;
    return PictureFault{frame.size(), fault->why};
}

}  // namespace dreskel::vp8
