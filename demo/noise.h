// Lattice noise for drawing: smooth, repeatable, the same on every machine.
#pragma once

#include <cmath>
#include <cstdint>

namespace dreskel::demo {

inline std::uint32_t hashOf(std::uint32_t x, std::uint32_t y, std::uint32_t seed) {
    std::uint32_t h = x * 0x8da6b343U ^ y * 0xd8163841U ^ seed * 0xcb1ab31fU;
    h = (h ^ (h >> 15)) * 0x2c1b3c6dU;
    h = (h ^ (h >> 12)) * 0x297a2d39U;
    return h ^ (h >> 15);
}

// 0 to 1.
inline float randomAt(int x, int y, std::uint32_t seed) {
    return static_cast<float>(hashOf(static_cast<std::uint32_t>(x), static_cast<std::uint32_t>(y), seed) >>
                              8) *
           (1.0F / 16777216.0F);
}

inline float mix(float a, float b, float t) {
    return a + (b - a) * t;
}
inline float clamp01(float value) {
    return value < 0 ? 0 : value > 1 ? 1 : value;
}
inline float smoothStep(float from, float to, float value) {
    const float t = clamp01((value - from) / (to - from));
    return t * t * (3 - 2 * t);
}

// As std::floor, which is a call into the library where the processor is not known; for what fits an int.
inline int floorOf(float value) {
    const int toZero = static_cast<int>(value);
    return toZero - (static_cast<float>(toZero) > value ? 1 : 0);
}

inline float noise(float x, float y, std::uint32_t seed) {
    const int ix = floorOf(x);
    const int iy = floorOf(y);
    float tx = x - static_cast<float>(ix);
    float ty = y - static_cast<float>(iy);
    tx = tx * tx * (3 - 2 * tx);
    ty = ty * ty * (3 - 2 * ty);
    return mix(mix(randomAt(ix, iy, seed), randomAt(ix + 1, iy, seed), tx),
               mix(randomAt(ix, iy + 1, seed), randomAt(ix + 1, iy + 1, seed), tx), ty);
}

// Several octaves, 0 to 1.
inline float clouds(float x, float y, std::uint32_t seed, int octaves) {
    float sum = 0;
    float weight = 0.5F;
    float total = 0;
    for (int i = 0; i < octaves; ++i) {
        sum += weight * noise(x, y, seed + static_cast<std::uint32_t>(i));
        total += weight;
        const float nextX = x * 1.6F + y * 1.2F;  // turned a little, so that the lattice does not show
        y = y * 1.6F - x * 1.2F;
        x = nextX;
        weight *= 0.5F;
    }
    return sum / total;
}

}  // namespace dreskel::demo
