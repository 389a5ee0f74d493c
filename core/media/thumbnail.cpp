#include "media/thumbnail.h"

#include <turbojpeg.h>

#include <algorithm>
#include <array>
#include <memory>

namespace dreskel::media {

Picture shrink(const Picture& picture, std::uint32_t side) {
    const auto largest = std::max(picture.width, picture.height);
    if (largest <= side || largest == 0) return picture;
    Picture small;
    small.width = std::max(1U, picture.width * side / largest);
    small.height = std::max(1U, picture.height * side / largest);
    small.rgb.resize(std::size_t{small.width} * small.height * 3);
    for (std::uint32_t y = 0; y < small.height; ++y) {
        const auto y0 = std::size_t{y} * picture.height / small.height;
        const auto y1 = std::max(y0 + 1, (std::size_t{y} + 1) * picture.height / small.height);
        for (std::uint32_t x = 0; x < small.width; ++x) {
            const auto x0 = std::size_t{x} * picture.width / small.width;
            const auto x1 = std::max(x0 + 1, (std::size_t{x} + 1) * picture.width / small.width);
            std::array<std::uint32_t, 3> sums{};
            for (auto sy = y0; sy < y1; ++sy) {
                const auto* row = picture.rgb.data() + (sy * picture.width + x0) * 3;
                for (auto sx = x0; sx < x1; ++sx, row += 3) {
                    for (std::size_t c = 0; c < 3; ++c) sums[c] += row[c];
                }
            }
            const auto count = static_cast<std::uint32_t>((y1 - y0) * (x1 - x0));
            auto* out = small.rgb.data() + (std::size_t{y} * small.width + x) * 3;
            for (std::size_t c = 0; c < 3; ++c) out[c] = static_cast<std::uint8_t>(sums[c] / count);
        }
    }
    return small;
}

namespace {

std::vector<std::uint8_t> encode(const Picture& picture, TJSAMP colours, int quality) {
    if (picture.rgb.empty()) return {};
    const std::unique_ptr<void, int (*)(tjhandle)> encoder(tjInitCompress(), tjDestroy);
    unsigned char* data = nullptr;
    unsigned long size = 0;
    std::vector<std::uint8_t> bytes;
    if (encoder &&
        tjCompress2(encoder.get(), picture.rgb.data(), static_cast<int>(picture.width), 0,
                    static_cast<int>(picture.height), TJPF_RGB, &data, &size, colours, quality, 0) == 0) {
        bytes.assign(data, data + size);
    }
    tjFree(data);
    return bytes;
}

}  // namespace

std::vector<std::uint8_t> encodeThumbnail(const Picture& picture, std::uint32_t side) {
    return encode(shrink(picture, side), TJSAMP_420, 82);
}

std::vector<std::uint8_t> encodePicture(const Picture& picture) {
    return encode(picture, TJSAMP_444, 94);
}

std::optional<Picture> decodeThumbnail(Bytes jpeg) {
    const std::unique_ptr<void, int (*)(tjhandle)> decoder(tjInitDecompress(), tjDestroy);
    int width = 0, height = 0, colours = 0, space = 0;
    if (!decoder ||
        tjDecompressHeader3(decoder.get(), jpeg.data(), jpeg.size(), &width, &height, &colours, &space) !=
            0 ||
        width <= 0 || height <= 0)
        return std::nullopt;
    Picture picture;
    picture.width = static_cast<std::uint32_t>(width);
    picture.height = static_cast<std::uint32_t>(height);
    picture.rgb.resize(std::size_t{picture.width} * picture.height * 3);
    if (tjDecompress2(decoder.get(), jpeg.data(), jpeg.size(), picture.rgb.data(), width, 0, height, TJPF_RGB,
                      0) != 0)
        return std::nullopt;
    return picture;
}

}  // namespace dreskel::media
