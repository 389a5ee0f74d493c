#include "demo/encode_clip.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/opt.h>
#include <libswscale/swscale.h>
}

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include "demo/noise.h"

namespace dreskel::demo {
namespace {

constexpr int kFramesPerSecond = 25;
constexpr int kRate = 48000;

// Pictures over time. Close-ups are drawn anew; wide views are drawn once, larger, and panned over, with the
// water moved row by row, which is much faster.
class Scenery {
  public:
    explicit Scenery(const ClipPlan& plan) : plan_(plan) {
        live_ = plan.view.subject == Subject::Wheel || plan.view.subject == Subject::Sluice;
        if (!live_) backdrop_ = draw(plan.view, plan.width * 5 / 4, plan.height * 5 / 4, 0, 0);
    }

    Image frame(int number) const {
        const float time = static_cast<float>(number) / kFramesPerSecond;
        if (live_) {
            auto view = plan_.view;
            view.wheelTurn = time * 0.6F;
            return draw(view, plan_.width, plan_.height, time, 3);
        }
        Image image{plan_.width, plan_.height, {}};
        image.rgb.resize(static_cast<std::size_t>(plan_.width) * static_cast<std::size_t>(plan_.height) * 3);
        const auto spareX = static_cast<float>(backdrop_.width - plan_.width);
        const auto spareY = static_cast<float>(backdrop_.height - plan_.height);
        const float panX =
            spareX * (0.5F + 0.45F * std::sin(time * 0.5F + static_cast<float>(plan_.view.seed)));
        const float panY = spareY * (0.5F + 0.05F * std::sin(time * 2.3F));
        std::uint32_t state = static_cast<std::uint32_t>(number) * 2654435761U + plan_.view.seed;
        auto* out = image.rgb.data();
        for (int y = 0; y < plan_.height; ++y) {
            const float sy = static_cast<float>(y) + panY;
            const float below = sy / static_cast<float>(backdrop_.height) - 0.69F;
            float shift = 0;
            if (below > 0) shift = (2 + 30 * below) * std::sin(sy * 0.55F / (0.2F + below * 3) + time * 3.1F);
            const int row = std::clamp(static_cast<int>(sy), 0, backdrop_.height - 1);
            for (int x = 0; x < plan_.width; ++x) {
                const int column = std::clamp(static_cast<int>(static_cast<float>(x) + panX + shift), 0,
                                              backdrop_.width - 1);
                const auto* from = backdrop_.rgb.data() + (static_cast<std::size_t>(row) *
                                                               static_cast<std::size_t>(backdrop_.width) +
                                                           static_cast<std::size_t>(column)) *
                                                              3;
                state = state * 1664525U + 1013904223U;
                const int grain = static_cast<int>(state >> 29) - 3;
                for (int c = 0; c < 3; ++c)
                    *out++ = static_cast<std::uint8_t>(std::clamp(from[c] + grain, 0, 255));
            }
        }
        return image;
    }

  private:
    const ClipPlan& plan_;
    bool live_ = false;
    Image backdrop_;
};

class Muxer {
  public:
    explicit Muxer(const ClipPlan& plan) : plan_(plan) {}
    ~Muxer() {
        avcodec_free_context(&video_);
        avcodec_free_context(&audio_);
        if (context_ != nullptr) avformat_free_context(context_);
        av_frame_free(&frame_);
        av_packet_free(&packet_);
        sws_freeContext(scaler_);
    }

    std::vector<std::uint8_t> run() {
        if (!open()) return {};
        const Scenery scenery(plan_);
        const auto sound = waterAndWheel(plan_.view.seed, plan_.seconds, kRate);
        const int frames = static_cast<int>(plan_.seconds * kFramesPerSecond);
        std::size_t heard = 0;
        for (int i = 0; i < frames; ++i) {
            addPicture(scenery.frame(i), i);
            const auto until = static_cast<std::size_t>((i + 1) * kRate / kFramesPerSecond);
            const auto step = static_cast<std::size_t>(audio_->frame_size > 0 ? audio_->frame_size : 1024);
            for (; heard + step <= std::min(until, sound.size()); heard += step)
                addSound(sound.data() + heard, step, heard);
        }
        send(video_, nullptr, 0);
        send(audio_, nullptr, 1);
        av_write_trailer(context_);
        std::uint8_t* data = nullptr;
        const int size = avio_close_dyn_buf(context_->pb, &data);
        context_->pb = nullptr;
        std::vector<std::uint8_t> bytes(data, data + size);
        av_free(data);
        return bytes;
    }

