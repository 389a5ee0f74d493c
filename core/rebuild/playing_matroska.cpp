#include "rebuild/playing_matroska.h"

#include <algorithm>
#include <map>

#include "formats/clip/matroska_parts.h"
#include "rebuild/piece_edit.h"

namespace dreskel::rebuild {
namespace {

using namespace ebml;

constexpr std::size_t kSearchedAtOnce = 1 << 20;     // bytes at once
constexpr std::uint64_t kMostSearched = 1ULL << 30;  // behind one place where it breaks off
constexpr std::size_t kMostChanges = 20000;
constexpr std::uint64_t kLongestBlock = 16 << 20;  // bytes that are looked into
constexpr std::uint64_t kLongestTracks = 1 << 20;
constexpr std::uint32_t kInnerBlock = 0xa1, kReference = 0xfb, kScale = 0x2ad7b1;
constexpr double kUsualScale = 1e6;  // nanoseconds of a tick
constexpr std::uint64_t kLeastVoid = 9;

Error cannotPlay(const std::string& why) {
    return {Fault::Failed, why, "", "Save the file as it is"};
}

// The head of a Void element of so many bytes in all.
std::vector<std::uint8_t> voidHead(std::uint64_t all) {
    std::vector<std::uint8_t> head{static_cast<std::uint8_t>(kVoid)};
    if (all < kLeastVoid) {
        head.push_back(static_cast<std::uint8_t>(0x80U | (all - 2)));
        return head;
    }
    head.push_back(1);
    for (int shift = 48; shift >= 0; shift -= 8)
        head.push_back(static_cast<std::uint8_t>((all - kLeastVoid) >> shift));
    return head;
}

// What becomes of the pictures of a track; see leave() of an MP4's.
struct PictureTrack {
    std::unique_ptr<PictureCheck> check;
    bool broken = true;
    std::int64_t begunWith = INT64_MIN;
    std::optional<std::int64_t> last;  // of those that are left, ticks
    std::int64_t usual = 0;            // from one to the next
};

class Maker {
  public:
    Maker(CardView& card, const std::vector<Piece>& file, Control& control)
        : reader_(card, file), pieces_(file), control_(control) {
        std::uint64_t at = 0;
        for (const auto& piece : file) {
            if (piece.from == PieceFrom::Fill) filled_.add({at, piece.length});
            at += piece.length;
        }
    }

    Result<PlayingClip> make() {
        if (!readHead()) return cannotPlay("its head is not there");
        while (at_ < std::min(segmentEnd_, reader_.size()) && changes_.size() < kMostChanges) {
            if (!control_.proceed())
                return Error{Fault::Interrupted, "Stopped before the version was made", "", "Save it again"};
            if (at_ == clusterEnd_) clusterEnd_ = 0;
            const auto element = elementAt(at_);
            if (element && belongs(*element)) {
                take(*element);
            } else if (!goOn()) {
                break;
            }
        }
        if (changes_.size() >= kMostChanges) return cannotPlay("too much of it is lost");
        if (playing_.pictures == 0) return cannotPlay("none of its pictures is left");
        close();
        playing_.length = static_cast<double>(longest_) * scale_ / 1e9;
        playing_.gaps = static_cast<double>(gaps_) * scale_ / 1e9;
        return std::move(playing_);
    }

  private:
    struct Change {
        std::uint64_t at = 0;
        std::vector<std::uint8_t> bytes;
        const char* why = "";
    };

