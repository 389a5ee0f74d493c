// Matroska and WebM (RFC 9559 on EBML, RFC 8794): a header element, then a segment of elements that state
// their lengths, or whose lengths were never written when the recording was cut off or streamed.
#include "formats/clip/matroska_parts.h"
#include "formats/families.h"
#include "formats/plain_format.h"
#include "formats/walk.h"

namespace dreskel {
namespace {

using namespace ebml;

constexpr std::size_t kMatroskaHead = 64;
constexpr std::uint64_t kLargestBlock = 4 << 20;
constexpr std::uint64_t kLongestTracks = 1 << 20;  // with the settings and pictures of subtitles
constexpr std::size_t kSeekPortion = 1 << 20;

class MatroskaWalk : public Walk {
  public:
    MatroskaWalk() : Walk(kMatroskaHead) {}

    void lookClosely(bool closely) override { closely_ = closely; }

  private:
    void visit(Bytes bytes, bool last) override {
        if (seeking_) return seek(bytes, last);
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
        if ((!within && !beside) || over ||
            (element->id == kBlock &&
             (element->length < BlockHead::kLength ||
              !readBlockHead(slice(bytes, element->header, BlockHead::kLength), tracks_)))) {
            if (end_ == kUnknown && accepted()) return close();
            return last ? breakOff("the card ends before the file does") : lose("no element follows", 0);
        }
        if (element->id == kTracks && element->length < kLongestTracks) {
            if (bytes.size() < element->header + element->length && !last)
                return ask(static_cast<std::size_t>(element->header + element->length));
            tracks_ =
                readMatroskaTracks(slice(bytes, element->header, static_cast<std::size_t>(element->length)));
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
                return lose("a picture of it breaks off", position() + element->header + *fault);
        }
        if (element->id == kCluster) {
            time_ = clusterTime(bytes).value_or(time_);
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
    // Something else lies in it. A segment says where it ends: what is behind belongs to it if that is where
    // it leads to.
    void lose(const std::string& why, std::uint64_t at) {
        if (end_ == kUnknown || !accepted()) return breakOff(why, at);
        lostFrom_ = position();
        if (!lostAt_) lostAt_ = lostFrom_;
        goAstray(why, at);
        seeking_ = true;
        ask(kSeekPortion);
    }
    // The next cluster that is later, or what follows in the one that is in hand.
    void seek(Bytes bytes, bool last) {
        const auto until = bytes.size() - std::min(bytes.size(), kClusterHead);
        const auto found = matroskaGoesOn(bytes, until, {position(), clusterEnd_, end_, time_}, tracks_);
        if (!found) {
            const bool over = last || until < 2 || position() + until >= end_;
            return over ? breakOff("no element follows") : advance(until - 1);
        }
        advance(*found);
        seeking_ = false;
        lost_ += position() - lostFrom_;
        if (clusterEnd_ == kUnknown || position() >= clusterEnd_) clusterEnd_ = 0;
        ask(kMatroskaHead);
    }
    // Where the picture in a block without lacing breaks off, where its track's coding can be followed.
    std::optional<std::size_t> faultIn(Bytes block) const {
        const auto head = readBlockHead(block, tracks_);
        const auto track = head ? tracks_.find(head->track) : tracks_.end();
        if (track == tracks_.end() || head->laced || track->second.lengthBytes() == 0) return std::nullopt;
        const auto& about = track->second;
        const auto fault = pictureCheck(*about.coding, about.settings)
                               ->sample(block.subspan(BlockHead::kLength), about.lengthBytes());
        return fault ? std::optional(BlockHead::kLength + fault->byte) : std::nullopt;
    }
    bool mayEnd() const override { return end_ == kUnknown; }
    void describe(Measured& into) override {
        into.format = web_ ? "webm" : "mkv";
        into.kind = Kind::Video;
        if (lostAt_) {
            into.proven = *lostAt_;
            if (into.length == end_) {
                into.lost = lost_;
            } else {
                into.length = *lostAt_;
            }
        }
        into.mediaData.push_back({segmentAt_, into.length - std::min(into.length, segmentAt_)});
    }

    bool web_ = false;
    std::uint64_t segmentAt_ = 0, end_ = 0;
    std::uint64_t clusterEnd_ = 0;  // of the cluster in hand, kUnknown where it is not stated; 0: in none
    MatroskaTracks tracks_;
    bool closely_ = false;
    std::uint64_t time_ = 0;                 // of the last cluster
    bool seeking_ = false;                   // for a cluster behind something else
    std::optional<std::uint64_t> lostAt_;    // where the first such thing begins
    std::uint64_t lostFrom_ = 0, lost_ = 0;  // the last; bytes of all
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
