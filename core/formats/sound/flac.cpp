// FLAC (RFC 9639): metadata blocks that state their lengths, then frames.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/sound/flac_frame.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using sound::FlacOutcome;

constexpr std::size_t kFlacPortion = 256 * 1024;
constexpr std::size_t kLargestPortion = 4 << 20;

class FlacWalk : public Walk {
  public:
    FlacWalk() : Walk(kFlacPortion) {}

  private:
    bool takesAny() const override { return true; }
    void visit(Bytes bytes, bool last) override {
        if (inFrames_) {
            frames(bytes, last);
        } else {
            block(bytes, last);
        }
    }
    void block(Bytes bytes, bool last);
    void frames(Bytes bytes, bool last);
    void describe(Measured& into) override;

    bool inFrames_ = false;
    sound::FlacStream stream_;
    std::uint64_t soundAt_ = 0, samples_ = 0;
};

void FlacWalk::block(Bytes bytes, bool last) {
    const bool first = position() == 0;
    ByteReader reader(first ? bytes.subspan(4) : bytes);
    const auto type = reader.u8();
    const std::uint64_t length = reader.u24();
    if (!reader.ok() || (type & 0x7fU) > 6)
        return breakOff(last ? "the card ends before the file does" : "no block follows");
    if (first) {
        reader.skip(10);
        const auto packed = reader.u64();
        stream_.rate = static_cast<std::uint32_t>(packed >> 44);
        stream_.channels = static_cast<std::uint32_t>(packed >> 41 & 7U) + 1;
        stream_.bits = static_cast<std::uint32_t>(packed >> 36 & 31U) + 1;
        stream_.samples = packed & 0xfffffffffULL;
        if (stream_.rate == 0) return breakOff("no sample rate");
        accept();
        advance(4);
    }
    advance(4 + length);
    inFrames_ = (type & 0x80U) != 0;
    soundAt_ = position();
}

void FlacWalk::frames(Bytes bytes, bool last) {
    std::size_t at = 0;
    while (at < bytes.size()) {
        const auto frame = sound::readFlacFrame(bytes.subspan(at), stream_);
        if (frame.outcome == FlacOutcome::TooShort && !last) {
            advance(at);
            if (at == 0 && bytes.size() < kLargestPortion) ask(bytes.size() * 2);
            return;
        }
        if (frame.outcome == FlacOutcome::Good) {
            at += frame.length;
            samples_ += frame.samples;
            if (stream_.samples > 0 && samples_ >= stream_.samples) {
                advance(at);
                return close();
            }
            continue;
        }
        advance(at);
        if (stream_.samples == 0)
            return close();  // it does not say how long it is: it ends with its last frame
        return breakOff("no frame follows: " + std::to_string(stream_.samples) + " samples were recorded, " +
                        std::to_string(samples_) + " are here");
    }
    advance(at);
    if (last) breakOff("the card ends before the file does");
}

void FlacWalk::describe(Measured& into) {
    into.format = "flac";
    into.kind = Kind::Audio;
    const auto samples = stream_.samples > 0 ? stream_.samples : samples_;
    into.description.duration = static_cast<double>(samples) / stream_.rate;
    into.description.codec = "FLAC, " + std::to_string(stream_.rate) + " Hz, " +
                             std::to_string(stream_.bits) + " bit, " + std::to_string(stream_.channels) +
                             " ch";
    into.mediaData.push_back({soundAt_, into.length - std::min(into.length, soundAt_)});
}

}  // namespace

const Format& flacFormat() {
    static const PlainFormat format(
        "flac", {{"flac", Kind::Audio, "flac"}},
        [](Bytes head) {
            return startsWith(head, "fLaC") && head.size() > 8 && (head[4] & 0x7fU) == 0 && head[5] == 0 &&
                   head[6] == 0 && head[7] == 34;
        },
        makeMeasure<FlacWalk>);
    return format;
}

}  // namespace dreskel
