#include "rebuild/fragment_chain.h"

#include <algorithm>
#include <array>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/fragment.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;
using isobmff::readBoxHeader;

constexpr int kMostFrontBoxes = 16;
constexpr std::uint64_t kLargestFragment = 4 << 20;  // bytes of a moof box
constexpr std::uint64_t kMostBetween = 64 << 10;     // bytes of other boxes between two fragments
constexpr std::uint32_t kMostLost = 64;              // fragments in a row
constexpr std::uint64_t kLargestLoss = 256 << 20;    // bytes
constexpr std::size_t kNumberedHead = 24;            // bytes of a moof box, with its number
constexpr std::size_t kMostRests = 20000;            // clusters that are tried for the rest of one

bool mayStandBetween(std::uint32_t type) {
    constexpr std::array kTypes{fourCc("styp"), fourCc("sidx"), fourCc("ssix"), fourCc("prft"),
                                fourCc("emsg"), fourCc("free"), fourCc("skip"), fourCc("uuid")};
    return std::find(kTypes.begin(), kTypes.end(), type) != kTypes.end();
}

std::optional<isobmff::BoxHeader> boxOf(CardView& card, std::uint64_t at) {
    std::array<std::uint8_t, 16> bytes{};
    return readBoxHeader(Bytes(bytes).first(card.read(at, bytes)));
}

// A fragment, where it lies and where it stands in the file.
struct Link {
    std::uint64_t fileAt = 0;
    std::vector<ByteRange> places;
    isobmff::Fragment fragment;
    std::uint64_t next = 0;  // of the file: behind its media data
};

class Chain {
  public:
    Chain(CardView& card, const ClipHead& head, LooseIndex index, const FragmentPlaces& places,
          const ClipPool& pool, const Control& control)
        : card_(card),
          start_(head.start),
          behindIndex_(head.indexAt + index.box.length),
          first_(std::max(behindIndex_, head.media.end())),
          index_(std::move(index)),
          places_(places),
          pool_(pool),
          control_(control) {}

    // All that is listed, and the index alone where nothing follows.
    LooseIndex read() {
        if (!readMovie()) return std::move(index_);
        while (!control_.stopped() && links_.size() < limits::kMostTopLevelBoxes) {
            auto next = following();
            if (!next) next = beyondALoss();
            if (!next) break;
            // Lists of samples of no size cost a card nothing.
            for (const auto& track : next->fragment.tracks) samples_ += track.samples.size();
            if (samples_ > limits::kLargestTablesOfAClip) break;
            index_.goesOn = false;
            links_.push_back(std::move(*next));
        }
        add();
        return std::move(index_);
    }

  private:
    std::optional<isobmff::BoxHeader> boxAt(std::uint64_t at) { return boxOf(card_, at); }
    // What is announced of the samples of fragments.
    bool readMovie() {
        for (const auto& place : index_.places) {
            const auto from = movie_.size();
            movie_.resize(from + static_cast<std::size_t>(place.length));
            if (card_.read(place.offset, MutableBytes(movie_).subspan(from)) < place.length) return false;
        }
        if (movie_.size() < 8) return false;
        movie_.erase(movie_.begin(), movie_.begin() + 8);
        defaults_ = isobmff::readDefaults(movie_);
        return !defaults_.empty();
    }

    // Where the file goes on behind the last link, and where that would be on the card if it lay there.
    std::uint64_t fileNext() const { return links_.empty() ? first_ : links_.back().next; }
    std::uint64_t near() const {
        if (links_.empty()) return index_.places.back().end() + (first_ - behindIndex_);
        const auto& last = links_.back();
        return last.places.front().offset + (last.next - last.fileAt);
    }
    const std::vector<std::uint64_t>& numbered(std::uint32_t sequence) const {
        static const std::vector<std::uint64_t> kNone;
        const auto found = places_.find(sequence);
        return found == places_.end() ? kNone : found->second;
    }

