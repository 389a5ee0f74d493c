// WebP (Google, "WebP Container Specification"): a RIFF of form WEBP.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

bool isChunk(Bytes name) {
    for (const auto* known : {"VP8 ", "VP8L", "VP8X", "ALPH", "ANIM", "ANMF", "ICCP", "EXIF", "XMP "}) {
        if (startsWith(name, known)) return true;
    }
    return false;
}

class WebpWalk : public Walk {
  public:
    WebpWalk() : Walk(64) {}

  private:
    void visit(Bytes bytes, bool last) override {
        if (position() == 0) {
            end_ = std::uint64_t{8} + ByteReader(slice(bytes, 4, 4), Endian::Little).u32();
            accept();
            advance(12);
            return;
        }
        if (position() >= end_) return close();
        ByteReader reader(bytes, Endian::Little);
        const auto name = reader.take(4);
        const std::uint64_t length = reader.u32();
        if (!reader.ok() || !isChunk(name) || position() + 8 + length > end_ + 1) {
            if (last) return breakOff("the card ends before the file does");
            return breakOff("no chunk follows");
        }
        if (startsWith(name, "VP8X")) {
            reader.skip(4);
            ByteReader sizes(slice(bytes, 12, 6), Endian::Little);
            width_ = sizes.u24() + 1;
            height_ = sizes.u24() + 1;
        }
        advance(8 + length + (length & 1));
        if (position() >= end_) close();
    }
    void describe(Measured& into) override {
        into.format = "webp";
        into.kind = Kind::Photo;
        into.description.codec = "WebP";
        into.notices = Notices::Nothing;
        if (width_ > 0) {
            into.description.width = width_;
            into.description.height = height_;
        }
    }

    std::uint64_t end_ = 0;
    std::uint32_t width_ = 0, height_ = 0;
};

bool matches(Bytes head) {
    return startsWith(head, "RIFF") && startsWith(slice(head, 8, 4), "WEBP") && isChunk(slice(head, 12, 4));
}

}  // namespace

const Format& webpFormat() {
    static const PlainFormat format("webp", {{"webp", Kind::Photo, "webp"}}, matches, makeMeasure<WebpWalk>);
    return format;
}

}  // namespace dreskel
