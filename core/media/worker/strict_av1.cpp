#include "media/worker/strict_av1.h"

#include <cstring>

#include "media/worker/av_input.h"

namespace dreskel::media {

const AVCodec* strictAv1Decoder() {
    return avcodec_find_decoder_by_name("libaom-av1");
}

std::string complaintAboutAv1(Bytes units) {
    const auto* codec = strictAv1Decoder();
    if (codec == nullptr || units.empty()) return {};
    const CodecPointer context(avcodec_alloc_context3(codec));
    const PacketPointer packet(av_packet_alloc());
    const FramePointer frame(av_frame_alloc());
    if (!context || !packet || !frame || avcodec_open2(context.get(), codec, nullptr) < 0 ||
        av_new_packet(packet.get(), static_cast<int>(units.size())) < 0)
        return {};
    std::memcpy(packet->data, units.data(), units.size());
    takeLibraryLog();
    const bool taken = avcodec_send_packet(context.get(), packet.get()) >= 0;
    avcodec_send_packet(context.get(), nullptr);
    const bool shown = taken && avcodec_receive_frame(context.get(), frame.get()) >= 0;
    const auto log = takeLibraryLog();
    return shown && log.errors == 0 ? "" : "its coded data do not end with the picture";
}

}  // namespace dreskel::media
