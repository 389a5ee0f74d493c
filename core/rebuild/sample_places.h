// Where on a card the samples of clips may begin, for all their indexes at once: one pass over the free
// clusters, in which every byte is looked at that may be a sample's first. What a search cluster by cluster
// would find is then a look-up.
#pragma once

#include <memory>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "base/control.h"
#include "rebuild/clip_index.h"
#include "rebuild/clip_pool.h"

namespace dreskel::rebuild {

class SamplePlaces {
  public:
    // Reads what is free once. The indexes must outlive it.
    SamplePlaces(CardView& card, const ClipPool& pool,
                 const std::vector<std::shared_ptr<const LooseIndex>>& indexes, const Control& control);

    // The clusters (where they begin on the card, ascending) that the sample may begin in, at its own byte of
    // the cluster: nothing in them contradicts. None for codings whose samples begin with nothing that can be
    // told.
    const std::vector<std::uint64_t>& of(const isobmff::Sample& sample) const;

    // A sample of one of the clips begins in this cluster, and fills its length.
    bool holdsBeginning(std::uint64_t cluster) const { return taken_.contains(cluster); }

  private:
    struct Sought {
        const isobmff::SampleTrack* track = nullptr;
        const isobmff::Sample* sample = nullptr;
        std::uint32_t byte = 0;  // of its cluster
    };
    void list(const std::vector<std::shared_ptr<const LooseIndex>>& indexes);
    void lookAt(Bytes window, std::size_t upTo, std::uint64_t at);
    // What begins at a byte of the window may be a sample.
    void match(Bytes window, std::size_t p, std::uint64_t at);

    const ClipPool& pool_;
    std::uint32_t cluster_;
    std::vector<Sought> sought_;          // by their byte of the cluster
    std::vector<std::uint32_t> firstAt_;  // for each byte of a cluster, in sought_; one more behind
    // What the first bytes of any of them are like.
    std::vector<std::uint32_t> longest_;  // by the bytes of a unit's length: the longest sample
    bool pictures_ = false, chunks_ = false, av1_ = false;
    std::vector<isobmff::Mark> marks_;
    std::unordered_map<const isobmff::Sample*, std::vector<std::uint64_t>> found_;
    std::unordered_set<std::uint64_t> taken_;
};

}  // namespace dreskel::rebuild
