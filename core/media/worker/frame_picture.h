// Decoded frames as small RGB pictures.
#pragma once

extern "C" {
#include <libavutil/frame.h>
}

#include <optional>
#include <span>

#include "formats/format.h"

struct SwsContext;

namespace dreskel::media {

// At most `side` pixels in each direction; empty when the frame cannot be converted.
Picture pictureFromFrame(const AVFrame& frame, int side);

// Many frames of one stream, faster and a little coarser, into memory of the caller: blue, green, red and
// 255.
class FrameScaler {
  public:
    struct Layout {
        int width = 0, height = 0;
        std::size_t stride = 0;  // bytes a row
        std::size_t size = 0;    // bytes; more than its rows, as whole lines of the processor are written
    };

    FrameScaler() = default;
    ~FrameScaler();
    FrameScaler(const FrameScaler&) = delete;
    FrameScaler& operator=(const FrameScaler&) = delete;

    // At most `side` pixels in each direction; nothing when the frame is none.
    static std::optional<Layout> layoutOf(const AVFrame& frame, int side);
    // False when the frame cannot be converted. `into`: as long as the layout's size.
    bool scale(const AVFrame& frame, const Layout& layout, std::span<std::uint8_t> into);

  private:
    SwsContext* scaler_ = nullptr;
};

}  // namespace dreskel::media
