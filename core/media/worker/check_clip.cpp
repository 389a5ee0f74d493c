extern "C" {
#include <libavutil/pixdesc.h>
#include <libswresample/swresample.h>
}

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <nlohmann/json.hpp>
#include <utility>

#include "media/worker/av_input.h"
#include "media/worker/foreign_samples.h"
#include "media/worker/frame_picture.h"
#include "media/worker/moving_jxl.h"
#include "media/worker/recording_facts.h"
#include "media/worker/strict.h"
#include "media/worker/tasks.h"
#include "media/worker/undecoded.h"

namespace dreskel::media {
namespace {

constexpr std::size_t kStretches = 64;
constexpr std::size_t kPeakStretches = 256;
constexpr int kThumbnailSide = 512;
constexpr double kLater = 0.2;  // share of a clip from which a thumbnail says more than its first frame
constexpr std::uint64_t kAlsoDecoded = 120;  // packets of a stream

// As the trade writes them.
std::string codecText(AVCodecID id) {
    switch (id) {
        case AV_CODEC_ID_H264: return "H.264";
        case AV_CODEC_ID_HEVC: return "HEVC";
        case AV_CODEC_ID_MJPEG: return "Motion JPEG";
        case AV_CODEC_ID_MPEG1VIDEO: return "MPEG-1";
        case AV_CODEC_ID_MPEG2VIDEO: return "MPEG-2";
        case AV_CODEC_ID_MPEG4: return "MPEG-4 Visual";
        case AV_CODEC_ID_VP8: return "VP8";
        case AV_CODEC_ID_VP9: return "VP9";
        case AV_CODEC_ID_AV1: return "AV1";
        case AV_CODEC_ID_AAC: return "AAC";
        case AV_CODEC_ID_AC3: return "AC-3";
        case AV_CODEC_ID_MP2: return "MPEG audio";
        case AV_CODEC_ID_MP3: return "MP3";
        case AV_CODEC_ID_VORBIS: return "Vorbis";
        case AV_CODEC_ID_OPUS: return "Opus";
        case AV_CODEC_ID_FLAC: return "FLAC";
        default: break;
    }
    if (av_get_exact_bits_per_sample(id) >= 8) return "PCM";
    std::string name = avcodec_get_name(id);
    for (auto& letter : name) {
        if (letter >= 'a' && letter <= 'z') letter = static_cast<char>(letter - 32);
    }
    return name;
}

struct Tally {
    std::array<std::uint32_t, kStretches> good{}, bad{};
    std::uint64_t goodTotal = 0, badTotal = 0;

    void count(double share, bool fine) {
        const auto at = std::min(kStretches - 1, static_cast<std::size_t>(std::max(0.0, share) * kStretches));
        ++(fine ? good : bad)[at];
        ++(fine ? goodTotal : badTotal);
    }
};

// Lowest and highest sample of each stretch, mixed to one channel.
class Peaks {
  public:
    ~Peaks() { swr_free(&mixer_); }

    void add(const AVFrame& frame, double share, double shareOfFrame) {
        if (mixer_ == nullptr && !begin(frame)) return;
        mono_.resize(static_cast<std::size_t>(frame.nb_samples) + 64);
        std::array<std::uint8_t*, 1> out{reinterpret_cast<std::uint8_t*>(mono_.data())};
        const int got = swr_convert(mixer_, out.data(), static_cast<int>(mono_.size()),
                                    const_cast<const std::uint8_t**>(frame.extended_data), frame.nb_samples);
        const double from = std::max(0.0, share * kPeakStretches);
        const double step = got > 0 ? shareOfFrame * kPeakStretches / got : 0;  // stretches a sample
        for (int i = 0; i < got;) {
            const auto at = std::min(kPeakStretches - 1, static_cast<std::size_t>(from + step * i));
            // The first sample of the next stretch.
            const double next = step > 0 ? std::ceil((static_cast<double>(at + 1) - from) / step) : got;
            const int end =
                at + 1 < kPeakStretches && next < got ? std::max(i + 1, static_cast<int>(next)) : got;
            const auto [low, high] = std::minmax_element(mono_.begin() + i, mono_.begin() + end);
            lowest_[at] = std::min(lowest_[at], *low);
            highest_[at] = std::max(highest_[at], *high);
            i = end;
        }
        any_ = any_ || got > 0;
    }

