// AAC as a bare run of ADTS frames (ISO/IEC 13818-7, 6.2).
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/sound/frames.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using sound::adtsFrame;

constexpr std::size_t kAdtsPortion = 64 * 1024;
constexpr std::uint64_t kLeastAdtsFrames = 12;
constexpr std::size_t kHeader = 9;

class AdtsWalk : public Walk {
  public:
    AdtsWalk() : Walk(kAdtsPortion) {}

  private:
    bool takesAny() const override { return true; }
    bool knowsItsBeginning() const override { return false; }
    void visit(Bytes bytes, bool last) override {
        std::uint64_t at = 0;
        while (at < bytes.size()) {
            const auto rest = bytes.subspan(static_cast<std::size_t>(at));
            const auto frame = adtsFrame(rest);
            const bool whole = frame && frame->length <= rest.size();
            if (!last && (frame ? !whole : rest.size() < kHeader)) break;
            if (!whole || (first_ && frame->kind != first_->kind)) {
                advance(at);
                return closeRun(length_, rest);
            }
            first_ = first_.value_or(*frame);
            if (++frames_ == kLeastAdtsFrames) accept();
            samples_ += frame->samples;
            length_ = frame->length;
            at += length_;
        }
        advance(at);
        if (last) closeRun(length_, {});
    }
    void describe(Measured& into) override {
        into.format = "aac";
        into.kind = Kind::Audio;
        into.description.codec =
            "AAC, " + std::to_string(first_->rate) + " Hz, " + std::to_string(first_->channels) + " ch";
        into.description.duration = static_cast<double>(samples_) / first_->rate;
        into.mediaData.push_back({0, into.length});
    }

    std::optional<sound::Frame> first_;
    std::uint64_t frames_ = 0, samples_ = 0, length_ = 0;
};

}  // namespace

const Format& adtsFormat() {
    static const PlainFormat format(
        "aac", {{"aac", Kind::Audio, "aac"}}, [](Bytes head) { return sound::followed(head, adtsFrame); },
        makeMeasure<AdtsWalk>, true, [](Bytes bytes) { return sound::firstFrameIn(bytes, adtsFrame); });
    return format;
}

}  // namespace dreskel
