#include "media/worker/av_input.h"

#include "media/worker/strict_av1.h"

#include <algorithm>
#include <array>
#include <cstdarg>
#include <cstdio>
#include <utility>

namespace dreskel::media {
namespace {

LogTally tally;

// The demuxer of libav for each short name; what lies in boxes is the rule.
const char* demuxerOf(const std::string& format) {
    constexpr std::array<std::pair<std::string_view, const char*>, 30> known{{
        {"wav", "wav"},        {"png", "png_pipe"},   {"gif", "gif"},         {"bmp", "bmp_pipe"},
        {"tiff", "tiff_pipe"}, {"webp", "webp_pipe"}, {"avi", "avi"},         {"mkv", "matroska"},
        {"webm", "matroska"},  {"wmv", "asf"},        {"wma", "asf"},         {"flv", "flv"},
        {"mxf", "mxf"},        {"dv", "dv"},          {"ts", "mpegts"},       {"m2ts", "mpegts"},
        {"mpg", "mpeg"},       {"mp3", "mp3"},        {"aac", "aac"},         {"amr", "amr"},
        {"ogg", "ogg"},        {"opus", "ogg"},       {"ogv", "ogg"},         {"flac", "flac"},
        {"aiff", "aiff"},      {"caf", "caf"},        {"jxl", "jpegxl_pipe"}, {"jpeg", "jpeg_pipe"},
        {"h264", "h264"},      {"hevc", "hevc"},
    }};
    for (const auto& [name, demuxer] : known) {
        if (name == format) return demuxer;
    }
    return "mov";
}

void onLog(void*, int level, const char* format, va_list arguments) {
    if (level > AV_LOG_ERROR) return;
    ++tally.errors;
    if (!tally.first.empty()) return;
    std::array<char, 256> text{};
    std::vsnprintf(text.data(), text.size(), format, arguments);
    tally.first = text.data();
    while (!tally.first.empty() && (tally.first.back() == '\n' || tally.first.back() == ' '))
        tally.first.pop_back();
}

}  // namespace

void watchLibraryLog() {
    av_log_set_callback(onLog);
}

LogTally takeLibraryLog() {
    return std::exchange(tally, {});
}

AvInput::~AvInput() {
    if (context_ != nullptr) avformat_close_input(&context_);
    if (io_ != nullptr) {
        av_freep(&io_->buffer);
        avio_context_free(&io_);
    }
}

int AvInput::readSome(void* self, std::uint8_t* into, int size) {
    auto& input = *static_cast<AvInput*>(self);
    const MutableBytes wanted(into, static_cast<std::size_t>(size));
    std::size_t got = 0;
    if (input.position_ < input.front_.size()) {
        const auto made = slice(input.front_, input.position_, wanted.size());
        std::copy(made.begin(), made.end(), wanted.begin());
        got = made.size();
    } else {
        const auto at = input.position_ - input.front_.size();
        const auto left = at < input.shown_.length ? input.shown_.length - at : 0;
        got = input.reader_.read(
            input.shown_.offset + at,
            wanted.first(static_cast<std::size_t>(std::min<std::uint64_t>(left, wanted.size()))));
    }
    input.position_ += got;
    return got == 0 ? AVERROR_EOF : static_cast<int>(got);
}

std::int64_t AvInput::seekTo(void* self, std::int64_t offset, int whence) {
    auto& input = *static_cast<AvInput*>(self);
    const auto size = static_cast<std::int64_t>(input.size());
    if (whence == AVSEEK_SIZE) return size;
    std::int64_t target = offset;
    if (whence == SEEK_CUR) target += static_cast<std::int64_t>(input.position_);
    if (whence == SEEK_END) target += size;
    if (target < 0 || target > size) return AVERROR(EINVAL);
    input.position_ = static_cast<std::uint64_t>(target);
    return target;
}

void AvInput::showFirstPicture() {
    constexpr std::uint64_t kHead = 8, kFrameHead = 16;
    constexpr int kMostChunks = 64;
    std::uint64_t at = 12;
    bool animated = false;
    for (int i = 0; i < kMostChunks; ++i) {
        std::array<std::uint8_t, kHead> head{};
        if (reader_.read(at, head) < head.size()) return;
        const Bytes name(head);
        const auto length = ByteReader(name.subspan(4), Endian::Little).u32();
        const bool picture = startsWith(name, "VP8 ") || startsWith(name, "VP8L");
        if (picture && animated) {
            const auto whole = kHead + length + (length & 1);
            const auto riff = static_cast<std::uint32_t>(whole + 4);
            front_ = {'R', 'I', 'F', 'F', 0, 0, 0, 0, 'W', 'E', 'B', 'P'};
            for (unsigned byte = 0; byte < 4; ++byte)
                front_[4 + byte] = static_cast<std::uint8_t>(riff >> (8 * byte));
            shown_ = {at, std::min(whole, reader_.size() - at)};
            return;
        }
        if (picture) return;
        if (startsWith(name, "ANMF")) {
            animated = true;
            at += kHead + kFrameHead;
        } else {
            at += kHead + length + (length & 1);
        }
    }
}

bool AvInput::open(const std::string& format, bool everySample) {
    if (format == "webp") showFirstPicture();
    const auto* demuxer = av_find_input_format(demuxerOf(format));
    constexpr int kBuffer = 64 * 1024;
    io_ = avio_alloc_context(static_cast<unsigned char*>(av_malloc(kBuffer)), kBuffer, 0, this, readSome,
                             nullptr, seekTo);
    context_ = avformat_alloc_context();
    if (demuxer == nullptr || io_ == nullptr || context_ == nullptr) return false;
    context_->pb = io_;
    context_->flags |= AVFMT_FLAG_CUSTOM_IO;
    AVDictionary* options = nullptr;
    if (everySample) av_dict_set(&options, "ignore_editlist", "1", 0);
    // No file may name another to open.
    av_dict_set(&options, "protocol_whitelist", "", 0);
    const int outcome = avformat_open_input(&context_, "", demuxer, &options);
    av_dict_free(&options);
    if (outcome < 0) return false;
    return avformat_find_stream_info(context_, nullptr) >= 0 && context_->nb_streams > 0;
}

double AvInput::duration() const {
    return context_->duration > 0 ? static_cast<double>(context_->duration) / AV_TIME_BASE : 0.0;
}

CodecPointer AvInput::decoderFor(const AVStream& stream, int threads) const {
    return open(avcodec_find_decoder(stream.codecpar->codec_id), stream, threads);
}

namespace {

// A second decoder of libav that looks at how the coding of a picture ends, where its own does not.
const AVCodec* strictDecoder(AVCodecID id) {
    if (id == AV_CODEC_ID_AV1) return strictAv1Decoder();
    if (id == AV_CODEC_ID_VP9) return avcodec_find_decoder_by_name("libvpx-vp9");
    if (id == AV_CODEC_ID_VP8) return avcodec_find_decoder_by_name("libvpx");
    return nullptr;
}

}  // namespace

CodecPointer AvInput::strictDecoderFor(const AVStream& stream) const {
    const auto* strict = strictDecoder(stream.codecpar->codec_id);
    return strict != nullptr ? open(strict, stream, 1) : decoderFor(stream);
}

CodecPointer AvInput::open(const AVCodec* codec, const AVStream& stream, int threads) {
    if (codec == nullptr) return nullptr;
    CodecPointer context(avcodec_alloc_context3(codec));
    if (!context || avcodec_parameters_to_context(context.get(), stream.codecpar) < 0) return nullptr;
    context->thread_count = threads;
    context->pkt_timebase = stream.time_base;
    context->err_recognition = AV_EF_CRCCHECK | AV_EF_BITSTREAM | AV_EF_BUFFER | AV_EF_EXPLODE;
    // Tags that the decoder has not heard of are no damage to a TIFF.
    if (codec->id == AV_CODEC_ID_TIFF) context->err_recognition &= ~AV_EF_EXPLODE;
    // Bits that a frame of MP3 leaves over, and zeros at the end of a slice, are the encoder's right.
    if (codec->id == AV_CODEC_ID_MP3)
        context->err_recognition = (context->err_recognition & ~AV_EF_BUFFER) | AV_EF_COMPLIANT;
    if (codec->id == AV_CODEC_ID_MPEG1VIDEO || codec->id == AV_CODEC_ID_MPEG2VIDEO)
        context->err_recognition &= ~AV_EF_BITSTREAM;
    return avcodec_open2(context.get(), codec, nullptr) < 0 ? nullptr : std::move(context);
}

}  // namespace dreskel::media
