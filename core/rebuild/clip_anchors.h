// Which clusters of a clip lie where, as far as its own samples tell: each begins with something that agrees
// with the index (NAL unit lengths that fill it, ISO/IEC 14496-15; JPEG markers; names and lengths of RIFF
// chunks).
#pragma once

#include <chrono>
#include <map>
#include <optional>
#include <set>

#include "rebuild/clip_index.h"
#include "rebuild/clip_pool.h"
#include "rebuild/sample_places.h"

namespace dreskel::rebuild {

// Clusters of a file by their number, and where each begins on the card.
class ClusterMap {
  public:
    explicit ClusterMap(const ClipPool& pool) : pool_(&pool) {}

    void set(std::uint64_t cluster, std::uint64_t at) {
        at_[cluster] = at;
        used_.insert(at);
    }
    // Free, and not this file's so far.
    bool open(std::uint64_t at) const { return pool_->free(at) && !used_.contains(at); }
    void use(std::uint64_t at) { used_.insert(at); }
    void release(std::uint64_t at) { used_.erase(at); }
    // What lies around a cluster seems to say where it is, but its own sample does not look like one there.
    void doubt(std::uint64_t cluster) { doubtful_.insert(cluster); }
    // Whether there is such a one behind one cluster and in front of another.
    bool doubtfulBetween(std::uint64_t before, std::uint64_t behind) const {
        const auto first = doubtful_.upper_bound(before);
        return first != doubtful_.end() && *first < behind;
    }
    // Bytes of the clusters that the card seems to have, which are no smaller than the pool's: a piece keeps
    // its place within one, so that all are away from where they would be in a file of one piece by a
    // multiple.
    std::uint64_t grid() const;
    // For trying: nothing is used by it.
    std::uint64_t& at(std::uint64_t cluster) { return at_[cluster]; }
    const std::map<std::uint64_t, std::uint64_t>& all() const { return at_; }
    std::optional<std::uint64_t> known(std::uint64_t cluster) const {
        const auto found = at_.find(cluster);
        return found == at_.end() ? std::nullopt : std::optional(found->second);
    }

  private:
    const ClipPool* pool_;
    std::map<std::uint64_t, std::uint64_t> at_;
    std::set<std::uint64_t> used_, doubtful_;
};

// The same distance between file and card for a run of the file's clusters.
struct Anchor {
    std::uint64_t cluster = 0;  // of the file
    std::uint64_t at = 0;       // on the card, where that cluster lies
};

// `length`: of the file. The first cluster is where the clip was found, the last ones are where its index is.
// Nothing when nothing of it can be told, when it lies in one piece, or after `time` of processor time.
std::optional<ClusterMap> findAnchors(CardView& card, const ClipHead& head, const LooseIndex& index,
                                      std::uint64_t length, const ClipPool& pool, const SamplePlaces& samples,
                                      std::chrono::milliseconds time, const Control& control);

}  // namespace dreskel::rebuild
