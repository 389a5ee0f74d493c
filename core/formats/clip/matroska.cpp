// Matroska and WebM (RFC 9559 on EBML, RFC 8794): a header element, then a segment of elements that state
// their lengths, or whose lengths were never written when the recording was cut off or streamed.
#include <bit>
#include <map>

#include "formats/clip/picture_check.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

constexpr std::size_t kMatroskaHead = 64;
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

constexpr std::size_t kBlockHead = 4;
constexpr std::uint64_t kLargestBlock = 4 << 20;
constexpr std::uint64_t kLongestTracks = 1 << 20;  // with the settings and pictures of subtitles
constexpr std::uint32_t kHeaderId = 0x1a45dfa3, kSegment = 0x18538067, kCluster = 0x1f43b675;
constexpr std::uint32_t kTracks = 0x1654ae6b, kTrackEntry = 0xae, kTrackNumber = 0xd7, kBlock = 0xa3;
constexpr std::uint32_t kCodecId = 0x86, kCodecPrivate = 0x63a2;
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
    MatroskaWalk() : Walk(kMatroskaHead) {}

    void lookClosely(bool closely) override { closely_ = closely; }

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
            ask(kMatroskaHead);
        }
        if (element->id == kBlock && closely_ && element->length < kLargestBlock) {
            if (bytes.size() < element->header + element->length && !last)
                return ask(static_cast<std::size_t>(element->header + element->length));
            ask(kMatroskaHead);
            // What ends with the source is cut, not wrong.
            const bool complete = bytes.size() >= element->header + element->length;
            if (const auto fault =
                    !complete ? std::nullopt : faultIn(slice(bytes, element->header, element->length)))
                return breakOff("a picture of it breaks off", position() + element->header + *fault);
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
        return body.size() == 4 && element.length >= 4 &&
               (tracks_.empty() || (body[0] & 0x80) == 0 || tracks_.contains(body[0] & 0x7fU));
    }
    // Where the picture in a block without lacing breaks off, where its track's coding can be followed.
    std::optional<std::size_t> faultIn(Bytes block) const {
        const auto track = block.empty() ? tracks_.end() : tracks_.find(block[0] & 0x7fU);
        if (track == tracks_.end() || track->second.settings.empty() || block.size() < kBlockHead ||
            (block[3] & 6) != 0)
            return std::nullopt;
        const auto& settings = track->second.settings;
        const std::size_t place = track->second.coding == PictureCoding::Avc ? 4 : 21;
        if (settings.size() <= place) return std::nullopt;
        const auto fault = pictureCheck(track->second.coding, settings)
                               ->sample(block.subspan(kBlockHead), (settings[place] & 3U) + 1);
        return fault ? std::optional(kBlockHead + fault->byte) : std::nullopt;
    }
    // Shows the elements of one after the other.
    template <class Shown>
    static void each(Bytes body, Shown&& shown) {
        while (const auto element = readElement(body)) {
            if (element->length > body.size() - element->header) return;
            shown(element->id, slice(body, element->header, element->length));
            body = body.subspan(element->header + static_cast<std::size_t>(element->length));
        }
    }
    // Their numbers, and how they are coded (5.1.4.1).
    void learnTracks(Bytes body) {
        each(body, [&](std::uint32_t id, Bytes entry) {
            if (id != kTrackEntry) return;
            unsigned number = 0;
            Track track;
            each(entry, [&](std::uint32_t fact, Bytes value) {
                for (const auto byte : value) {
                    if (fact == kTrackNumber) number = number << 8 | byte;
                }
                if (fact == kCodecPrivate) track.settings.assign(value.begin(), value.end());
                if (fact != kCodecId) return;
                track.follows = startsWith(value, "V_MPEG4/ISO/AVC") || startsWith(value, "V_MPEGH/ISO/HEVC");
                track.coding = startsWith(value, "V_MPEGH") ? PictureCoding::Hevc : PictureCoding::Avc;
            });
            if (!track.follows) track.settings.clear();
            if (number > 0) tracks_[number] = std::move(track);
        });
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
    struct Track {
        PictureCoding coding = PictureCoding::Avc;
        bool follows = false;                // its pictures can be followed
        std::vector<std::uint8_t> settings;  // by these
    };
    std::map<std::uint32_t, Track> tracks_;
    bool closely_ = false;
};

bool looksLikeMatroska(Bytes head) {
    if (!startsWith(head, "\x1a\x45\xdf\xa3")) return false;
    const auto element = readElement(head);
    return element && element->id == kHeaderId && element->length >= 8 && element->length < 512;
}

}  // namespace

const Format& matroskaFormat() {
    static const PlainFormat format("matroska",
                                    {{"mkv", Kind::Video, "mkv", {"mka"}}, {"webm", Kind::Video, "webm"}},
                                    looksLikeMatroska, makeMeasure<MatroskaWalk>);
    return format;
}

}  // namespace dreskel
