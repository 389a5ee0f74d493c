#include "rebuild/clip_joiner.h"

#include <algorithm>
#include <array>
#include <deque>
#include <map>
#include <set>
#include <span>
#include <tuple>

#include "base/patience.h"
#include "rebuild/carrying.h"
#include "rebuild/clip_anchors.h"

namespace dreskel::rebuild {
namespace {

// Clusters of a piece in which no sample begins; a longer stretch without one is missing, or was never there.
constexpr std::uint64_t kMostStray = 1024;
constexpr std::uint64_t kOvershoots = 32 << 10;  // bytes that foreign data are seldom taken for a picture's
constexpr std::size_t kNear = 64;                // places that are tried first, on each side of a join
constexpr double kDoesNotGoOn = 1;               // of Trial::roughness
constexpr std::size_t kLookedAt = 512;           // bytes of a cluster
constexpr std::ptrdiff_t kManyBytes = 160;       // of 256; noise has 221 in so many
constexpr std::uint64_t kMostBehind = 16 << 20;  // bytes of boxes behind a clip's last sample or its index
// Over all joins that are told by decoding.
constexpr int kRounds = 2;

class Joiner {
  public:
    Joiner(CardView& card, ClusterMap anchors, std::uint64_t length, const ClipPool& pool,
           const SamplePlaces& samples, const TryDecoding& decode, const Control& control,
           const ClipJoinLimits& limits, std::size_t& tried)
        : card_(card),
          pool_(pool),
          samples_(samples),
          decode_(decode),
          control_(control),
          limits_(limits),
          strayPatience_(limits.stray),
          cluster_(pool.cluster()),
          length_(length),
          tried_(tried),
          map_(std::move(anchors)),
          grid_(map_.grid()) {}

    std::optional<JoinedClip> run() {
        auto gaps = gapsBetween();
        if (!reachEnd(gaps) || !prepare(gaps) || !isNew(gaps)) return std::nullopt;
        if (limits_.strayPieces) doubtWhatOnlyFits(gaps);
        // Joins near one another disturb each other's trials: what was not clean is tried again.
        for (int round = 0; round < kRounds; ++round) {
            for (auto& gap : gaps) {
                if (control_.stopped()) return std::nullopt;
                if (!gap.sure) {
                    gap.stray > 0 ? placeStray(gap) : decide(gap);
                } else if (limits_.strayPieces && round == 0) {
                    const auto outcome = trial(gap);
                    if (clean(gap, outcome) || outcome.reached == 0) continue;
                    gap.sure = false;
                    gap.wrong = true;
                    placeUnknown(gap);
                }
            }
        }
        for (const auto& gap : gaps) {
            if (gap.sure) continue;
            if (limits_.withGaps) {
                leaveOut(gap);
            } else if (gap.wrong) {
                return std::nullopt;
            }
        }
        std::set<std::uint64_t> once;
        for (const auto& [cluster, at] : map_.all()) {
            if (once.insert(at).second || isMissing(cluster)) continue;
            if (!limits_.withGaps) return std::nullopt;
            miss(cluster, cluster + 1);
        }
        return joined();
    }

  private:
    std::uint64_t clusterOf(std::uint64_t fileByte) const { return fileByte / cluster_; }
    std::uint64_t placeOf(const Anchor& anchor, std::uint64_t cluster) const {
        return anchor.at +
               (cluster - anchor.cluster) * cluster_;  // wraps where it is behind; checked by free()
    }

