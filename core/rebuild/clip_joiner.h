// Puts a clip together again that lies in pieces and has its index: the index says where each sample begins
// and how long it is, and a coded picture's first bytes say the same of themselves (NAL unit lengths, ISO/IEC
// 14496-15; JPEG markers). Where a stretch of the card agrees with the index, the file lies there; where it
// stops agreeing, the place is looked for where it agrees again. What lies between two such stretches is told
// by what else may lie there, and by decoding.
#pragma once

#include <chrono>
#include <functional>
#include <optional>
#include <vector>

#include "base/control.h"
#include "rebuild/clip_index.h"

namespace dreskel::rebuild {

// The clusters of a card that may hold pieces of clips.
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

  private:
    std::uint32_t cluster_;
    std::uint64_t origin_;
    RangeSet free_;
};

struct JoinedClip {
    std::vector<ByteRange> places;
    std::vector<std::string> reasons;  // of each join, in order
};

// What a player's decoder makes of the file that lies in these places, between two of its bytes.
struct Trial {
    std::uint64_t errors = 0;
    // How little the pictures are like one another and smooth in themselves: some decoders complain of
    // little.
    double roughness = 0;
    // Byte of the file up to which nothing is wrong, where that is known and something is.
    std::uint64_t reached = 0;
};
using TryDecoding =
    std::function<Trial(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to)>;

struct ClipJoinLimits {
    std::chrono::milliseconds time{10000};  // for one clip, decoding not counted
    int trials = 24;                        // by decoding, for one join
    bool strayPieces = false;               // look for pieces in which no sample begins, too
    std::chrono::milliseconds stray{
        20000};  // of processor time, for all of these that are looked for cluster by cluster
};

// Where the clip lies, piece by piece; nothing when some of it was not found.
std::optional<JoinedClip> joinClip(CardView& card, const ClipHead& head, const LooseIndex& index,
                                   const ClipPool& pool, const TryDecoding& decode, const Control& control,
                                   const ClipJoinLimits& limits = {});

}  // namespace dreskel::rebuild
