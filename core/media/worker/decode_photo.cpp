#include <turbojpeg.h>

#include <algorithm>
#include <memory>
#include <optional>

#include "base/limits.h"
#include "media/worker/av_input.h"
#include "media/worker/coded_items.h"
#include "media/worker/frame_picture.h"
#include "media/worker/still_photo.h"
#include "media/worker/tasks.h"

namespace dreskel::media {

namespace {

constexpr int kThumbnailSide = 512;

// The bytes of a photo; nothing when there are more than any photo has.
std::optional<std::vector<std::uint8_t>> bytesOf(CardView& card, const Message& request) {
    PieceReader reader(card, piecesOf(request));
    if (reader.size() > limits::kLargestPhoto) return std::nullopt;
    std::vector<std::uint8_t> file(static_cast<std::size_t>(reader.size()));
    file.resize(reader.read(0, file));
    return file;
}

StillOutcome decodeByLibav(CardView& card, const Message& request, const std::string& format, int side) {
    StillOutcome outcome;
    takeLibraryLog();
    AvInput input(card, piecesOf(request));
    if (!input.open(format)) {
        outcome.trouble = "it does not open";
        return outcome;
    }
    const auto& stream = *input.context()->streams[0];
    const auto codec = input.decoderFor(stream);
    const PacketPointer packet(av_packet_alloc());
    const FramePointer frame(av_frame_alloc());
    if (!codec || av_read_frame(input.context(), packet.get()) < 0) {
        outcome.trouble = "it holds no picture";
        return outcome;
    }
    codec->err_recognition = 0;  // as much of it as can be seen
    avcodec_send_packet(codec.get(), packet.get());
    avcodec_send_packet(codec.get(), nullptr);
    if (avcodec_receive_frame(codec.get(), frame.get()) >= 0)
        outcome.picture = pictureFromFrame(*frame, side > 0 ? side : std::max(frame->width, frame->height));
    if (outcome.picture.rgb.empty()) outcome.trouble = "nothing of it decodes";
    return outcome;
}

Message decodeJpeg(const std::vector<std::uint8_t>& file, int side, std::size_t largest);

}  // namespace

Message decodePhoto(CardView& card, const Message& request, std::size_t largest) {
    const auto format = request.head.value("format", std::string("jpeg"));
    const int side = request.head.value("side", 0);
    if (format != "jpeg" && !isRaw(format) && !isHeif(format)) {
        auto outcome = decodeByLibav(card, request, format, side);
        return {
            {{"width", outcome.picture.width}, {"height", outcome.picture.height}, {"why", outcome.trouble}},
            std::move(outcome.picture.rgb)};
    }
    const auto file = bytesOf(card, request);
    if (!file) return {{{"width", 0}, {"height", 0}, {"why", "Limit exceeded: too large for a photo"}}, {}};
    if (format == "jpeg") return decodeJpeg(*file, side, largest);
    auto outcome = isRaw(format) ? decodeRaw(*file, side, false) : decodeHeif(*file, side, false);
    return {{{"width", outcome.picture.width}, {"height", outcome.picture.height}, {"why", outcome.trouble}},
            std::move(outcome.picture.rgb)};
}

Message checkPhoto(CardView& card, const Message& request) {
    const auto format = request.head.value("format", std::string());
    const auto file = bytesOf(card, request);
    if (!file)
        return {{{"opened", false}, {"errors", 1}, {"first_error", "Limit exceeded: too large for a photo"}},
                {}};
    const auto fault = isHeif(format) ? faultOfItems(*file) : std::nullopt;
    auto outcome =
        isRaw(format) ? decodeRaw(*file, kThumbnailSide, true) : decodeHeif(*file, kThumbnailSide, !fault);
    if (fault) {
        outcome.trouble = fault->why;
        outcome.reached = static_cast<double>(fault->byte) / static_cast<double>(file->size());
    }
    const bool good = outcome.trouble.empty();
    Message reply;
    if (outcome.unknown) {
        reply.head = {{"opened", false}, {"errors", 0}, {"no_decoder", true}};
        return reply;
    }
    reply.head = {{"opened", outcome.fullWidth > 0}, {"errors", good ? 0 : 1},
                  {"first_error", outcome.trouble},  {"decoded", good ? 1.0 : outcome.reached},
                  {"width", outcome.picture.width},  {"height", outcome.picture.height}};
    if (outcome.fullWidth > 0) {
        reply.head["stream_width"] = outcome.fullWidth;
        reply.head["stream_height"] = outcome.fullHeight;
    }
    reply.payload = std::move(outcome.picture.rgb);
    return reply;
}

namespace {

Message decodeJpeg(const std::vector<std::uint8_t>& file, int side, std::size_t largest) {
    const auto refuse = [](std::string why) {
        return Message{{{"width", 0}, {"height", 0}, {"why", std::move(why)}}, {}};
    };

    const std::unique_ptr<void, int (*)(tjhandle)> decoder(tjInitDecompress(), tjDestroy);
    int width = 0;
    int height = 0;
    int subsampling = 0;
    int colours = 0;
    if (!decoder || tjDecompressHeader3(decoder.get(), file.data(), file.size(), &width, &height,
                                        &subsampling, &colours) != 0) {
        return refuse(decoder ? tjGetErrorStr2(decoder.get()) : "no decoder");
    }
    // Of the decoder's own scales the smallest that is not smaller than asked for; the largest that is
    // allowed when full size is asked for.
    int count = 0;
    const auto* factors = tjGetScalingFactors(&count);
    const auto sideAt = [&](tjscalingfactor scale) {
        return std::max(TJSCALED(width, scale), TJSCALED(height, scale));
    };
    tjscalingfactor best{1, 8};
    for (int i = 0; i < count; ++i) {
        const auto scale = factors[i];
        const auto pixels = static_cast<std::uint64_t>(TJSCALED(width, scale)) *
                            static_cast<std::uint64_t>(TJSCALED(height, scale));
        if (scale.num > scale.denom || pixels * 3 > largest) continue;
        const bool larger = sideAt(scale) > sideAt(best);
        const bool tooSmall = side == 0 || sideAt(best) < side;
        if (larger ? tooSmall : !tooSmall && sideAt(scale) >= side) best = scale;
    }
    const int wide = TJSCALED(width, best);
    const int high = TJSCALED(height, best);
    Message reply;
    reply.payload.resize(static_cast<std::size_t>(wide) * static_cast<std::size_t>(high) * 3);
    std::fill(reply.payload.begin(), reply.payload.end(), std::uint8_t{128});
    int format = TJPF_RGB;
    std::vector<std::uint8_t> inks;
    if (colours == TJCS_CMYK || colours == TJCS_YCCK) {
        format = TJPF_CMYK;
        inks.resize(static_cast<std::size_t>(wide) * static_cast<std::size_t>(high) * 4);
    }
    auto* target = inks.empty() ? reply.payload.data() : inks.data();
    // What is looked at one to one is decoded as well as can be.
    const int flags = side == 0 ? TJFLAG_ACCURATEDCT : TJFLAG_FASTUPSAMPLE;
    const int outcome =
        tjDecompress2(decoder.get(), file.data(), file.size(), target, wide, 0, high, format, flags);
    if (outcome != 0 && tjGetErrorCode(decoder.get()) == TJERR_FATAL)
        return refuse(tjGetErrorStr2(decoder.get()));
    for (std::size_t i = 0; i < inks.size() / 4; ++i) {
        for (std::size_t c = 0; c < 3; ++c) {
            reply.payload[i * 3 + c] = static_cast<std::uint8_t>(inks[i * 4 + c] * inks[i * 4 + 3] / 255);
        }
    }
    reply.head = {{"width", wide}, {"height", high}};
    return reply;
}

}  // namespace

}  // namespace dreskel::media
