// The head of a slice segment (ITU-T H.265, 7.3.6.1), as far as the syntax of its data depends on it.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "base/bytes.h"
#include "formats/hevc/parameter_sets.h"

namespace dreskel::hevc {

enum class SliceType : std::uint8_t { B = 0, P = 1, I = 2 };

struct SliceHead {
    bool first = false, dependent = false;
    std::uint32_t address = 0;  // of its first tree block, in the order of the picture's rows
    std::uint32_t pictureSet = 0;
    // Of an independent segment; a dependent one goes on with those of the segment before.
    SliceType type = SliceType::I;
    bool lumaOffsets = false, chromaOffsets = false;  // sample adaptive offsets
    bool cabacInit = false, noSecondDifference = false, chromaQpOffsets = false;
    std::array<std::uint32_t, 2> references{0, 0};
    unsigned mergeCandidates = 5;
    int qp = 26;
    // Where its data begin, in the unescaped bytes behind the unit's header.
    std::size_t dataAt = 0;
};

// `body`: unescaped, behind the header of a unit of this type. `before`: the head that a dependent segment
// goes on with. Nothing when it is damaged or its sets are not known.
std::optional<SliceHead> readSliceHead(unsigned unitType, Bytes body, const ParameterSets& sets,
                                       const std::optional<SliceHead>& before);

}  // namespace dreskel::hevc
