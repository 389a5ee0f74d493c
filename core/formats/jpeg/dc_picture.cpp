#include "formats/jpeg/dc_picture.h"

#include <algorithm>

namespace dreskel::jpeg {

std::optional<Picture> pictureOf(const Frame& frame, const DcPlanes& planes, std::uint32_t side,
                                 bool rgbCoded) {
    if (planes.planes.empty() || planes.planes.size() != frame.components.size()) return std::nullopt;
    const auto wide = std::max(1U, (frame.width + 7) / 8);
    const auto high = std::max(1U, (frame.height + 7) / 8);
    const auto largest = std::max(wide, high);
    // One DC value a pixel for small pictures, boxes of them for large ones.
    const double scale = largest > side ? static_cast<double>(largest) / side : 1.0;
    Picture picture;
    picture.width = std::max(1U, static_cast<std::uint32_t>(wide / scale));
    picture.height = std::max(1U, static_cast<std::uint32_t>(high / scale));
    picture.rgb.resize(std::size_t{picture.width} * picture.height * 3);

    const int shift = frame.precision > 8 ? frame.precision - 8 : 0;
    const auto sample = [&](std::size_t plane, std::uint32_t px, std::uint32_t py) {
        const auto& values = planes.planes[plane];
        const auto& component = frame.components[plane];
        const auto from = [&](std::uint32_t p, std::uint32_t of, std::uint32_t blocks) {
            return std::min(blocks - 1, static_cast<std::uint32_t>(std::uint64_t{p} * blocks / of));
        };
        const auto x0 = from(px, picture.width, component.blocksWide);
        const auto y0 = from(py, picture.height, component.blocksHigh);
        const auto x1 = std::max(x0 + 1, from(px + 1, picture.width, component.blocksWide));
        const auto y1 = std::max(y0 + 1, from(py + 1, picture.height, component.blocksHigh));
        std::int64_t sum = 0;
        for (auto y = y0; y < y1; ++y) {
            for (auto x = x0; x < x1; ++x) sum += values.dc[std::size_t{y} * values.width + x];
        }
        const auto mean = static_cast<double>(sum) / (static_cast<double>(x1 - x0) * (y1 - y0));
        return mean * values.quant / 8.0 / (1 << shift) + 128.0;
    };
    const auto clamp = [](double value) { return static_cast<std::uint8_t>(std::clamp(value, 0.0, 255.0)); };
    auto* out = picture.rgb.data();
    for (std::uint32_t y = 0; y < picture.height; ++y) {
        for (std::uint32_t x = 0; x < picture.width; ++x, out += 3) {
            const auto first = sample(0, x, y);
            if (planes.planes.size() < 3) {
                out[0] = out[1] = out[2] = clamp(first);
                continue;
            }
            auto second = sample(1, x, y);
            auto third = sample(2, x, y);
            double red = first;
            double green = second;
            double blue = third;
            if (!rgbCoded) {
                second -= 128;
                third -= 128;
                red = first + 1.402 * third;
                green = first - 0.344136 * second - 0.714136 * third;
                blue = first + 1.772 * second;
            }
            if (planes.planes.size() == 4) {
                // Four inks: stored inverted by nearly everyone who writes such files.
                const auto black = sample(3, x, y) / 255.0;
                red *= black;
                green *= black;
                blue *= black;
            }
            out[0] = clamp(red);
            out[1] = clamp(green);
            out[2] = clamp(blue);
        }
    }
    return picture;
}

}  // namespace dreskel::jpeg
