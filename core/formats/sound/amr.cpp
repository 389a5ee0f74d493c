// AMR and AMR-WB (RFC 4867, section 5): a magic line, then frames whose first byte tells their length.
#include <array>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kAmrPortion = 16 * 1024;
constexpr std::string_view kNarrow = "#!AMR\n";
constexpr std::string_view kWide = "#!AMR-WB\n";
using Lengths = std::array<std::uint8_t, 16>;
// Bytes of a frame by its type, the first byte included; 0: not in use (RFC 4867, tables in 5.3; 3GPP
// TS 26.101, 26.201).
constexpr Lengths kNarrowFrames{13, 14, 16, 18, 20, 21, 27, 32, 6, 0, 0, 0, 0, 0, 0, 1};
constexpr Lengths kWideFrames{18, 24, 33, 37, 41, 47, 51, 59, 61, 6, 0, 0, 0, 0, 1, 1};
constexpr double kFramesASecond = 50;
constexpr std::uint64_t kLeastAmrFrames = 10;
// A frame's first byte passes by chance once in twenty times.
constexpr std::size_t kFramesThatTell = 12;

// Of the frame that begins with this byte; 0: none does. Padding bits are zero, and a recorder writes no
// frame that it knows to be bad: zeros behind the last one are not frames.
std::size_t lengthBy(std::uint8_t head, const Lengths& lengths) {
    return (head & 0x83U) != 0 || (head & 4U) == 0 ? 0 : lengths[head >> 3 & 15U];
}

// Frames follow each other from here to the end of the bytes.
bool chained(Bytes bytes, const Lengths& lengths) {
    std::size_t frames = 0;
    for (std::size_t at = 0; at < bytes.size(); ++frames) {
        const auto length = lengthBy(bytes[at], lengths);
        if (length == 0) return false;
        at += length;
    }
    return frames >= kFramesThatTell;
}

std::optional<std::size_t> firstFrame(Bytes bytes) {
    constexpr std::size_t kLongest = 61;
    for (std::size_t at = 0; at < std::min(kLongest, bytes.size()); ++at) {
        const auto rest = bytes.subspan(at);
        if (chained(rest, kNarrowFrames) || chained(rest, kWideFrames)) return at;
    }
    return std::nullopt;
}

class AmrWalk : public Walk {
  public:
    AmrWalk() : Walk(kAmrPortion) {}

  private:
    bool takesAny() const override { return true; }
    void visit(Bytes bytes, bool last) override {
        std::uint64_t at = 0;
        if (position() == 0) {
            if (bytes.size() < kWide.size() && !last) return;
            wide_ = startsWith(bytes, kWide);
            at = wide_ ? kWide.size() : kNarrow.size();
        }
        while (at < bytes.size()) {
            const auto head = bytes[static_cast<std::size_t>(at)];
            const auto length = lengthBy(head, wide_ ? kWideFrames : kNarrowFrames);
            if (length == 0) {
                advance(at);
                // The first foreign cluster may look like one more frame.
                return closeRun(2 * lastFrame_, bytes.subspan(static_cast<std::size_t>(at)));
            }
            if (at + length > bytes.size()) break;
            lastFrame_ = length;
            at += length;
            if (++frames_ == kLeastAmrFrames) accept();
        }
        advance(at);
        if (last) closeRun(2 * lastFrame_, {});
    }
    void describe(Measured& into) override {
        into.format = "amr";
        into.kind = Kind::Audio;
        into.description.codec = wide_ ? "AMR-WB" : "AMR";
        into.description.duration = static_cast<double>(frames_) / kFramesASecond;
        into.notices = Notices::ForeignKinds;  // frames of another recording are frames
        into.mediaData.push_back({kNarrow.size(), into.length - kNarrow.size()});
    }

    bool wide_ = false;
    std::uint64_t frames_ = 0, lastFrame_ = 0;
};

}  // namespace

const Format& amrFormat() {
    static const PlainFormat format(
        "amr", {{"amr", Kind::Audio, "amr", {"awb"}}},
        [](Bytes head) { return startsWith(head, kNarrow) || startsWith(head, kWide); }, makeMeasure<AmrWalk>,
        false, firstFrame);
    return format;
}

}  // namespace dreskel
