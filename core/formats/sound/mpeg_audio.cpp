// MP3 and its elder layers: frames that follow one another, tags before (ID3v2.4, section 3) and behind them
// (ID3v1, APEv2). A header frame of a variable-rate file ("Xing", "Info") says how many frames there should
// be.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/sound/frames.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using sound::Frame;
using sound::mpegFrame;

constexpr std::size_t kMpegAudioPortion = 64 * 1024;
constexpr std::uint64_t kLeastMpegAudioFrames = 12;  // a third of a second
constexpr std::uint64_t kTagLength = 128;            // ID3v1
constexpr std::uint64_t kLargestTag = 64U << 20;

std::optional<std::uint64_t> tagAtFront(Bytes bytes) {
    if (!startsWith(bytes, "ID3") || bytes.size() < 10 || bytes[3] < 2 || bytes[3] > 4) return std::nullopt;
    std::uint64_t length = 0;
    for (std::size_t i = 6; i < 10; ++i) {
        if (bytes[i] > 0x7f) return std::nullopt;
        length = length << 7 | bytes[i];
    }
    const bool footer = (bytes[5] & 0x10U) != 0;
    length += footer ? 20U : 10U;
    return length > kLargestTag ? std::nullopt : std::optional(length);
}

class MpegAudioWalk : public Walk {
  public:
    MpegAudioWalk() : Walk(kMpegAudioPortion) {}

  private:
    void visit(Bytes bytes, bool last) override;
    void describe(Measured& into) override;
    bool takesAny() const override { return true; }
    bool knowsItsBeginning() const override { return tagged_ || headed_; }
    bool knowsItsEnd() const override { return tagBehind_ || (expected_ && frames_ >= *expected_); }
    bool headerFrame(Bytes frame);
    void end(Bytes rest);

    bool tagged_ = false, headed_ = false, tagBehind_ = false;
    std::optional<Frame> first_;
    std::uint64_t frames_ = 0;
    std::optional<std::uint64_t> expected_;
    std::uint64_t soundAt_ = 0, length_ = 0;
};

// Whether the frame holds no sound but facts about those that follow.
bool MpegAudioWalk::headerFrame(Bytes frame) {
    for (const std::size_t at : {36U, 21U, 13U}) {  // behind the side information: stereo, mono, MPEG-2
        const auto tag = slice(frame, at, 12);
        if (!startsWith(tag, "Xing") && !startsWith(tag, "Info")) continue;
        ByteReader reader(tag.subspan(4));
        const auto flags = reader.u32();
        const auto count = reader.u32();
        if (frames_ == 0 && reader.ok() && (flags & 1U) != 0) expected_ = count;
        return true;
    }
    return startsWith(slice(frame, 36, 4), "VBRI");
}

void MpegAudioWalk::visit(Bytes bytes, bool last) {
    std::uint64_t at = 0;
    if (position() == 0 && !tagged_) {
        if (const auto tag = tagAtFront(bytes)) {
            tagged_ = true;
            soundAt_ = *tag;
            advance(*tag);
            return;
        }
    }
    while (at < bytes.size()) {
        const auto rest = bytes.subspan(static_cast<std::size_t>(at));
        const auto frame = mpegFrame(rest);
        // Tag writers leave zeros between the tag and the first frame.
        if (!frame && !first_ && tagged_ && rest[0] == 0) {
            ++at;
            continue;
        }
        const bool whole = frame && frame->length <= rest.size();
        // The next portion holds all of it, or of the tag behind the last frame.
        const bool more = frame || rest.size() < 4 || startsWith(rest, "TAG") || startsWith(rest, "APE");
        if (!whole && !last && more && rest.size() < 8192) break;
        if (!whole || (first_ && frame->kind != first_->kind)) {
            advance(at);
            return end(rest);
        }
        const bool header = headerFrame(rest.first(frame->length));
        if (header && frames_ > 0) {  // another recording begins
            advance(at);
            return end(rest);
        }
        if (!first_) soundAt_ = position() + at;
        headed_ = headed_ || header;
        first_ = first_.value_or(*frame);
        if (!header) {
            ++frames_;
            if (frames_ == kLeastMpegAudioFrames) accept();
        }
        length_ = frame->length;
        at += length_;
    }
    advance(at);
    if (last) end({});
}

void MpegAudioWalk::end(Bytes rest) {
    tagBehind_ = startsWith(rest, "APETAGEX") || startsWith(rest, "TAG");
    if (startsWith(rest, "APETAGEX") && rest.size() >= 32) {
        ByteReader reader(rest.subspan(12), Endian::Little);
        const std::uint64_t length = reader.u32();  // without the header
        advance(32 + length);
        rest = slice(rest, 32 + length, rest.size());
    }
    if (startsWith(rest, "TAG") && rest.size() >= kTagLength) advance(kTagLength);
    if (expected_ && frames_ < *expected_) {
        damage("it breaks off: " + std::to_string(*expected_) + " frames were recorded, " +
               std::to_string(frames_) + " are here");
    }
    if (knowsItsEnd()) return close();
    closeRun(length_, rest);
}

void MpegAudioWalk::describe(Measured& into) {
    into.format = "mp3";
    into.kind = Kind::Audio;
    into.description.codec =
        "MPEG audio, " + std::to_string(first_->rate) + " Hz, " + std::to_string(first_->channels) + " ch";
    into.description.duration =
        static_cast<double>(frames_) * first_->samples / static_cast<double>(first_->rate);
    into.mediaData.push_back({soundAt_, into.length - soundAt_});
}

bool looksLikeMpegAudio(Bytes head) {
    if (tagAtFront(head)) return true;
    const auto frame = mpegFrame(head);
    // Without a tag only layer III stands alone on cards.
    return frame && (head[1] & 6U) == 2 && sound::followed(head, mpegFrame);
}

}  // namespace

const Format& mpegAudioFormat() {
    static const PlainFormat format("mp3", {{"mp3", Kind::Audio, "mp3"}}, looksLikeMpegAudio,
                                    makeMeasure<MpegAudioWalk>, true,
                                    [](Bytes bytes) { return sound::firstFrameIn(bytes, mpegFrame); });
    return format;
}

}  // namespace dreskel
