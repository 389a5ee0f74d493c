#include "demo/scene.h"

#include <algorithm>
#include <array>

#include "demo/noise.h"

namespace dreskel::demo {
namespace {

struct Colour {
    float r = 0, g = 0, b = 0;
};
Colour operator*(Colour c, float f) {
    return {c.r * f, c.g * f, c.b * f};
}
Colour operator+(Colour a, Colour b) {
    return {a.r + b.r, a.g + b.g, a.b + b.b};
}
Colour blend(Colour a, Colour b, float t) {
    return a * (1 - t) + b * t;
}
Colour tint(Colour a, Colour b) {
    return {a.r * b.r, a.g * b.g, a.b * b.b};
}

constexpr float kHorizon = 0.56F;  // of the picture's height
constexpr float kWaterline = 0.68F;

// Light at an hour of the day: low and warm at the ends of it.
struct Light {
    Colour sun;
    Colour zenith, horizon;
    float strength = 1;

    explicit Light(const View& view) {
        const float noon = 1 - std::min(1.0F, std::abs(view.hour - 13) / 7.5F);
        const Colour warm{1.0F, 0.72F, 0.45F};
        const Colour white{1.0F, 0.97F, 0.92F};
        sun = blend(warm, white, smoothStep(0.05F, 0.6F, noon));
        const Colour blue = blend({0.20F, 0.26F, 0.42F}, {0.25F, 0.47F, 0.78F}, noon);
        const Colour glow = blend({0.93F, 0.62F, 0.42F}, {0.75F, 0.84F, 0.92F}, smoothStep(0.0F, 0.5F, noon));
        const Colour grey{0.62F, 0.65F, 0.68F};
        zenith = blend(blue, grey * 0.85F, view.overcast * 0.8F);
        horizon = blend(glow, grey, view.overcast * 0.7F);
        strength = mix(0.62F, 1.0F, noon) * mix(1.0F, 0.8F, view.overcast);
    }
};

Colour masonry(float x, float y, std::uint32_t seed, float size) {
    // Courses of stones of uneven length, each with a tone of its own, with mortar between them.
    const float course = y / size;
    const float warp = noise(x / size * 0.7F, y / size * 0.7F, seed + 5) * 0.35F;
    const int row = static_cast<int>(std::floor(course + warp));
    const float inRow = course + warp - static_cast<float>(row);
    const float wide = 1.6F + randomAt(row, 3, seed) * 0.8F;
    const float along =
        x / (size * wide) + randomAt(row, 7, seed) * 5 + noise(x / size, y / size, seed + 9) * 0.12F;
    const int stone = static_cast<int>(std::floor(along));
    const float inStone = along - static_cast<float>(stone);
    const float edge = std::min(std::min(inRow, 1 - inRow), std::min(inStone, 1 - inStone) * wide);
    const float mortar = 1 - smoothStep(0.03F, 0.11F, edge);
    const float tone = 0.55F + 0.45F * randomAt(stone, row, seed + 1);
    const float warmth = randomAt(stone, row, seed + 2);
    Colour face = blend({0.52F, 0.48F, 0.42F}, {0.62F, 0.52F, 0.40F}, warmth) * tone;
    const float rough = clouds(x / size * 6, y / size * 6, seed + 11, 4);
    face = face * (0.75F + 0.5F * rough);
    const float bevel = smoothStep(0.10F, 0.22F, inRow) * 0.15F;
    face = face * (0.92F + bevel);
    const float lichen = smoothStep(0.62F, 0.74F, clouds(x / size * 1.3F, y / size * 1.3F, seed + 21, 4));
    face = blend(face, {0.58F, 0.60F, 0.38F}, lichen * 0.55F);
    return blend(face, Colour{0.63F, 0.60F, 0.55F} * (0.8F + 0.3F * rough), mortar * 0.85F);
}

Colour timber(float along, float across, std::uint32_t seed, float wet) {
    const float wave = clouds(along * 1.5F, across * 3, seed, 3);
    const float grain = clouds(along * 2.2F, across * 70 + wave * 9, seed + 3, 4);
    const float streak = noise(along * 1.2F, across * 210, seed + 4);
    Colour wood = blend({0.30F, 0.21F, 0.14F}, {0.56F, 0.43F, 0.29F}, grain);
    wood = wood * (0.82F + 0.3F * streak);
    const float knot = smoothStep(0.80F, 0.86F, noise(along * 3.1F, across * 9, seed + 8));
    wood = blend(wood, {0.17F, 0.11F, 0.07F}, knot * 0.7F);
    return wood * mix(1.0F, 0.55F, wet);
}

Colour sky(const View& view, const Light& light, float x, float y) {
    const float up = clamp01((kHorizon - y) / kHorizon);
    Colour base = blend(light.horizon, light.zenith, std::sqrt(up));
    const float depth = 1.0F / (0.12F + up);
    const float cover =
        clouds(x * depth * 0.9F + static_cast<float>(view.seed % 97), depth * 1.6F, view.seed + 31, 6);
    const float from = mix(0.60F, 0.34F, view.overcast);
    const float cloud = smoothStep(from, from + 0.22F, cover);
    const float shade = clouds(x * depth * 1.8F, depth * 3.1F, view.seed + 37, 4);
    const Colour lit = blend(tint({0.98F, 0.97F, 0.96F}, light.sun), {0.50F, 0.53F, 0.58F}, shade * 0.8F);
    return blend(base, lit, cloud * 0.9F);
}

Colour ridge(const View& view, const Light& light, float x, float y, bool& hit) {
    hit = false;
    for (int layer = 3; layer >= 1; --layer) {
        const auto depth = static_cast<float>(layer);
        const float top = kHorizon - 0.018F * depth -
                          0.07F * (clouds(x * (4.0F - depth) + depth * 13, depth, view.seed + 41, 5) - 0.45F);
        if (y < top) continue;
        hit = true;
        const float leaf = clouds(x * 60, y * 90, view.seed + 43, 4);
        Colour green = blend({0.16F, 0.24F, 0.13F}, {0.38F, 0.44F, 0.22F}, leaf) * light.strength;
        const Colour result = blend(tint(green, light.sun), light.horizon, 0.18F * depth + 0.1F);
        if (layer == 1) return result;
        const float nearTop =
            kHorizon - 0.018F * (depth - 1) -
            0.07F * (clouds(x * (5.0F - depth) + (depth - 1) * 13, depth - 1, view.seed + 41, 5) - 0.45F);
        if (y < nearTop) return result;
    }
    return {};
}

// The wheel as rim, spokes and paddles; false where one looks through it.
bool wheel(float x, float y, float radius, float turn, std::uint32_t seed, Colour& out) {
    const float distance = std::sqrt(x * x + y * y) / radius;
    if (distance > 1.12F) return false;
    const float angle = std::atan2(y, x) - turn;
    constexpr float kTwoPi = 6.2831853F;
    const auto towards = [&](int count) {
        const float step = kTwoPi / static_cast<float>(count);
        const float off = angle - std::round(angle / step) * step;
        return std::abs(off) * distance;
    };
    const auto index = static_cast<std::uint32_t>(static_cast<int>(std::round(angle / kTwoPi * 8)) & 7);
    const float wet = smoothStep(0.1F, 0.9F, y / radius);
    if (distance < 0.10F) {
        out = Colour{0.20F, 0.19F, 0.19F} * (0.7F + 0.6F * noise(x / radius * 40, y / radius * 40, seed));
        return true;
    }
    const bool rim = distance > 0.90F && distance < 1.0F;
    const bool inner = distance > 0.66F && distance < 0.71F;
    const bool spoke = distance < 0.93F && towards(8) < 0.035F;
    const bool paddle = distance > 0.74F && towards(24) < 0.02F;
    if (!rim && !inner && !spoke && !paddle) return false;
    const float along = rim || inner ? angle * 3 : distance * 3;
    const float across = rim || inner ? distance * 3 : towards(8) * 4;
    out = timber(along, across, seed + (spoke ? index : 20), wet);
    const float round = rim ? 1 - std::abs(distance - 0.95F) / 0.05F : 0.6F;
    out = out * (0.65F + 0.5F * round);
    return true;
}

struct Mill {
    float left = 0.30F, right = 0.66F, eaves = 0.30F, ridgeTop = 0.13F;
    float wheelX = 0.70F, wheelY = 0.60F, wheelRadius = 0.15F;