    std::vector<std::uint8_t> bytesAt(std::uint64_t at, std::size_t count) {
        std::vector<std::uint8_t> bytes(count);
        bytes.resize(reader_.read(at, bytes));
        return bytes;
    }
    std::optional<Element> elementAt(std::uint64_t at) { return readElement(bytesAt(at, 16)); }
    void change(std::uint64_t at, std::vector<std::uint8_t> bytes, const char* why) {
        changes_.push_back({at, std::move(bytes), why});
    }
    bool readHead() {
        const auto head = elementAt(0);
        if (!head || head->id != kHeaderId || head->length > 4096) return false;
        segmentAt_ = head->header + head->length;
        segment_ = elementAt(segmentAt_);
        if (!segment_ || segment_->id != kSegment) return false;
        at_ = segmentAt_ + segment_->header;
        segmentEnd_ = segment_->length == kUnknown ? reader_.size() : at_ + segment_->length;
        return true;
    }
    bool inACluster() const { return clusterEnd_ != 0; }
    bool belongs(const Element& element) {
        const bool within = inACluster() && inCluster(element.id);
        const bool beside = (!inACluster() || clusterEnd_ == kUnknown) && inSegment(element.id);
        if (!within && !beside) return false;
        const auto stated = within && clusterEnd_ != kUnknown ? clusterEnd_ : segmentEnd_;
        const auto border = std::min(stated, reader_.size());
        const bool entered = element.id == kCluster || element.length == kUnknown;
        if (!entered && at_ + element.header + element.length > border) return false;
        return element.id != kBlock || (element.length >= BlockHead::kLength &&
                                        readBlockHead(bytesAt(at_ + element.header, 4), tracks_));
    }

    void take(const Element& element) {
        const auto inside = at_ + element.header;
        const auto end = inside + (element.length == kUnknown ? 0 : element.length);
        if (element.id == kCluster) {
            clusterAt_ = at_;
            cluster_ = element;
            clusterEnd_ = element.length == kUnknown ? kUnknown : end;
            time_ = clusterTime(bytesAt(at_, kClusterHead)).value_or(time_);
            at_ = inside;
            return;
        }
        if (!inCluster(element.id)) clusterEnd_ = 0;
        const bool isShort = element.length < kLongestTracks;
        if (element.id == kTracks && isShort)
            tracks_ = readMatroskaTracks(bytesAt(inside, static_cast<std::size_t>(element.length)));
        if (element.id == kInfo && isShort)
            readScale(bytesAt(inside, static_cast<std::size_t>(element.length)));
        if (element.id == kCues) cues_ = {at_, end - at_};
        if (element.id == kBlock || element.id == kBlockGroup) {
            const auto count = static_cast<std::size_t>(std::min(element.length, kLongestBlock));
            if (!keeps(element, bytesAt(inside, count)) ||
                filled_.intersects({at_, element.header + element.length}))
                change(at_, {static_cast<std::uint8_t>(kVoid)},
                       "a picture that is damaged, or builds on one that is");
        }
        at_ = end;
    }
    void readScale(Bytes body) {
        each(body, [&](std::uint32_t id, Bytes value) {
            if (id == kScale) scale_ = static_cast<double>(number(value));
        });
    }

    // Whether the block stays. `body`: its inside, all of it unless it is very long.
    bool keeps(const Element& element, Bytes body) {
        std::optional<bool> builds;
        auto block = body;
        if (element.id == kBlockGroup) {
            builds = false;
            block = {};
            each(body, [&](std::uint32_t id, Bytes part) {
                if (id == kInnerBlock) block = part;
                if (id == kReference) builds = true;
            });
        }
        const auto head = readBlockHead(block, tracks_);
        const auto track = head ? tracks_.find(head->track) : tracks_.end();
        if (track == tracks_.end()) return element.id == kBlock;
        if (!track->second.pictures) return true;
        auto& pictures = pictures_[head->track];
        const auto& about = track->second;
        bool right = !filled_.intersects({at_, element.header + element.length});
        if (right && about.lengthBytes() > 0 && !head->laced && element.length <= kLongestBlock) {
            if (!pictures.check) pictures.check = pictureCheck(*about.coding, about.settings);
            right = !pictures.check->sample(block.subspan(BlockHead::kLength), about.lengthBytes());
        }
        const bool key = builds ? !*builds : head->key;
        const auto shown = static_cast<std::int64_t>(time_) + head->time;
        if (pictures.broken && right && key) pictures.begunWith = shown;
        pictures.broken = !right || (pictures.broken && !key);
        if (pictures.broken || shown < pictures.begunWith) {
            ++playing_.leftOut;
            return false;
        }
        ++playing_.pictures;
        count(pictures, shown);
        return true;
    }
    void count(PictureTrack& track, std::int64_t shown) {
        longest_ = std::max(longest_, shown);
        if (track.last && shown > *track.last) {
            const auto step = shown - *track.last;
            if (track.usual > 0 && step > 4 * track.usual) gaps_ += step - track.usual;
            track.usual = track.usual == 0 ? step : std::min(track.usual, step);
        }
        track.last = std::max(track.last.value_or(shown), shown);
    }

