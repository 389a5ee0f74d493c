#include "rebuild/sound_joiner.h"

#include <algorithm>

#include "formats/sound/alac.h"

namespace dreskel::rebuild {
namespace {

using isobmff::Sample;
using isobmff::SoundCoding;
using Places = std::vector<ByteRange>;

constexpr std::uint64_t kAhead = 64 << 10;            // bytes of the file that are looked at further
constexpr std::uint64_t kRightBehindJoin = 12 << 10;  // bytes behind a join that have to be right
constexpr std::size_t kTriedFirst = 512;              // clusters that are tried behind every cut first
constexpr std::size_t kMostPiecesOfSound = 256;
constexpr std::uint32_t kLargestFrame = 1 << 20;  // bytes
constexpr const char* kGoesOn = "the frames of sound go on here, each as long as the index says";
constexpr const char* kIndexLies = "its index lies here";

std::uint64_t endOf(const Sample& frame) {
    return frame.offset + frame.size;
}

class SoundJoiner {
  public:
    SoundJoiner(std::vector<Sample> frames, const ClipHead& head, const LooseIndex& index,
                const ClipPool& pool, const RightFrames& rightFrames, Patience patience,
                const Control& control)
        : pool_(pool),
          rightFrames_(rightFrames),
          patience_(patience),
          control_(control),
          cluster_(pool.cluster()),
          length_(lengthOf(head, index)),
          frames_(std::move(frames)) {
        if (!head.indexInFront)
            tail_ = Tail{head.indexAt / cluster_, index.box.offset - head.indexAt % cluster_};
        places_.push_back({head.start, cluster_});
    }
    std::optional<JoinedClip> run();

  private:
    // The cluster in which the index begins, where it stands behind the sound: in the file, and on the card.
    struct Tail {
        std::uint64_t number = 0, at = 0;
    };
    bool tired() const { return control_.stopped() || patience_.over(); }
    bool mayFollow(const Places& places, std::uint64_t at) const {
        const bool indexAsItMust =
            !tail_ || (lengthOf(places) / cluster_ == tail_->number) == (at == tail_->at);
        return indexAsItMust && pool_.free(at) &&
               std::none_of(places.begin(), places.end(),
                            [at](const auto& place) { return place.contains(at); });
    }
    // The last piece grows until the file is so long, as far as it can.
    void grow(Places& places, std::uint64_t length) const {
        while (lengthOf(places) < length && mayFollow(places, places.back().end()))
            places.back().length += cluster_;
    }
    // Of the frames from `first` on, those that follow one another up to a byte of the file, as far as that
    // is there.
    std::span<const Sample> framesUpTo(std::size_t first, std::uint64_t byte, const Places& places) const;
    bool goOn(std::size_t broken);
    bool goOnFrom(std::uint64_t cut, std::size_t from, std::size_t to);
    bool reachEnd();

