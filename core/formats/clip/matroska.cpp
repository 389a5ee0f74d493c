// Matroska and WebM (RFC 9559 on EBML, RFC 8794): a header element, then a segment of elements that state
// their lengths, or whose lengths were never written when the recording was cut off or streamed.
#include <bit>

#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kHead = 64;
constexpr std::uint64_t kUnknown = ~std::uint64_t{0};

struct Element {
    std::uint32_t id = 0;
    std::uint64_t length = 0;  // kUnknown: not stated
    std::uint32_t header = 0;  // bytes
};

std::optional<Element> readElement(Bytes bytes) {
    if (bytes.size() < 2) return std::nullopt;
    const auto idLength = static_cast<std::size_t>(std::countl_zero(bytes[0])) + 1;
    if (idLength > 4 || bytes.size() <= idLength) return std::nullopt;
    Element element;
    for (std::size_t i = 0; i < idLength; ++i) element.id = element.id << 8 | bytes[i];
    const auto first = bytes[idLength];
    const auto length = static_cast<std::size_t>(std::countl_zero(first)) + 1;
    if (length > 8 || bytes.size() < idLength + length) return std::nullopt;
    element.length = first & (0xffU >> length);
    bool unknown = element.length == (0x7fU >> (length - 1));
    for (std::size_t i = 1; i < length; ++i) {
        element.length = element.length << 8 | bytes[idLength + i];
        unknown = unknown && bytes[idLength + i] == 0xff;
    }
    if (unknown) element.length = kUnknown;
    element.header = static_cast<std::uint32_t>(idLength + length);
    return element;
}

constexpr std::uint32_t kHeaderId = 0x1a45dfa3, kSegment = 0x18538067, kCluster = 0x1f43b675;

bool inSegment(std::uint32_t id) {
    for (const std::uint32_t known : {0x114d9b74U, 0x1549a966U, 0x1654ae6bU, 0x1f43b675U, 0x1c53bb6bU,
                                      0x1941a469U, 0x1043a770U, 0x1254c367U, 0xecU, 0xbfU}) {
        if (id == known) return true;
    }
    return false;
}

bool inCluster(std::uint32_t id) {
    for (const std::uint32_t known : {0xe7U, 0xa3U, 0xa0U, 0xabU, 0xa7U, 0x5854U, 0xafU, 0xecU, 0xbfU}) {
        if (id == known) return true;
    }
    return false;
}

class MatroskaWalk : public Walk {
  public:
    MatroskaWalk() : Walk(kHead) {}

  private:
    void visit(Bytes bytes, bool last) override {
        const auto element = readElement(bytes);
        if (position() == 0) {
            web_ = std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size()).find("webm") !=
                   std::string_view::npos;
            return advance(element->header + element->length);
        }
        if (segmentAt_ == 0) {
            if (!element || element->id != kSegment) return breakOff("no segment follows");
            segmentAt_ = position() + element->header;
            end_ = element->length == kUnknown ? kUnknown : segmentAt_ + element->length;
            return advance(element->header);
        }
        if (position() == end_) return close();
        const bool known = element && (inSegment(element->id) || (open_ && inCluster(element->id)));
        if (!known || (end_ != kUnknown && element->length != kUnknown &&
                       position() + element->header + element->length > end_)) {
            if (end_ == kUnknown && accepted()) return close();
            return breakOff(last ? "the card ends before the file does" : "no element follows");
        }
        if (element->id == kCluster) accept();
        if (inSegment(element->id) && element->id != 0xec && element->id != 0xbf)
            open_ = element->id == kCluster;
        // A cluster is gone through block by block where its length was never written.
        if (element->length == kUnknown) return advance(element->header);
        if (element->id == kCluster) open_ = false;
        advance(element->header + element->length);
        if (position() == end_) close();
    }
    bool mayEnd() const override { return end_ == kUnknown; }
    void describe(Measured& into) override {
        into.format = web_ ? "webm" : "mkv";
        into.kind = Kind::Video;
        into.mediaData.push_back({segmentAt_, into.length - std::min(into.length, segmentAt_)});
    }

    bool web_ = false;
    bool open_ = false;  // in a cluster of unknown length
    std::uint64_t segmentAt_ = 0, end_ = 0;
};

bool matches(Bytes head) {
    if (!startsWith(head, "\x1a\x45\xdf\xa3")) return false;
    const auto element = readElement(head);
    return element && element->id == kHeaderId && element->length >= 8 && element->length < 512;
}

}  // namespace

const Format& matroskaFormat() {
    static const PlainFormat format("matroska",
                                    {{"mkv", Kind::Video, "mkv", {"mka"}}, {"webm", Kind::Video, "webm"}},
                                    matches, makeMeasure<MatroskaWalk>);
    return format;
}

}  // namespace dreskel