    // What is no element is passed over.
    bool goOn() {
        const auto from = at_;
        const MatroskaPlace place{from, clusterEnd_, segmentEnd_, time_};
        // A Void element takes two bytes at least.
        for (auto at = from + 1; at < std::min(segmentEnd_, reader_.size()) && at - from < kMostSearched;
             at += kSearchedAtOnce - 1) {
            const auto bytes = bytesAt(at, kSearchedAtOnce + kClusterHead);
            auto here = place;
            here.position = at;
            const auto found = matroskaGoesOn(bytes, kSearchedAtOnce, here, tracks_);
            if (!found) continue;
            passOver(from, at + *found);
            return true;
        }
        return false;
    }
    void passOver(std::uint64_t from, std::uint64_t to) {
        if (inACluster() && (clusterEnd_ == kUnknown || to >= clusterEnd_)) {
            endCluster(from);
            clusterEnd_ = 0;
        }
        change(from, voidHead(to - from), "what is no element is passed over");
        for (auto& [number, track] : pictures_) track.broken = true;
        lost_ = true;
        at_ = to;
    }
    void endCluster(std::uint64_t at) {
        if (cluster_.length != kUnknown && clusterEnd_ > at) stateLength(clusterAt_, cluster_, 4, at);
    }
    // Of an element with an identifier of `id` bytes: where it ends now, in as many bytes as before.
    void stateLength(std::uint64_t begins, const Element& element, std::uint32_t id, std::uint64_t ends) {
        const auto width = element.header - id;
        const auto length = ends - begins - element.header;
        std::vector<std::uint8_t> bytes;
        for (auto i = width; i-- > 0;) bytes.push_back(static_cast<std::uint8_t>(length >> (8 * i)));
        bytes[0] = static_cast<std::uint8_t>((bytes[0] & (0xffU >> width)) | (0x80U >> (width - 1)));
        change(begins + id, std::move(bytes), "the length as it is");
    }
    void close() {
        const auto end = std::min({at_, segmentEnd_, reader_.size()});
        if (inACluster() && clusterEnd_ != kUnknown) endCluster(end);
        if (segment_->length != kUnknown && segmentEnd_ != end) stateLength(segmentAt_, *segment_, 4, end);
        // They would lead into what is lost.
        if (lost_ && cues_.length >= kLeastVoid)
            change(cues_.offset, voidHead(cues_.length), "its table of places is set aside");
        cutAt(pieces_, end);
        for (auto& each : changes_) replaceBytes(pieces_, each.at, std::move(each.bytes), each.why);
        playing_.pieces = std::move(pieces_);
    }

    PieceReader reader_;
    std::vector<Piece> pieces_;
    Control& control_;
    RangeSet filled_;
    PlayingClip playing_;
    std::vector<Change> changes_;
    MatroskaTracks tracks_;
    std::map<std::uint32_t, PictureTrack> pictures_;
    std::optional<Element> segment_;
    Element cluster_;  // the last
    std::uint64_t at_ = 0, segmentAt_ = 0, segmentEnd_ = 0, clusterAt_ = 0, clusterEnd_ = 0, time_ = 0;
    ByteRange cues_;
    double scale_ = kUsualScale;
    std::int64_t longest_ = 0, gaps_ = 0;
    bool lost_ = false;
};

}  // namespace

Result<PlayingClip> makePlayingMatroska(CardView& card, const std::vector<Piece>& file, Control& control) {
    return Maker(card, file, control).make();
}

}  // namespace dreskel::rebuild
