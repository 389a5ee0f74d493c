// Matroska and WebM (RFC 9559 on EBML, RFC 8794): a header element, then a segment of elements that state
// their lengths, or whose lengths were never written when the recording was cut off or streamed.
#include <bit>
#include <set>

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

constexpr std::uint64_t kLongestTracks = 1 << 20;  // with the settings and pictures of subtitles
constexpr std::uint32_t kHeaderId = 0x1a45dfa3, kSegment = 0x18538067, kCluster = 0x1f43b675;
constexpr std::uint32_t kTracks = 0x1654ae6b, kTrackEntry = 0xae, kTrackNumber = 0xd7, kBlock = 0xa3;
constexpr std::uint32_t kVoid = 0xec, kCheckSum = 0xbf;

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
        if (position() == clusterEnd_) clusterEnd_ = 0;
        // A cluster whose length is not stated ends where an element of the segment begins.
        const bool within = clusterEnd_ != 0 && element && inCluster(element->id);
        const bool beside =
            (clusterEnd_ == 0 || clusterEnd_ == kUnknown) && element && inSegment(element->id);
        const auto border = within && clusterEnd_ != kUnknown ? clusterEnd_ : end_;
        const bool over = element && element->length != kUnknown && border != kUnknown &&
                          position() + element->header + element->length > border;
        if ((!within && !beside) || over || (element->id == kBlock && !isBlock(bytes, *element))) {
            if (end_ == kUnknown && accepted()) return close();
            return breakOff(last ? "the card ends before the file does" : "no element follows");
        }
        if (element->id == kTracks && element->length < kLongestTracks) {
            if (bytes.size() < element->header + element->length && !last)
                return ask(static_cast<std::size_t>(element->header + element->length));
            learnTracks(slice(bytes, element->header, element->length));
            ask(kHead);
        }
        if (element->id == kCluster) {
            // Gone through block by block: in that way it can be put together from pieces.
            accept();
            clusterEnd_ =
                element->length == kUnknown ? kUnknown : position() + element->header + element->length;
            return advance(element->header);
        }
        if (!within && element->id != kVoid && element->id != kCheckSum) clusterEnd_ = 0;
        if (element->length == kUnknown) return advance(element->header);
        advance(element->header + element->length);
        if (position() == end_) close();
    }
    // A block begins with the number of its track, its time within the cluster, and flags (RFC 9559, 10.1).
    bool isBlock(Bytes bytes, const Element& element) const {
        const auto body = slice(bytes, element.header, 4);
        return body.size() == 4 && element.length > 4 &&
               (tracks_.empty() || (body[0] & 0x80) == 0 || tracks_.contains(body[0] & 0x7fU));
    }
    // The numbers of the tracks, where each is a byte (5.1.4.1.1).
    void learnTracks(Bytes body) {
        for (std::size_t at = 0; at < body.size();) {
            const auto entry = readElement(body.subspan(at));
            if (!entry || entry->length > body.size()) return;
            const auto inside = slice(body, at + entry->header, entry->length);
            for (std::size_t k = 0; entry->id == kTrackEntry && k < inside.size();) {
                const auto fact = readElement(inside.subspan(k));
                if (!fact || fact->length > inside.size()) return;
                if (fact->id == kTrackNumber && fact->length == 1 && k + fact->header < inside.size())
                    tracks_.insert(inside[k + fact->header]);
                k += fact->header + static_cast<std::size_t>(fact->length);
            }
            at += entry->header + static_cast<std::size_t>(entry->length);
        }
    }
    bool mayEnd() const override { return end_ == kUnknown; }
    void describe(Measured& into) override {
        into.format = web_ ? "webm" : "mkv";
        into.kind = Kind::Video;
        into.mediaData.push_back({segmentAt_, into.length - std::min(into.length, segmentAt_)});
    }

    bool web_ = false;
    std::uint64_t segmentAt_ = 0, end_ = 0;
    std::uint64_t clusterEnd_ = 0;  // of the cluster in hand, kUnknown where it is not stated; 0: in none
    std::set<std::uint32_t> tracks_;
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
