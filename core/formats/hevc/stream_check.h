// Checks the coded pictures of an HEVC stream (ITU-T H.265) to the last bit, unit by unit.
//
// Not thread-safe. Memory: two bytes for every 16 samples of a picture at most, and one unit unescaped.
#pragma once

#include "formats/clip/sliced_check.h"
#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {

struct Coding {
    static constexpr std::size_t kHeader = 2;
    using Sets = ParameterSets;
    using Head = SliceHead;
    using Data = SliceData;

    // Of the base layer (Table 7-1).
    static bool isSlice(Bytes unit) {
        const unsigned type = unit[0] >> 1;
        const bool baseLayer = (unit[0] & 1) == 0 && unit[1] >> 3 == 0;
        return baseLayer && (type <= 9 || (type >= 16 && type <= 21));
    }
    static std::optional<SliceHead> readHead(Bytes unit, Bytes body, const ParameterSets& sets,
                                             const std::optional<SliceHead>& before) {
        return readSliceHead(unit[0] >> 1, body, sets, before);
    }
    static bool passesOver(const SliceHead&) { return false; }
};

class StreamCheck : public SlicedCheck<Coding> {
  public:
    // With the parameter sets of an hvcC box (ISO/IEC 14496-15, 8.3.3.1), if there are any.
    explicit StreamCheck(Bytes settings = {});
};

}  // namespace dreskel::hevc
