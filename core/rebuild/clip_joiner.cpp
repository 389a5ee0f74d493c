#include "rebuild/clip_joiner.h"

#include <algorithm>
#include <array>
#include <deque>
#include <map>
#include <set>

#include "base/patience.h"

namespace dreskel::rebuild {
namespace {

using Clock = std::chrono::steady_clock;
using isobmff::Looks;

// How many samples in a row may be looked for before the clip is given up at that place.
constexpr std::size_t kAhead = 8;
// Of samples that are looked at to tell damage from a join.
constexpr std::size_t kFollowing = 4;
// Clusters of a piece in which no sample begins; a longer stretch without one is missing, or was never there.
constexpr std::uint64_t kMostStray = 1024;
constexpr std::chrono::milliseconds kUnknown(8000);  // of processor time, for one such place
constexpr std::uint64_t kCarries = 16 << 10;         // bytes that foreign data are not taken for a picture's
constexpr std::size_t kLookedAt = 512;               // bytes of a cluster
constexpr std::ptrdiff_t kManyBytes = 160;           // of 256; noise has 221 in so many
// Over all joins that are told by decoding.
constexpr int kRounds = 2;

struct Witness {
    const isobmff::SampleTrack* track = nullptr;
    isobmff::Sample sample;
};

// The same distance between file and card for a run of the file's clusters.
struct Anchor {
    std::uint64_t cluster = 0;  // of the file
    std::uint64_t at = 0;       // on the card, where that cluster lies
};

class Joiner {
  public:
    Joiner(CardView& card, const ClipHead& head, const LooseIndex& index, const ClipPool& pool,
           const TryDecoding& decode, const Control& control, const ClipJoinLimits& limits)
        : card_(card),
          head_(head),
          index_(index),
          pool_(pool),
          decode_(decode),
          control_(control),
          limits_(limits),
          until_(Clock::now() + limits.time),
          strayPatience_(limits.stray),
          cluster_(pool.cluster()),
          length_(head.indexInFront ? head.media.end()
                                    : std::max(head.length, head.indexAt + index.box.length)) {}

    std::optional<JoinedClip> run() {
        gather();
        if (witnesses_.empty()) return std::nullopt;
        fixEnds();
        if (liesInOnePiece()) return std::nullopt;
        follow();
        if (tired()) return std::nullopt;
        return fillIn();
    }

  private:
    bool tired() const { return control_.stopped() || Clock::now() > until_; }
    std::uint64_t clusterOf(std::uint64_t fileByte) const { return fileByte / cluster_; }
    std::uint64_t placeOf(const Anchor& anchor, std::uint64_t cluster) const {
        return anchor.at +
               (cluster - anchor.cluster) * cluster_;  // wraps where it is behind; checked by free()
    }

    void gather() {
        for (const auto& track : index_.tracks) {
            if (track.coding == isobmff::SampleTrack::Coding::Other) continue;
            for (const auto& sample : track.samples) {
                if (sample.size > 8) witnesses_.push_back({&track, sample});
            }
        }
        std::sort(witnesses_.begin(), witnesses_.end(),
                  [](const Witness& a, const Witness& b) { return a.sample.offset < b.sample.offset; });
    }
    // The first cluster is where the clip was found; the last ones are where its index was.
    void fixEnds() {
        const auto front = head_.indexInFront ? head_.indexAt + index_.box.length : head_.media.offset;
        for (std::uint64_t cluster = 0; cluster <= clusterOf(front - 1); ++cluster)
            set(cluster, head_.start + cluster * cluster_);
        if (head_.indexInFront) return;
        const auto first = clusterOf(head_.indexAt);
        const auto at = index_.box.offset - head_.indexAt % cluster_;
        for (auto cluster = first; cluster <= clusterOf(length_ - 1); ++cluster)
            set(cluster, at + (cluster - first) * cluster_);
    }
    // Its index is where it would be if it lay in one piece, and so are most of its samples: what is wrong
    // with it is not that it lies in pieces.
    bool liesInOnePiece() {
        if (head_.indexInFront || index_.box.offset != head_.start + head_.indexAt) return false;
        const auto there = std::count_if(witnesses_.begin(), witnesses_.end(), [&](const Witness& witness) {
            return looks(witness, head_.start + clusterOf(witness.sample.offset) * cluster_) == Looks::Exact;
        });
        return static_cast<std::size_t>(there) * 2 > witnesses_.size();
    }
    void set(std::uint64_t cluster, std::uint64_t at) {
        anchors_[cluster] = at;
        used_.insert(at);
    }
    bool open(std::uint64_t at) const { return pool_.free(at) && !used_.contains(at); }

