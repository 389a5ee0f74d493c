#include "formats/sound/frames.h"

#include <array>

namespace dreskel::sound {

std::optional<Frame> mpegFrame(Bytes bytes) {
    if (bytes.size() < 4 || bytes[0] != 0xff || (bytes[1] & 0xe0U) != 0xe0U) return std::nullopt;
    const auto version = bytes[1] >> 3 & 3U;  // 3: MPEG-1, 2: MPEG-2, 0: 2.5
    const auto layer = 4 - (bytes[1] >> 1 & 3U);
    const auto rateIndex = bytes[2] >> 4 & 15U;
    const auto frequency = bytes[2] >> 2 & 3U;
    if (version == 1 || layer == 4 || rateIndex == 0 || rateIndex == 15 || frequency == 3)
        return std::nullopt;
    if ((bytes[3] & 3U) == 2) return std::nullopt;  // emphasis that is not defined
    constexpr std::array<std::array<std::uint16_t, 15>, 5> kilobits{{
        {0, 32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448},  // MPEG-1, layer I
        {0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384},     // II
        {0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320},      // III
        {0, 32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256},     // MPEG-2, layer I
        {0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160},          // II and III
    }};
    constexpr std::array<std::uint32_t, 3> rates{44100, 48000, 32000};
    const bool first = version == 3;
    const auto table = first ? layer - 1 : layer == 1 ? 3U : 4U;
    const std::uint32_t bits = kilobits[table][rateIndex] * 1000U;
    Frame frame;
    frame.rate = rates[frequency] >> (first ? 0 : version == 2 ? 1 : 2);
    frame.samples = layer == 1 ? 384 : layer == 3 && !first ? 576 : 1152;
    const std::uint32_t padding = bytes[2] >> 1 & 1U;
    frame.length =
        layer == 1 ? (12 * bits / frame.rate + padding) * 4 : frame.samples / 8 * bits / frame.rate + padding;
    frame.channels = (bytes[3] >> 6 & 3U) == 3 ? 1 : 2;
    frame.kind = static_cast<std::uint32_t>(bytes[1] & 0xfeU) << 8 | (bytes[2] & 0x0cU) | frame.channels;
    return frame;
}

std::optional<Frame> adtsFrame(Bytes bytes) {
    if (bytes.size() < 7 || bytes[0] != 0xff || (bytes[1] & 0xf6U) != 0xf0U) return std::nullopt;
    constexpr std::array<std::uint32_t, 13> rates{96000, 88200, 64000, 48000, 44100, 32000, 24000,
                                                  22050, 16000, 12000, 11025, 8000,  7350};
    const auto index = bytes[2] >> 2 & 15U;
    Frame frame;
    frame.length = (bytes[3] & 3U) << 11 | static_cast<std::uint32_t>(bytes[4]) << 3 | bytes[5] >> 5;
    frame.channels = (bytes[2] & 1U) << 2 | bytes[3] >> 6;
    const std::uint32_t header = (bytes[1] & 1U) != 0 ? 7 : 9;
    if (index >= rates.size() || frame.length <= header || frame.channels == 0) return std::nullopt;
    frame.rate = rates[index];
    frame.samples = 1024U * ((bytes[6] & 3U) + 1);
    frame.kind = static_cast<std::uint32_t>(bytes[1]) << 16 | (bytes[2] & 0xfdU) << 8 | frame.channels;
    return frame;
}

std::optional<std::size_t> firstFrameIn(Bytes bytes,
                                        const std::function<std::optional<Frame>(Bytes)>& frameAt) {
    constexpr int kFollowing = 3;
    for (std::size_t first = 0; first < bytes.size(); ++first) {
        if (bytes[first] != 0xff) continue;
        auto frame = frameAt(bytes.subspan(first));
        const auto kind = frame ? frame->kind : 0;
        std::uint64_t at = first;
        int seen = 0;
        while (frame && frame->kind == kind && seen < kFollowing) {
            at += frame->length;
            if (at + 7 > bytes.size()) break;
            frame = frameAt(slice(bytes, at, bytes.size()));
            ++seen;
        }
        if (frame && frame->kind == kind && seen > 0) return first;
    }
    return std::nullopt;
}

bool followed(Bytes bytes, const std::function<std::optional<Frame>(Bytes)>& frameAt) {
    const auto first = frameAt(bytes);
    if (!first) return false;
    auto at = std::uint64_t{first->length};
    for (int more = 0; more < 2; ++more) {
        const auto rest = slice(bytes, at, bytes.size());
        if (rest.size() < 7) return true;  // the next one cannot be seen from here
        const auto next = frameAt(rest);
        if (!next || next->kind != first->kind) return false;
        at += next->length;
    }
    return true;
}

}  // namespace dreskel::sound
