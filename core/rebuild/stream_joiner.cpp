#include "rebuild/stream_joiner.h"

#include <algorithm>
#include <cmath>
#include <deque>

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kLook = 4096;          // bytes of a cluster that tell
constexpr std::uint64_t kByChance = 1024;    // bytes of records
constexpr std::uint64_t kHeadOfRecord = 14;  // bytes, of the longest
constexpr std::size_t kMostTries = 4000;     // clusters, for one join
constexpr std::uint64_t kBytesToClock = 2 << 20;
// Seconds that a join is rated which no clock speaks for, and how much more when it does not go on at all.
constexpr double kNoClock = 0.9, kNotAtAll = 0.1;
constexpr std::size_t kUnnoticedClusters = 3;  // behind a border that may seem to go on by chance
constexpr std::size_t kMostPieces = 4096;

class StreamJoiner {
  public:
    // `inFront`: bytes of the first cluster in front of `start`.
    StreamJoiner(CardView& card, std::uint64_t start, const Format& format, std::uint32_t cluster,
                 std::uint64_t inFront, const Control& control)
        : card_(card), format_(format), cluster_(cluster), inFront_(inFront), control_(control) {
        places_.push_back({start, 0});
    }
    std::uint64_t ownRun() {
        State state{format_.measure(), 0};
        const auto cut = follow(state);
        const auto all = cut ? cut->before.given : state.measure->reached() / cluster_ * cluster_;
        return all - std::min(all, kUnnoticedClusters * cluster_);
    }
    JoinedStream run(const StreamPool& pool) {
        State state{format_.measure(), 0};
        bool breaksOff = false;
        while (!control_.stopped() && places_.size() < kMostPieces) {
            auto cut = follow(state);
            if (!cut) break;
            if (goOn(pool, *cut, state)) continue;
            if (cut->headAcross) {
                cut->phase.reset();
                if (goOn(pool, *cut, state)) continue;
            }
            if (goOnFromBefore(pool, cut->before.given, state)) continue;
            if (!cut->over) continue;
            if (cut->byChance) break;
            breaksOff = cut->phase.value_or(1) > 0 && !state.measure->knowsItsEnd() &&
                        !blankBehind(state.measure->reached());
            // Without the record that reaches over the border.
            if (breaksOff) state = cut->before.copy();
            break;
        }
        cutTo(places_, state.measure->reached());
        return {std::move(places_), breaksOff};
    }

  private:
    // A walk that has been given everything up to `given`, a whole number of clusters.
    struct State {
        std::unique_ptr<Measure> measure;
        std::uint64_t given = 0;
        State copy() const { return {measure->clone(), given}; }
    };
    // The border of a cluster behind which something does not fit.
    struct Cut {
        State before;
        bool over = false;        // the walk ends there; otherwise counters or clocks jump
        bool headAcross = false;  // the head of the record lies across the border: its length may be wrong
        bool byChance = false;    // another record or two seem to follow: it may be the stream's own end
        std::optional<std::uint64_t>
            phase;  // how far behind the border the next record begins, if that is known
    };

