// DV as a bare run of frames (IEC 61834-2; SMPTE 314M): sequences of 150 blocks of 80 bytes, ten or twelve to
// a frame.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kDifBlock = 80;
constexpr std::size_t kSequence = 150 * kDifBlock;
constexpr std::size_t kLeastDvFrames = 3;

bool isHeaderBlock(Bytes block, unsigned sequence) {
    // Section type 0, the sequence's number, block number 0; then the system.
    return block.size() >= 4 && (block[0] & 0xe0U) == 0 && block[1] >> 4 == sequence && block[2] == 0 &&
           (block[3] & 0x7fU) == 0x3f;
}

// The section types of the 150 blocks of a sequence: header, two of subcode, three of auxiliary data, then
// nine times one of sound and fifteen of picture.
bool isSequence(Bytes sequence) {
    for (std::size_t block = 0; block < 150; ++block) {
        const unsigned type = block == 0 ? 0 : block < 3 ? 1 : block < 6 ? 2 : (block - 6) % 16 == 0 ? 3 : 4;
        if (sequence[block * kDifBlock] >> 5 != type) return false;
    }
    return true;
}

// The two blocks behind the header's.
bool isSubcode(Bytes sequence) {
    return sequence.size() > 2 * kDifBlock + 3 && sequence[kDifBlock] >> 5 == 1 &&
           sequence[2 * kDifBlock] >> 5 == 1;
}

class DvWalk : public Walk {
  public:
    DvWalk() : Walk(12 * kSequence) {}

  private:
    void visit(Bytes bytes, bool) override {
        const bool fifty = bytes.size() > 3 && (bytes[3] & 0x80U) != 0;
        const std::size_t sequences = fifty ? 12 : 10;
        bool whole = bytes.size() >= sequences * kSequence && (frames_ == 0 || fifty == fifty_);
        for (std::size_t i = 0; whole && i < sequences; ++i)
            whole = isHeaderBlock(bytes.subspan(i * kSequence), static_cast<unsigned>(i));
        if (!whole) {
            // What begins like one of its frames and is not: behind the last frame nothing does.
            if (frames_ > 0 && fifty == fifty_ && isHeaderBlock(bytes, 0) && isSubcode(bytes))
                return breakOff("a frame of it is not all there");
            return close();
        }
        for (std::size_t i = 0; i < sequences; ++i) {
            if (!isSequence(bytes.subspan(i * kSequence, kSequence)))
                damage("blocks of its frames are foreign");
        }
        fifty_ = fifty;
        if (++frames_ >= kLeastDvFrames) accept();
        advance(sequences * kSequence);
    }
    bool mayEnd() const override { return true; }
    void describe(Measured& into) override {
        into.format = "dv";
        into.kind = Kind::Video;
        into.description.codec = "DV";
        into.description.duration = static_cast<double>(frames_) / (fifty_ ? 25.0 : 30000.0 / 1001);
        into.mediaData.push_back({0, into.length});
    }

    bool fifty_ = false;
    std::size_t frames_ = 0;
};

class DvFormat : public PlainFormat {
  public:
    DvFormat()
        : PlainFormat(
              "dv", {{"dv", Kind::Video, "dv"}},
              [](Bytes head) { return isHeaderBlock(head, 0) && isSubcode(head); }, makeMeasure<DvWalk>,
              true) {}
    // The last two blocks of a frame's last sequence, which are of the picture.
    bool goesOnFrom(Bytes before) const override {
        if (before.size() < 2 * kDifBlock) return false;
        const auto last = before.last(2 * kDifBlock);
        const auto isLast = [&](Bytes block, unsigned number) {
            const unsigned sequence = block[1] >> 4;
            return block[0] >> 5 == 4 && (sequence == 9 || sequence == 11) && block[2] == number;
        };
        return isLast(last.first(kDifBlock), 133) && isLast(last.last(kDifBlock), 134);
    }
};

}  // namespace

const Format& dvFormat() {
    static const DvFormat format;
    return format;
}

}  // namespace dreskel