    // What a sample looks like when its file cluster lies at `at`, and what follows it follows there.
    Looks looks(const Witness& witness, std::uint64_t at) {
        const auto place = at + witness.sample.offset % cluster_;
        return isobmff::looksLikeSample(*witness.track, witness.sample,
                                        [&](std::uint64_t p, std::size_t count) {
                                            bytes_.resize(count);
                                            return Bytes(bytes_).first(card_.read(place + p, bytes_));
                                        });
    }
    // Whether the run that this anchor belongs to still holds the sample.
    bool holds(const Witness& witness, const Anchor& anchor) {
        const auto cluster = clusterOf(witness.sample.offset);
        const auto known = anchors_.find(cluster);
        const auto at = placeOf(anchor, cluster);
        if (known != anchors_.end()) return known->second == at;
        return open(at) && looks(witness, at) == Looks::Exact;
    }

    void follow() {
        Anchor anchor{0, head_.start};
        std::size_t failures = 0;
        for (std::size_t i = 0; i < witnesses_.size() && !tired();) {
            const auto cluster = clusterOf(witnesses_[i].sample.offset);
            if (const auto known = anchors_.find(cluster); known != anchors_.end()) {
                anchor = {cluster, known->second};
                ++i;
                continue;
            }
            if (goesOn(i, anchor)) {
                anchor = {cluster, placeOf(anchor, cluster)};
                set(anchor.cluster, anchor.at);
                ++i;
                continue;
            }
            const auto next = search(i, anchor);
            if (!next) {
                // Not in a place of its own; it may lie in pieces itself.
                if (++failures > kAhead) return;
                ++i;
                continue;
            }
            failures = 0;
            anchor = *next;
            set(anchor.cluster, anchor.at);
        }
    }
    // A sample that does not look like one, among others that do, is damaged or in two pieces: no reason to
    // leave.
    bool goesOn(std::size_t i, const Anchor& anchor) {
        const auto& witness = witnesses_[i];
        const auto cluster = clusterOf(witness.sample.offset);
        const auto at = placeOf(anchor, cluster);
        if (!open(at)) return false;
        const auto here = looks(witness, at);
        if (here == Looks::Exact) return true;
        std::size_t good = 0;
        for (std::size_t k = i + 1; k < witnesses_.size() && k <= i + kFollowing; ++k)
            good += holds(witnesses_[k], anchor) ? 1 : 0;
        return here == Looks::Begins || good * 2 >= kFollowing;
    }
    // Where a sample begins on the card, near and behind the place before first.
    std::optional<Anchor> search(std::size_t i, const Anchor& anchor) {
        const auto& witness = witnesses_[i];
        const auto cluster = clusterOf(witness.sample.offset);
        std::optional<Anchor> begins;
        std::optional<Anchor> exact;
        pool_.visit(anchor.at, [&](std::uint64_t at) {
            if (tired()) return true;
            if (used_.contains(at)) return false;
            const auto here = looks(witness, at);
            if (here == Looks::Foreign) return false;
            const Anchor found{cluster, at};
            // One that others bear witness to as well is certain.
            const bool borne = i + 1 < witnesses_.size() && holds(witnesses_[i + 1], found);
            if (here == Looks::Exact && borne) {
                exact = found;
                return true;
            }
            if (here == Looks::Exact && !exact) exact = found;
            if (here == Looks::Begins && borne && !begins) begins = found;
            return false;
        });
        return exact ? exact : begins;
    }