    std::optional<Link> following() {
        if (!links_.empty()) return nearestOf(links_.back().fragment.sequence + 1);
        if (first_ == behindIndex_) return behindTheIndex();
        for (const std::uint32_t sequence : {1U, 2U, 0U}) {  // as writers count
            if (auto link = nearestOf(sequence)) return link;
        }
        return std::nullopt;
    }
    std::optional<Link> behindTheIndex() {
        for (std::uint64_t between = 0; between < kMostBetween;) {
            const auto box = boxAt(near() + between);
            if (!box) return std::nullopt;
            if (box->type == fourCc("moof")) {
                index_.goesOn = true;
                return linkAt(near() + between, first_ + between);
            }
            if (!mayStandBetween(box->type) || box->size < 8 || box->size > kMostBetween) return std::nullopt;
            between += box->size;
        }
        return std::nullopt;
    }
    // Of those with the number, the nearest that fits its place in the file and the time.
    std::optional<Link> nearestOf(std::uint32_t sequence) {
        auto offered = numbered(sequence);
        const auto from = near();
        std::sort(offered.begin(), offered.end(), [from](std::uint64_t a, std::uint64_t b) {
            return std::pair(a < from, a < from ? from - a : a - from) <
                   std::pair(b < from, b < from ? from - b : b - from);
        });
        for (const auto at : offered) {
            const auto between = bytesBetween(at);
            if (!between) continue;
            auto link = linkAt(at, fileNext() + *between);
            index_.goesOn = index_.goesOn || !link;
            if (link && (links_.empty() || goesOnFrom(links_.back(), link->fragment))) return link;
        }
        return std::nullopt;
    }
    // A cluster keeps its place in the file: what of it is other boxes between the fragment before and this
    // one. Nothing when it cannot stand there.
    std::optional<std::uint64_t> bytesBetween(std::uint64_t at) {
        const std::uint64_t cluster = pool_.cluster();
        const auto between = (at + 2 * cluster - start_ % cluster - fileNext() % cluster) % cluster;
        if (between > kMostBetween || between > at) return std::nullopt;
        auto box = at - between;
        while (box < at) {
            const auto head = boxAt(box);
            if (!head || !mayStandBetween(head->type) || head->size < 8 || head->size > at - box)
                return std::nullopt;
            box += head->size;
        }
        return between;
    }
    static bool goesOnFrom(const Link& before, const isobmff::Fragment& next) {
        return std::all_of(next.tracks.begin(), next.tracks.end(), [&](const auto& track) {
            const auto* known = in(before.fragment, track.track);
            const bool both = known != nullptr && known->begins && track.begins;
            return !both || *known->begins + known->length == *track.begins;
        });
    }
    // What was overwritten is passed over where the file seems to lie in one piece: as much of it lies
    // between as there should in the time.
    std::optional<Link> beyondALoss() {
        if (links_.empty()) return std::nullopt;
        const auto& last = links_.back();
        const auto from = last.places.front().offset;
        for (std::uint32_t lost = 2; lost < kMostLost; ++lost) {
            for (const auto at : numbered(last.fragment.sequence + lost)) {
                if (at <= from || at - from > kLargestLoss || !freeBetween(from, at)) continue;
                auto link = linkAt(at, last.fileAt + (at - from));
                if (link && link->fileAt >= last.next && isDueThen(*link)) return link;
            }
        }
        return std::nullopt;
    }
    bool freeBetween(std::uint64_t from, std::uint64_t to) const {
        const std::uint64_t cluster = pool_.cluster();
        for (auto at = from - (from - pool_.origin()) % cluster; at < to; at += cluster) {
            if (!pool_.free(at)) return false;
        }
        return true;
    }
    bool isDueThen(const Link& next) const {
        constexpr double kMostApart = 2;
        const auto& first = links_.front();
        const auto& last = links_.back();
        for (const auto& track : next.fragment.tracks) {
            const auto* begins = in(first.fragment, track.track);
            const auto* ends = in(last.fragment, track.track);
            if (begins == nullptr || ends == nullptr || !begins->begins || !ends->begins || !track.begins)
                continue;
            const auto end = *ends->begins + ends->length;
            if (end <= *begins->begins || *track.begins <= end) return false;
            const auto rate =
                static_cast<double>(last.next - first.fileAt) / static_cast<double>(end - *begins->begins);
            const auto between =
                static_cast<double>(next.fileAt - last.next) / static_cast<double>(*track.begins - end);
            return between < kMostApart * rate && rate < kMostApart * between;
        }
        return false;
    }
    static const isobmff::TrackFragment* in(const isobmff::Fragment& fragment, std::uint32_t track) {
        const auto found =
            std::find_if(fragment.tracks.begin(), fragment.tracks.end(),
                         [track](const isobmff::TrackFragment& each) { return each.track == track; });
        return found == fragment.tracks.end() ? nullptr : &*found;
    }

    // The fragment that begins there on the card, if its media data follow on it.
    std::optional<Link> linkAt(std::uint64_t at, std::uint64_t fileAt) {
        const auto box = boxAt(at);
        if (!box || box->type != fourCc("moof") || box->headerSize != 8 || box->size > kLargestFragment)
            return std::nullopt;
        if (auto link = linkIn({{at, box->size}}, fileAt)) return link;
        return inTwoPieces(at, box->size, fileAt);
    }
    std::optional<Link> linkIn(std::vector<ByteRange> places, std::uint64_t fileAt) {
        std::vector<std::uint8_t> bytes;
        for (const auto& place : places) {
            const auto from = bytes.size();
            bytes.resize(from + static_cast<std::size_t>(place.length));
            if (card_.read(place.offset, MutableBytes(bytes).subspan(from)) < place.length)
                return std::nullopt;
        }
        auto fragment = isobmff::readFragment(bytes, fileAt, defaults_);
        if (!fragment) return std::nullopt;
        // A box of media data that holds all of its samples.
        const auto end = fileAt + bytes.size();
        const auto data = boxAt(places.back().end());
        const auto next = data && data->size > 0 ? checkedAdd(end, data->size) : std::nullopt;
        const bool holds = next && data->type == fourCc("mdat") && fragment->media.offset >= end &&
                           fragment->media.end() <= *next;
        if (!holds || *next > card_.size()) return std::nullopt;
        return Link{fileAt, std::move(places), std::move(*fragment), *next};
    }
    // A piece of the file may end within it; the media data follow on the rest.
    std::optional<Link> inTwoPieces(std::uint64_t at, std::uint64_t size, std::uint64_t fileAt) {
        const std::uint64_t cluster = pool_.cluster();
        const auto here = cluster - (at + cluster - pool_.origin()) % cluster;
        if (here >= size || size - here > cluster) return std::nullopt;
        std::optional<Link> link;
        std::size_t tries = 0;
        pool_.visitNear(at + here, [&](std::uint64_t rest) {
            const auto data = boxAt(rest + size - here);
            if (data && data->type == fourCc("mdat"))
                link = linkIn({{at, here}, {rest, size - here}}, fileAt);
            return link.has_value() || ++tries >= kMostRests || control_.stopped();
        });
        return link;
    }

