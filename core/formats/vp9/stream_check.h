// Checks the frames of a VP9 stream to the last bit. Not thread-safe. Memory: 100 bytes for each block of
// eight pixels.
#pragma once

#include <vector>

#include "formats/clip/picture_check.h"
#include "formats/vp9/tile.h"

namespace dreskel::vp9 {

class StreamCheck : public PictureCheck {
  public:
    StreamCheck();
    // A packet: one frame, or several with an index behind them (annex B).
    std::optional<PictureFault> unit(Bytes packet) override;
    std::optional<PictureFault> endPicture() override { return std::nullopt; }

  private:
    // Some codes take no bits, so that a few bytes may state any number of pixels.
    static constexpr std::uint64_t kMostPixels = std::uint64_t{1} << 26;

    const char* frame(Bytes frame);
    const char* follow(Bytes frame, const FrameHead& head);
    const char* tiles(Bytes data, const Picture& picture);
    void begin(const FrameHead& head);

    Kept kept_;
    std::array<Chances, 4> learnt_;
    Chances chances_;
    Counts counts_;
    Field field_, before_;
    std::vector<std::uint8_t> segments_, segmentsBefore_;
    bool lost_ = true;  // what frames build on is not known
    bool beforeShown_ = false, beforeKey_ = false;
};

}  // namespace dreskel::vp9
