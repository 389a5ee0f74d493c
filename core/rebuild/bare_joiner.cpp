#include "rebuild/bare_joiner.h"

#include <algorithm>

#include "formats/clip/start_codes.h"

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kStep = 64 << 10;  // bytes of the stream that are looked at further
constexpr std::size_t kLongestPicture = 8 << 20;
constexpr std::size_t kMostBarePieces = 64;
constexpr std::uint64_t kCuts = 8;        // borders in front of where it shows that are tried
constexpr std::size_t kNearBare = 512;    // clusters that are tried behind every cut first
constexpr std::size_t kTried = 32 << 10;  // bytes of a place that have to be right
constexpr std::uint64_t kInexact = 64;    // bytes by which a fault may be told too early

// What stands at the beginning of bytes that a picture begins.
struct Hand {
    std::optional<std::size_t> ends;  // of the picture, where that is seen
    bool over = false;                // nothing of the stream follows it
};

class BareJoiner {
  public:
    BareJoiner(CardView& card, PictureCoding coding, std::uint64_t start, const ClipPool& pool,
               Patience& patience, const Control& control)
        : card_(card),
          coding_(coding),
          pool_(pool),
          control_(control),
          patience_(patience),
          order_(coding),
          trail_(coding) {
        places_.push_back({start, pool.cluster()});
    }
    std::optional<std::vector<ByteRange>> run();

  private:
    enum class Picture { Right, Last, Wrong };  // Wrong: from wrongAt_ on
    Picture followPicture();
    Hand lookAt(Bytes bytes) const;
    bool goOn();
    bool goOnFrom(std::uint64_t cut, std::size_t from, std::size_t to);
    // Whether the picture in hand goes on at a place of the card behind its bytes up to the cut.
    bool carries(std::uint64_t cut, std::uint64_t at);
    std::vector<ByteRange> placesUpTo(std::uint64_t length) const {
        auto places = places_;
        cutTo(places, length);
        return places;
    }
    // Of the stream, from the picture in hand on; fewer where no more is there.
    Bytes inHand(std::size_t count);

    bool tired() const { return control_.stopped() || patience_.over(); }
    bool open(std::uint64_t at, const std::vector<ByteRange>& places) const {
        return pool_.free(at) && std::none_of(places.begin(), places.end(),
                                              [at](const ByteRange& place) { return place.contains(at); });
    }
    std::uint64_t length() const { return lengthOf(places_); }

    CardView& card_;
    PictureCoding coding_;
    const ClipPool& pool_;
    const Control& control_;
    Patience& patience_;
    PictureOrder order_;  // which slice is the first of a picture it tells without parameter sets
    StartCodedTrail trail_;
    std::vector<ByteRange> places_;  // in whole clusters
    std::vector<std::uint8_t> sets_, hand_, trial_;
    std::uint64_t picture_ = 0, wrongAt_ = 0;  // in the stream; picture_: the one in hand
};

Bytes BareJoiner::inHand(std::size_t count) {
    while (length() < picture_ + count && open(places_.back().end(), places_))
        places_.back().length += pool_.cluster();
    const auto before = hand_.size();
    hand_.resize(static_cast<std::size_t>(std::min<std::uint64_t>(count, length() - picture_)));
    if (hand_.size() <= before) return hand_;
    const auto got = PieceReader(card_, places_).read(picture_ + before, MutableBytes(hand_).subspan(before));
    hand_.resize(before + got);
    return hand_;
}

Hand BareJoiner::lookAt(Bytes bytes) const {
    bool sliced = false;
    for (std::size_t at = 0;;) {
        const auto rest = bytes.subspan(at);
        if (rest.size() < kMostZerosBetweenUnits + 8) return {};
        const auto code = startCodeAt(rest);
        const auto unit = rest.subspan(code);
        const auto kind = code == 0 ? UnitKind::Impossible : unitKind(coding_, unit);
        if (kind == UnitKind::Impossible) return {at, true};
        const auto head = kind == UnitKind::Slice ? order_.read(unit) : std::nullopt;
        if (sliced && (kind == UnitKind::Leading || (head && head->first))) return {at, false};
        sliced = sliced || kind == UnitKind::Slice;
        const auto end = unitEnd(unit);
        if (!end) return {};
        at += code + *end;
    }
}

