// A JPEG XL picture without boxes around it (ISO/IEC 18181-1): headers, then frame after frame, each of which
// states the lengths of its sections, to the one that says it is the last.
#include "formats/families.h"
#include "formats/jxl/frame.h"
#include "formats/jxl/headers.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kCodestreamPortion = 16 * 1024, kMostPortion = 8U << 20;

class JxlWalk : public Walk {
  public:
    JxlWalk() : Walk(kCodestreamPortion) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0 && !began_) return begin(bytes, last);
        const bool preview = header_.previewWidth > 0 && frames_ == 0;
        jxl::Frame frame;
        const auto found = jxl::readFrame(bytes.subspan(skip_), header_, preview, frame);
        if (found == jxl::Found::MoreBytesNeeded) return askMore(bytes, last);
        if (found == jxl::Found::None) return breakOff("no frame follows");
        proven_ = proven_ || frame.proven;
        // What is proven is a file even if its end is gone.
        if (proven_ || (frame.last && !preview)) accept();
        ++frames_;
        ask(kCodestreamPortion);
        advance(skip_ + frame.headLength + frame.sectionsLength);
        skip_ = 0;
        if (frame.last && !preview) close();
    }
    void begin(Bytes bytes, bool last) {
        LowBits bits(bytes);
        const auto header = jxl::readHeader(bits);
        if (!header) return bits.ok() ? breakOff("no picture follows") : askMore(bytes, last);
        header_ = *header;
        proven_ = header->proven;
        began_ = true;
        // The frame behind is looked at with the same bytes, so that a stray mark costs one read.
        skip_ = static_cast<std::size_t>(bits.bytesUsed());
        visit(bytes, last);
    }
    void askMore(Bytes bytes, bool last) {
        if (last || bytes.size() >= kMostPortion) return breakOff("the card ends before the file does");
        ask(bytes.size() * 4);
    }
    void describe(Measured& into) override {
        into.format = "jxl";
        into.kind = Kind::Photo;
        into.description.codec = "JPEG XL";
        const bool turned = header_.orientation > 4;
        into.description.width = turned ? header_.height : header_.width;
        into.description.height = turned ? header_.width : header_.height;
        into.mediaData.push_back({2, into.length - 2});
        into.onlyIfItDecodes = !proven_;
        // The library shows the first frame only.
        if (header_.animated) into.notices = Notices::Nothing;
    }

    jxl::Header header_;
    std::size_t skip_ = 0;  // bytes in front of the frame at position()
    std::uint64_t frames_ = 0;
    bool began_ = false, proven_ = false;
};

bool looksLikeCodestream(Bytes head) {
    if (!startsWith(head, "\xff\x0a")) return false;
    LowBits bits(head);
    return jxl::readHeader(bits).has_value() || !bits.ok();
}

}  // namespace

const Format& jxlFormat() {
    static const PlainFormat format("jxl", {{"jxl", Kind::Photo, "jxl"}}, looksLikeCodestream,
                                    makeMeasure<JxlWalk>);
    return format;
}

}  // namespace dreskel