    // Of the cluster that comes next; the first may begin in front of the stream.
    std::uint64_t step(const State& state) const { return cluster_ - (state.given == 0 ? inFront_ : 0); }
    // Gives it one cluster more of the file, which lies in places_. False when the walk ends in it.
    bool take(State& state);
    // Goes on behind the last piece until something does not fit; nothing at the stream's own end.
    std::optional<Cut> follow(State& state);
    // Where the record ends that begins in front of the border; the border when none does, nothing when it
    // does not end within what a record may hold.
    std::optional<std::uint64_t> recordOver(const State& before);
    // With another cluster in place of the one that does not fit. `least`: seconds of its clock; what is
    // rated so or more is not taken.
    bool goOn(const StreamPool& pool, const Cut& cut, State& state, double least = INFINITY);
    // What does not fit may have been noticed late, at `noticed`: then another way leads further.
    bool goOnFromBefore(const StreamPool& pool, std::uint64_t noticed, State& state);
    bool leadsBeyond(std::uint64_t given, const State& state);
    struct Fit {
        double misfit = 0;     // in seconds of its clock
        bool carries = false;  // the picture that lies over the join
    };
    // Nothing when it does not fit, or not better than `least`.
    std::optional<Fit> fitOf(const Cut& cut, std::uint64_t at, double least);
    // Whether what lies behind the stream's end in its last cluster is one and the same byte.
    bool blankBehind(std::uint64_t end);
    bool mine(std::uint64_t at) const {
        return std::any_of(places_.begin(), places_.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    }

    CardView& card_;
    const Format& format_;
    std::uint64_t cluster_, inFront_;
    const Control& control_;
    std::vector<ByteRange> places_;
    std::deque<State> earlier_;  // of the last piece, at its last borders
    std::vector<std::uint8_t> buffer_;
};

bool StreamJoiner::take(State& state) {
    state.given += step(state);
    PieceReader reader(card_, places_);
    for (;;) {
        const auto want = state.measure->want();
        if (!want) return false;
        if (want->offset >= state.given) return true;
        buffer_.resize(static_cast<std::size_t>(state.given - want->offset));
        const auto got = reader.read(want->offset, buffer_);
        if (got < buffer_.size() || !state.measure->giveSome(buffer_)) return false;
        if (state.measure->reached() == want->offset) return state.measure->want().has_value();
    }
}

std::optional<StreamJoiner::Cut> StreamJoiner::follow(State& state) {
    while (!control_.stopped()) {
        Cut cut{state.copy(), false, false, false, {}};
        const auto misfits = state.measure->misfits();
        // Further on behind the last piece, whoever that may belong to: where it ends shows by itself.
        places_.back().length += step(state);
        const bool goesOn = take(state);
        const bool jumps = state.measure->misfits() != misfits;
        if (goesOn && !jumps) {
            // Its first border is where the piece was joined.
            if (places_.back().length > cluster_) earlier_.push_back(std::move(cut.before));
            if (earlier_.size() > kUnnoticedClusters) earlier_.pop_front();
            continue;
        }
        const auto end = state.measure->reached();
        if (cut.before.given == 0) return std::nullopt;
        cut.over = !goesOn;
        if (jumps || end < cut.before.given) return cut;
        // A record or two may seem to follow by chance.
        const auto over = recordOver(cut.before);
        if (!over || end > *over + kByChance) return std::nullopt;
        cut.phase = *over - cut.before.given;
        cut.byChance = end > *over;
        const auto inFront = cut.before.given - std::min(cut.before.given, cut.before.measure->reached());
        cut.headAcross = inFront > 0 && inFront < kHeadOfRecord;
        return cut;
    }
    return std::nullopt;
}

std::optional<std::uint64_t> StreamJoiner::recordOver(const State& before) {
    const auto begins = before.measure->reached();
    if (begins >= before.given) return before.given;
    buffer_.resize(static_cast<std::size_t>(before.given + kLongestRecord - begins));
    buffer_.resize(PieceReader(card_, places_).read(begins, buffer_));
    const auto taken = [&](std::size_t count) {
        const auto probe = before.measure->clone();
        return probe->giveSome(Bytes(buffer_).first(count)) && probe->reached() > begins;
    };
    auto low = static_cast<std::size_t>(before.given - begins);
    auto high = buffer_.size();
    if (high <= low || !taken(high)) return std::nullopt;
    while (low + 1 < high) {
        const auto middle = low + (high - low) / 2;
        (taken(middle) ? high : low) = middle;
    }
    return begins + high;
}

std::optional<StreamJoiner::Fit> StreamJoiner::fitOf(const Cut& cut, std::uint64_t at, double least) {
    auto trial = cut.before.copy();
    const auto misfits = trial.measure->misfits();
    const auto contradictions = trial.measure->contradictions();
    trial.measure->forgetSteps();
    trial.measure->lookClosely(true);
    places_.push_back({at, 0});
    // Until its clock has been seen; counters alone may fit by chance.
    bool fits = false;
    double clock = kNoClock;
    std::uint64_t followed = 0;
    State followedTo;  // what comes behind it may be another's
    for (bool first = true; places_.back().length < kBytesToClock && clock == kNoClock; first = false) {
        places_.back().length += cluster_;
        const bool goesOn = take(trial);
        const bool follows = trial.measure->misfits() == misfits &&
                             trial.measure->reached() > cut.before.given + cut.phase.value_or(kLook / 2);
        if (first) fits = follows;
        if (follows) ++followed;
        if (follows && trial.measure->longestStep() > 0) clock = trial.measure->longestStep();
        // A picture over the join that is wrong speaks against it; counters that jump may be the end of the
        // piece.
        const auto wrong = trial.measure->contradictions();
        if (wrong > contradictions && trial.measure->misfits() - misfits == wrong - contradictions)
            fits = false;
        if (follows && clock == kNoClock) followedTo = trial.copy();
        if (!goesOn || !follows) break;
    }
    places_.pop_back();
    if (!fits) return std::nullopt;
    Fit fit{clock};
    if (clock >= kNoClock) {
        const auto unsaid = kNotAtAll / static_cast<double>(1 + followed);
        fit.misfit = trial.measure->recordTimesGoOn() ? kNoClock - kNotAtAll + unsaid / 2 : kNoClock + unsaid;
    }
    if (fit.misfit >= least) return std::nullopt;
    if (clock >= kNoClock) {
        const auto holds = followedTo.measure->holdsSoFar();
        if (holds == false) return std::nullopt;
        fit.carries = holds == true;
    }
    return fit;
}

bool StreamJoiner::leadsBeyond(std::uint64_t given, const State& state) {
    auto probe = state.copy();
    const auto places = places_;
    follow(probe);
    earlier_.clear();
    places_ = places;
    return probe.given > given + cluster_;
}

bool StreamJoiner::goOnFromBefore(const StreamPool& pool, std::uint64_t noticed, State& state) {
    const auto whole = places_;
    auto earlier = std::exchange(earlier_, {});
    for (; !earlier.empty() && earlier.front().measure->hasClock(); earlier.pop_back()) {
        places_.back().length -= cluster_;
        Cut cut{std::move(earlier.back()), true, false, false, {}};
        if (const auto over = recordOver(cut.before)) cut.phase = *over - cut.before.given;
        const auto shorter = places_;
        State next;
        if (!goOn(pool, cut, next, kNoClock)) continue;
        const auto last = places_.back().offset;
        const bool own = std::any_of(whole.begin(), whole.end(),
                                     [last](const ByteRange& place) { return place.contains(last); });
        if (!own && leadsBeyond(noticed, next)) {
            state = std::move(next);
            return true;
        }
        places_ = shorter;
    }
    places_ = whole;
    return false;
}

bool StreamJoiner::goOn(const StreamPool& pool, const Cut& cut, State& state, double least) {
    const auto whole = places_;
    places_.back().length -= cluster_;
    const auto end = places_.back().end();
    std::size_t tries = 0;
    std::optional<std::uint64_t> best;
    // The nearest of those that fit best.
    for (const auto at : pool.at(cut.phase, end)) {
        if (at == end || mine(at)) continue;
        if (++tries > kMostTries || control_.stopped()) break;
        const auto fit = fitOf(cut, at, least);
        if (!fit) continue;
        // No clock speaks for it: then at least a record must be waiting for its rest, or a picture.
        const bool waiting = cut.phase.value_or(0) > 0 || fit->carries;
        if (fit->misfit >= kNoClock && cut.before.measure->hasClock() && !waiting) continue;
        best = at;
        least = fit->misfit;
        if (!cut.before.measure->hasClock()) break;
    }
    if (best) {
        places_.push_back({*best, 0});
        state = cut.before.copy();
        earlier_.clear();
        return true;
    }
    // Nothing else leads on: what does not fit may be damage.
    places_ = whole;
    return false;
}

bool StreamJoiner::blankBehind(std::uint64_t end) {
    PieceReader reader(card_, places_);
    buffer_.resize(static_cast<std::size_t>(reader.size() - std::min(reader.size(), end)));
    buffer_.resize(reader.read(end, buffer_));
    return std::all_of(buffer_.begin(), buffer_.end(), [&](auto byte) { return byte == buffer_.front(); });
}

}  // namespace