    // Between two anchors that do not agree: some clusters follow the first, the rest precede the second.
    // Where both together do not suffice, a piece lies in between in which no sample begins. Behind the last
    // one there is nothing: `behind` is then the first cluster that the file does not have.
    struct Gap {
        Anchor before, behind;
        bool last = false;
        std::uint64_t size = 0, most = 0, least = 0;  // clusters that follow the first
        std::uint64_t stray = 0;                      // of the piece between
        bool sure = false;
        bool wrong = false;     // wherever it was tried, a picture was
        bool searched = false;  // for pieces in which no sample begins
    };
    bool open(std::uint64_t at) const { return map_.open(at); }
    // Whether a piece may begin behind so many clusters of a gap, and there on the card.
    bool mayJoin(const Gap& gap, std::uint64_t first) const {
        return (gap.before.cluster + first + 1) * cluster_ % grid_ == 0;
    }
    bool mayBeginAt(std::uint64_t at) const { return at % grid_ == map_.all().begin()->second % grid_; }
    // The same, and no sample of any clip begins there.
    bool mayBeStray(std::uint64_t at) const { return open(at) && !samples_.holdsBeginning(at); }
    void miss(std::uint64_t from, std::uint64_t to) {  // clusters of the file
        if (from < to) missing_.add({from * cluster_, (to - from) * cluster_});
    }
    bool isMissing(std::uint64_t cluster) const { return missing_.contains(cluster * cluster_); }
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
    std::uint64_t roomInFront(const Gap& gap) const {
        return gap.last ? 0 : room(gap.behind, gap.size, false);
    }
    std::vector<Gap> gapsBetween() {
        std::vector<Gap> gaps;
        const auto anchors = map_.all();
        auto before = anchors.begin();
        for (auto behind = std::next(before); behind != anchors.end(); before = behind++) {
            Gap gap{{before->first, before->second}, {behind->first, behind->second}};
            gap.size = behind->first - before->first - 1;
            if (gap.size == 0) continue;
            const bool same = placeOf(gap.before, behind->first) == behind->second;
            const bool doubtful = map_.doubtfulBetween(before->first, behind->first);
            if (same && !doubtful && room(gap.before, gap.size, true) == gap.size) {
                for (std::uint64_t k = 1; k <= gap.size; ++k)
                    map_.set(before->first + k, before->second + k * cluster_);
                gap.most = gap.size;
                fitting_.push_back(gap);
                continue;
            }
            gaps.push_back(gap);
        }
        return gaps;
    }
    // Between two anchors that agree another piece may lie all the same, where those of the file lie
    // elsewhere.
    void doubtWhatOnlyFits(std::vector<Gap>& gaps) {
        const Patience patience(limits_.stray / 4);
        for (const auto& gap : fitting_) {
            if (patience.over() || control_.stopped()) break;
            const auto outcome = trial(gap);
            if (clean(gap, outcome) || outcome.reached < gap.before.cluster * cluster_) continue;
            for (std::uint64_t k = 1; k <= gap.size; ++k) map_.release(gap.before.at + k * cluster_);
            gaps.push_back(gap);
        }
    }
    // The end of the media data, behind the last sample that tells something.
    bool reachEnd(std::vector<Gap>& gaps) {
        const auto last = clusterOf(length_ - 1);
        const Anchor end{map_.all().rbegin()->first, map_.all().rbegin()->second};
        const auto rest = last - end.cluster;
        const auto there = room(end, rest, true);
        if (limits_.strayPieces && rest > 0) {
            gaps.push_back({end, {last + 1, 0}, true, rest});
            return true;
        }
        if (there < rest && !limits_.withGaps) return false;
        for (std::uint64_t k = 1; k <= there; ++k) map_.set(end.cluster + k, end.at + k * cluster_);
        for (auto k = there + 1; k <= rest; ++k) map_.at(end.cluster + k) = end.at;
        miss(end.cluster + there + 1, last + 1);
        return true;
    }
    // How large the pieces around each gap can be at most; false when there is one that cannot be filled.
    bool prepare(std::vector<Gap>& gaps) {
        for (auto& gap : gaps) {
            gap.most = room(gap.before, gap.size, true);
            const auto back = roomInFront(gap);
            if (gap.most + back < gap.size) {
                if (!limits_.strayPieces) return false;
                gap.stray = gap.size - gap.most - back;
                if (gap.stray > kMostStray && !limits_.withGaps) return false;
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
        return true;
    }
    // With the same to go by the same would come of it.
    bool isNew(const std::vector<Gap>& gaps) {
        std::size_t sum = limits_.strayPieces ? 1 : 2;
        const auto add = [&](std::uint64_t value) {
            sum ^= std::hash<std::uint64_t>{}(value) + 0x9e3779b97f4a7c15 + (sum << 6) + (sum >> 2);
        };
        add(limits_.withGaps ? 1 : 0);
        for (const auto& [cluster, at] : map_.all()) {
            add(cluster);
            add(at);
        }
        for (const auto& gap : gaps) {
            add(gap.most);
            add(gap.least);
        }
        return std::exchange(tried_, sum) != sum;
    }
    // Where nothing else is known: a run ends where something else begins, and begins where something else
    // ended.
    static std::uint64_t natural(const Gap& gap, std::uint64_t back) {
        return back < gap.size && gap.most >= gap.size ? gap.least : gap.most;
    }
    // `first` clusters follow what is before; then the stray piece, if there is one, at `strayAt`.
    void fill(const Gap& gap, std::uint64_t first, std::uint64_t strayAt = 0) {
        for (std::uint64_t k = 1; k <= gap.size; ++k) {
            auto& at = map_.at(gap.before.cluster + k);
            if (k <= first) {
                at = gap.before.at + k * cluster_;
            } else if (k <= first + gap.stray) {
                at = strayAt + (k - first - 1) * cluster_;
            } else if (gap.last) {
                at = gap.stray > 0 ? strayAt + (k - first - 1) * cluster_ : gap.before.at + k * cluster_;
            } else {
                const auto ahead = (gap.behind.cluster - gap.before.cluster - k) * cluster_;
                at = gap.behind.at - std::min(gap.behind.at, ahead);  // not in front of the card
            }
        }
    }
    // Up to where the next join may be; what is wrong behind that is another gap's.
    std::uint64_t endOf(const Gap& gap) const {
        return gap.last ? length_ : (gap.behind.cluster + 1) * cluster_;
    }
    Trial trial(const Gap& gap) const { return decode_(places(), gap.before.cluster * cluster_, endOf(gap)); }
    bool clean(const Gap& gap, const Trial& outcome) const {
        return outcome.errors == 0 || outcome.reached >= endOf(gap);
    }
    // Whether one trial is better than another; errors count first.
    static bool better(const Trial& a, const Trial& b) {
        if (a.reached > 0 && b.reached > 0) return a.reached > b.reached;
        return a.errors != b.errors ? a.errors < b.errors : a.roughness < b.roughness;
    }
    void decide(Gap& gap) {
        std::deque<std::uint64_t> order{natural(gap, gap.size - gap.least), gap.most, gap.least};
        for (auto first = gap.least; first <= gap.most; ++first) order.push_back(first);
        std::erase_if(order, [&](std::uint64_t first) {
            return !mayJoin(gap, first) && first != gap.least && first != gap.most;
        });
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
            // The run before goes no further than to where it shows that something is wrong, and less far by
            // no more than what foreign data are taken for a picture's.
            const auto shown = clusterOf(outcome.reached);
            if (outcome.reached > 0 && shown > gap.before.cluster && shown - gap.before.cluster - 1 < first) {
                const auto upTo = shown - gap.before.cluster - 1;
                std::sort(order.begin(), order.end(), std::greater<>());
                std::stable_partition(order.begin(), order.end(), [&](std::uint64_t each) {
                    return each <= upTo && each + kUnnoticed / cluster_ + 2 >= upTo;
                });
                for (const auto further : {upTo, upTo - std::min<std::uint64_t>(upTo, 1)}) {
                    if (further >= gap.least && mayJoin(gap, further)) order.push_front(further);
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
        if (gap.searched || strayPatience_.over()) return;
        gap.searched = true;
        const Patience patience(limits_.unknown);
        const auto straightOn = furthest(gap);
        const auto goOnFrom = clusterOf(straightOn);
        if (goOnFrom <= gap.before.cluster) return;
        const auto upTo = goOnFrom - gap.before.cluster - 1;
        Carrying carrying;
        const auto tired = [&] { return control_.stopped() || patience.over() || strayPatience_.over(); };
        // The run before goes on less far than that by no more than what foreign data are taken for.
        const auto furthestFirst = std::min({upTo, gap.most, gap.size - 1});
        const auto least = std::min(furthestFirst, upTo - std::min(upTo, clustersOvershot()));
        for (const auto most : {kNear, SIZE_MAX}) {
            for (auto first = furthestFirst + 1; first-- > least && !gap.sure && !carrying.likely();) {
                auto left = most;
                if (!mayJoin(gap, first)) continue;
                const auto end = gap.before.at + first * cluster_;
                pool_.visitNear(end, [&](std::uint64_t at) {
                    if (tired()) return true;
                    // Not what the run before holds, nor what it goes on with.
                    const bool before = at > gap.before.at && at <= end + cluster_;
                    if (before || !mayBeginAt(at) || !mayBeStray(at) || !mayBeCoded(at)) return false;
                    if (left-- == 0) return true;
                    tryPiece(gap, first, at, straightOn, carrying);
                    return gap.sure || carrying.certain();
                });
            }
        }
        if (gap.sure) return;
        gap.stray = 0;
        fill(gap, furthestFirst);
        goOnWith(gap, carrying.best());
    }
    // A piece from `at` on behind `first` clusters of the run before, which alone is right up to
    // `straightOn`.
    void tryPiece(Gap& gap, std::uint64_t first, std::uint64_t at, std::uint64_t straightOn,
                  Carrying& carrying) {
        const auto with = [&](std::uint64_t length) {
            gap.stray = length;
            fill(gap, first, at);
            const auto outcome = trial(gap);
            if (clean(gap, outcome)) settle(gap, gap.before.cluster + first + 1, outcome);
            return outcome;
        };
        // As far as it goes; then no further than it is right, up to the run behind.
        std::uint64_t most = 0;
        while (first + most < gap.size && mayBeStray(at + most * cluster_)) ++most;
        const auto outcome = with(most);
        const auto from = (gap.before.cluster + first + 1) * cluster_;
        const auto bytes = outcome.reached - std::min(outcome.reached, from);
        carrying.count(bytes);
        if (gap.sure || bytes < cluster_ || outcome.roughness >= kDoesNotGoOn) return;
        if (outcome.reached > straightOn) carrying.take({first, at, bytes, outcome.roughness});
        const auto longest = gap.last ? 0 : std::min(most, bytes / cluster_);
        for (auto length = longest; length > 0 && length + clustersOvershot() > longest; --length) {
            if (mayJoin(gap, first + length)) with(length);
            if (gap.sure) return;
        }
    }
    std::uint64_t clustersOvershot() const { return (kOvershoots + cluster_ - 1) / cluster_; }
    // What follows tells which of some places was the right one; when none was, the first is left.
    void goOnWith(Gap& gap, std::span<const Carrying::Place> places) {
        struct State {
            Gap gap;
            ClusterMap map;
            std::map<std::uint64_t, std::string> reasons;
        };
        const State before{gap, map_, reasons_};
        std::optional<State> first;
        for (const auto& place : places) {
            gap.stray = 1;
            fill(gap, place.first, place.at);
            goOnBehind(gap, place.first + 1, place.at);
            if (gap.sure || control_.stopped()) return;
            if (!first) first = State{gap, map_, reasons_};
            std::tie(gap, map_, reasons_) = std::tie(before.gap, before.map, before.reasons);
        }
        if (first) std::tie(gap, map_, reasons_) = std::tie(first->gap, first->map, first->reasons);
    }
    // The first clusters of a gap are known now, the last of them at `at`: what is left of it is a smaller
    // gap.
    void goOnBehind(Gap& gap, std::uint64_t known, std::uint64_t at) {
        for (std::uint64_t k = 1; k <= known; ++k) map_.use(map_.at(gap.before.cluster + k));
        reasons_[gap.before.cluster + known] = "only with this piece the picture goes on";
        Gap rest{{gap.before.cluster + known, at}, gap.behind, gap.last, gap.size - known};
        if (rest.size == 0) return;
        rest.most = room(rest.before, rest.size, true);
        const auto back = roomInFront(rest);
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
        gap.wrong = rest.wrong;
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
        if (gap.stray > kMostStray) return;
        std::optional<std::uint64_t> best;
        Trial least{UINT64_MAX, 0, 0};
        int left = limits_.trials;
        pool_.visitNear(gap.before.at, [&](std::uint64_t at) {
            if (control_.stopped() || left == 0) return true;
            for (std::uint64_t k = 0; k < gap.stray; ++k) {
                if (!mayBeStray(at + k * cluster_)) return false;
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
        if (best) {
            fill(gap, gap.most, *best);
            settle(gap, gap.before.cluster + gap.most + 1, least);
        }
        if (gap.sure || (best && least.reached == 0)) return;
        // It is in pieces itself.
        gap.stray = 0;
        placeUnknown(gap);
    }
    void settle(Gap& gap, std::uint64_t cluster, const Trial& outcome) {
        gap.sure = clean(gap, outcome);
        gap.wrong = !gap.sure && outcome.reached > 0;
        reasons_[cluster] =
            gap.sure ? "of the places where it may go on, here the pictures decode without an error"
                     : "the place where it goes on could not be told exactly";
    }

    // Some of it is lost: what is before goes on as far as its pictures are right, and no further.
    void leaveOut(const Gap& gap) {
        const auto outcome = trial(gap);
        if (clean(gap, outcome)) return;
        const auto first = gap.before.cluster + 1;
        if (outcome.reached > 0) {
            miss(std::clamp(clusterOf(outcome.reached), first, gap.behind.cluster), gap.behind.cluster);
        } else if (gap.stray > 0) {
            miss(first + gap.least, first + gap.least + gap.stray);
        }
    }

    std::vector<ByteRange> places() const {
        std::vector<ByteRange> runs;
        for (const auto& [cluster, at] : map_.all()) {
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
        JoinedClip clip{places(), {}, missing_};
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
    const ClipPool& pool_;
    const SamplePlaces& samples_;
    const TryDecoding& decode_;
    const Control& control_;
    const ClipJoinLimits& limits_;
    Patience strayPatience_;
    std::uint64_t cluster_, length_;
    std::size_t& tried_;
    ClusterMap map_;
    std::uint64_t grid_;                            // bytes, of the clusters that the card seems to have
    std::vector<Gap> fitting_;                      // that were filled without a look
    RangeSet missing_;                              // of the file
    std::map<std::uint64_t, std::string> reasons_;  // by the file cluster that a join is in front of
    std::vector<std::uint8_t> bytes_;
};

// What is left of its last cluster, and the free ones behind it.
std::uint64_t roomBehind(const ByteRange& place, const ClipPool& pool) {
    const auto cluster = pool.cluster();
    auto next = place.offset + (place.length + cluster - 1) / cluster * cluster;
    while (next - place.end() < kMostBehind && pool.free(next)) next += cluster;
    return next - place.end();
}

}  // namespace

std::optional<JoinedClip> joinClip(CardView& card, const ClipHead& head, const LooseIndex& index,
                                   const ClipPool& pool, const SamplePlaces& samples,
                                   const TryDecoding& decode, const Control& control,
                                   const ClipJoinLimits& limits, std::size_t& tried) {
    const auto length = lengthOf(head, index);
    auto anchors = findAnchors(card, head, index, length, pool, samples, limits.time, control);
    if (!anchors) return std::nullopt;
    auto joined =
        Joiner(card, std::move(*anchors), length, pool, samples, decode, control, limits, tried).run();
    if (joined && !head.avi) {
        auto& last = joined->places.back();
        last.length += boxesBehind(card, last.end(), roomBehind(last, pool));
    }
    return joined;
}

}  // namespace dreskel::rebuild
