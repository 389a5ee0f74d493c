// Checks the coded pictures of an H.264 stream to the last bit, unit by unit.
//
// Not thread-safe. Memory: less than one byte a sample of a picture, and one unit unescaped.
#pragma once

#include "formats/avc/slice_data.h"
#include "formats/clip/sliced_check.h"

namespace dreskel::avc {

struct Coding {
    static constexpr std::size_t kHeader = 1;
    using Sets = ParameterSets;
    using Head = SliceHead;
    using Data = SliceData;

    static bool isSlice(Bytes unit) { return (unit[0] & 31) == 1 || (unit[0] & 31) == 5; }
    static std::optional<SliceHead> readHead(Bytes unit, Bytes body, const ParameterSets& sets,
                                             const std::optional<SliceHead>&) {
        return readSliceHead(unit[0], body, sets);
    }
    static bool passesOver(const SliceHead& head) { return head.redundant; }
};

class StreamCheck : public SlicedCheck<Coding> {
  public:
    // With the parameter sets of an avcC box (ISO/IEC 14496-15, 5.3.3.1), if there are any.
    explicit StreamCheck(Bytes settings = {});
};

}  // namespace dreskel::avc
