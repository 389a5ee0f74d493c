// A picture's brightness.
#pragma once

#include <cstdint>
#include <vector>

namespace dreskel {

// Row by row, 0 to 255.
struct Grey {
    std::uint32_t width = 0, height = 0;
    std::vector<std::uint8_t> samples;
};

}  // namespace dreskel
