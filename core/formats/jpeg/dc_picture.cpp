#include "formats/jpeg/dc_picture.h"

#include <algorithm>

namespace dreskel::jpeg {
namespace {

struct Span {
    std::uint32_t from = 0, to = 0;
};

// For each of `pixels` along one side the blocks that it covers, at least one.
std::vector<Span> spansOf(std::uint32_t pixels, std::uint32_t blocks) {
    std::vector<Span> spans(pixels);
    for (std::uint32_t p = 0; p < pixels; ++p) {
        const auto from = static_cast<std::uint32_t>(std::uint64_t{p} * blocks / pixels);
        const auto to = static_cast<std::uint32_t>(std::uint64_t{p + 1} * blocks / pixels);
        spans[p] = {std::min(from, blocks - 1), std::max(std::min(from, blocks - 1) + 1, to)};
    }
    return spans;
}

// A plane's DC values as samples 0 to 255, boxed down to the size of the picture.
std::vector<float> samplesOf(const DcPlanes::Plane& plane, const Component& component, const Picture& picture,
                             int shift) {
    const auto columns = spansOf(picture.width, component.blocksWide);
    const auto rows = spansOf(picture.height, component.blocksHigh);
    const float scale = static_cast<float>(plane.quant) / 8.0F / static_cast<float>(1 << shift);
    std::vector<float> samples;
    samples.reserve(std::size_t{picture.width} * picture.height);
    for (const auto& row : rows) {
        for (const auto& column : columns) {
            std::int32_t sum = 0;
            for (auto y = row.from; y < row.to; ++y) {
                const auto* line = plane.dc.data() + std::size_t{y} * plane.width;
                for (auto x = column.from; x < column.to; ++x) sum += line[x];
            }
            const auto count = static_cast<float>((column.to - column.from) * (row.to - row.from));
            samples.push_back(static_cast<float>(sum) / count * scale + 128.0F);
        }
    }
    return samples;
}

}  // namespace

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
    const auto pixels = std::size_t{picture.width} * picture.height;
    picture.rgb.resize(pixels * 3);

    const int shift = frame.precision > 8 ? frame.precision - 8 : 0;
    std::vector<std::vector<float>> samples;
    for (std::size_t i = 0; i < planes.planes.size(); ++i) {
        samples.push_back(samplesOf(planes.planes[i], frame.components[i], picture, shift));
    }
    const auto store = [&](std::size_t pixel, float red, float green, float blue) {
        auto* out = picture.rgb.data() + pixel * 3;
        out[0] = static_cast<std::uint8_t>(std::clamp(red, 0.0F, 255.0F));
        out[1] = static_cast<std::uint8_t>(std::clamp(green, 0.0F, 255.0F));
        out[2] = static_cast<std::uint8_t>(std::clamp(blue, 0.0F, 255.0F));
    };
    for (std::size_t i = 0; i < pixels; ++i) {
        const float first = samples[0][i];
        if (samples.size() < 3) {
            store(i, first, first, first);
            continue;
        }
        float red = first;
        float green = samples[1][i];
        float blue = samples[2][i];
        if (!rgbCoded) {
            const float second = samples[1][i] - 128.0F;
            const float third = samples[2][i] - 128.0F;
            red = first + 1.402F * third;
            green = first - 0.344136F * second - 0.714136F * third;
            blue = first + 1.772F * second;
        }
        // Four inks: stored inverted by nearly everyone who writes such files.
        const float black = samples.size() == 4 ? samples[3][i] / 255.0F : 1.0F;
        store(i, red * black, green * black, blue * black);
    }
    return picture;
}

}  // namespace dreskel::jpeg
