#include "media/worker/strict.h"

#include <algorithm>
#include <memory>
#include <vector>

#include "formats/jpeg/stream_decoder.h"
#include "formats/loud_noise.h"
#include "formats/sound/alac.h"
#include "formats/vp8/stream_check.h"
#include "formats/vp9/stream_check.h"
#include "media/worker/av_input.h"
#include "media/worker/strict_mpeg.h"

namespace dreskel::media {
namespace {

// Longer than any padding that encoders write between the parts of a frame of sound.
constexpr std::size_t kLongestZeroRun = 300;
// Of 0xff bytes one behind the other, each followed as in a photo's coded data; by chance a run of nine comes
// once in 10^13 of them.
constexpr int kPhotoRun = 9;

// Whether 00 00 00, 00 00 01 or 00 00 02 stands inside a NAL unit, other than as padding up to its end.
bool holdsForbidden(Bytes unit) {
    while (!unit.empty() && unit.back() == 0) unit = unit.first(unit.size() - 1);
    for (std::size_t at = 0; at + 2 < unit.size();) {
        const auto* zero =
            static_cast<const std::uint8_t*>(std::memchr(unit.data() + at, 0, unit.size() - 2 - at));
        if (zero == nullptr) return false;
        at = static_cast<std::size_t>(zero - unit.data());
        if (unit[at + 1] == 0 && unit[at + 2] <= 2) return true;
        ++at;
    }
    return false;
}

std::string complaintAboutUnits(Bytes packet, std::size_t lengthSize) {
    for (std::size_t at = 0; at < packet.size();) {
        ByteReader reader(packet.subspan(at));
        std::uint64_t length = 0;
        for (std::size_t i = 0; i < lengthSize; ++i) length = length << 8 | reader.u8();
        const auto unit = reader.take(length);
        if (!reader.ok() || unit.empty()) return "the units of a frame do not fill it";
        if ((unit[0] & 0x80) != 0) return "an impossible unit in a frame";
        if (holdsForbidden(unit)) return "bytes in a frame that its coding forbids";
        at += lengthSize + unit.size();
    }
    return {};
}

// avcC and hvcC tell how long the lengths are (ISO/IEC 14496-15, 5.3.3.1 and 8.3.3.1).
std::size_t lengthSizeOf(const AVCodecParameters& stream) {
    const Bytes extra(stream.extradata, static_cast<std::size_t>(std::max(0, stream.extradata_size)));
    if (extra.size() < 5 || extra[0] != 1) return 0;  // in the stream's own framing, with start codes
    if (stream.codec_id == AV_CODEC_ID_H264) return (extra[4] & 3U) + 1;
    return extra.size() >= 22 ? (extra[21] & 3U) + 1 : 0;
}

// Whether a stretch of a photo's coded data stands in it: there every 0xff is followed by a zero or a restart
// marker (ITU-T T.81, B.1.1.5). Decoders of clips may take such bytes without complaint.
bool holdsPhotoData(Bytes packet) {
    int run = 0;
    for (std::size_t at = 0; at + 1 < packet.size();) {
        const auto* found =
            static_cast<const std::uint8_t*>(std::memchr(packet.data() + at, 0xff, packet.size() - 1 - at));
        if (found == nullptr) return false;
        at = static_cast<std::size_t>(found - packet.data()) + 1;
        const auto next = packet[at];
        run = next == 0 || (next >= 0xd0 && next <= 0xd7) ? run + 1 : 0;
        if (run == kPhotoRun) return true;
    }
    return false;
}

// Whether the stream's coded data hold any byte as often as any other, as codings do that leave nothing to
// say twice. In elder ones, of colours from a palette and of plain blocks, patterns repeat. A WebP's data
// were followed to their end before.
bool isEvenlySpread(const AVCodecParameters& stream) {
    switch (stream.codec_id) {
        case AV_CODEC_ID_MPEG1VIDEO:
        case AV_CODEC_ID_MPEG2VIDEO:
        case AV_CODEC_ID_MPEG4:
        case AV_CODEC_ID_MSMPEG4V2:
        case AV_CODEC_ID_MSMPEG4V3:
        case AV_CODEC_ID_WMV1:
        case AV_CODEC_ID_WMV2:
        case AV_CODEC_ID_WMV3:
        case AV_CODEC_ID_VC1:
        case AV_CODEC_ID_H263:
        case AV_CODEC_ID_H264:
        case AV_CODEC_ID_HEVC:
        case AV_CODEC_ID_THEORA:
        case AV_CODEC_ID_VP8:
        case AV_CODEC_ID_VP9:
        case AV_CODEC_ID_AV1: return true;
        default: break;
    }
    const auto* coding = avcodec_descriptor_get(stream.codec_id);
    const bool plain = av_get_bits_per_sample(stream.codec_id) > 0;
    return stream.codec_type == AVMEDIA_TYPE_AUDIO && coding != nullptr && !plain &&
           (coding->props & AV_CODEC_PROP_LOSSY) != 0;
}

Bytes settingsOf(const AVCodecParameters& stream) {
    return {stream.extradata, static_cast<std::size_t>(std::max(0, stream.extradata_size))};
}

// Zeros up to the end of a packet are what encoders fill it up with where there is silence.
bool holdsZeros(Bytes packet) {
    std::size_t run = 0;
    for (const auto byte : packet) {
        if (byte != 0 && run > kLongestZeroRun) return true;
        run = byte == 0 ? run + 1 : 0;
    }
    return run == packet.size() && run > kLongestZeroRun;
}

}  // namespace

std::string complaintAbout(Bytes packet, const AVCodecParameters& stream) {
    if (isEvenlySpread(stream) && holdsPhotoData(packet)) return "a photo's data among its own";
    switch (stream.codec_id) {
        case AV_CODEC_ID_H264:
        case AV_CODEC_ID_HEVC: {
            const auto lengthSize = lengthSizeOf(stream);
            return lengthSize == 0 ? std::string() : complaintAboutUnits(packet, lengthSize);
        }
        case AV_CODEC_ID_MJPEG: {
            jpeg::StreamDecoder decoder;
            decoder.feed(packet, true);
            const bool abbreviated = decoder.breakPoint().why == "a table that the scan needs is missing";
            if (decoder.state() == jpeg::StreamDecoder::State::Ended || abbreviated) return {};
            return "a picture of it breaks off: " + decoder.breakPoint().why;
        }
        case AV_CODEC_ID_ALAC: {
            const auto settings = alac::readSettings(settingsOf(stream));
            const auto* why = settings ? alac::followPacket(packet, *settings) : nullptr;
            return why == nullptr ? std::string() : why;
        }
        case AV_CODEC_ID_MPEG2VIDEO: return complaintAboutSlices(packet, stream.height);
        default: break;
    }
    const bool codedSound =
        stream.codec_type == AVMEDIA_TYPE_AUDIO && av_get_bits_per_sample(stream.codec_id) == 0;
    if (codedSound && holdsZeros(packet)) return "a run of zeros in the coded sound";
    return {};
}

PictureStrictness::PictureStrictness(const AVCodecParameters& stream) : lengthSize_(lengthSizeOf(stream)) {
    switch (stream.codec_id) {
        case AV_CODEC_ID_H264:
        case AV_CODEC_ID_HEVC: {
            const auto settings = settingsOf(stream);
            const auto coding =
                stream.codec_id == AV_CODEC_ID_H264 ? PictureCoding::Avc : PictureCoding::Hevc;
            packing_ = lengthSize_ == 0 ? Packing::StartCodes : Packing::Lengths;
            units_ = pictureCheck(coding, packing_ == Packing::Lengths ? settings : Bytes());
            if (packing_ == Packing::StartCodes) units_->startCoded(settings);
            break;
        }
        case AV_CODEC_ID_VP8: units_ = std::make_unique<vp8::StreamCheck>(); break;
        case AV_CODEC_ID_VP9: units_ = std::make_unique<vp9::StreamCheck>(); break;
        default: break;
    }
}

PictureStrictness::Verdict PictureStrictness::on(Bytes packet) {
    if (!units_) return {};
    const auto before = units_->pictures();
    std::optional<PictureFault> fault;
    switch (packing_) {
        case Packing::Lengths: fault = units_->sample(packet, lengthSize_); break;
        case Packing::StartCodes: fault = units_->startCoded(packet); break;
        case Packing::One: fault = units_->unit(packet); break;
    }
    if (fault) return {std::string("a picture of it breaks off: ") + fault->why, true};
    return {{}, units_->pictures() > before};
}

bool soundsForeign(const AVFrame& frame) {
    const auto format = static_cast<AVSampleFormat>(frame.format);
    const auto packed = av_get_packed_sample_fmt(format);
    const auto stride = av_sample_fmt_is_planar(format) != 0 ? 1 : frame.ch_layout.nb_channels;
    if (packed != AV_SAMPLE_FMT_S16 && packed != AV_SAMPLE_FMT_S32) return false;
    std::vector<float> samples;
    samples.reserve(static_cast<std::size_t>(frame.nb_samples));
    for (int i = 0; i < frame.nb_samples; ++i) {
        const auto at = static_cast<std::ptrdiff_t>(i) * stride;
        samples.push_back(
            packed == AV_SAMPLE_FMT_S16
                ? static_cast<float>(reinterpret_cast<const std::int16_t*>(frame.extended_data[0])[at]) /
                      32768.0F
                : static_cast<float>(reinterpret_cast<const std::int32_t*>(frame.extended_data[0])[at]) /
                      2147483648.0F);
    }
    return isLoudNoise(samples, 1);
}

}  // namespace dreskel::media
