#include "formats/jpeg/dc_picture.h"

#include <algorithm>
#include <utility>

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

// A plane's DC values as samples 0 to 255, boxed down to the width and height of the picture, row by row.
class Samples {
  public:
    Samples(const DcPlanes::Plane& plane, const Component& component, const Picture& picture, int shift)
        : plane_(plane),
          columns_(spansOf(picture.width, component.blocksWide)),
          rows_(spansOf(picture.height, component.blocksHigh)),
          sums_(std::size_t{component.blocksWide} + 1),
          row_(picture.width),
          scale_(static_cast<float>(plane.quant) / 8.0F / static_cast<float>(1 << shift)) {
        for (const auto& column : columns_)
            shares_.push_back(1.0F / static_cast<float>(column.to - column.from));
    }

    // Valid until the next call.
    const std::vector<float>& row(std::uint32_t number) {
        const auto& rows = rows_[number];
        std::fill(sums_.begin(), sums_.end(), 0);
        for (auto y = rows.from; y < rows.to; ++y) {
            const auto* line = plane_.dc.data() + std::size_t{y} * plane_.width;
            for (std::size_t x = 0; x + 1 < sums_.size(); ++x)
                sums_[x] += static_cast<std::uint32_t>(line[x]);
        }
        // The sum of a column is what it adds to the sum of all in front of it: no inner loop, no branch.
        // What runs over in the one is taken off again in the difference.
        std::uint32_t inFront = 0;
        for (auto& sum : sums_) inFront += std::exchange(sum, inFront);
        const float scale = scale_ / static_cast<float>(rows.to - rows.from);
        for (std::size_t pixel = 0; pixel < columns_.size(); ++pixel) {
            const auto sum =
                static_cast<std::int32_t>(sums_[columns_[pixel].to] - sums_[columns_[pixel].from]);
            row_[pixel] = static_cast<float>(sum) * shares_[pixel] * scale + 128.0F;
        }
        return row_;
    }

  private:
    const DcPlanes::Plane& plane_;
    std::vector<Span> columns_, rows_;
    std::vector<float> shares_;        // of a column's blocks in its pixel
    std::vector<std::uint32_t> sums_;  // of the rows of blocks in hand, and one behind
    std::vector<float> row_;
    float scale_;
};

std::uint8_t sample(float value) {
    return static_cast<std::uint8_t>(std::clamp(value, 0.0F, 255.0F));
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
    picture.rgb.resize(std::size_t{picture.width} * picture.height * 3);

    const int shift = frame.precision > 8 ? frame.precision - 8 : 0;
    std::vector<Samples> samples;
    for (std::size_t i = 0; i < planes.planes.size(); ++i)
        samples.emplace_back(planes.planes[i], frame.components[i], picture, shift);
    auto* out = picture.rgb.data();
    for (std::uint32_t y = 0; y < picture.height; ++y) {
        const auto& first = samples[0].row(y);
        if (samples.size() < 3) {
            for (const auto grey : first) out = std::fill_n(out, 3, sample(grey));
            continue;
        }
        const auto& second = samples[1].row(y);
        const auto& third = samples[2].row(y);
        const auto* fourth = samples.size() == 4 ? &samples[3].row(y) : nullptr;
        for (std::size_t x = 0; x < first.size(); ++x, out += 3) {
            float red = first[x];
            float green = second[x];
            float blue = third[x];
            if (!rgbCoded) {
                const float towardsBlue = green - 128.0F;
                const float towardsRed = blue - 128.0F;
                green = red - 0.344136F * towardsBlue - 0.714136F * towardsRed;
                blue = red + 1.772F * towardsBlue;
                red += 1.402F * towardsRed;
            }
            // Four inks: stored inverted by nearly everyone who writes such files.
            const float black = fourth == nullptr ? 1.0F : (*fourth)[x] / 255.0F;
            out[0] = sample(red * black);
            out[1] = sample(green * black);
            out[2] = sample(blue * black);
        }
    }
    return picture;
}

}  // namespace dreskel::jpeg