    void add() {
        const auto numbers = isobmff::readTrackNumbers(movie_);
        if (index_.tracks.size() != numbers.size()) return;
        for (const auto& link : links_) {
            auto byte = link.fileAt;
            for (const auto& place : link.places) {
                index_.parts.push_back({byte, place});
                byte += place.length;
            }
            index_.firstByte = std::min(index_.firstByte, link.fragment.media.offset);
            index_.lastByte = std::max(index_.lastByte, link.fragment.media.end());
            index_.end = link.next;
            for (const auto& part : link.fragment.tracks) {
                const auto number = std::find(numbers.begin(), numbers.end(), part.track);
                if (number == numbers.end()) continue;
                auto& samples = index_.tracks[static_cast<std::size_t>(number - numbers.begin())].samples;
                for (const auto& sample : part.samples) samples.push_back({sample.offset, sample.size});
            }
        }
    }

    CardView& card_;
    std::uint64_t start_;
    std::uint64_t behindIndex_, first_;  // of the file: where fragments begin, if need be behind other data
    LooseIndex index_;
    const FragmentPlaces& places_;
    const ClipPool& pool_;
    const Control& control_;
    std::vector<std::uint8_t> movie_;  // the inside of the moov box
    std::map<std::uint32_t, isobmff::SampleDefaults> defaults_;
    std::vector<Link> links_;
    std::uint64_t samples_ = 0;
};

// A movie without samples of its own at the front of a file; media data stand behind the first fragment only.
std::optional<FragmentedClip> readFront(CardView& card, std::uint64_t start) {
    FragmentedClip clip;
    clip.head.start = start;
    clip.head.indexInFront = true;
    std::uint64_t at = 0;
    for (int i = 0; i < kMostFrontBoxes; ++i) {
        const auto box = boxOf(card, start + at);
        const bool front = box && box->type != fourCc("mdat") && box->type != fourCc("moof");
        if (!front || box->size < 8 || box->size > limits::kLargestIndex) return std::nullopt;
        if (box->type != fourCc("moov")) {
            at += box->size;
            continue;
        }
        std::vector<std::uint8_t> movie(static_cast<std::size_t>(box->size - box->headerSize));
        if (card.read(start + at + box->headerSize, movie) < movie.size()) return std::nullopt;
        auto tracks = isobmff::readSamples(movie);
        if (!tracks || isobmff::readDefaults(movie).empty()) return std::nullopt;
        clip.head.indexAt = at;
        clip.index.box = {start + at, box->size};
        clip.index.places = {clip.index.box};
        clip.index.firstByte = UINT64_MAX;
        clip.index.tracks = std::move(*tracks);
        return clip;
    }
    return std::nullopt;
}

}  // namespace

FragmentPlaces numberFragments(CardView& card, const std::vector<std::uint64_t>& places) {
    FragmentPlaces numbered;
    std::array<std::uint8_t, kNumberedHead> bytes{};
    for (const auto at : places) {
        if (card.read(at, bytes) < bytes.size()) continue;
        ByteReader reader(Bytes(bytes).subspan(20));
        numbered[reader.u32()].push_back(at);
    }
    return numbered;
}

std::optional<FragmentedClip> readFragments(CardView& card, std::uint64_t start, const FragmentPlaces& places,
                                            const ClipPool& pool, const Control& control) {
    auto clip = readFront(card, start);
    if (!clip) return std::nullopt;
    clip->index = withFragments(card, clip->head, std::move(clip->index), places, pool, control);
    if (clip->index.parts.empty()) return std::nullopt;
    const auto from = clip->head.indexAt + clip->index.box.length;
    clip->head.media = {from, clip->index.end - from};
    return clip;
}

bool goesOnWithFragments(CardView& card, std::uint64_t end, const ClipPool& pool) {
    if ((end + pool.cluster() - pool.origin()) % pool.cluster() == 0) return false;  // another's cluster
    const auto box = boxOf(card, end);
    return box && (box->type == fourCc("moof") || box->type == fourCc("styp") || box->type == fourCc("sidx"));
}

LooseIndex withFragments(CardView& card, const ClipHead& head, LooseIndex index, const FragmentPlaces& places,
                         const ClipPool& pool, const Control& control) {
    return Chain(card, head, std::move(index), places, pool, control).read();
}

}  // namespace dreskel::rebuild