    // Between two anchors that do not agree: some clusters follow the first, the rest precede the second.
    // Where both together do not suffice, a piece lies in between in which no sample begins.
    struct Gap {
        Anchor before, behind;
        std::uint64_t size = 0, most = 0, least = 0;  // clusters that follow the first
        std::uint64_t stray = 0;                      // of the piece between
        bool sure = false;
    };
    std::uint64_t room(const Anchor& anchor, std::uint64_t most, bool forwards) const {
        std::uint64_t count = 0;
        while (count < most) {
            const auto step = (count + 1) * cluster_;
            if (!forwards && step > anchor.at) break;
            if (!open(forwards ? anchor.at + step : anchor.at - step)) break;
            ++count;
        }
        return count;
    }
    std::optional<JoinedClip> fillIn() {
        std::vector<Gap> gaps;
        const auto last = clusterOf(length_ - 1);
        auto before = anchors_.begin();
        for (auto behind = std::next(before); behind != anchors_.end(); before = behind++) {
            Gap gap{{before->first, before->second}, {behind->first, behind->second}, 0, 0, 0};
            gap.size = behind->first - before->first - 1;
            const bool same = placeOf(gap.before, behind->first) == behind->second;
            if (gap.size == 0) continue;
            if (same && room(gap.before, gap.size, true) == gap.size) {
                for (std::uint64_t k = 1; k <= gap.size; ++k)
                    set(before->first + k, before->second + k * cluster_);
                continue;
            }
            gaps.push_back(gap);
        }
        if (anchors_.rbegin()->first < last) {
            // The end of the media data, behind the last sample that tells something.
            const Anchor end{anchors_.rbegin()->first, anchors_.rbegin()->second};
            const auto rest = last - end.cluster;
            if (room(end, rest, true) < rest) return std::nullopt;
            for (std::uint64_t k = 1; k <= rest; ++k) set(end.cluster + k, end.at + k * cluster_);
        }
        for (auto& gap : gaps) {
            gap.most = room(gap.before, gap.size, true);
            const auto back = room(gap.behind, gap.size, false);
            if (gap.most + back < gap.size) {
                if (!limits_.strayPieces) return std::nullopt;
                gap.stray = gap.size - gap.most - back;
                if (gap.stray > kMostStray) return std::nullopt;
                gap.least = gap.most;
                // Until a better place is known.
                fill(gap, gap.most, gap.behind.at);
                continue;
            }
            gap.least = gap.size - back;
            gap.sure = gap.least == gap.most;
            fill(gap, natural(gap, back));
            if (gap.sure)
                reasons_[gap.before.cluster + gap.most + 1] =
                    "both pieces reach just as far as their places on the card go";
        }
        // Joins near one another disturb each other's trials: what was not clean is tried again.
        for (int round = 0; round < kRounds; ++round) {
            for (auto& gap : gaps) {
                if (control_.stopped()) return std::nullopt;
                if (!gap.sure) {
                    gap.stray > 0 ? placeStray(gap) : decide(gap);
                } else if (limits_.strayPieces && round == 0) {
                    const auto outcome = trial(gap);
                    if (!clean(gap, outcome) && outcome.reached > 0) placeUnknown(gap);
                }
            }
        }
        std::set<std::uint64_t> once;
        for (const auto& [cluster, at] : anchors_) {
            if (!once.insert(at).second) return std::nullopt;
        }
        return joined();
    }
    // Where nothing else is known: a run ends where something else begins, and begins where something else
    // ended.
    static std::uint64_t natural(const Gap& gap, std::uint64_t back) {
        return back < gap.size && gap.most >= gap.size ? gap.least : gap.most;
    }
    // `first` clusters follow what is before; then the stray piece, if there is one, at `strayAt`.
    void fill(const Gap& gap, std::uint64_t first, std::uint64_t strayAt = 0) {
        for (std::uint64_t k = 1; k <= gap.size; ++k) {
            auto& at = anchors_[gap.before.cluster + k];
            if (k <= first) {
                at = gap.before.at + k * cluster_;
            } else if (k <= first + gap.stray) {
                at = strayAt + (k - first - 1) * cluster_;
            } else {
                const auto ahead = (gap.behind.cluster - gap.before.cluster - k) * cluster_;
                at = gap.behind.at - std::min(gap.behind.at, ahead);  // not in front of the card
            }
        }
    }
    Trial trial(const Gap& gap) const {
        return decode_(places(), gap.before.cluster * cluster_, (gap.behind.cluster + 1) * cluster_);
    }
    // Nothing is wrong up to where the next join may be: what is wrong behind that is another gap's.
    bool clean(const Gap& gap, const Trial& outcome) const {
        return outcome.errors == 0 || outcome.reached >= (gap.behind.cluster + 1) * cluster_;
    }
    // Whether one trial is better than another; errors count first.
    static bool better(const Trial& a, const Trial& b) {
        if (a.reached > 0 && b.reached > 0) return a.reached > b.reached;
        return a.errors != b.errors ? a.errors < b.errors : a.roughness < b.roughness;
    }
    void decide(Gap& gap) {
        std::deque<std::uint64_t> order{natural(gap, gap.size - gap.least), gap.most, gap.least};
        for (auto first = gap.least; first <= gap.most; ++first) order.push_back(first);
        std::set<std::uint64_t> tried;
        auto best = order.front();
        Trial least{UINT64_MAX, 0, 0};
        while (!order.empty() && tried.size() < static_cast<std::size_t>(limits_.trials)) {
            const auto first = order.front();
            order.pop_front();
            if (!tried.insert(first).second) continue;
            if (control_.stopped()) return;
            fill(gap, first);
            const auto outcome = trial(gap);
            // The run before goes no further than to where it shows that something is wrong, and hardly less
            // far.
            const auto shown = clusterOf(outcome.reached);
            if (outcome.reached > 0 && shown > gap.before.cluster && shown - gap.before.cluster - 1 < first) {
                const auto upTo = shown - gap.before.cluster - 1;
                for (const auto further : {upTo - std::min<std::uint64_t>(upTo, 1), upTo}) {
                    if (further >= gap.least) order.push_front(further);
                }
            }
            if (!better(outcome, least)) continue;
            least = outcome;
            best = first;
            if (clean(gap, least)) break;
        }
        fill(gap, best);
        settle(gap, gap.before.cluster + best + 1, least);
        if (!gap.sure && limits_.strayPieces && least.reached > 0) placeUnknown(gap);
    }
    // What lies between is neither all of the run before nor of the one behind: one or more pieces in which
    // no sample begins. They are looked for cluster by cluster; the right one carries the picture in hand on
    // by a cluster.
    void placeUnknown(Gap& gap) {
        if (strayPatience_.over()) return;
        const Patience patience(kUnknown);
        const auto goOnFrom = clusterOf(furthest(gap));
        if (goOnFrom <= gap.before.cluster) return;
        const auto upTo = goOnFrom - gap.before.cluster - 1;
        struct Carries {
            std::uint64_t reached = 0, first = 0, at = 0, length = 0;
        } best;
        bool found = false;
        const auto tryAt = [&](std::uint64_t first, std::uint64_t at) {
            for (std::uint64_t length = 1; first + length <= gap.size; ++length) {
                if (!open(at + (length - 1) * cluster_)) break;
                gap.stray = length;
                fill(gap, first, at);
                const auto outcome = trial(gap);
                found = clean(gap, outcome);
                if (found) settle(gap, gap.before.cluster + first + 1, outcome);
                if (found || patience.over() || strayPatience_.over()) return true;
                if (outcome.reached < (gap.before.cluster + first + 1 + length) * cluster_) break;
                if (outcome.reached > best.reached) best = {outcome.reached, first, at, length};
            }
            // No other would carry it so far.
            return best.length * cluster_ >= kCarries;
        };
        for (const auto first : {upTo, upTo - std::min<std::uint64_t>(upTo, 1)}) {
            if (found || first > gap.most || first >= gap.size) continue;
            pool_.visit(gap.before.at, [&](std::uint64_t at) {
                if (control_.stopped() || patience.over() || strayPatience_.over()) return true;
                return open(at) && mayBeCoded(at) && tryAt(first, at);
            });
        }
        if (found) return;
        gap.stray = best.reached > 0 ? best.length : 0;
        fill(gap, best.reached > 0 ? best.first : std::min(upTo, gap.most), best.at);
        if (best.reached > 0)
            goOnBehind(gap, best.first + best.length, best.at + (best.length - 1) * cluster_);
    }
    // The first clusters of a gap are known now, the last of them at `at`: what is left of it is a smaller
    // gap.
    void goOnBehind(Gap& gap, std::uint64_t known, std::uint64_t at) {
        for (std::uint64_t k = 1; k <= known; ++k) used_.insert(anchors_.at(gap.before.cluster + k));
        reasons_[gap.before.cluster + known] = "only with this piece the picture goes on";
        Gap rest{{gap.before.cluster + known, at}, gap.behind, gap.size - known, 0, 0};
        if (rest.size == 0) return;
        rest.most = room(rest.before, rest.size, true);
        const auto back = room(rest.behind, rest.size, false);
        rest.least = rest.size - back;
        if (rest.most + back < rest.size) {
            rest.stray = rest.size - rest.most - back;
            fill(rest, rest.most, rest.behind.at);
            rest.stray = 0;
            placeUnknown(rest);
        } else {
            decide(rest);
        }
        gap.sure = rest.sure;
    }
    // How far the pictures are right when the run before goes on as far as it can.
    std::uint64_t furthest(const Gap& gap) {
        fill(gap, gap.most);
        return trial(gap).reached;
    }
    // Coded data hold nearly as many different bytes as there can be; text and tables do not.
    bool mayBeCoded(std::uint64_t at) {
        bytes_.resize(kLookedAt);
        const auto got = card_.read(at + cluster_ / 2, bytes_);
        std::array<bool, 256> seen{};
        for (const auto byte : Bytes(bytes_).first(got)) seen[byte] = true;
        return std::count(seen.begin(), seen.end(), true) > kManyBytes;
    }
    void placeStray(Gap& gap) {
        std::optional<std::uint64_t> best;
        Trial least{UINT64_MAX, 0, 0};
        int left = limits_.trials;
        pool_.visit(gap.before.at, [&](std::uint64_t at) {
            if (control_.stopped() || left == 0) return true;
            for (std::uint64_t k = 0; k < gap.stray; ++k) {
                if (!open(at + k * cluster_)) return false;
            }
            // Pieces begin where something else ended.
            if (at >= cluster_ && open(at - cluster_)) return false;
            --left;
            fill(gap, gap.most, at);
            const auto outcome = trial(gap);
            if (!better(outcome, least)) return false;
            least = outcome;
            best = at;
            return clean(gap, least);
        });
        if (!best) return;
        fill(gap, gap.most, *best);
        settle(gap, gap.before.cluster + gap.most + 1, least);
        if (!gap.sure && least.reached > 0) {
            gap.stray = 0;
            placeUnknown(gap);
        }
    }
    void settle(Gap& gap, std::uint64_t cluster, const Trial& outcome) {
        gap.sure = clean(gap, outcome);
        reasons_[cluster] =
            gap.sure ? "of the places where it may go on, here the pictures decode without an error"
                     : "the place where it goes on could not be told exactly";
    }