BareJoiner::Picture BareJoiner::followPicture() {
    for (auto count = kStep;; count += kStep) {
        const auto bytes = inHand(count);
        const auto hand = lookAt(bytes);
        const auto fault =
            hand.ends ? trail_.complete(sets_, bytes.first(*hand.ends)) : trail_.soFar(sets_, bytes);
        if (fault || (!hand.ends && (bytes.size() < count || count > kLongestPicture))) {
            wrongAt_ = picture_ + (fault ? fault->byte : bytes.size());
            return Picture::Wrong;
        }
        if (!hand.ends) continue;
        if (auto sets = setsIn(coding_, bytes.first(*hand.ends))) sets_ = std::move(*sets);
        picture_ += *hand.ends;
        hand_.erase(hand_.begin(), hand_.begin() + static_cast<std::ptrdiff_t>(*hand.ends));
        return hand.over ? Picture::Last : Picture::Right;
    }
}

bool BareJoiner::goOn() {
    const std::uint64_t cluster = pool_.cluster();
    const auto pieceAt = length() - places_.back().length;
    const auto first = std::max(picture_, pieceAt + 1);
    std::vector<std::uint64_t> cuts;
    for (auto cut = (wrongAt_ + kInexact) / cluster * cluster; cut >= first && cuts.size() < kCuts;
         cut -= cluster)
        cuts.push_back(cut);
    for (const auto& [from, to] : {std::pair{std::size_t{0}, kNearBare}, std::pair{kNearBare, SIZE_MAX}}) {
        for (const auto cut : cuts) {
            if (cut <= length() && goOnFrom(cut, from, to)) return true;
        }
    }
    return false;
}

bool BareJoiner::goOnFrom(std::uint64_t cut, std::size_t from, std::size_t to) {
    // Less is there where the card cannot be read.
    const auto wanted = static_cast<std::size_t>(cut - picture_);
    if (inHand(wanted).size() < wanted) return false;
    const auto before = placesUpTo(cut);
    const auto end = before.back().end();
    std::size_t visited = 0;
    std::optional<std::uint64_t> found;
    pool_.visit(end, [&](std::uint64_t at) {
        if (visited >= to || tired()) return true;
        if (visited++ < from || at == end || !open(at, before)) return false;
        if (carries(cut, at)) found = at;
        return found.has_value();
    });
    if (!found) return false;
    places_ = before;
    places_.push_back({*found, pool_.cluster()});
    return true;
}

bool BareJoiner::carries(std::uint64_t cut, std::uint64_t at) {
    const auto front = static_cast<std::size_t>(cut - picture_);
    std::size_t some = 0;
    while (some < kTried && pool_.free(at + some)) some += pool_.cluster();
    trial_.assign(hand_.begin(), hand_.begin() + static_cast<std::ptrdiff_t>(front));
    trial_.resize(front + some);
    trial_.resize(front + card_.read(at, MutableBytes(trial_).subspan(front)));
    // Nearly all places are wrong, and show it within the unit over the cut: it is followed from there only
    // as long as its length is left open.
    const Bytes all(trial_);
    const auto close = front - std::min<std::size_t>(front, 2);
    const auto unit = unitEnd(all.subspan(close));
    if (trail_.soFar(sets_, all.first(unit ? std::max(front, close + *unit) : all.size()))) return false;
    const auto hand = lookAt(all);
    if (!hand.ends) return !trail_.soFar(sets_, all);
    // What ends just at the cut is followed by another picture's beginning.
    if (*hand.ends < front || (*hand.ends == front && hand.over)) return false;
    if (trail_.complete(sets_, all.first(*hand.ends))) return false;
    return hand.over || !trail_.soFar(sets_, all.subspan(*hand.ends));
}

std::optional<std::vector<ByteRange>> BareJoiner::run() {
    auto outcome = Picture::Right;
    while (outcome != Picture::Last && !tired()) {
        outcome = patience_.without([&] { return followPicture(); });
        if (outcome == Picture::Wrong && (places_.size() >= kMostBarePieces || !goOn())) break;
    }
    if (control_.stopped() || places_.size() < 2) return std::nullopt;
    const std::uint64_t cluster = pool_.cluster();
    const auto ends = outcome == Picture::Wrong ? wrongAt_ : picture_;
    return placesUpTo((ends + cluster - 1) / cluster * cluster);
}

}  // namespace

std::optional<std::vector<ByteRange>> joinBare(CardView& card, PictureCoding coding, std::uint64_t start,
                                               const ClipPool& pool, Patience& patience,
                                               const Control& control) {
    return BareJoiner(card, coding, start, pool, patience, control).run();
}

}  // namespace dreskel::rebuild
