// The head of a slice (ITU-T H.264, 7.3.3), as far as the syntax of its data depends on it.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "base/bytes.h"
#include "formats/avc/parameter_sets.h"

namespace dreskel::avc {

enum class SliceType : std::uint8_t { P = 0, B = 1, I = 2 };

struct SliceHead {
    std::uint32_t first = 0;  // its first macroblock
    std::uint32_t pictureSet = 0;
    SliceType type = SliceType::I;
    bool field = false;
    bool adaptive = false;   // a frame of pairs of macroblocks, each of the frame or of its fields
    bool redundant = false;  // of a second coding of the same picture
    std::array<std::uint32_t, 2> references{0, 0};
    std::optional<unsigned> initNumber;  // cabac_init_idc
    int qp = 26;
    std::size_t dataAt = 0;  // where its data begin: bits of the unescaped bytes behind the unit's header
};

// `header`: the byte in front of `body`, which is unescaped. Nothing when it is damaged, its sets are not
// known, or it is not followed here.
std::optional<SliceHead> readSliceHead(std::uint8_t header, Bytes body, const ParameterSets& sets);

}  // namespace dreskel::avc
