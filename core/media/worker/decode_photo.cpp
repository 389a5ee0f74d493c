#include <turbojpeg.h>

#include <algorithm>
#include <memory>

#include "base/limits.h"
#include "media/worker/tasks.h"

namespace dreskel::media {

Message decodePhoto(CardView& card, const nlohmann::json& request) {
    PieceReader reader(card, piecesFromJson(request.at("pieces")));
    const auto refuse = [](std::string why) {
        return Message{{{"width", 0}, {"height", 0}, {"why", std::move(why)}}, {}};
    };
    if (reader.size() > limits::kLargestPhoto) return refuse("Limit exceeded: too large for a photo");
    std::vector<std::uint8_t> file(static_cast<std::size_t>(reader.size()));
    file.resize(reader.read(0, file));

    const std::unique_ptr<void, int (*)(tjhandle)> decoder(tjInitDecompress(), tjDestroy);
    int width = 0;
    int height = 0;
    int subsampling = 0;
    int colours = 0;
    if (!decoder || tjDecompressHeader3(decoder.get(), file.data(), file.size(), &width, &height,
                                        &subsampling, &colours) != 0) {
        return refuse(decoder ? tjGetErrorStr2(decoder.get()) : "no decoder");
    }
    // Of the decoder's own scales the smallest that is not smaller than asked for; the largest that fits into
    // one message when full size is asked for.
    const int side = request.value("side", 0);
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
        if (scale.num > scale.denom || pixels * 3 > limits::kLargestMessage) continue;
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
    const int outcome = tjDecompress2(decoder.get(), file.data(), file.size(), target, wide, 0, high, format,
                                      TJFLAG_FASTUPSAMPLE);
    if (outcome != 0 && tjGetErrorCode(decoder.get()) == TJERR_FATAL)
        return refuse(tjGetErrorStr2(decoder.get()));
    for (std::size_t i = 0; i < inks.size() / 4; ++i) {
        for (std::size_t c = 0; c < 3; ++c) {
            reply.payload[i * 3 + c] = static_cast<std::uint8_t>(inks[i * 4 + c] * inks[i * 4 + 3] / 255);
        }
    }
    reply.head = {{"width", wide}, {"height", high}, {"full_width", width}, {"full_height", height}};
    return reply;
}

}  // namespace dreskel::media
