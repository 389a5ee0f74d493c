#include <algorithm>

#include "media/worker/av_input.h"
#include "media/worker/frame_picture.h"
#include "media/worker/tasks.h"

namespace dreskel::media {
namespace {

// The first picture that decodes at or after a place in the clip, within a bounded number of packets.
Picture pictureAt(AVFormatContext& context, int stream, AVCodecContext& codec, std::int64_t timestamp,
                  int side, double& at) {
    constexpr int kMostPackets = 400;
    const PacketPointer packet(av_packet_alloc());
    const FramePointer frame(av_frame_alloc());
    if (avformat_seek_file(&context, stream, INT64_MIN, timestamp, timestamp, 0) < 0) return {};
    avcodec_flush_buffers(&codec);
    Picture best;
    for (int packets = 0; packets < kMostPackets && av_read_frame(&context, packet.get()) >= 0;) {
        const bool ours = packet->stream_index == stream;
        const int sent = ours ? avcodec_send_packet(&codec, packet.get()) : 0;
        av_packet_unref(packet.get());
        if (!ours) continue;
        ++packets;
        while (sent >= 0 && avcodec_receive_frame(&codec, frame.get()) >= 0) {
            const auto shown = frame->best_effort_timestamp;
            at = static_cast<double>(shown) * av_q2d(context.streams[stream]->time_base);
            if (best.rgb.empty() || shown >= timestamp) best = pictureFromFrame(*frame, side);
            av_frame_unref(frame.get());
            if (shown >= timestamp) return best;
        }
    }
    return best;
}

}  // namespace

Message clipFrames(CardView& card, const Message& request, const SignOfLife& alive) {
    Message reply{{{"frames", nlohmann::json::array()}}, {}};
    AvInput input(card, piecesOf(request));
    if (!input.open(request.head.value("format", std::string()))) return reply;
    auto* context = input.context();
    const int index = av_find_best_stream(context, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
    if (index < 0) return reply;
    const auto& stream = *context->streams[index];
    const auto codec = input.decoderFor(stream);
    if (!codec) return reply;
    codec->err_recognition = 0;  // to look at, also where it is damaged
    const auto start = stream.start_time == AV_NOPTS_VALUE ? 0 : stream.start_time;
    const auto length = input.duration() / av_q2d(stream.time_base);
    constexpr std::size_t kMost = 64;
    auto shares = request.head.value("times", std::vector<double>());  // of the length
    for (auto& time : shares) time /= std::max(input.duration(), 1e-3);
    if (shares.empty()) {
        const int count = std::clamp(request.head.value("count", 8), 1, static_cast<int>(kMost));
        for (int i = 0; i < count; ++i) shares.push_back((i + 0.5) / count);
    }
    shares.resize(std::min(shares.size(), kMost));
    const int side = std::clamp(request.head.value("side", 320), 16, 4096);
    for (std::size_t i = 0; i < shares.size(); ++i) {
        const auto target = start + static_cast<std::int64_t>(length * std::clamp(shares[i], 0.0, 1.0));
        double at = 0;
        auto picture = pictureAt(*context, index, *codec, target, side, at);
        alive();
        if (picture.rgb.empty()) continue;
        reply.head["frames"].push_back(
            {{"number", i}, {"at", at}, {"width", picture.width}, {"height", picture.height}});
        reply.payload.insert(reply.payload.end(), picture.rgb.begin(), picture.rgb.end());
    }
    takeLibraryLog();
    return reply;
}

}  // namespace dreskel::media