    std::vector<std::int8_t> values() const {
        std::vector<std::int8_t> all;
        if (!any_) return all;
        for (std::size_t i = 0; i < kPeakStretches; ++i) {
            for (const auto value : {lowest_[i], highest_[i]}) {
                all.push_back(static_cast<std::int8_t>(std::lround(std::clamp(value, -1.0F, 1.0F) * 127)));
            }
        }
        return all;
    }

  private:
    bool begin(const AVFrame& frame) {
        AVChannelLayout mono{};
        av_channel_layout_default(&mono, 1);
        AVChannelLayout from{};
        av_channel_layout_default(&from, frame.ch_layout.nb_channels);
        const int outcome =
            swr_alloc_set_opts2(&mixer_, &mono, AV_SAMPLE_FMT_FLT, frame.sample_rate, &from,
                                static_cast<AVSampleFormat>(frame.format), frame.sample_rate, 0, nullptr);
        return outcome >= 0 && swr_init(mixer_) >= 0;
    }

    SwrContext* mixer_ = nullptr;
    std::vector<float> mono_;
    std::array<float, kPeakStretches> lowest_{}, highest_{};
    bool any_ = false;
};

// What only our own parser complained of while the decoder looked at the same packets. It is judged when the
// decoder stops: a parser that does not understand an encoder finds much, and from the beginning on, where
// foreign bytes mostly make both complain, and in a few pictures.
struct Trial {
    static constexpr std::uint64_t kMuch = 8;

    std::uint64_t ours = 0, both = 0, packets = 0;
    std::vector<double> shares;  // of the clip, where ours were
    std::string first;
    bool over = false;

    bool understood() const { return ours < kMuch || ours * 4 < packets || ours <= 2 * both; }
};

struct Stream {
    CodecPointer codec;
    std::optional<PictureStrictness> strictness;
    Trial trial;
    bool allFollowed = true;     // every packet so far, by our own parser
    bool starved = false;        // the decoder was not given all of them
    std::uint64_t expected = 0;  // packets that the index announces
    std::uint64_t seen = 0;
    bool stored = false;     // a picture of samples as they are
    bool lossless = false;   // sound that any bytes decode to; then it is judged by what it sounds like
    bool patterned = false;  // see undecoded.h
    std::uint64_t soundFrames = 0, noiseFrames = 0;
};

// How much the pictures of a stretch jump: from one to the next, and at the borders of blocks. Of two
// stretches that both decode without complaint the true one jumps less.
class Roughness {
  public:
    void add(const AVFrame& frame) {
        const auto* about = av_pix_fmt_desc_get(static_cast<AVPixelFormat>(frame.format));
        if (about == nullptr || about->comp[0].depth > 8 || (about->flags & AV_PIX_FMT_FLAG_PLANAR) == 0)
            return;
        std::vector<std::uint8_t> now;
        double border = 0;
        double inside = 0;
        for (int y = 0; y < frame.height; y += kStep) {
            const auto* row = frame.data[0] + static_cast<std::ptrdiff_t>(y) * frame.linesize[0];
            for (int x = kBlock; x + 1 < frame.width; x += kBlock) {
                border += std::abs(row[x] - row[x - 1]);
                inside += std::abs(row[x + 1] - row[x]);
                now.push_back(row[x]);
            }
        }
        if (now.empty()) return;
        const auto count = static_cast<double>(now.size());
        sum_ += std::max(0.0, border - inside) / count;
        if (before_.size() == now.size()) {
            double jump = 0;
            for (std::size_t i = 0; i < now.size(); ++i) jump += std::abs(now[i] - before_[i]);
            sum_ += jump / count;
        }
        before_.swap(now);
        ++frames_;
    }
    double value() const { return frames_ == 0 ? 1e9 : sum_ / frames_; }

