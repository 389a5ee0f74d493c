// Sound in chunks that say how long they are: AIFF and AIFF-C (Apple, "Audio Interchange File Format") and
// CAF (Apple, "Core Audio Format Specification").
#include <algorithm>
#include <cmath>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/riff/waveform.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kChunkedHead = 128;

bool printable(Bytes name) {
    return name.size() == 4 &&
           std::all_of(name.begin(), name.end(), [](std::uint8_t c) { return c >= 0x20 && c < 0x7f; });
}

constexpr std::uint64_t kLargest = std::uint64_t{1} << 48;  // bytes of one chunk

// An 80-bit number as IEEE 754 extended; sample rates only.
double extended(Bytes bytes) {
    ByteReader reader(bytes);
    const int exponent = (reader.u16() & 0x7fff) - 16383 - 63;
    return std::ldexp(static_cast<double>(reader.u64()), exponent);
}

class AiffWalk : public Walk {
  public:
    AiffWalk() : Walk(kChunkedHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        ByteReader reader(bytes);
        const auto name = reader.take(4);
        const std::uint64_t length = reader.u32();
        if (position() == 0) {
            end_ = 8 + length;
            return advance(12);
        }
        if (!reader.ok() || !printable(name) || position() + 8 + length > end_ + 1)
            return breakOff(last ? "the card ends before the file does" : "no chunk follows");
        if (startsWith(name, "COMM")) {
            channels_ = reader.u16();
            frames_ = reader.u32();
            bits_ = reader.u16();
            const auto rate = extended(reader.take(10));
            // No recorder takes more than ten million samples a second.
            if (!(rate >= 1 && rate < 1e7)) return breakOff("an impossible rate");
            rate_ = rate;
            if (length >= 22) coding_ = reader.text(4);  // of AIFF-C only
            accept();
        } else if (startsWith(name, "SSND")) {
            sound_ = {position() + 8, length};
            // The first sample stands so far behind the eight bytes that say this.
            const std::uint64_t offset = reader.u32();
            if (length >= 8 + offset) samples_ = {position() + 16 + offset, length - 8 - offset};
        }
        advance(8 + length + (length & 1));
        if (position() >= end_) close();
    }
    void describe(Measured& into) override {
        into.format = "aiff";
        into.kind = Kind::Audio;
        into.notices = Notices::ForeignKinds;
        // An odd form is filled up with one byte that its length does not count.
        into.length = into.proven = std::min(into.length, end_ + (end_ & 1));
        if (rate_ > 0) into.description.duration = frames_ / rate_;
        into.description.codec = "AIFF, " + std::to_string(static_cast<long>(rate_)) + " Hz, " +
                                 std::to_string(bits_) + " bit, " + std::to_string(channels_) + " ch";
        if (sound_.length > 0) into.mediaData.push_back(sound_);
    }
    std::shared_ptr<const PlainSamples> samples() const override {
        const bool turned = coding_ == "sowt", floating = coding_ == "fl32" || coding_ == "FL32";
        const bool plain = coding_.empty() || coding_ == "NONE" || coding_ == "twos" || turned || floating;
        if (!plain || samples_.length == 0 || channels_ == 0) return nullptr;
        return riff::samplesOf({(bits_ + 7U) / 8, channels_, floating, !turned, true}, samples_,
                               end_ + (end_ & 1), false);
    }

    std::uint64_t end_ = 0;
    double rate_ = 0;
    std::string coding_;
    ByteRange samples_;
    std::uint32_t frames_ = 0;
    std::uint16_t channels_ = 0, bits_ = 0;
    ByteRange sound_;
};

class CafWalk : public Walk {
  public:
    CafWalk() : Walk(kChunkedHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0) return advance(8);
        ByteReader reader(bytes);
        const auto name = reader.take(4);
        const auto length = reader.u64();
        // Chunks the specification names; without a length of the whole file, others mean that it is over.
        bool known = false;
        for (const auto* word : {"desc", "data", "pakt", "chan", "kuki", "strg", "mark", "regn", "inst",
                                 "midi", "ovvw", "peak", "edct", "info", "umid", "uuid", "free", "ldat"})
            known = known || startsWith(name, word);
        if (!reader.ok() || !known || (length > kLargest && length != ~std::uint64_t{0})) {
            if (sound_) return close();
            return breakOff(last ? "the card ends before the file does" : "no chunk follows");
        }
        if (startsWith(name, "desc")) {
            const auto bits = reader.u64();
            std::memcpy(&rate_, &bits, sizeof rate_);
            plain_ = startsWith(reader.take(4), "lpcm");
            const auto flags = reader.u32();
            reader.skip(8);
            layout_.channels = reader.u32();
            layout_.bytesPerSample = (reader.u32() + 7) / 8;
            layout_.floating = (flags & 1) != 0;
            layout_.bigEndian = (flags & 2) == 0;
            layout_.signedBytes = true;
            accept();
        }
        if (startsWith(name, "data")) {
            if (length == ~std::uint64_t{0}) return breakOff("the recording was never closed");
            sound_ = {position() + 12, length};
        }
        advance(12 + length);
    }
    bool mayEnd() const override { return sound_ && position() >= sound_->end(); }
    void describe(Measured& into) override {
        into.format = "caf";
        into.kind = Kind::Audio;
        into.notices = Notices::ForeignKinds;
        into.description.codec =
            "CAF, " + std::to_string(std::isfinite(rate_) && rate_ < 1e7 ? std::lround(rate_) : 0) + " Hz";
        if (sound_) into.mediaData.push_back(*sound_);
    }
    std::shared_ptr<const PlainSamples> samples() const override {
        if (!plain_ || !sound_ || sound_->length <= 4 || layout_.channels > 64) return nullptr;
        // A count of edits stands before the first sample.
        return riff::samplesOf(layout_, {sound_->offset + 4, sound_->length - 4},
                               std::max(position(), sound_->end()), false);
    }

    double rate_ = 0;
    bool plain_ = false;
    riff::PcmCheck::Layout layout_;
    std::optional<ByteRange> sound_;
};

}  // namespace

const Format& aiffFormat() {
    static const PlainFormat format(
        "aiff", {{"aiff", Kind::Audio, "aiff", {"aif", "aifc"}}},
        [](Bytes head) {
            const auto form = slice(head, 8, 4);
            return startsWith(head, "FORM") && (startsWith(form, "AIFF") || startsWith(form, "AIFC"));
        },
        makeMeasure<AiffWalk>);
    return format;
}

const Format& cafFormat() {
    static const PlainFormat format(
        "caf", {{"caf", Kind::Audio, "caf"}},
        [](Bytes head) {
            return startsWith(head, {"caff\0\1\0\0desc", 12});
        },
        makeMeasure<CafWalk>);
    return format;
}

}  // namespace dreskel
