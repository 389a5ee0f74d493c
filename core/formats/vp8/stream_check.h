// Checks the frames of a VP8 stream to the last bit, each of them a unit. Not thread-safe.
#pragma once

#include "formats/clip/picture_check.h"
#include "formats/vp8/frame.h"

namespace dreskel::vp8 {

class StreamCheck : public PictureCheck {
  public:
    std::optional<PictureFault> unit(Bytes frame) override;
    std::optional<PictureFault> endPicture() override { return std::nullopt; }

  private:
    // Some codes take no bits, so that a few bytes may state any number of pixels.
    static constexpr std::uint64_t kMostPixels = std::uint64_t{1} << 26;

    Kept kept_;
    std::uint32_t width_ = 0, height_ = 0;  // pixels; 0: nothing can be followed before the next key frame
};

}  // namespace dreskel::vp8
