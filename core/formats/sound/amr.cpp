// AMR and AMR-WB (RFC 4867, section 5): a magic line, then frames whose first byte tells their length.
#include <array>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kPortion = 16 * 1024;
constexpr std::string_view kNarrow = "#!AMR\n";
constexpr std::string_view kWide = "#!AMR-WB\n";
// Bytes of a frame by its type, the first byte included; 0: not in use (RFC 4867, tables in 5.3; 3GPP
// TS 26.101, 26.201).
constexpr std::array<std::uint8_t, 16> kNarrowFrames{13, 14, 16, 18, 20, 21, 27, 32, 6, 0, 0, 0, 0, 0, 0, 1};
constexpr std::array<std::uint8_t, 16> kWideFrames{18, 24, 33, 37, 41, 47, 51, 59, 61, 6, 0, 0, 0, 0, 1, 1};
constexpr double kFramesASecond = 50;
constexpr std::uint64_t kLeastFrames = 10;

class AmrWalk : public Walk {
  public:
    AmrWalk() : Walk(kPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        std::uint64_t at = 0;
        if (position() == 0) {
            wide_ = startsWith(bytes, kWide);
            at = wide_ ? kWide.size() : kNarrow.size();
        }
        while (at < bytes.size()) {
            const auto head = bytes[static_cast<std::size_t>(at)];
            const auto length = (wide_ ? kWideFrames : kNarrowFrames)[head >> 3 & 15U];
            // Padding bits are zero, and a recorder writes no frame that it knows to be bad: zeros behind the
            // last one are not frames.
            if ((head & 0x83U) != 0 || (head & 4U) == 0 || length == 0) {
                advance(at);
                // The first foreign cluster may look like one more frame.
                return closeRun(2 * lastFrame_, bytes.subspan(static_cast<std::size_t>(at)));
            }
            if (at + length > bytes.size()) break;
            lastFrame_ = length;
            at += length;
            if (++frames_ == kLeastFrames) accept();
        }
        advance(at);
        if (last) closeRun(2 * lastFrame_, {});
    }
    void describe(Measured& into) override {
        into.format = "amr";
        into.kind = Kind::Audio;
        into.description.codec = wide_ ? "AMR-WB" : "AMR";
        into.description.duration = static_cast<double>(frames_) / kFramesASecond;
        into.mediaData.push_back({kNarrow.size(), into.length - kNarrow.size()});
    }

    bool wide_ = false;
    std::uint64_t frames_ = 0, lastFrame_ = 0;
};

}  // namespace

const Format& amrFormat() {
    static const PlainFormat format(
        "amr", {{"amr", Kind::Audio, "amr", {"awb"}}},
        [](Bytes head) { return startsWith(head, kNarrow) || startsWith(head, kWide); },
        makeMeasure<AmrWalk>);
    return format;
}

}  // namespace dreskel
