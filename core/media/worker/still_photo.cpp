#include "media/worker/still_photo.h"

#include "base/words.h"
#include "formats/jpeg/jpeg_format.h"
#include "media/worker/foreign_samples.h"
#include "media/worker/preview_match.h"

#include <libheif/heif.h>

#include <libraw/libraw.h>
#include <turbojpeg.h>

#include <algorithm>
#include <array>
#include <memory>
#include <span>

namespace dreskel::media {
namespace {

// Where it is not known what share of a picture is right.
constexpr double kSomewhere = 0.5;

struct RawTrouble {
    int errors = 0;
    std::int64_t at = -1;
};

void onRawTrouble(void* data, const char*, const int offset) {
    auto& trouble = *static_cast<RawTrouble*>(data);
    if (trouble.errors++ == 0) trouble.at = offset;
}

Picture pictureOf(const libraw_processed_image_t& image) {
    Picture picture;
    if (image.type == LIBRAW_IMAGE_BITMAP && image.colors == 3 && image.bits == 8) {
        picture.width = image.width;
        picture.height = image.height;
        picture.rgb.assign(image.data, image.data + image.data_size);
    } else if (image.type == LIBRAW_IMAGE_JPEG) {
        const std::unique_ptr<void, int (*)(tjhandle)> decoder(tjInitDecompress(), tjDestroy);
        int width = 0, height = 0, sampling = 0, colours = 0;
        if (!decoder || tjDecompressHeader3(decoder.get(), image.data, image.data_size, &width, &height,
                                            &sampling, &colours) != 0)
            return picture;
        // An eighth of a large preview is enough for a thumbnail.
        const tjscalingfactor scale{1, std::max(width, height) > 2048 ? 4 : 1};
        picture.width = static_cast<std::uint32_t>(TJSCALED(width, scale));
        picture.height = static_cast<std::uint32_t>(TJSCALED(height, scale));
        picture.rgb.resize(std::size_t{picture.width} * picture.height * 3);
        if (tjDecompress2(decoder.get(), image.data, image.data_size, picture.rgb.data(),
                          static_cast<int>(picture.width), 0, static_cast<int>(picture.height), TJPF_RGB,
                          0) != 0)
            picture = {};
    }
    return picture;
}

bool holdsForeignSamples(const LibRaw& raw) {
    const auto& sizes = raw.imgdata.sizes;
    const auto* samples = raw.imgdata.rawdata.raw_image;
    if (samples == nullptr) return false;
    const auto most = std::clamp(raw.imgdata.color.maximum, 1U, 65535U);
    ForeignSamples check;
    check.add(std::span(samples, std::size_t{sizes.raw_width} * sizes.raw_height),
              static_cast<std::uint16_t>(most));
    return check.found();
}

// The largest of the previews is a JPEG that our own decoder can follow to its end.
Measured measurePreview(LibRaw& raw, Bytes file) {
    const auto at = raw.get_internal_data_pointer()->internal_data.toffset;
    if (at <= 0) return {};
    const auto preview = slice(file, static_cast<std::uint64_t>(at), raw.imgdata.thumbnail.tlength);
    const auto measure = jpeg::JpegFormat().measure();
    while (const auto want = measure->want()) measure->give(slice(preview, want->offset, want->length));
    return measure->finish();
}

// From which row on sensor data that decode are not what the preview shows.
std::optional<std::uint32_t> differsFrom(const Picture& preview, LibRaw& raw) {
    const auto& sizes = raw.imgdata.sizes;
    const auto* samples = raw.imgdata.rawdata.raw_image;
    if (samples == nullptr || raw.is_fuji_rotated() != 0) return std::nullopt;
    const auto stride = std::size_t{sizes.raw_pitch} / sizeof(std::uint16_t);
    const SensorSamples sensor{{samples, stride * sizes.raw_height},
                               stride,
                               sizes.left_margin,
                               sizes.top_margin,
                               sizes.width,
                               sizes.height,
                               raw.imgdata.color.black,
                               raw.imgdata.color.maximum};
    return strangeFrom(sensor, preview);
}

using RawImage = std::unique_ptr<libraw_processed_image_t, void (*)(libraw_processed_image_t*)>;

}  // namespace

bool isRaw(const std::string& format) {
    constexpr std::array<std::string_view, 18> raws{"cr2", "cr3", "nef", "nrw", "arw", "dng",
                                                    "gpr", "orf", "rw2", "pef", "srw", "3fr",
                                                    "iiq", "erf", "raf", "mrw", "crw", "x3f"};
    return std::find(raws.begin(), raws.end(), format) != raws.end();
}

bool isHeif(const std::string& format) {
    return format == "heic" || format == "avif";
}

Picture shrunk(Picture picture, int side) {
    const auto longest = static_cast<int>(std::max(picture.width, picture.height));
    if (side <= 0 || longest <= side) return picture;
    const auto step = static_cast<std::uint32_t>((longest + side - 1) / side);
    Picture small;
    small.width = picture.width / step;
    small.height = picture.height / step;
    small.rgb.resize(std::size_t{small.width} * small.height * 3);
    auto* out = small.rgb.data();
    for (std::uint32_t y = 0; y < small.height; ++y) {
        for (std::uint32_t x = 0; x < small.width; ++x) {
            for (std::uint32_t channel = 0; channel < 3; ++channel) {
                std::uint32_t sum = 0;
                for (std::uint32_t dy = 0; dy < step; ++dy) {
                    const auto row = std::size_t{y * step + dy} * picture.width + std::size_t{x} * step;
                    for (std::uint32_t dx = 0; dx < step; ++dx) sum += picture.rgb[(row + dx) * 3 + channel];
                }
                *out++ = static_cast<std::uint8_t>(sum / (step * step));
            }
        }
    }
    return small;
}

StillOutcome decodeRaw(Bytes file, int side, bool quick) {
    StillOutcome outcome;
    const auto raw = std::make_unique<LibRaw>();
    RawTrouble trouble;
    raw->set_dataerror_handler(onRawTrouble, &trouble);
    auto& settings = raw->imgdata.params;
    settings.use_camera_wb = 1;
    settings.user_flip = 0;
    settings.user_qual = 0;
    settings.output_bps = 8;
    settings.half_size = quick || (side > 0 && side < 1500) ? 1 : 0;
    int error = raw->open_buffer(const_cast<std::uint8_t*>(file.data()), file.size());
    outcome.unknown = error == LIBRAW_FILE_UNSUPPORTED;
    if (error == LIBRAW_SUCCESS) {
        outcome.fullWidth = raw->imgdata.sizes.width;
        outcome.fullHeight = raw->imgdata.sizes.height;
        error = raw->unpack();
    }
    if (outcome.unknown) return outcome;
    if (error != LIBRAW_SUCCESS || trouble.errors > 0) {
        outcome.trouble =
            error != LIBRAW_SUCCESS ? libraw_strerror(error) : "its sensor data do not decode to the end";
        const bool told = trouble.at > 0 && static_cast<std::uint64_t>(trouble.at) < file.size();
        outcome.reached = told ? static_cast<double>(trouble.at) / static_cast<double>(file.size()) : 0;
    }
    if (error == LIBRAW_SUCCESS && outcome.trouble.empty() && holdsForeignSamples(*raw)) {
        outcome.trouble = "other data lie among its sensor data";
        outcome.reached = kSomewhere;
    }
    if (error == LIBRAW_SUCCESS && outcome.trouble.empty()) {
        const auto preview = measurePreview(*raw, file);
        const auto differs = preview.thumbnail ? differsFrom(*preview.thumbnail, *raw) : std::nullopt;
        if (preview.accepted && preview.condition == Condition::Partial) {
            outcome.trouble = "its preview is damaged";
            outcome.reached = kSomewhere;
        } else if (differs) {
            outcome.trouble = "its sensor data are not the picture that its preview shows, from row " +
                              grouped(*differs) + " on, about";
            outcome.reached = static_cast<double>(*differs) / raw->imgdata.sizes.height;
        }
    }
    int made = 0;
    if (quick && raw->unpack_thumb() == LIBRAW_SUCCESS) {
        const RawImage image(raw->dcraw_make_mem_thumb(&made), LibRaw::dcraw_clear_mem);
        if (image) outcome.picture = pictureOf(*image);
    }
    if (outcome.picture.rgb.empty() && error == LIBRAW_SUCCESS && raw->dcraw_process() == LIBRAW_SUCCESS) {
        const RawImage image(raw->dcraw_make_mem_image(&made), LibRaw::dcraw_clear_mem);
        if (image) outcome.picture = pictureOf(*image);
    }
    outcome.picture = shrunk(std::move(outcome.picture), side);
    return outcome;
}

StillOutcome decodeHeif(Bytes file, int side, bool strict) {
    StillOutcome outcome;
    const std::unique_ptr<heif_context, void (*)(heif_context*)> context(heif_context_alloc(),
                                                                         heif_context_free);
    const auto failed = [&](const heif_error& error) {
        if (error.code == heif_error_Ok) return false;
        if (outcome.trouble.empty()) outcome.trouble = error.message;
        outcome.reached = 0;
        return true;
    };
    if (failed(heif_context_read_from_memory_without_copy(context.get(), file.data(), file.size(), nullptr)))
        return outcome;
    heif_image_handle* found = nullptr;
    if (failed(heif_context_get_primary_image_handle(context.get(), &found))) return outcome;
    const std::unique_ptr<heif_image_handle, void (*)(const heif_image_handle*)> handle(
        found, heif_image_handle_release);
    heif_image* decoded = nullptr;
    const std::unique_ptr<heif_decoding_options, void (*)(heif_decoding_options*)> options(
        heif_decoding_options_alloc(), heif_decoding_options_free);
    options->strict_decoding = strict ? 1 : 0;
    if (failed(heif_decode_image(handle.get(), &decoded, heif_colorspace_RGB, heif_chroma_interleaved_RGB,
                                 options.get())))
        return outcome;
    const std::unique_ptr<heif_image, void (*)(const heif_image*)> image(decoded, heif_image_release);
    const int width = heif_image_get_width(decoded, heif_channel_interleaved);
    const int height = heif_image_get_height(decoded, heif_channel_interleaved);
    int stride = 0;
    const auto* rows = heif_image_get_plane_readonly(decoded, heif_channel_interleaved, &stride);
    if (rows == nullptr || width <= 0 || height <= 0) return outcome;
    auto& picture = outcome.picture;
    picture.width = outcome.fullWidth = static_cast<std::uint32_t>(width);
    picture.height = outcome.fullHeight = static_cast<std::uint32_t>(height);
    for (int y = 0; y < height; ++y) {
        const auto* row = rows + static_cast<std::ptrdiff_t>(y) * stride;
        picture.rgb.insert(picture.rgb.end(), row, row + static_cast<std::ptrdiff_t>(width) * 3);
    }
    picture = shrunk(std::move(picture), side);
    return outcome;
}

}  // namespace dreskel::media
