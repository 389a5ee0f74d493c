#include "media/worker/undecoded.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <random>

namespace dreskel::media {
namespace {

constexpr std::size_t kPattern = 1 << 16;  // bytes, repeated through a buffer
constexpr int kBlock = 16;                 // pixels: the smallest that a picture is coded in
constexpr int kEdge = 4;                   // filters across blocks reach so far in

const std::array<std::uint8_t, kPattern>& pattern() {
    static const auto made = [] {
        std::array<std::uint8_t, kPattern> noise{};
        std::mt19937 random(1);
        for (auto& byte : noise) byte = static_cast<std::uint8_t>(random() >> 8);
        return noise;
    }();
    return made;
}

int patterned(AVCodecContext* decoder, AVFrame* frame, int flags) {
    const int outcome = avcodec_default_get_buffer2(decoder, frame, flags);
    if (outcome < 0 || frame->buf[0] == nullptr) return outcome;
    auto* buffer = frame->buf[0];
    for (std::size_t at = 0; at < buffer->size; at += kPattern)
        std::memcpy(buffer->data + at, pattern().data(), std::min(kPattern, buffer->size - at));
    return outcome;
}

}  // namespace

void patternBuffers(AVCodecContext& decoder) {
    decoder.get_buffer2 = patterned;
}

bool hasUndecodedBlocks(const AVFrame& frame) {
    const auto* buffer = frame.buf[0];
    if (buffer == nullptr || frame.data[0] < buffer->data || frame.linesize[0] <= 0) return false;
    const auto origin = static_cast<std::size_t>(frame.data[0] - buffer->data);
    const auto stride = static_cast<std::size_t>(frame.linesize[0]);
    const auto untouched = [&](std::size_t from) {
        for (std::size_t i = from; i < from + kBlock - 2 * kEdge; ++i) {
            if (i >= buffer->size || buffer->data[i] != pattern()[i % kPattern]) return false;
        }
        return true;
    };
    for (int y = 0; y + kBlock <= frame.height; y += kBlock) {
        for (int x = 0; x + kBlock <= frame.width; x += kBlock) {
            const auto first =
                origin + static_cast<std::size_t>(y + kEdge) * stride + static_cast<std::size_t>(x + kEdge);
            if (untouched(first) && untouched(first + stride * (kBlock - 2 * kEdge - 1))) return true;
        }
    }
    return false;
}

}  // namespace dreskel::media
