// Sensor data held against the preview in the same raw file: of some codings any bytes decode, but not to the
// picture that the camera has shown.
#pragma once

#include <cstdint>
#include <optional>
#include <span>

#include "formats/format.h"

namespace dreskel::media {

// Samples of a colour filter array, row by row, of which a part is the picture.
struct SensorSamples {
    std::span<const std::uint16_t> all;
    std::size_t stride = 0;           // samples from row to row
    std::uint32_t left = 0, top = 0;  // of the picture
    std::uint32_t width = 0, height = 0;
    std::uint32_t black = 0, white = 65535;  // levels
};

// From which row of the picture on, about, the samples are another picture; nothing where all of it may be
// what the preview shows.
std::optional<std::uint32_t> strangeFrom(const SensorSamples& sensor, const Picture& preview);

}  // namespace dreskel::media
