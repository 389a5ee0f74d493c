#include "rebuild/walk_joiner.h"

#include <algorithm>
#include <deque>

#include "base/patience.h"
#include "rebuild/text.h"

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kWalkStates = 24;
constexpr std::size_t kCuts = 12;                 // places tried for one join
constexpr std::size_t kCutsOfARecord = 48;        // the same where a long record shows it
constexpr int kMostWhole = 6;                     // ways that are checked to their end
constexpr std::uint64_t kLookFurther = 1 << 20;   // bytes behind a join, where little tells right from wrong
constexpr std::uint64_t kLookNear = 128 << 10;    // enough of them where something stands in the way
constexpr std::uint64_t kRightAtOnce = 64 << 10;  // bytes behind a join in which nothing may be wrong
constexpr std::size_t kBehindIt = 2000;           // clusters behind the first such that are looked at
constexpr std::size_t kNearWalk = 512;            // clusters behind a join that are looked at first
constexpr std::size_t kMostPassable = 6;          // candidates that are gone on with though they got less far
constexpr std::uint64_t kLongestWant = 4 << 20;

class WalkJoiner {
  public:
    WalkJoiner(CardView& card, const ClipPool& pool, std::uint64_t start,
               const std::function<bool(const std::vector<ByteRange>&)>& whole, const Control& control,
               const WalkJoinLimits& limits)
        : card_(card),
          pool_(pool),
          whole_(whole),
          control_(control),
          limits_(limits),
          patience_(limits.time) {
        places_.push_back({start, pool.cluster()});
    }
    bool run(std::unique_ptr<Measure> measure) { return follow(std::move(measure), 0); }
    const std::vector<ByteRange>& places() const { return places_; }