std::vector<StreamPool> StreamPool::of(CardView& card, const std::vector<const Format*>& formats,
                                       const ClipPool& pool, const Control& control) {
    std::vector<StreamPool> pools;
    for (const auto* format : formats) pools.push_back(StreamPool(*format, pool));
    std::vector<std::uint8_t> head(std::min<std::size_t>(kLook, pool.cluster()));
    pool.visit(0, [&](std::uint64_t at) {
        const auto bytes = Bytes(head).first(card.read(at, head));
        for (auto& each : pools) {
            if (const auto phase = each.format().firstRecordIn(bytes)) {
                each.byPhase_[*phase].push_back(at);
                each.phases_[at] = *phase;
            }
        }
        return control.stopped();
    });
    for (auto& each : pools) {
        for (auto& [phase, all] : each.byPhase_) std::sort(all.begin(), all.end());
    }
    return pools;
}

std::vector<std::uint64_t> StreamPool::at(std::optional<std::uint64_t> phase, std::uint64_t from) const {
    std::vector<std::uint64_t> all;
    if (!phase) {
        for (const auto& [at, known] : phases_) all.push_back(at);
    } else if (const auto found = byPhase_.find(*phase); found != byPhase_.end()) {
        all = found->second;
    }
    std::rotate(all.begin(), std::lower_bound(all.begin(), all.end(), from), all.end());
    return all;
}

std::optional<std::uint64_t> StreamPool::recordAt(std::uint64_t at) const {
    const auto found = phases_.find(at);
    return found == phases_.end() ? std::nullopt : std::optional(at + found->second);
}

void StreamPool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places) {
        for (auto found = phases_.lower_bound(place.offset);
             found != phases_.end() && found->first < place.end(); found = phases_.erase(found))
            std::erase(byPhase_[found->second], found->first);
    }
}

std::uint64_t runOfStream(CardView& card, std::uint64_t start, const Format& format, std::uint32_t cluster,
                          const Control& control) {
    return StreamJoiner(card, start, format, cluster, 0, control).ownRun();
}

JoinedStream joinStream(CardView& card, std::uint64_t start, const StreamPool& pool, const Control& control) {
    const auto inFront = (start - pool.origin()) % pool.cluster();
    return StreamJoiner(card, start, pool.format(), pool.cluster(), inFront, control).run(pool);
}

}  // namespace dreskel::rebuild
