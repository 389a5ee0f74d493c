#include "media/worker/moving_jxl.h"

#include <jxl/decode.h>

#include <algorithm>
#include <memory>
#include <vector>

namespace dreskel::media {

std::optional<double> brokenFrameOf(PieceReader& file, const SignOfLife& alive) {
    constexpr std::uint64_t kPortion = 1U << 20;
    const std::unique_ptr<JxlDecoder, void (*)(JxlDecoder*)> decoder(JxlDecoderCreate(nullptr),
                                                                     JxlDecoderDestroy);
    if (!decoder ||
        JxlDecoderSubscribeEvents(decoder.get(), JXL_DEC_BASIC_INFO | JXL_DEC_FULL_IMAGE) != JXL_DEC_SUCCESS)
        return std::nullopt;
    const JxlPixelFormat format{4, JXL_TYPE_UINT8, JXL_NATIVE_ENDIAN, 0};
    std::vector<std::uint8_t> pixels, portion;
    std::uint64_t upTo = 0;  // bytes of the file that were read
    const auto broken = [&] {
        const auto left = JxlDecoderReleaseInput(decoder.get());
        return static_cast<double>(upTo - left) /
               static_cast<double>(std::max<std::uint64_t>(1, file.size()));
    };
    for (;;) {
        switch (JxlDecoderProcessInput(decoder.get())) {
            case JXL_DEC_SUCCESS: return std::nullopt;
            case JXL_DEC_BASIC_INFO: {
                JxlBasicInfo about;
                if (JxlDecoderGetBasicInfo(decoder.get(), &about) != JXL_DEC_SUCCESS || !about.have_animation)
                    return std::nullopt;
                break;
            }
            case JXL_DEC_NEED_IMAGE_OUT_BUFFER: {
                std::size_t size = 0;
                JxlDecoderImageOutBufferSize(decoder.get(), &format, &size);
                pixels.resize(size);
                JxlDecoderSetImageOutBuffer(decoder.get(), &format, pixels.data(), size);
                break;
            }
            case JXL_DEC_FULL_IMAGE: alive(); break;
            case JXL_DEC_NEED_MORE_INPUT: {
                if (upTo >= file.size()) return broken();
                const auto left = JxlDecoderReleaseInput(decoder.get());
                portion.erase(portion.begin(), portion.end() - static_cast<std::ptrdiff_t>(left));
                const auto count = static_cast<std::size_t>(std::min(kPortion, file.size() - upTo));
                portion.resize(left + count);
                file.read(upTo, MutableBytes(portion).subspan(left));
                upTo += count;
                JxlDecoderSetInput(decoder.get(), portion.data(), portion.size());
                if (upTo == file.size()) JxlDecoderCloseInput(decoder.get());
                break;
            }
            default: return broken();
        }
    }
}

}  // namespace dreskel::media
