// The clusters of a card that may hold pieces of clips.
#pragma once

#include <functional>
#include <vector>

#include "base/range.h"

namespace dreskel::rebuild {

class ClipPool {
  public:
    // `cluster`: bytes; `origin`: where on the source one of them begins.
    ClipPool(const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin);

    std::uint32_t cluster() const { return cluster_; }
    std::uint64_t origin() const { return origin_; }
    // The whole cluster at `at` is free.
    bool free(std::uint64_t at) const;
    std::vector<ByteRange> stretches() const { return free_.ranges(); }
    void take(const std::vector<ByteRange>& places);
    // Shows the free clusters from `at` on forwards and round, until `visit` gives true. Whether it did.
    bool visit(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const;
    // The same, the nearest first, whichever side of `at` they lie on.
    bool visitNear(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const;

  private:
    std::uint32_t cluster_;
    std::uint64_t origin_;
    RangeSet free_;
};

}  // namespace dreskel::rebuild
