// MXF (SMPTE ST 377-1): keys of sixteen bytes, lengths in BER, values. Ends with the footer partition and
// what it is followed by.
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using namespace std::string_view_literals;

constexpr auto kKey = "\x06\x0e\x2b\x34"sv;
constexpr auto kPartition = "\x06\x0e\x2b\x34\x02\x05\x01\x01\x0d\x01\x02\x01\x01"sv;
constexpr std::size_t kMxfHead = 64;

class MxfWalk : public Walk {
  public:
    MxfWalk() : Walk(kMxfHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        const bool key = startsWith(bytes, kKey);
        const bool header = startsWith(bytes, kPartition) && bytes.size() > 13 && bytes[13] == 2;
        if (!key || (header && position() > 0)) {
            if (footer_) return close();
            return breakOff(last ? "the card ends before the file does" : "no key follows");
        }
        ByteReader reader(bytes);
        reader.skip(16);
        std::uint64_t length = reader.u8();
        if ((length & 0x80U) != 0) {
            const auto count = length & 0x7fU;
            length = 0;
            if (count == 0 || count > 8) return breakOff("a length that is none");
            for (std::uint64_t i = 0; i < count; ++i) length = length << 8 | reader.u8();
        }
        if (!reader.ok()) return breakOff("the card ends before the file does");
        if (startsWith(bytes, kPartition) && bytes[13] == 4) footer_ = true;
        if (++keys_ >= 3) accept();
        advance(reader.position() + length);
    }
    bool mayEnd() const override { return footer_; }
    void describe(Measured& into) override {
        into.format = "mxf";
        into.kind = Kind::Video;
        into.mediaData.push_back({0, into.length});
    }

    bool footer_ = false;
    int keys_ = 0;
};

}  // namespace

const Format& mxfFormat() {
    static const PlainFormat format(
        "mxf", {{"mxf", Kind::Video, "mxf"}},
        [](Bytes head) { return startsWith(head, kPartition) && head.size() > 16 && head[13] == 2; },
        makeMeasure<MxfWalk>);
    return format;
}

}  // namespace dreskel