    std::vector<ByteRange> places() const {
        std::vector<ByteRange> runs;
        for (const auto& [cluster, at] : anchors_) {
            const auto from = cluster * cluster_;
            const auto count = std::min<std::uint64_t>(cluster_, length_ - std::min(length_, from));
            if (!runs.empty() && runs.back().end() == at) {
                runs.back().length += count;
            } else {
                runs.push_back({at, count});
            }
        }
        return runs;
    }
    JoinedClip joined() const {
        JoinedClip clip{places(), {}};
        std::uint64_t at = 0;
        for (std::size_t i = 0; i + 1 < clip.places.size(); ++i) {
            at += clip.places[i].length;
            const auto told = reasons_.find(at / cluster_);
            clip.reasons.push_back(
                told != reasons_.end() ? told->second : "the samples that the index lists begin here again");
        }
        return clip;
    }

    CardView& card_;
    const ClipHead& head_;
    const LooseIndex& index_;
    const ClipPool& pool_;
    const TryDecoding& decode_;
    const Control& control_;
    const ClipJoinLimits& limits_;
    Clock::time_point until_;
    Patience strayPatience_;
    std::uint64_t cluster_, length_;
    std::vector<Witness> witnesses_;
    std::map<std::uint64_t, std::uint64_t> anchors_;  // file cluster -> place on the card
    std::set<std::uint64_t> used_;
    std::map<std::uint64_t, std::string> reasons_;  // by the file cluster that a join is in front of
    std::vector<std::uint8_t> bytes_;
};

}  // namespace

ClipPool::ClipPool(const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin)
    : cluster_(cluster), origin_(origin % cluster) {
    for (const auto& range : free) free_.add(range);
}

bool ClipPool::free(std::uint64_t at) const {
    return free_.contains(at) && free_.contains(at + cluster_ / 2) && free_.contains(at + cluster_ - 1);
}

void ClipPool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places)
        free_.remove({place.offset, (place.length + cluster_ - 1) / cluster_ * cluster_});
}

bool ClipPool::visit(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    const auto through = [&](std::uint64_t from, std::uint64_t to) {
        for (const auto& range : free_.ranges()) {
            const auto begin = std::max(from, range.offset);
            const auto first = (begin + cluster_ - 1 - origin_) / cluster_ * cluster_ + origin_;
            for (auto next = first; next + cluster_ <= range.end() && next < to; next += cluster_) {
                if (visit(next)) return true;
            }
        }
        return false;
    };
    return through(at, UINT64_MAX) || through(0, at);
}

std::optional<JoinedClip> joinClip(CardView& card, const ClipHead& head, const LooseIndex& index,
                                   const ClipPool& pool, const TryDecoding& decode, const Control& control,
                                   const ClipJoinLimits& limits) {
    return Joiner(card, head, index, pool, decode, control, limits).run();
}

}  // namespace dreskel::rebuild