  private:
    bool open() {
        if (avformat_alloc_output_context2(&context_, nullptr, plan_.quickTime ? "mov" : "mp4", nullptr) < 0)
            return false;
        const auto* videoCodec = avcodec_find_encoder_by_name("libx264");
        const auto* audioCodec =
            avcodec_find_encoder(plan_.quickTime ? AV_CODEC_ID_PCM_S16LE : AV_CODEC_ID_AAC);
        if (videoCodec == nullptr || audioCodec == nullptr) return false;
        context_->flags |= AVFMT_FLAG_BITEXACT;

        video_ = avcodec_alloc_context3(videoCodec);
        video_->width = plan_.width;
        video_->height = plan_.height;
        video_->pix_fmt = AV_PIX_FMT_YUV420P;
        video_->time_base = {1, kFramesPerSecond};
        video_->framerate = {kFramesPerSecond, 1};
        video_->bit_rate = 6000000;
        video_->gop_size = kFramesPerSecond;
        video_->max_b_frames = plan_.bFrames;
        video_->thread_count = 1;
        video_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER | AV_CODEC_FLAG_BITEXACT;
        av_opt_set(video_->priv_data, "preset", "veryfast", 0);
        if (avcodec_open2(video_, videoCodec, nullptr) < 0) return false;

        audio_ = avcodec_alloc_context3(audioCodec);
        audio_->sample_rate = kRate;
        av_channel_layout_default(&audio_->ch_layout, 1);
        audio_->sample_fmt = plan_.quickTime ? AV_SAMPLE_FMT_S16 : AV_SAMPLE_FMT_FLTP;
        audio_->bit_rate = 96000;
        audio_->time_base = {1, kRate};
        audio_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER | AV_CODEC_FLAG_BITEXACT;
        if (avcodec_open2(audio_, audioCodec, nullptr) < 0) return false;

        for (auto* codec : {video_, audio_}) {
            auto* stream = avformat_new_stream(context_, nullptr);
            if (stream == nullptr || avcodec_parameters_from_context(stream->codecpar, codec) < 0)
                return false;
            stream->time_base = codec->time_base;
        }
        std::array<char, 32> time{};
        std::tm parts{};
        gmtime_r(&plan_.taken, &parts);
        std::strftime(time.data(), time.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
        av_dict_set(&context_->metadata, "creation_time", time.data(), 0);
        av_dict_set(&context_->metadata, "make", plan_.make.c_str(), 0);
        av_dict_set(&context_->metadata, "model", plan_.model.c_str(), 0);
        if (avio_open_dyn_buf(&context_->pb) < 0 || avformat_write_header(context_, nullptr) < 0)
            return false;
        frame_ = av_frame_alloc();
        packet_ = av_packet_alloc();
        scaler_ = sws_getContext(plan_.width, plan_.height, AV_PIX_FMT_RGB24, plan_.width, plan_.height,
                                 AV_PIX_FMT_YUV420P, SWS_BILINEAR, nullptr, nullptr, nullptr);
        return frame_ != nullptr && packet_ != nullptr && scaler_ != nullptr;
    }

    void addPicture(const Image& image, int number) {
        av_frame_unref(frame_);
        frame_->width = plan_.width;
        frame_->height = plan_.height;
        frame_->format = AV_PIX_FMT_YUV420P;
        av_frame_get_buffer(frame_, 0);
        const std::array<const std::uint8_t*, 1> from{image.rgb.data()};
        const std::array<int, 1> stride{plan_.width * 3};
        sws_scale(scaler_, from.data(), stride.data(), 0, plan_.height, frame_->data, frame_->linesize);
        frame_->pts = number;
        send(video_, frame_, 0);
    }

    void addSound(const float* samples, std::size_t count, std::size_t at) {
        av_frame_unref(frame_);
        frame_->nb_samples = static_cast<int>(count);
        frame_->format = audio_->sample_fmt;
        frame_->sample_rate = kRate;
        av_channel_layout_copy(&frame_->ch_layout, &audio_->ch_layout);
        av_frame_get_buffer(frame_, 0);
        if (audio_->sample_fmt == AV_SAMPLE_FMT_FLTP) {
            std::copy_n(samples, count, reinterpret_cast<float*>(frame_->data[0]));
        } else {
            auto* out = reinterpret_cast<std::int16_t*>(frame_->data[0]);
            for (std::size_t i = 0; i < count; ++i) out[i] = static_cast<std::int16_t>(samples[i] * 32000);
        }
        frame_->pts = static_cast<std::int64_t>(at);
        send(audio_, frame_, 1);
    }

    void send(AVCodecContext* codec, AVFrame* frame, int stream) {
        if (avcodec_send_frame(codec, frame) < 0) return;
        while (avcodec_receive_packet(codec, packet_) >= 0) {
            packet_->stream_index = stream;
            av_packet_rescale_ts(packet_, codec->time_base, context_->streams[stream]->time_base);
            av_interleaved_write_frame(context_, packet_);
        }
    }

    const ClipPlan& plan_;
    AVFormatContext* context_ = nullptr;
    AVCodecContext* video_ = nullptr;
    AVCodecContext* audio_ = nullptr;
    AVFrame* frame_ = nullptr;
    AVPacket* packet_ = nullptr;
    SwsContext* scaler_ = nullptr;
};

}  // namespace

std::vector<std::uint8_t> encodeClip(const ClipPlan& plan) {
    av_log_set_level(AV_LOG_QUIET);
    return Muxer(plan).run();
}

}  // namespace dreskel::demo