  private:
    struct State {
        std::unique_ptr<Measure> measure;
        std::uint64_t given = 0;  // no byte from here on
    };
    enum class Outcome { Over, Wrong, Obstacle };
    bool follow(std::unique_ptr<Measure> measure, std::uint64_t joinAt);
    // Goes on, the last piece growing with it, until something is wrong or `enough` is taken in.
    Outcome walk(Measure& measure, std::uint64_t enough, std::deque<State>* states, std::uint64_t& end);
    // Those of the free clusters that are looked at, in the order of the pool: from the first to before the
    // last.
    struct Reach {
        std::size_t first, last;
    };
    // Where something is wrong behind the first of these states, once the records that were passed by their
    // lengths are looked into; UINT64_MAX: nowhere.
    std::uint64_t whereItShows(const std::deque<State>& states);
    // From a border near to where something shows.
    bool goOnNear(const std::deque<State>& states, std::uint64_t shows, std::uint64_t end);
    bool goOn(const State& state, std::uint64_t cut, std::uint64_t broken, Reach reach);
    std::vector<std::uint64_t> cutsNear(std::uint64_t broken, std::uint64_t end);
    bool textBegins(std::uint64_t cut);
    // The same state once it has taken in what stands before the cut, as far as it can stop there.
    std::unique_ptr<Measure> advanced(const State& state, std::uint64_t cut, bool closely);
    std::size_t read(std::uint64_t at, std::size_t count);
    bool mine(std::uint64_t at) const {
        return std::any_of(places_.begin(), places_.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    }
    std::uint64_t length() const { return lengthOf(places_); }
    std::uint64_t smallest() const { return std::max<std::uint64_t>(pool_.cluster(), 16 << 10); }
    bool tired() const { return control_.stopped() || patience_.over(); }

    CardView& card_;
    const ClipPool& pool_;
    const std::function<bool(const std::vector<ByteRange>&)>& whole_;
    const Control& control_;
    const WalkJoinLimits& limits_;
    Patience patience_;
    std::vector<ByteRange> places_;
    std::vector<std::uint8_t> buffer_;
    int checked_ = 0;
};

std::size_t WalkJoiner::read(std::uint64_t at, std::size_t count) {
    buffer_.resize(std::max(buffer_.size(), count));
    return PieceReader(card_, places_).read(at, MutableBytes(buffer_).first(count));
}

std::unique_ptr<Measure> WalkJoiner::advanced(const State& state, std::uint64_t cut, bool closely) {
    auto measure = state.measure->clone();
    measure->lookClosely(closely);
    for (;;) {
        const auto want = measure->want();
        if (!want || want->offset >= cut) break;
        const auto count = static_cast<std::size_t>(
            std::min<std::uint64_t>({want->length, cut - want->offset, kLongestWant}));
        const auto got = read(want->offset, count);  // first: the buffer may grow
        const auto bytes = Bytes(buffer_).first(got);
        if (bytes.size() < count) break;
        if (count == want->length) {
            measure->give(bytes);
            continue;
        }
        if (!measure->giveSome(bytes)) break;
        const auto next = measure->want();
        if (next && next->offset == want->offset) break;
    }
    return measure;
}

WalkJoiner::Outcome WalkJoiner::walk(Measure& measure, std::uint64_t enough, std::deque<State>* states,
                                     std::uint64_t& end) {
    auto step = smallest();
    for (;;) {
        const auto want = measure.want();
        if (!want) return measure.sound() ? Outcome::Over : Outcome::Wrong;
        if (measure.reached() >= enough) return Outcome::Over;
        // In small steps where it can take them: the fewer bytes lie between a saved state and a join, the
        // sooner a wrong cluster shows.
        const auto wished = std::min<std::uint64_t>({want->length, kLongestWant, step});
        const auto upTo = checkedAdd(want->offset, wished);
        if (!upTo) return Outcome::Wrong;
        auto known = length();
        while (known < *upTo) {
            const auto next = places_.back().end();
            if (!pool_.free(next) || mine(next)) break;
            places_.back().length += pool_.cluster();
            known += pool_.cluster();
        }
        if (known <= want->offset) return Outcome::Obstacle;
        const auto count = static_cast<std::size_t>(std::min(wished, known - want->offset));
        const auto got = read(want->offset, count);
        if (states != nullptr) {
            states->push_back({measure.clone(), want->offset});
            if (states->size() > kWalkStates) states->pop_front();
        }
        end = want->offset + got;
        const auto before = measure.reached();
        const auto bytes = Bytes(buffer_).first(got);
        const bool cut = got < wished;  // by what stands in the way
        const bool some = got < want->length && measure.giveSome(bytes);
        if (!some && !cut && wished < std::min<std::uint64_t>(want->length, kLongestWant)) {
            // It counts on all it asked for.
            if (states != nullptr) states->pop_back();
            step = kLongestWant;
            continue;
        }
        if (!some) {
            measure.give(bytes);
        } else if (measure.reached() > before) {
            step = smallest();
        } else if (cut && measure.sound()) {
            return Outcome::Obstacle;
        } else {
            step *= 2;
        }
        if (!measure.sound()) return count < want->length ? Outcome::Obstacle : Outcome::Wrong;
        if (tired()) return Outcome::Wrong;
    }
}

bool WalkJoiner::follow(std::unique_ptr<Measure> measure, std::uint64_t joinAt) {
    std::deque<State> states;
    std::uint64_t end = 0;
    const auto outcome = walk(*measure, UINT64_MAX, &states, end);
    if (outcome == Outcome::Over) {
        const auto measured = measure->finish();
        if (!measured.accepted || measured.length <= joinAt || checked_ >= kMostWhole) return false;
        auto kept = places_;
        cutTo(kept, measured.length);
        ++checked_;
        const bool fine =
            lengthOf(kept) == measured.length && patience_.without([&] { return whole_(kept); });
        if (fine) places_ = std::move(kept);
        return fine;
    }
    // It may have been right to the last byte.
    const auto broken = measure->sound() ? length() : measure->reached();
    if (static_cast<int>(places_.size()) >= limits_.pieces || tired()) return false;
    // A way that stumbles at once is none.
    if (joinAt > 0 && broken < joinAt + std::min(kRightAtOnce, 2 * std::uint64_t{pool_.cluster()}))
        return false;
    const auto closely = whereItShows(states);
    const auto shows = std::min(broken, closely);
    if (measure->closeLookIsSure()) return goOnNear(states, shows, end);
    // Where a close look may be wrong, too, it is asked first only when that is little earlier.
    const bool little = broken - shows <= kLookNear;
    if (goOnNear(states, little ? shows : broken, end)) return true;
    return shows < broken && !tired() && goOnNear(states, little ? broken : shows, end);
}

bool WalkJoiner::goOnNear(const std::deque<State>& states, std::uint64_t shows, std::uint64_t end) {
    const auto cuts = cutsNear(shows, end);
    // Gaps are short mostly: what is near is tried behind every cut before anything that is far.
    for (const auto reach : {Reach{0, kNearWalk}, Reach{kNearWalk, SIZE_MAX}}) {
        for (const auto cut : cuts) {
            const auto state = std::find_if(states.rbegin(), states.rend(),
                                            [cut](const State& each) { return each.given <= cut; });
            if (state == states.rend()) continue;
            if (goOn(*state, cut, shows, reach)) return true;
            if (tired()) return false;
        }
    }
    return false;
}

std::uint64_t WalkJoiner::whereItShows(const std::deque<State>& states) {
    if (states.empty()) return UINT64_MAX;
    const auto kept = places_;
    const auto measure = states.front().measure->clone();
    measure->lookClosely(true);
    std::uint64_t end = 0;
    walk(*measure, length(), nullptr, end);
    places_ = kept;
    return measure->sound() ? UINT64_MAX : measure->wrongAt();
}

// The clusters' borders nearest to where it shows that something is wrong come first, but before them those
// where text begins: what decodes text for a while is not right for that.
std::vector<std::uint64_t> WalkJoiner::cutsNear(std::uint64_t broken, std::uint64_t end) {
    std::vector<std::uint64_t> cuts;
    const auto pieceAt = length() - places_.back().length;
    const auto last = std::min(std::max(end, broken), length());
    for (auto cut = pieceAt + pool_.cluster(); cut <= last; cut += pool_.cluster()) cuts.push_back(cut);
    const auto distance = [broken](std::uint64_t cut) { return cut > broken ? cut - broken : broken - cut; };
    std::sort(cuts.begin(), cuts.end(),
              [&](std::uint64_t a, std::uint64_t b) { return distance(a) < distance(b); });
    // A long record may have been left anywhere in it.
    std::size_t kept = 0;
    std::erase_if(
        cuts, [&](std::uint64_t cut) { return kept++ >= kCuts && (cut < broken || kept > kCutsOfARecord); });
    std::stable_partition(cuts.begin(), cuts.end(), [&](std::uint64_t cut) { return textBegins(cut); });
    return cuts;
}

bool WalkJoiner::textBegins(std::uint64_t cut) {
    const auto cluster = pool_.cluster();
    const auto text = [&](std::uint64_t at) {
        if (at + cluster > length()) return false;
        const auto got = read(at, cluster);
        return isText(Bytes(buffer_).first(got));
    };
    return text(cut) && !text(cut - cluster);
}

bool WalkJoiner::goOn(const State& state, std::uint64_t cut, std::uint64_t broken, Reach reach) {
    const auto kept = places_;
    const auto pieceAt = length() - places_.back().length;
    auto base = places_;
    base.back().length = cut - pieceAt;
    const auto from = base.back().end();
    const auto enough = std::max(broken, cut) + smallest();
    places_ = base;
    const auto ready = advanced(state, cut, false);
    // This one has not passed over the record that reaches over the join without having looked into it.
    const auto readyToLook = advanced(state, cut, true);
    const auto join = [&](std::uint64_t at) {
        places_ = base;
        places_.push_back({at, pool_.cluster()});
    };
    // From the same state again, so that there are states behind the join.
    const auto followFrom = [&](std::uint64_t at) {
        join(at);
        return follow(ready->clone(), cut);
    };
    struct Passable {
        std::uint64_t at, reached;
    };
    std::vector<Passable> passable;
    std::size_t behindIt = 0, visited = 0;
    bool joined = false;
    pool_.visit(from, [&](std::uint64_t at) {
        if (visited >= reach.last) return true;
        if (visited++ < reach.first) return false;
        if (tired() || (!passable.empty() && ++behindIt > kBehindIt)) return true;
        places_ = base;
        if (at == from || mine(at)) return false;
        std::uint64_t end = 0;
        // An obstacle is none of its making, unless it stands within a record: then nothing shows that it is
        // one.
        const auto fine = [&](Measure& measure, std::uint64_t upTo, std::uint64_t leastLength) {
            const auto outcome = walk(measure, upTo, nullptr, end);
            const bool shows =
                measure.reached() > cut && measure.reached() <= length() && length() >= leastLength;
            return outcome == Outcome::Over || (outcome == Outcome::Obstacle && shows);
        };
        const auto passes = [&](Measure& measure) {
            join(at);
            return fine(measure, enough, 0) && fine(measure, measure.reached() + 1, 0);
        };
        // What records say of their lengths fits wherever the right ones are cut; what is in them does not.
        // Where looking closely is only being stricter, what is wrong shows sooner then.
        const auto passesClosely = [&] { return passes(*std::unique_ptr<Measure>(readyToLook->clone())); };
        const bool stricter = !ready->closeLookIsSure();
        if (stricter && !passesClosely()) return false;
        const auto trial = ready->clone();
        if (!passes(*trial)) return false;
        if (!stricter && !passesClosely()) return false;
        join(at);
        const bool goesOn = fine(*trial, cut + kLookFurther, cut + kLookNear);
        if (!goesOn) passable.push_back({at, std::min(trial->reached(), length())});
        joined = goesOn && followFrom(at);
        return joined;
    });
    std::stable_sort(passable.begin(), passable.end(),
                     [](const Passable& a, const Passable& b) { return a.reached > b.reached; });
    if (passable.size() > kMostPassable) passable.resize(kMostPassable);
    for (const auto& each : passable) {
        if (joined || tired()) break;
        joined = followFrom(each.at);
    }
    if (!joined) places_ = kept;
    return joined;
}

}  // namespace

std::optional<std::vector<ByteRange>> joinWalk(
    CardView& card, const Format& format, std::uint64_t start, const ClipPool& pool,
    const std::function<bool(const std::vector<ByteRange>& places)>& whole, const Control& control,
    const WalkJoinLimits& limits) {
    auto measure = format.measure();
    if (!measure->clone()) return std::nullopt;
    WalkJoiner joiner(card, pool, start, whole, control, limits);
    if (!joiner.run(std::move(measure)) || joiner.places().size() < 2) return std::nullopt;
    return joiner.places();
}

}  // namespace dreskel::rebuild
