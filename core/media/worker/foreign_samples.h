// Pictures whose samples are stored as they are (bitmaps, sensor data): any bytes decode. Coded data among
// them look like noise as loud as can be, or go beyond what the sensor gives.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

struct AVFrame;

namespace dreskel::media {

class ForeignSamples {
  public:
    // Fewer than any cluster holds; whatever fills a cluster fills at least one such stretch.
    static constexpr std::size_t kStretch = 1024;

    // Samples in the order in which they are stored. `most`: the white level.
    void add(std::span<const std::uint8_t> samples);
    void add(std::span<const std::uint16_t> samples, std::uint16_t most);

    // Some stretches are not of this picture. One that is noise all over is taken for what it is.
    bool found() const { return foreign_ > 0 && foreign_ * 8 < stretches_ * 7; }

  private:
    std::size_t stretches_ = 0, foreign_ = 0;
};

// Of a picture that was decoded from stored samples.
bool holdsForeignSamples(const AVFrame& frame);

}  // namespace dreskel::media