    const ClipPool& pool_;
    const RightFrames& rightFrames_;
    Patience patience_;
    const Control& control_;
    std::uint64_t cluster_, length_;
    std::optional<Tail> tail_;
    std::vector<Sample> frames_;  // in their order in the file
    Places places_;               // in whole clusters
    std::vector<std::string> reasons_;
};

std::span<const Sample> SoundJoiner::framesUpTo(std::size_t first, std::uint64_t byte,
                                                const Places& places) const {
    const auto there = lengthOf(places);
    auto end = first;
    while (end < frames_.size() && endOf(frames_[end]) <= there &&
           (end == first || frames_[end].offset < byte) &&
           (end == first || frames_[end].offset == endOf(frames_[end - 1])))
        ++end;
    return std::span(frames_).subspan(first, end - first);
}

bool SoundJoiner::goOn(std::size_t broken) {
    const auto begins = broken > 0 ? frames_[broken - 1].offset : 0;
    std::vector<std::uint64_t> cuts;
    const auto pieceAt = lengthOf(places_) - places_.back().length;
    for (auto cut = std::min(endOf(frames_[broken]), lengthOf(places_)) / cluster_ * cluster_;
         cut > std::max(begins, pieceAt); cut -= cluster_)
        cuts.push_back(cut);
    for (const auto& [from, to] :
         {std::pair{std::size_t{0}, kTriedFirst}, std::pair{kTriedFirst, SIZE_MAX}}) {
        for (const auto cut : cuts) {
            if (goOnFrom(cut, from, to)) return true;
        }
    }
    return false;
}

bool SoundJoiner::goOnFrom(std::uint64_t cut, std::size_t from, std::size_t to) {
    auto base = places_;
    cutTo(base, cut);
    const auto over =
        std::upper_bound(frames_.begin(), frames_.end(), cut,
                         [](std::uint64_t byte, const Sample& frame) { return byte < endOf(frame); });
    const auto first = static_cast<std::size_t>(over - frames_.begin());
    const auto end = base.back().end();
    std::size_t visited = 0;
    return pool_.visit(end, [&](std::uint64_t at) {
        if (visited >= to || tired()) return true;
        if (visited++ < from || at == end || !mayFollow(base, at)) return false;
        auto places = base;
        places.push_back({at, cluster_});
        grow(places, endOf(frames_[first]));
        // A piece may be as short as a cluster, but not shorter than a frame.
        auto tried = framesUpTo(first, cut + kRightBehindJoin, places);
        while (tried.size() > 1 && endOf(tried.back()) > cut + cluster_)
            tried = tried.first(tried.size() - 1);
        if (tried.empty() || rightFrames_(places, tried) < tried.size()) return false;
        places_ = std::move(places);
        return true;
    }) && places_.size() > base.size();
}

bool SoundJoiner::reachEnd() {
    if (tail_ && lengthOf(places_) <= tail_->number * cluster_) {
        grow(places_, tail_->number * cluster_);
        if (lengthOf(places_) != tail_->number * cluster_ || !mayFollow(places_, tail_->at)) return false;
        if (places_.back().end() == tail_->at) {
            places_.back().length += cluster_;
        } else {
            places_.push_back({tail_->at, cluster_});
            reasons_.emplace_back(kIndexLies);
        }
    }
    grow(places_, length_);
    cutTo(places_, length_);
    return lengthOf(places_) == length_;
}

std::optional<JoinedClip> SoundJoiner::run() {
    for (std::size_t next = 0; next < frames_.size();) {
        if (tired()) return std::nullopt;
        grow(places_, frames_[next].offset + kAhead);
        const auto ahead = framesUpTo(next, frames_[next].offset + kAhead, places_);
        const auto right = patience_.without([&] { return rightFrames_(places_, ahead); });
        next += right;
        if (!ahead.empty() && right == ahead.size()) continue;
        if (places_.size() >= kMostPiecesOfSound || !goOn(next)) return std::nullopt;
        reasons_.emplace_back(kGoesOn);
    }
    if (!reachEnd() || places_.size() < 2) return std::nullopt;
    return JoinedClip{places_, reasons_, {}};
}

}  // namespace

const isobmff::SampleTrack* soundTrackOf(const LooseIndex& index) {
    const isobmff::SampleTrack* sound = nullptr;
    for (const auto& track : index.tracks) {
        if (track.samples.empty()) continue;
        const bool told = track.sound == SoundCoding::Aac || track.sound == SoundCoding::Lossless;
        if (sound != nullptr || !told) return nullptr;
        sound = &track;
    }
    return sound;
}

std::size_t rightLosslessFrames(CardView& card, Bytes settings, const Places& places,
                                std::span<const Sample> frames) {
    const auto decoder = alac::readSettings(settings);
    if (!decoder) return 0;
    PieceReader reader(card, places);
    std::vector<std::uint8_t> packet;
    std::size_t right = 0;
    for (const auto& frame : frames) {
        packet.resize(frame.size);
        const bool there = reader.read(frame.offset, packet) == packet.size();
        if (!there || alac::followPacket(packet, *decoder) != nullptr) break;
        ++right;
    }
    return right;
}

std::optional<JoinedClip> joinSound(CardView& card, const ClipHead& head, const LooseIndex& index,
                                    const ClipPool& pool, const RightFrames& rightFrames, Patience patience,
                                    const Control& control) {
    const auto* track = soundTrackOf(index);
    const bool onGrid = head.start % pool.cluster() == pool.origin();
    // An index in pieces itself has a place for each of them.
    if (track == nullptr || !onGrid || index.places.size() > 1 || !index.parts.empty()) return std::nullopt;
    auto frames = track->samples;
    std::erase_if(frames, [](const Sample& frame) { return frame.size == 0; });
    const bool sane = std::all_of(frames.begin(), frames.end(), [&](const Sample& frame) {
        return frame.size <= kLargestFrame && head.media.covers({frame.offset, frame.size});
    });
    if (!sane || frames.empty()) return std::nullopt;
    std::sort(frames.begin(), frames.end(),
              [](const Sample& a, const Sample& b) { return a.offset < b.offset; });
    auto joined = SoundJoiner(std::move(frames), head, index, pool, rightFrames, patience, control).run();
    if (joined) {
        auto& last = joined->places.back();
        last.length += boxesBehind(card, last.end(), pool.cluster() - last.length % pool.cluster());
    }
    return joined;
}

}  // namespace dreskel::rebuild
