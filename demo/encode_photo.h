// Photos as the demo's made-up cameras write them.
#pragma once

#include <string>

#include "demo/scene.h"

namespace dreskel::demo {

struct Camera {
    std::string make, model;  // "Orrery", "Orrery K2"
    int quality = 92;
    int sampling = 2;      // of the chroma across: 1 or 2
    int samplingDown = 2;  // and down
    int restartRows = 0;   // MCU rows between restart markers; 0: none
};

// `taken` as "2026:05:02 07:41:10". With an Exif block and a small preview inside it.
std::vector<std::uint8_t> encodePhoto(const Image& image, const Camera& camera, const std::string& taken,
                                      int orientation);

}  // namespace dreskel::demo