  private:
    static constexpr int kStep = 4, kBlock = 8;  // pixels
    std::vector<std::uint8_t> before_;
    double sum_ = 0;
    int frames_ = 0;
};

class Checker {
  public:
    // `between`: only the samples that reach into these bytes of the file; length 0: all.
    Checker(AvInput& input, ByteRange between, const SignOfLife& alive)
        : input_(input), between_(between), alive_(alive) {}

    Message run();

  private:
    void decode(Stream& stream, const AVStream& about, const AVPacket* packet);
    bool needsDecoder(const Stream& stream) const;
    void showKey(Stream& stream, const AVStream& about, const AVPacket& packet);
    bool endTrial(Stream& stream);  // whether the stream is understood
    void blame(const AVPacket* packet);
    double shareAt(const AVStream& about, std::int64_t timestamp) const {
        if (timestamp == AV_NOPTS_VALUE || duration_ <= 0) return 0;
        return static_cast<double>(timestamp) * av_q2d(about.time_base) / duration_;
    }

    // Goes to the last key frame in front of what is asked for; gives the stream that tells when it is over.
    int seek() const;

    AvInput& input_;
    ByteRange between_;
    const SignOfLife& alive_;
    double duration_ = 0;
    Tally tally_;
    Peaks peaks_;
    Roughness roughness_;
    Picture thumbnail_;
    bool laterThumbnail_ = false;
    std::string firstError_;
    RangeSet faults_;  // bytes of the file that packets with something wrong take
    FramePointer frame_{av_frame_alloc()};
};

// What was followed to its last bit needs no decoder. It is wanted for the thumbnail, and for the beginning,
// where what the decoder makes of the settings shows.
bool Checker::needsDecoder(const Stream& stream) const {
    return !stream.allFollowed || between_.length > 0 || stream.seen <= kAlsoDecoded;
}

void Checker::showKey(Stream& stream, const AVStream& about, const AVPacket& packet) {
    if (laterThumbnail_ || (packet.flags & AV_PKT_FLAG_KEY) == 0 || shareAt(about, packet.dts) < kLater)
        return;
    avcodec_flush_buffers(stream.codec.get());
    avcodec_send_packet(stream.codec.get(), &packet);
    avcodec_send_packet(stream.codec.get(), nullptr);
    if (avcodec_receive_frame(stream.codec.get(), frame_.get()) >= 0) {
        laterThumbnail_ = true;
        thumbnail_ = pictureFromFrame(*frame_, kThumbnailSide);
        av_frame_unref(frame_.get());
    }
    avcodec_flush_buffers(stream.codec.get());
    takeLibraryLog();
}

void Checker::blame(const AVPacket* packet) {
    if (packet == nullptr || packet->pos < 0 || packet->size <= 0) return;
    faults_.add({static_cast<std::uint64_t>(packet->pos), static_cast<std::uint64_t>(packet->size)});
}

bool Checker::endTrial(Stream& stream) {
    const bool understood = stream.trial.understood();
    if (std::exchange(stream.trial.over, true)) return understood;
    if (!understood) stream.strictness->giveUp();
    for (const auto share : stream.trial.shares) tally_.count(share, !understood);
    if (understood && firstError_.empty()) firstError_ = stream.trial.first;
    return understood;
}

void Checker::decode(Stream& stream, const AVStream& about, const AVPacket* packet) {
    const bool picture = about.codecpar->codec_type == AVMEDIA_TYPE_VIDEO;
    std::string complaint;
    std::string ours;  // kept apart while the decoder looks, too
    if (packet != nullptr) {
        const Bytes bytes(packet->data, static_cast<std::size_t>(packet->size));
        complaint = complaintAbout(bytes, *about.codecpar);
        auto verdict = stream.strictness->on(bytes);
        if (stream.seen > kAlsoDecoded && !endTrial(stream)) verdict = {};
        stream.allFollowed = stream.allFollowed && verdict.followed;
        const bool alone = !needsDecoder(stream);
        if (complaint.empty())
            (alone || between_.length > 0 ? complaint : ours) = std::move(verdict.complaint);
        if (!complaint.empty() && firstError_.empty()) firstError_ = complaint;
        if (alone) {
            stream.starved = true;
            showKey(stream, about, *packet);
        } else if (stream.starved && (packet->flags & AV_PKT_FLAG_KEY) != 0) {
            avcodec_flush_buffers(stream.codec.get());
            stream.starved = false;
        }
        // A decoder that has missed pictures has nothing to say until it can begin anew.
        if (!complaint.empty()) blame(packet);
        if (stream.starved) return tally_.count(shareAt(about, packet->dts), complaint.empty());
    }
    int outcome = avcodec_send_packet(stream.codec.get(), packet);
    bool fine = outcome >= 0 && complaint.empty();
    while (outcome >= 0) {
        outcome = avcodec_receive_frame(stream.codec.get(), frame_.get());
        if (outcome < 0) break;
        fine = fine && frame_->decode_error_flags == 0 && (frame_->flags & AV_FRAME_FLAG_CORRUPT) == 0;
        const auto share = shareAt(about, frame_->best_effort_timestamp);
        if (picture) {
            if (stream.patterned && hasUndecodedBlocks(*frame_)) {
                fine = false;
                if (firstError_.empty()) firstError_ = "part of a picture is not in its data";
            }
            if (stream.stored && holdsForeignSamples(*frame_)) {
                fine = false;
                if (firstError_.empty()) firstError_ = "other data lie among its samples";
            }
            if (between_.length > 0) roughness_.add(*frame_);
            // The first frame is often black; one from a little later says more.
            if (thumbnail_.rgb.empty() || (share >= kLater && !laterThumbnail_)) {
                laterThumbnail_ = share >= kLater;
                thumbnail_ = pictureFromFrame(*frame_, kThumbnailSide);
            }
        } else {
            const auto length = static_cast<double>(frame_->nb_samples) / std::max(1, frame_->sample_rate);
            peaks_.add(*frame_, share, duration_ > 0 ? length / duration_ : 0);
            if (stream.lossless) {
                ++stream.soundFrames;
                stream.noiseFrames += soundsForeign(*frame_) ? 1 : 0;
            }
        }
        av_frame_unref(frame_.get());
    }
    if (outcome != AVERROR(EAGAIN) && outcome != AVERROR_EOF && outcome < 0) fine = false;
    const auto log = takeLibraryLog();
    if (log.errors > 0) {
        fine = false;
        if (firstError_.empty()) firstError_ = log.first;
    }
    if (packet != nullptr && !stream.trial.over) ++stream.trial.packets;
    if (!fine || !ours.empty()) blame(packet);
    if (!ours.empty() && fine) {
        ++stream.trial.ours;
        stream.trial.shares.push_back(shareAt(about, packet->dts));
        if (stream.trial.first.empty()) stream.trial.first = ours;
        return;
    }
    stream.trial.both += ours.empty() ? 0 : 1;
    if (!fine && firstError_.empty()) firstError_ = ours.empty() ? "a frame does not decode cleanly" : ours;
    if (packet != nullptr || !fine) tally_.count(packet != nullptr ? shareAt(about, packet->dts) : 1.0, fine);
}

int Checker::seek() const {
    auto* context = input_.context();
    const int index = av_find_best_stream(context, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
    if (index < 0) return -1;
    auto* stream = context->streams[index];
    const int count = avformat_index_get_entries_count(stream);
    for (int i = 0; i < count; ++i) {
        const auto* entry = avformat_index_get_entry(stream, i);
        if (static_cast<std::uint64_t>(entry->pos + entry->size) <= between_.offset) continue;
        // With the picture in front of it, which it is compared with.
        entry = avformat_index_get_entry(stream, std::max(0, i - 1));
        av_seek_frame(context, index, entry->timestamp, AVSEEK_FLAG_BACKWARD);
        break;
    }
    return index;
}

Message Checker::run() {
    auto* context = input_.context();
    duration_ = input_.duration();
    std::vector<Stream> streams(context->nb_streams);
    Message reply;
    auto& head = reply.head;
    std::string codecs;
    for (unsigned i = 0; i < context->nb_streams; ++i) {
        const auto& stream = *context->streams[i];
        const auto type = stream.codecpar->codec_type;
        if (type != AVMEDIA_TYPE_VIDEO && type != AVMEDIA_TYPE_AUDIO) continue;
        // Cover art is decoded as everything is, but it does not say what the clip is like.
        const bool cover = (stream.disposition & AV_DISPOSITION_ATTACHED_PIC) != 0;
        const auto* about = avcodec_descriptor_get(stream.codecpar->codec_id);
        streams[i].stored =
            stream.codecpar->codec_id == AV_CODEC_ID_BMP || stream.codecpar->codec_id == AV_CODEC_ID_TIFF;
        streams[i].lossless =
            type == AVMEDIA_TYPE_AUDIO && about != nullptr && (about->props & AV_CODEC_PROP_LOSSY) == 0;
        streams[i].codec = input_.strictDecoderFor(stream);
        streams[i].strictness.emplace(*stream.codecpar);
        streams[i].patterned = streams[i].codec && stream.codecpar->codec_id == AV_CODEC_ID_HEVC;
        if (streams[i].patterned) patternBuffers(*streams[i].codec);
        const std::string codec = codecText(stream.codecpar->codec_id);
        if (codecs.find(codec) == std::string::npos) codecs += (codecs.empty() ? "" : ", ") + codec;
        streams[i].expected =
            static_cast<std::uint64_t>(std::max(0, avformat_index_get_entries_count(&stream)));
        if (type == AVMEDIA_TYPE_VIDEO && !cover && !head.contains("stream_width")) {
            head["stream_width"] = stream.codecpar->width;
            head["stream_height"] = stream.codecpar->height;
            // The average is a little off where the last frame has no length; the base rate is exact if it
            // fits.
            const double average = stream.avg_frame_rate.den > 0 ? av_q2d(stream.avg_frame_rate) : 0;
            const double base = stream.r_frame_rate.den > 0 ? av_q2d(stream.r_frame_rate) : 0;
            if (average > 0) head["frame_rate"] = std::abs(base - average) < average * 0.05 ? base : average;
        }
        if (!streams[i].codec) {
            head["no_decoder"] = true;
        }
    }
    head["codec"] = codecs;
    const auto recording = whatItSays(*context);
    head["taken"] = recording.taken;
    head["camera"] = recording.camera;
    takeLibraryLog();

    const PacketPointer packet(av_packet_alloc());
    auto lastSign = std::chrono::steady_clock::now();
    const bool part = between_.length > 0;
    const int leading = part ? seek() : -1;
    while (av_read_frame(context, packet.get()) >= 0) {
        if (packet->stream_index == leading && packet->pos >= static_cast<std::int64_t>(between_.end()))
            break;
        // Foreign packets may bring streams of their own, long after the beginning.
        const auto index = static_cast<std::size_t>(packet->stream_index);
        if (index >= streams.size()) {
            ++tally_.badTotal;
            if (firstError_.empty()) firstError_ = "a stream that was not there at its beginning";
            av_packet_unref(packet.get());
            continue;
        }
        auto& stream = streams[index];
        if (stream.codec) {
            ++stream.seen;
            const bool cut = (packet->flags & AV_PKT_FLAG_CORRUPT) != 0;
            decode(stream, *context->streams[packet->stream_index], packet.get());
            if (cut) ++tally_.badTotal;
        }
        av_packet_unref(packet.get());
        if (std::chrono::steady_clock::now() - lastSign > std::chrono::seconds(1)) {
            alive_();
            lastSign = std::chrono::steady_clock::now();
        }
    }
    bool opened = false;
    for (std::size_t i = 0; i < streams.size(); ++i) {
        if (!streams[i].codec) continue;
        opened = opened || streams[i].seen > 0;
        endTrial(streams[i]);
        decode(streams[i], *context->streams[i], nullptr);
        // Noise among sound is what foreign bytes decode to; a recording of noise is noise throughout.
        if (streams[i].noiseFrames * 2 < streams[i].soundFrames) {
            tally_.badTotal += streams[i].noiseFrames;
            if (streams[i].noiseFrames > 0 && firstError_.empty())
                firstError_ = "stretches of its sound are not this recording";
        }
        if (!part && streams[i].expected > streams[i].seen) {
            tally_.badTotal += streams[i].expected - streams[i].seen;
            if (firstError_.empty()) firstError_ = "samples that the index announces are not there";
        }
    }
    const auto all = tally_.goodTotal + tally_.badTotal;
    head["opened"] = opened;
    head["errors"] = tally_.badTotal;
    head["first_error"] = firstError_;
    head["decoded"] = all == 0 ? 0.0 : static_cast<double>(tally_.goodTotal) / static_cast<double>(all);
    std::vector<int> map;
    for (std::size_t i = 0; i < kStretches; ++i) {
        const auto here = tally_.good[i] + tally_.bad[i];
        // A stretch with no packet of its own shares the fate of the one before.
        map.push_back(here > 0      ? static_cast<int>(255 * tally_.good[i] / here)
                      : map.empty() ? 255
                                    : map.back());
    }
    head["map"] = map;
    // As many as there may be; a clip with more is damaged nearly everywhere.
    constexpr std::size_t kMostFaults = 5000;
    auto faults = nlohmann::json::array();
    for (const auto& range : faults_.ranges()) {
        if (faults.size() < kMostFaults) faults.push_back({range.offset, range.length});
    }
    head["faults"] = std::move(faults);
    if (part) head["roughness"] = roughness_.value();
    head["peaks"] = peaks_.values();
    if (duration_ > 0) head["duration"] = duration_;
    head["width"] = thumbnail_.width;
    head["height"] = thumbnail_.height;
    reply.payload = std::move(thumbnail_.rgb);
    return reply;
}

// Of a moving photo.
void lookAtFurtherFrames(CardView& card, const Message& request, const SignOfLife& alive, Message& report) {
    PieceReader reader(card, piecesOf(request));
    const auto broken = brokenFrameOf(reader, alive);
    if (!broken) return;
    auto& head = report.head;
    head["errors"] = head.value("errors", 0) + 1;
    if (head.value("first_error", std::string()).empty())
        head["first_error"] = "a frame of it does not decode";
    head["decoded"] = std::min(head.value("decoded", 0.0), *broken);
}

}  // namespace

Message checkClip(CardView& card, const Message& request, const SignOfLife& alive) {
    takeLibraryLog();
    AvInput input(card, piecesOf(request));
    const auto format = request.head.value("format", std::string());
    if (!input.open(format)) {
        const auto log = takeLibraryLog();
        return {{{"opened", false},
                 {"errors", 1},
                 {"first_error", log.first.empty() ? "it does not open" : log.first}},
                {}};
    }
    const ByteRange between{request.head.value("from", std::uint64_t{0}),
                            request.head.value("length", std::uint64_t{0})};
    auto report = Checker(input, between, alive).run();
    if (format == "jxl") lookAtFurtherFrames(card, request, alive, report);
    return report;
}

}  // namespace dreskel::media
