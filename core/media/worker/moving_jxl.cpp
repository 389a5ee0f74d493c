#include "media/worker/moving_jxl.h"

#include <jxl/decode.h>

#include <memory>
#include <vector>

namespace dreskel::media {

std::optional<double> brokenFrameOf(Bytes file, const SignOfLife& alive) {
    const std::unique_ptr<JxlDecoder, void (*)(JxlDecoder*)> decoder(JxlDecoderCreate(nullptr),
                                                                     JxlDecoderDestroy);
    if (!decoder ||
        JxlDecoderSubscribeEvents(decoder.get(), JXL_DEC_BASIC_INFO | JXL_DEC_FULL_IMAGE) != JXL_DEC_SUCCESS)
        return std::nullopt;
    JxlDecoderSetInput(decoder.get(), file.data(), file.size());
    JxlDecoderCloseInput(decoder.get());
    const JxlPixelFormat format{4, JXL_TYPE_UINT8, JXL_NATIVE_ENDIAN, 0};
    std::vector<std::uint8_t> pixels;
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
            default:
                return 1 - static_cast<double>(JxlDecoderReleaseInput(decoder.get())) /
                               static_cast<double>(file.size());
        }
    }
}

}  // namespace dreskel::media
