#include "rebuild/clip_anchors.h"

#include <algorithm>
#include <bit>

#include "base/patience.h"
#include "rebuild/witness.h"

namespace dreskel::rebuild {
namespace {

using isobmff::Looks;

// Of samples that are looked at to tell damage from a join.
constexpr std::size_t kFollowing = 4;

class Finder {
  public:
    Finder(CardView& card, const ClipHead& head, const LooseIndex& index, std::uint64_t length,
           const ClipPool& pool, const SamplePlaces& samples, std::chrono::milliseconds time,
           const Control& control)
        : card_(card),
          head_(head),
          index_(index),
          length_(length),
          cluster_(pool.cluster()),
          samples_(samples),
          patience_(time),
          control_(control),
          map_(pool) {}

    std::optional<ClusterMap> run() {
        witnesses_ = witnessesOf(index_);
        fixEnds();
        if (liesInOnePiece()) return std::nullopt;
        follow();
        if (tired()) return std::nullopt;
        return std::move(map_);
    }

  private:
    bool tired() const { return control_.stopped() || patience_.over(); }
    std::uint64_t clusterOf(std::uint64_t fileByte) const { return fileByte / cluster_; }
    std::uint64_t clusterOf(const Witness& witness) const { return clusterOf(witness.sample->offset); }
    std::uint64_t placeOf(const Anchor& anchor, std::uint64_t cluster) const {
        return anchor.at +
               (cluster - anchor.cluster) * cluster_;  // wraps where it is behind; checked by open()
    }

    void fixEnds() {
        fix(0, {head_.start, head_.indexInFront ? head_.indexAt : head_.media.offset});
        auto byte = head_.indexAt;
        for (const auto& place : index_.places) {
            fix(byte, place);
            byte += place.length;
        }
        for (const auto& [from, place] : index_.parts) fix(from, place);
    }
    // The clusters of the file from this byte of it on.
    void fix(std::uint64_t byte, const ByteRange& place) {
        const auto at = place.offset - byte % cluster_;
        const auto first = clusterOf(byte);
        for (auto cluster = first; cluster <= clusterOf(byte + place.length - 1); ++cluster)
            map_.set(cluster, at + (cluster - first) * cluster_);
    }
    // Its index is where it would be if it lay in one piece, and so are most of its samples: what is wrong
    // with it is not that it lies in pieces.
    bool liesInOnePiece() {
        const bool indexThere = index_.places.size() == 1 && index_.box.offset == head_.start + head_.indexAt;
        // Without witnesses (sound alone) the ends are all there is.
        if (witnesses_.empty()) return head_.indexInFront || indexThere;
        if (head_.indexInFront || !indexThere) return false;
        const auto there = std::count_if(witnesses_.begin(), witnesses_.end(), [&](const Witness& witness) {
            return looks(witness, head_.start + clusterOf(witness) * cluster_) == Looks::Exact;
        });
        return static_cast<std::size_t>(there) * 2 > witnesses_.size();
    }

    // What a sample looks like when its file cluster lies at `at`, and what follows it follows there.
    Looks looks(const Witness& witness, std::uint64_t at) {
        return looksAt(card_, witness, at + witness.sample->offset % cluster_, bytes_);
    }
    // Whether the run that this anchor belongs to still holds the sample.
    bool holds(const Witness& witness, const Anchor& anchor) {
        const auto cluster = clusterOf(witness);
        const auto at = placeOf(anchor, cluster);
        if (const auto known = map_.known(cluster)) return *known == at;
        return map_.open(at) && looks(witness, at) == Looks::Exact;
    }

    void follow() {
        Anchor anchor{0, head_.start};
        for (std::size_t i = 0; i < witnesses_.size() && !tired(); ++i) {
            const auto cluster = clusterOf(witnesses_[i]);
            if (const auto known = map_.known(cluster)) {
                anchor = {cluster, *known};
            } else if (goesOn(i, anchor)) {
                const Anchor there{cluster, placeOf(anchor, cluster)};
                const bool foreign = looks(witnesses_[i], there.at) == Looks::Foreign;
                const auto elsewhere = foreign ? search(i, anchor) : std::nullopt;
                if (elsewhere && looks(witnesses_[i], elsewhere->at) == Looks::Exact) {
                    // Another piece lies where it would.
                    map_.set(cluster, elsewhere->at);
                    continue;
                }
                anchor = there;
                foreign ? map_.doubt(cluster) : map_.set(cluster, there.at);
            } else if (const auto next = search(i, anchor)) {
                anchor = *next;
                map_.set(anchor.cluster, anchor.at);
            }
            // Otherwise it lies in pieces itself, or is lost.
        }
    }
    // A sample that does not look like one, among others that do, is damaged or in two pieces: no reason to
    // leave.
    bool goesOn(std::size_t i, const Anchor& anchor) {
        const auto& witness = witnesses_[i];
        const auto at = placeOf(anchor, clusterOf(witness));
        if (!map_.open(at)) return false;
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
        const auto cluster = clusterOf(witness);
        const auto& all = samples_.of(*witness.sample);
        const auto first = std::lower_bound(all.begin(), all.end(), anchor.at);
        std::optional<Anchor> begins;
        std::optional<Anchor> exact;
        const auto look = [&](std::uint64_t at) {
            if (!map_.open(at)) return false;
            const auto here = looks(witness, at);
            if (here == Looks::Foreign) return false;
            const Anchor found{cluster, at};
            // One that others bear witness to as well is certain.
            const bool borne = i + 1 < witnesses_.size() && holds(witnesses_[i + 1], found);
            if (here == Looks::Exact && (borne || !exact)) exact = found;
            if (here == Looks::Begins && borne && !begins) begins = found;
            return here == Looks::Exact && borne;
        };
        if (std::none_of(first, all.end(), look)) std::any_of(all.begin(), first, look);
        return exact ? exact : begins;
    }

    CardView& card_;
    const ClipHead& head_;
    const LooseIndex& index_;
    std::uint64_t length_, cluster_;
    const SamplePlaces& samples_;
    Patience patience_;
    const Control& control_;
    std::vector<Witness> witnesses_;
    ClusterMap map_;
    std::vector<std::uint8_t> bytes_;
};

}  // namespace

std::uint64_t ClusterMap::grid() const {
    constexpr std::uint64_t kLargest = 128 << 10;
    constexpr std::size_t kNoChance = 12;  // as a power of two
    const std::uint64_t cluster = pool_->cluster();
    std::set<std::uint64_t> away;
    for (const auto& [number, at] : at_) away.insert(at - number * cluster);
    const auto alikeOn = [&](std::uint64_t grid) {
        return std::ranges::all_of(away,
                                   [&](std::uint64_t each) { return each % grid == *away.begin() % grid; });
    };
    auto coarsest = kLargest;
    while (coarsest > cluster && !alikeOn(coarsest)) coarsest /= 2;
    // That all lie alike on the coarsest must be improbable if clusters are half as large as they are taken
    // for.
    for (auto grid = coarsest; grid > cluster; grid /= 2) {
        const auto power = static_cast<std::size_t>(std::bit_width(coarsest / grid));
        if (!away.empty() && (away.size() - 1) * power >= kNoChance) return grid;
    }
    return cluster;
}

std::optional<ClusterMap> findAnchors(CardView& card, const ClipHead& head, const LooseIndex& index,
                                      std::uint64_t length, const ClipPool& pool, const SamplePlaces& samples,
                                      std::chrono::milliseconds time, const Control& control) {
    return Finder(card, head, index, length, pool, samples, time, control).run();
}

}  // namespace dreskel::rebuild
