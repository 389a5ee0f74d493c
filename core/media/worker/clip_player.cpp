#include "media/worker/clip_player.h"

extern "C" {
#include <libswresample/swresample.h>
}

#include <algorithm>
#include <deque>
#include <utility>

#include "media/decoder_process.h"
#include "media/worker/av_input.h"
#include "media/worker/frame_picture.h"

namespace dreskel::media {
namespace {

constexpr int kRate = DecoderProcess::kSoundRate;
constexpr int kChannels = DecoderProcess::kSoundChannels;
constexpr int kMostPackets = 6000;              // read for one stretch
constexpr std::size_t kMostBytes = 192U << 20;  // of decoded pictures that wait
constexpr int kLargestSide = 4096;              // pixels
static_assert((kLargestSide + 16) * std::size_t{kLargestSide} * 4 < SharedPictures::kSize);
constexpr double kApart = 0.04;  // seconds that sound may be off before it is cut or filled with silence

struct Waiting {
    double at = 0;
    FramePointer frame;
};

// Bytes of a decoded picture; planes of any format take at most four bytes a pixel, most half of that.
std::size_t sizeInMemory(const AVFrame& frame) {
    return static_cast<std::size_t>(std::max(0, frame.width)) *
           static_cast<std::size_t>(std::max(0, frame.height)) * 2;
}

}  // namespace

class ClipPlayer::Open {
  public:
    Open(std::shared_ptr<Source> source, const Message& request)
        : about_(aboutOf(request)), card_(std::move(source)), input_(card_, piecesOf(request)) {
        opened_ = input_.open(request.head.value("format", std::string()), false);
        if (!opened_) return;
        auto* context = input_.context();
        start_ = context->start_time == AV_NOPTS_VALUE
                     ? 0
                     : static_cast<double>(context->start_time) / AV_TIME_BASE;
        const auto choose = [&](AVMediaType type) {
            const int index = av_find_best_stream(context, type, -1, -1, nullptr, 0);
            const bool cover =
                index >= 0 && (context->streams[index]->disposition & AV_DISPOSITION_ATTACHED_PIC) != 0;
            return cover ? -1 : index;
        };
        video_.open(input_, choose(AVMEDIA_TYPE_VIDEO));
        audio_.open(input_, choose(AVMEDIA_TYPE_AUDIO));
    }
    ~Open() { swr_free(&mixer_); }
    Open(const Open&) = delete;
    Open& operator=(const Open&) = delete;

    bool isOf(const Message& request) const { return aboutOf(request) == about_; }
    bool plays() const { return opened_ && (video_.codec || audio_.codec); }
    void seek(double to);
    void goOn(const nlohmann::json& asked, std::span<std::uint8_t> memory, Message& reply);

  private:
    struct Stream {
        CodecPointer codec;
        int index = -1;
        double tick = 0;     // seconds
        double reached = 0;  // what is decoded so far
        bool over = true;

        void open(AvInput& input, int at) {
            if (at < 0) return;
            codec = input.decoderFor(*input.context()->streams[at], 2);
            if (!codec) return;
            codec->err_recognition = 0;  // to look at, also where it is damaged
            index = at;
            tick = av_q2d(input.context()->streams[at]->time_base);
            over = false;
        }
    };
    double timeOf(const Stream& stream, const AVFrame& frame) const {
        return frame.best_effort_timestamp == AV_NOPTS_VALUE
                   ? stream.reached
                   : static_cast<double>(frame.best_effort_timestamp) * stream.tick - start_;
    }
    void decode(Stream& stream, const AVPacket* packet);
    void hear(const AVFrame& frame);
    void decodeUntil();
    nlohmann::json leavePictures(std::span<std::uint8_t> memory);

