#include "demo/encode_photo.h"

#include <cstdio>
#include <cstdlib>

#include <jpeglib.h>

namespace dreskel::demo {
namespace {

using Buffer = std::vector<std::uint8_t>;

Buffer compress(const Image& image, const Camera& camera, const Buffer& exif) {
    jpeg_compress_struct encoder{};
    jpeg_error_mgr errors{};
    encoder.err = jpeg_std_error(&errors);
    jpeg_create_compress(&encoder);
    unsigned char* data = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&encoder, &data, &size);
    encoder.image_width = static_cast<JDIMENSION>(image.width);
    encoder.image_height = static_cast<JDIMENSION>(image.height);
    encoder.input_components = 3;
    encoder.in_color_space = JCS_RGB;
    jpeg_set_defaults(&encoder);
    jpeg_set_quality(&encoder, camera.quality, TRUE);
    encoder.comp_info[0].h_samp_factor = camera.sampling;
    encoder.comp_info[0].v_samp_factor = camera.samplingDown;
    encoder.restart_in_rows = camera.restartRows;
    encoder.optimize_coding = camera.restartRows == 0 ? FALSE : TRUE;
    encoder.write_JFIF_header = exif.empty() ? TRUE : FALSE;
    jpeg_start_compress(&encoder, TRUE);
    if (!exif.empty())
        jpeg_write_marker(&encoder, JPEG_APP0 + 1, exif.data(), static_cast<unsigned>(exif.size()));
    const auto stride = static_cast<std::size_t>(image.width) * 3;
    while (encoder.next_scanline < encoder.image_height) {
        auto* row = const_cast<JSAMPROW>(image.rgb.data() + encoder.next_scanline * stride);
        jpeg_write_scanlines(&encoder, &row, 1);
    }
    jpeg_finish_compress(&encoder);
    jpeg_destroy_compress(&encoder);
    Buffer bytes(data, data + size);
    std::free(data);
    return bytes;
}

Image reduce(const Image& image, int width, int height) {
    Image small{width, height, {}};
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            const auto at =
                (static_cast<std::size_t>(y * image.height / height) * static_cast<std::size_t>(image.width) +
                 static_cast<std::size_t>(x * image.width / width)) *
                3;
            for (std::size_t c = 0; c < 3; ++c) small.rgb.push_back(image.rgb[at + c]);
        }
    }
    return small;
}

// A little-endian Exif block (CIPA DC-008): IFD0, the Exif IFD, IFD1 with the preview.
class ExifBlock {
  public:
    Buffer build(const Camera& camera, const std::string& taken, int orientation, const Image& image,
                 const Buffer& preview) {
        text("Exif");
        bytes_.push_back(0);
        bytes_.push_back(0);
        text("II");
        u16(42);
        u32(8);
        // Sizes are fixed by what goes in, so all offsets can be told beforehand.
        constexpr std::uint32_t kMain = 8;
        constexpr std::uint32_t kMainEntries = 5;
        constexpr std::uint32_t kExif = kMain + 2 + kMainEntries * 12 + 4;
        constexpr std::uint32_t kExifEntries = 3;
        constexpr std::uint32_t kSecond = kExif + 2 + kExifEntries * 12 + 4;
        constexpr std::uint32_t kSecondEntries = 3;
        const std::uint32_t data = kSecond + 2 + kSecondEntries * 12 + 4;
        const auto makeAt = data;
        const auto modelAt = makeAt + 32;
        const auto takenAt = modelAt + 32;
        const auto previewAt = takenAt + 20;

        u16(kMainEntries);
        entry(0x010f, 2, camera.make.size() + 1, makeAt);
        entry(0x0110, 2, camera.model.size() + 1, modelAt);
        entry(0x0112, 3, 1, static_cast<std::uint32_t>(orientation));
        entry(0x0132, 2, 20, takenAt);
        entry(0x8769, 4, 1, kExif);
        u32(kSecond);
        u16(kExifEntries);
        entry(0x9003, 2, 20, takenAt);
        entry(0xa002, 4, 1, static_cast<std::uint32_t>(image.width));
        entry(0xa003, 4, 1, static_cast<std::uint32_t>(image.height));
        u32(0);
        u16(kSecondEntries);
        entry(0x0103, 3, 1, 6);
        entry(0x0201, 4, 1, previewAt);
        entry(0x0202, 4, 1, static_cast<std::uint32_t>(preview.size()));
        u32(0);
        padded(camera.make, 32);
        padded(camera.model, 32);
        padded(taken, 20);
        bytes_.insert(bytes_.end(), preview.begin(), preview.end());
        return bytes_;
    }

  private:
    void text(const char* value) {
        while (*value != 0) bytes_.push_back(static_cast<std::uint8_t>(*value++));
    }
    void u16(std::uint32_t value) {
        bytes_.push_back(static_cast<std::uint8_t>(value));
        bytes_.push_back(static_cast<std::uint8_t>(value >> 8));
    }
    void u32(std::uint32_t value) {
        u16(value & 0xffff);
        u16(value >> 16);
    }
    void entry(std::uint32_t tag, std::uint32_t type, std::size_t count, std::uint32_t value) {
        u16(tag);
        u16(type);
        u32(static_cast<std::uint32_t>(count));
        u32(value);
    }
    void padded(const std::string& value, std::size_t length) {
        for (std::size_t i = 0; i < length; ++i)
            bytes_.push_back(i < value.size() ? static_cast<std::uint8_t>(value[i]) : 0);
    }

    Buffer bytes_;
};

}  // namespace

std::vector<std::uint8_t> encodePhoto(const Image& image, const Camera& camera, const std::string& taken,
                                      int orientation) {
    Camera small = camera;
    small.quality = 75;
    small.restartRows = 0;
    const auto preview = compress(reduce(image, 160, 160 * image.height / image.width), small, {});
    return compress(image, camera, ExifBlock().build(camera, taken, orientation, image, preview));
}

}  // namespace dreskel::demo
