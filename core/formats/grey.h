// A picture's brightness.
#pragma once

#include <cstdint>
#include <vector>

#include "formats/format.h"

namespace dreskel {

// Row by row, 0 to 255.
struct Grey {
    std::uint32_t width = 0, height = 0;
    std::vector<std::uint8_t> samples;
};

// By the weights of ITU-R BT.601, 2.5.1.
inline Grey greyOf(const Picture& picture) {
    Grey grey{picture.width, picture.height, {}};
    grey.samples.reserve(picture.rgb.size() / 3);
    for (std::size_t at = 0; at + 3 <= picture.rgb.size(); at += 3)
        grey.samples.push_back(static_cast<std::uint8_t>(
            (299U * picture.rgb[at] + 587U * picture.rgb[at + 1] + 114U * picture.rgb[at + 2]) / 1000));
    return grey;
}

}  // namespace dreskel