    explicit Mill(const View& view) {
        const float off = (randomAt(1, 1, view.seed / 8) - 0.5F) * 0.18F + view.shift;
        left += off;
        right += off;
        wheelX += off;
    }
};

// Buildings and banks in front of the hills. x, y from 0 to 1 over the picture, y down; aspect 3:2.
bool building(const View& view, const Light& light, float x, float y, Colour& out) {
    const Mill mill(view);
    const std::uint32_t seed = 77;  // the mill is the same in every picture
    const float wx = (x - mill.wheelX) * 1.5F;
    const float wy = y - mill.wheelY;
    if (wheel(wx, wy, mill.wheelRadius, view.wheelTurn, seed, out)) {
        out = tint(out, light.sun) * light.strength;
        return true;
    }
    const float side = mill.left + (mill.right - mill.left) * 0.68F;
    const float middle = (mill.left + side) / 2;
    const float half = (side - mill.left) / 2;
    const float gable = mill.eaves - (mill.eaves - mill.ridgeTop) * (1 - std::abs(x - middle) / half);
    const bool front = x > mill.left && x < side && y > std::min(mill.eaves, gable) && y < kWaterline + 0.01F;
    const float lean = (x - side) * 0.10F;
    const bool flank = x >= side && x < mill.right && y > mill.eaves + lean && y < kWaterline + 0.01F;
    const float slope = (mill.eaves + lean - y) / (mill.eaves - mill.ridgeTop);
    const bool roof = x > middle - 0.01F + half * slope * 0.0F && x < mill.right + 0.012F && slope > -0.03F &&
                      slope < 1.0F && x > middle + half * (1 - slope) - 0.012F &&
                      x < mill.right + 0.012F - (mill.right - side) * 0.12F * slope;
    if (roof && !(front && y > gable + 0.012F)) {
        const int row = static_cast<int>(slope * 22);
        const float tile = x * 90 + static_cast<float>(row % 2) * 0.5F;
        const float tone = 0.6F + 0.4F * randomAt(static_cast<int>(tile), row, seed + 50);
        const float lip = smoothStep(0.0F, 0.25F, slope * 22 - static_cast<float>(row));
        const float moss = smoothStep(0.58F, 0.72F, clouds(x * 30, y * 40, seed + 51, 4));
        Colour slate =
            blend({0.30F, 0.31F, 0.35F}, {0.36F, 0.40F, 0.24F}, moss * 0.6F) * tone * (0.7F + 0.3F * lip);
        out = tint(slate, light.sun) * (light.strength * 1.05F);
        return true;
    }
    if (front || flank) {
        out = masonry(x * 1.5F, y, seed, 0.026F);
        const float wx0 =
            front ? (x - mill.left) / (side - mill.left) * 3 : (x - side) / (mill.right - side) * 2;
        const float wy0 = (y - 0.33F) / 0.115F;
        const float cx = wx0 - std::floor(wx0) - 0.5F;
        const float cy = wy0 - std::floor(wy0) - 0.5F;
        const bool window = wy0 > 0 && wy0 < 3 && std::abs(cx) < 0.17F && std::abs(cy) < 0.30F;
        const bool frame = wy0 > 0 && wy0 < 3 && std::abs(cx) < 0.22F && std::abs(cy) < 0.37F;
        if (window) {
            const bool bar = std::abs(cx) < 0.018F || std::abs(cy) < 0.02F;
            const bool lamp = view.hour > 18.5F || view.hour < 7;
            const float pane = noise(x * 40, y * 60, seed + 60);
            Colour glass = lamp ? Colour{1.1F, 0.80F, 0.38F} * (0.7F + 0.4F * pane)
                                : blend(light.zenith, {0.08F, 0.09F, 0.10F}, 0.45F + 0.4F * pane);
            out = bar ? Colour{0.80F, 0.78F, 0.72F} : glass;
            if (!bar) return true;
        } else if (frame) {
            out = Colour{0.60F, 0.56F, 0.49F} * (0.8F + 0.3F * noise(x * 200, y * 200, seed + 61));
        }
        // Scaffolding stands on the flank while the work goes on.
        if (flank) {
            const float px = (x - side) * 26;
            const float py = (y - mill.eaves) * 13;
            if (std::abs(px - std::round(px)) < 0.07F || std::abs(py - std::round(py)) < 0.05F)
                out = {0.58F, 0.55F, 0.46F};
        }
        const float damp =
            smoothStep(kWaterline - 0.06F, kWaterline, y + 0.02F * noise(x * 60, 3, seed + 62));
        out = blend(out, {0.14F, 0.17F, 0.11F}, damp * 0.75F);
        const float facing = front ? 1.0F : 0.62F;
        out = tint(out, light.sun) * (light.strength * facing * 1.1F);
        return true;
    }
    const float bank = kWaterline - 0.05F - 0.03F * clouds(x * 5, 1, seed + 70, 4);
    if (y > bank && y < kWaterline) {
        const float blades = clouds(x * 140, y * 60, seed + 71, 4);
        Colour grass = blend({0.20F, 0.25F, 0.09F}, {0.52F, 0.54F, 0.26F}, blades);
        const float stones = smoothStep(0.6F, 0.7F, clouds(x * 45, y * 70, seed + 72, 3));
        grass = blend(grass, {0.46F, 0.44F, 0.40F}, stones * 0.7F);
        out = tint(grass, light.sun) * light.strength;
        return true;
    }
    return false;
}

Colour land(const View& view, const Light& light, float x, float y) {
    Colour colour;
    if (view.subject == Subject::Mill && building(view, light, x, y, colour)) return colour;
    bool hit = false;
    const auto hills = ridge(view, light, x, std::min(y, kHorizon + 0.2F), hit);
    return hit ? hills : sky(view, light, x, y);
}

Colour water(const View& view, const Light& light, float x, float y, float time, float line) {
    const float depth = (y - line) / (1 - line);
    const float far = 1.0F / (0.06F + depth);
    const float ripple = clouds(x * 5 * far * 0.7F, far * 9 + time * 0.7F, view.seed + 81, 4) - 0.5F;
    const float fine = clouds(x * 22 * far * 0.5F + time * 0.3F, far * 30 + time, view.seed + 83, 3) - 0.5F;
    const float bend = (ripple * 0.05F + fine * 0.02F) * (0.3F + depth);
    const auto mirror = land(view, light, x + bend, std::max(0.02F, 2 * line - y - bend * 2.2F));
    const Colour deep = blend({0.10F, 0.16F, 0.16F}, light.zenith * 0.55F, 0.35F);
    const float glance = mix(0.80F, 0.30F, smoothStep(0, 1, depth)) + ripple * 0.3F;
    Colour colour = blend(deep, mirror * 0.86F, clamp01(glance));
    const float glint = smoothStep(0.20F, 0.30F, fine + ripple * 0.5F) * (1 - view.overcast) * 0.5F;
    return blend(colour, light.sun, clamp01(glint) * 0.6F);
}

Colour wheelCloseUp(const View& view, const Light& light, float x, float y) {
    const float cx = 0.25F + 0.5F * randomAt(2, 2, view.seed);
    Colour colour;
    if (wheel((x - cx) * 1.5F, y - 0.62F, 0.62F, view.wheelTurn + randomAt(3, 3, view.seed), 77, colour)) {
        return tint(colour, light.sun) * (light.strength * 1.25F);
    }
    const float fall = mix(0.75F, 0.35F, y);
    return tint(masonry(x * 1.5F + 3, y + static_cast<float>(view.seed % 7), 78, 0.09F), light.sun) *
           (light.strength * fall);
}

Colour wallCloseUp(const View& view, const Light& light, float x, float y) {
    const float size = 0.12F + 0.08F * randomAt(4, 4, view.seed);
    Colour colour = masonry(x * 1.5F + static_cast<float>(view.seed % 13) * 2.1F,
                            y + static_cast<float>(view.seed % 5), 79, size);
    const float sunbeam =
        smoothStep(-0.1F, 0.15F, x - y * 0.7F - 0.2F + 0.2F * (randomAt(5, 5, view.seed) - 0.5F));
    return tint(colour, blend(light.zenith * 1.3F, light.sun * 1.25F, sunbeam)) * (light.strength * 1.1F);
}

Colour sluice(const View& view, const Light& light, float x, float y, float time) {
    const float line = 0.70F + 0.05F * (randomAt(6, 6, view.seed) - 0.5F);
    if (y > line) {
        const float foam = clouds(x * 14, y * 26 - time * 2, view.seed + 91, 5);
        const float white = smoothStep(0.52F, 0.68F, foam + 0.25F * smoothStep(line + 0.12F, line, y));
        const Colour green = blend({0.12F, 0.20F, 0.18F}, {0.30F, 0.38F, 0.34F},
                                   clouds(x * 9, y * 30 + time, view.seed + 92, 4));
        return blend(tint(green, light.sun), Colour{0.90F, 0.92F, 0.92F} * light.strength, white * 0.85F);
    }
    const float planks = x * 7.3F + randomAt(7, 7, view.seed);
    const int plank = static_cast<int>(std::floor(planks));
    const float in = planks - static_cast<float>(plank);
    const bool band = std::abs(y - 0.22F) < 0.035F || std::abs(y - 0.52F) < 0.035F;
    Colour colour;
    if (band) {
        colour = blend({0.18F, 0.17F, 0.17F}, {0.45F, 0.25F, 0.13F},
                       smoothStep(0.45F, 0.7F, clouds(x * 30, y * 30, 93, 4)));
        const float bx = in - 0.5F;
        const float by = (y - (y < 0.37F ? 0.22F : 0.52F)) * 4.5F;
        const float bolt = std::sqrt(bx * bx + by * by);
        if (bolt < 0.13F) colour = Colour{0.34F, 0.31F, 0.29F} * (1.25F - bolt * 3);
    } else {
        const float wet = smoothStep(line - 0.25F, line, y);
        colour = timber(y * 2 + static_cast<float>(plank) * 3, in * 0.6F,
                        94U + static_cast<std::uint32_t>(plank & 15), wet);
        const float weed = smoothStep(0.5F, 0.7F, clouds(x * 40, y * 14, 95, 4)) * wet;
        colour = blend(colour, {0.16F, 0.22F, 0.08F}, weed * 0.8F);
        colour = colour * (0.45F + 0.55F * smoothStep(0.0F, 0.05F, std::min(in, 1 - in)));
    }
    return tint(colour, light.sun) * (light.strength * 1.2F);
}

Colour estuary(const View& view, const Light& light, float x, float y, float time) {
    if (y < kHorizon) return land(view, light, x, y);
    const float depth = (y - kHorizon) / (1 - kHorizon);
    const float far = 1.0F / (0.08F + depth);
    const float channel =
        clouds(x * 2 * far * 0.5F + static_cast<float>(view.seed % 31), far * 1.1F, view.seed + 101, 5);
    const float wet = smoothStep(0.50F, 0.54F, channel);
    const float ripples = clouds(x * 20 * far * 0.4F, far * 40, view.seed + 102, 4);
    Colour mud = blend({0.28F, 0.24F, 0.19F}, {0.50F, 0.45F, 0.37F}, ripples);
    mud = tint(mud, light.sun) * light.strength;
    return blend(mud, water(view, light, x, y, time, kHorizon), wet * 0.92F);
}

Colour shade(const View& view, const Light& light, float x, float y, float time) {
    switch (view.subject) {
        case Subject::Mill:
            return y < kWaterline ? land(view, light, x, y) : water(view, light, x, y, time, kWaterline);
        case Subject::Wheel: return wheelCloseUp(view, light, x, y);
        case Subject::Masonry: return wallCloseUp(view, light, x, y);
        case Subject::Sluice: return sluice(view, light, x, y, time);
        case Subject::Estuary: return estuary(view, light, x, y, time);
    }
    return {};
}

float toneCurve(float value) {
    const float v = std::max(0.0F, value);
    return clamp01(std::pow(v / (1 + 0.12F * v), 0.9F) * 1.06F);
}

}  // namespace

Image draw(const View& view, int width, int height, float time, float grain) {
    // Drawn at half the size and enlarged, as a lens of the real kind would soften it; the grain is full
    // size.
    const int halfWidth = width / 2 + 2;
    const int halfHeight = height / 2 + 2;
    const Light light(view);
    std::vector<float> half(static_cast<std::size_t>(halfWidth * halfHeight) * 3);
    auto* out = half.data();
    for (int row = 0; row < halfHeight; ++row) {
        for (int column = 0; column < halfWidth; ++column, out += 3) {
            const float px = static_cast<float>(column * 2) / static_cast<float>(width);
            const float py = static_cast<float>(row * 2) / static_cast<float>(height);
            const float x = 0.5F + (px - 0.5F) / view.zoom;
            const float y = 0.5F + (py - 0.5F) / view.zoom;
            auto colour = shade(view, light, x, y, time);
            const float corner = (px - 0.5F) * (px - 0.5F) + (py - 0.5F) * (py - 0.5F);
            colour = colour * (1.04F - 0.42F * corner);
            out[0] = toneCurve(colour.r) * 255;
            out[1] = toneCurve(colour.g) * 255;
            out[2] = toneCurve(colour.b) * 255;
        }
    }
    Image image{width, height, {}};
    image.rgb.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 3);
    auto* pixel = image.rgb.data();
    std::uint32_t state = view.seed * 2654435761U + static_cast<std::uint32_t>(time * 1000) + 1;
    for (int row = 0; row < height; ++row) {
        const float* above = half.data() + static_cast<std::size_t>(row / 2 * halfWidth) * 3;
        const float* below = above + static_cast<std::size_t>(halfWidth) * 3;
        const float down = (row & 1) != 0 ? 0.5F : 0.0F;
        for (int column = 0; column < width; ++column, pixel += 3) {
            const auto at = static_cast<std::size_t>(column / 2) * 3;
            const float right = (column & 1) != 0 ? 0.5F : 0.0F;
            state = state * 1664525U + 1013904223U;
            // Two uniform numbers make a hump; brightness and colour grain are tied together as a sensor's
            // are.
            const float noiseValue =
                (static_cast<float>(state >> 24) + static_cast<float>(state >> 16 & 255) - 255.0F) / 128.0F;
            for (std::size_t c = 0; c < 3; ++c) {
                const float top = mix(above[at + c], above[at + 3 + c], right);
                const float low = mix(below[at + c], below[at + 3 + c], right);
                const float value = mix(top, low, down);
                const float noisy =
                    value + noiseValue * grain * (c == 1 ? 1.0F : 1.25F) * (1.2F - value / 400);
                pixel[c] = static_cast<std::uint8_t>(std::clamp(noisy + 0.5F, 0.0F, 255.0F));
            }
        }
    }
    return image;
}

}  // namespace dreskel::demo
