// Decoded frames as small RGB pictures.
#pragma once

extern "C" {
#include <libavutil/frame.h>
}

#include "formats/format.h"

struct SwsContext;

namespace dreskel::media {

// At most `side` pixels in each direction; empty when the frame cannot be converted.
Picture pictureFromFrame(const AVFrame& frame, int side);

// The same for many frames of one stream, faster and a little coarser.
class FrameScaler {
  public:
    FrameScaler() = default;
    ~FrameScaler();
    FrameScaler(const FrameScaler&) = delete;
    FrameScaler& operator=(const FrameScaler&) = delete;
    Picture scale(const AVFrame& frame, int side);

  private:
    SwsContext* scaler_ = nullptr;
    std::vector<std::uint8_t> padded_;
};

}  // namespace dreskel::media
