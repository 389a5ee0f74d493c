// Views of a tidal mill under restoration: drawn, not photographed, but with the textures, the light and the
// grain that make compressed photos what they are.
#pragma once

#include <cstdint>
#include <vector>

namespace dreskel::demo {

enum class Subject { Mill, Wheel, Masonry, Sluice, Estuary };

struct View {
    Subject subject = Subject::Mill;
    std::uint32_t seed = 1;
    float hour = 10;        // of the day; sets light and colour
    float overcast = 0.4F;  // 0 clear to 1 grey
    float shift = 0;        // of the camera to the side, in picture widths
    float zoom = 1;
    float wheelTurn = 0;  // radians
};

struct Image {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgb;
};

// `time` in seconds moves the water. `grain` is the strength of the sensor's noise, in 8-bit steps.
Image draw(const View& view, int width, int height, float time, float grain);

}  // namespace dreskel::demo