    About about_;
    CardView card_;
    AvInput input_;
    bool opened_ = false;
    bool fresh_ = true;  // nothing was read since it was opened
    double start_ = 0, from_ = 0, until_ = 0;
    int side_ = 640;
    Stream video_, audio_;
    FrameScaler scaler_;
    SwrContext* mixer_ = nullptr;
    int mixerRate_ = 0, mixerChannels_ = 0, mixerFormat_ = -1;
    std::deque<Waiting> pictures_;
    std::vector<std::int16_t> sound_;  // interleaved, from soundAt_ on
    double soundAt_ = 0;
    const PacketPointer packet_{av_packet_alloc()};
    const FramePointer frame_{av_frame_alloc()};
};

void ClipPlayer::Open::seek(double to) {
    from_ = until_ = soundAt_ = std::max(0.0, to);
    pictures_.clear();
    sound_.clear();
    swr_free(&mixer_);
    mixerFormat_ = -1;
    const auto target = static_cast<std::int64_t>((start_ + from_) * AV_TIME_BASE);
    if (!std::exchange(fresh_, false) || from_ > 0)
        avformat_seek_file(input_.context(), -1, INT64_MIN, target, target, 0);
    for (auto* stream : {&video_, &audio_}) {
        if (!stream->codec) continue;
        avcodec_flush_buffers(stream->codec.get());
        stream->reached = 0;
        stream->over = false;
    }
}

void ClipPlayer::Open::hear(const AVFrame& frame) {
    if (mixerRate_ != frame.sample_rate || mixerChannels_ != frame.ch_layout.nb_channels ||
        mixerFormat_ != frame.format) {
        swr_free(&mixer_);
        AVChannelLayout to{};
        AVChannelLayout own{};
        av_channel_layout_default(&to, kChannels);
        av_channel_layout_default(&own, frame.ch_layout.nb_channels);
        if (swr_alloc_set_opts2(&mixer_, &to, AV_SAMPLE_FMT_S16, kRate, &own,
                                static_cast<AVSampleFormat>(frame.format), frame.sample_rate, 0,
                                nullptr) < 0 ||
            swr_init(mixer_) < 0)
            return;
        mixerRate_ = frame.sample_rate;
        mixerChannels_ = frame.ch_layout.nb_channels;
        mixerFormat_ = frame.format;
    }
    const auto at = timeOf(audio_, frame);
    const double length = static_cast<double>(frame.nb_samples) / std::max(1, frame.sample_rate);
    audio_.reached = at + length;
    if (at + length <= from_) return;
    std::vector<std::int16_t> mixed(static_cast<std::size_t>(swr_get_out_samples(mixer_, frame.nb_samples)) *
                                    kChannels);
    auto* out = reinterpret_cast<std::uint8_t*>(mixed.data());
    const int got = swr_convert(mixer_, &out, static_cast<int>(mixed.size() / kChannels),
                                const_cast<const std::uint8_t**>(frame.extended_data), frame.nb_samples);
    mixed.resize(static_cast<std::size_t>(std::max(0, got)) * kChannels);
    const auto samples = [](double seconds) {
        return static_cast<std::size_t>(std::clamp(seconds, 0.0, 30.0) * kRate) * kChannels;
    };
    const double expected = soundAt_ + static_cast<double>(sound_.size() / kChannels) / kRate;
    if (at > expected + kApart) sound_.resize(sound_.size() + samples(at - expected));
    const auto late = at < expected - kApart ? std::min(mixed.size(), samples(expected - at)) : 0;
    sound_.insert(sound_.end(), mixed.begin() + static_cast<std::ptrdiff_t>(late), mixed.end());
}

void ClipPlayer::Open::decode(Stream& stream, const AVPacket* packet) {
    if (!stream.codec) return;
    avcodec_send_packet(stream.codec.get(), packet);
    while (avcodec_receive_frame(stream.codec.get(), frame_.get()) >= 0) {
        if (&stream == &audio_) {
            hear(*frame_);
        } else {
            const auto at = timeOf(stream, *frame_);
            stream.reached = std::max(stream.reached, at);
            // Half a frame early is what was asked for.
            if (at >= from_ - 0.02) {
                Waiting next{at, FramePointer(av_frame_alloc())};
                if (next.frame) av_frame_move_ref(next.frame.get(), frame_.get());
                if (next.frame) pictures_.push_back(std::move(next));
            }
        }
        av_frame_unref(frame_.get());
    }
}

void ClipPlayer::Open::decodeUntil() {
    std::size_t bytes = 0;
    for (int packets = 0; packets < kMostPackets && bytes < kMostBytes; ++packets) {
        const bool seen = video_.over || video_.reached >= until_;
        const bool heard = audio_.over || audio_.reached >= until_;
        if (seen && heard) return;
        if (av_read_frame(input_.context(), packet_.get()) < 0) {
            for (auto* stream : {&video_, &audio_}) {
                decode(*stream, nullptr);
                stream->over = true;
            }
            return;
        }
        if (packet_->stream_index == video_.index) decode(video_, packet_.get());
        if (packet_->stream_index == audio_.index) decode(audio_, packet_.get());
        av_packet_unref(packet_.get());
        bytes = 0;
        for (const auto& waiting : pictures_) bytes += sizeInMemory(*waiting.frame);
    }
}

// What is shown before `until_`, or as much of it as there is room for: then `until_` is where that ends.
nlohmann::json ClipPlayer::Open::leavePictures(std::span<std::uint8_t> memory) {
    auto told = nlohmann::json::array();
    const bool over = video_.over && audio_.over;
    std::size_t offset = 0;
    for (; !pictures_.empty() && (over || pictures_.front().at < until_); pictures_.pop_front()) {
        const auto& [at, frame] = pictures_.front();
        const auto layout = FrameScaler::layoutOf(*frame, side_);
        if (!layout) continue;
        if (layout->size > memory.size() - offset) {
            until_ = at;
            break;
        }
        if (!scaler_.scale(*frame, *layout, memory.subspan(offset, layout->size))) continue;
        told.push_back({{"at", at},
                        {"width", layout->width},
                        {"height", layout->height},
                        {"stride", layout->stride},
                        {"offset", offset}});
        offset += layout->size;
    }
    return told;
}

void ClipPlayer::Open::goOn(const nlohmann::json& asked, std::span<std::uint8_t> memory, Message& reply) {
    side_ = std::clamp(asked.value("side", 640), 16, kLargestSide);
    until_ += std::clamp(asked.value("seconds", 0.25), 0.02, 2.0);
    if (video_.codec) {
        // Where decoding cannot keep up: pictures that no other one needs, and smoothing, are left out.
        const bool hurry = asked.value("hurry", false);
        video_.codec->skip_frame = hurry ? AVDISCARD_NONREF : AVDISCARD_DEFAULT;
        video_.codec->skip_loop_filter = hurry ? AVDISCARD_ALL : AVDISCARD_DEFAULT;
    }
    decodeUntil();
    takeLibraryLog();
    auto& head = reply.head;
    head["frames"] = leavePictures(memory);
    const bool over = video_.over && audio_.over && pictures_.empty();
    const double length = until_ - soundAt_;
    auto count = std::min(sound_.size(), static_cast<std::size_t>(std::max(0.0, length) * kRate) * kChannels);
    if (over) count = sound_.size();
    head["sound_at"] = soundAt_;
    head["until"] = until_;
    const auto* raw = reinterpret_cast<const std::uint8_t*>(sound_.data());
    reply.payload.assign(raw, raw + count * sizeof(std::int16_t));
    sound_.erase(sound_.begin(), sound_.begin() + static_cast<std::ptrdiff_t>(count));
    soundAt_ += static_cast<double>(count / kChannels) / kRate;
    head["ended"] = over;
    head["duration"] = input_.duration();
}

ClipPlayer::ClipPlayer(std::shared_ptr<Source> source, SharedPictures& memory)
    : source_(std::move(source)), memory_(memory) {}
ClipPlayer::~ClipPlayer() = default;

Message ClipPlayer::play(const Message& request) {
    Message reply;
    const auto from = request.head.find("from");
    if (from != request.head.end()) {
        // Another place of the same file needs no opening.
        if (!open_ || !open_->isOf(request)) open_ = std::make_unique<Open>(source_, request);
        if (!open_->plays()) open_.reset();
        if (open_) open_->seek(from->get<double>());
    }
    if (!open_ || memory_.bytes().empty()) {
        reply.head = {{"why", open_ ? "no memory for its pictures" : "nothing of it decodes"}};
        return reply;
    }
    open_->goOn(request.head, memory_.bytes(), reply);
    return reply;
}

}  // namespace dreskel::media
