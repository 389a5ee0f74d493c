// Puts streams together again that lie in pieces and have no length of their own (transport and program
// streams, MP3, ADTS): a record that reaches over the end of a piece says at which byte of the next the one
// behind it begins, and counters and clocks say whether it is this stream's.
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/format.h"
#include "rebuild/clip_joiner.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// Why pieces are joined, for the reader.
inline constexpr const char* kWhyStreamsJoin =
    "the record that reaches over the end of the piece before is followed by the next one to the byte, "
    "and its counters and clock go on";

// Of a record that may reach over the end of a piece; bytes.
inline constexpr std::uint64_t kLongestRecord = 8192;

// The free clusters of a card in which records of a family are under way, by where the first one begins.
class StreamPool {
  public:
    // Of several families at once: looks at every cluster of `pool` once.
    static std::vector<StreamPool> of(CardView& card, const std::vector<const Format*>& formats,
                                      const ClipPool& pool, const Control& control);

    const Format& format() const { return *format_; }
    std::uint32_t cluster() const { return cluster_; }
    std::uint64_t origin() const { return origin_; }  // a place where a cluster begins
    bool empty() const { return byPhase_.empty(); }
    // Those whose first record begins `phase` bytes behind their start (all, if that is not known), the
    // nearest behind `from` first, and round.
    std::vector<std::uint64_t> at(std::optional<std::uint64_t> phase, std::uint64_t from) const;
    // Where the first record of the cluster at `at` begins that is still in here.
    std::optional<std::uint64_t> recordAt(std::uint64_t at) const;
    void take(const std::vector<ByteRange>& places);

  private:
    StreamPool(const Format& format, const ClipPool& pool)
        : format_(&format), cluster_(pool.cluster()), origin_(pool.origin()) {}

    const Format* format_;
    std::uint32_t cluster_;
    std::uint64_t origin_;
    std::map<std::uint64_t, std::vector<std::uint64_t>> byPhase_;  // in order of place
    std::map<std::uint64_t, std::uint64_t> phases_;
};

struct JoinedStream {
    std::vector<ByteRange> places;
    bool breaksOff = false;  // at the end of a cluster, within a record, and nothing was found to go on with
};

// How much of it, in whole clusters, certainly belongs together before anything does not fit.
std::uint64_t runOfStream(CardView& card, std::uint64_t start, const Format& format, std::uint32_t cluster,
                          const Control& control);

// Where the stream lies that begins at `start`, or whose first record there is does.
JoinedStream joinStream(CardView& card, std::uint64_t start, const StreamPool& pool, const Control& control);

}  // namespace dreskel::rebuild
