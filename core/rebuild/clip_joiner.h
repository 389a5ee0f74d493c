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
#include "rebuild/clip_pool.h"
#include "rebuild/sample_places.h"

namespace dreskel::rebuild {

struct JoinedClip {
    std::vector<ByteRange> places;
    std::vector<std::string> reasons;  // of each join, in order
    // Of the file: what was not found. The places are then those of something else.
    RangeSet missing;
};

// What a player's decoder makes of the file that lies in these places, between two of its bytes.
struct Trial {
    std::uint64_t errors = 0;
    // How little the pictures are like one another and smooth in themselves: some decoders complain of
    // little. Where pictures were followed by their syntax: how badly one goes on behind a join, from 1 on it
    // does not.
    double roughness = 0;
    // Byte of the file up to which nothing is wrong, where that is known and something is.
    std::uint64_t reached = 0;
};
using TryDecoding =
    std::function<Trial(const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to)>;

struct ClipJoinLimits {
    std::chrono::milliseconds time{10000};  // of processor time, for finding a clip's samples
    int trials = 24;                        // by decoding, for one join
    bool strayPieces = false;               // look for pieces in which no sample begins, too
    bool withGaps = false;                  // what is found of it, when some is not
    // Of processor time, for all of these that are looked for cluster by cluster, and for one.
    std::chrono::milliseconds stray{20000}, unknown{8000};
};

// Where the clip lies, piece by piece; nothing when some of it was not found, unless gaps are asked for.
// `samples`: of this index among others. `tried`: what there was to go by the last time, 0 at first; when
// nothing has changed since, nothing is tried again.
std::optional<JoinedClip> joinClip(CardView& card, const ClipHead& head, const LooseIndex& index,
                                   const ClipPool& pool, const SamplePlaces& samples,
                                   const TryDecoding& decode, const Control& control,
                                   const ClipJoinLimits& limits, std::size_t& tried);

}  // namespace dreskel::rebuild
