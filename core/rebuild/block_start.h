// Where among the bits of coded photo data a block begins (JPEG, ITU-T T.81): found by trying, since from any
// other place decoding stumbles soon.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/jpeg/lender.h"

namespace dreskel::rebuild {

// A block, the `phase`th of its MCU, begins at this bit of the run.
struct BlockStart {
    std::size_t byte = 0;
    int bit = 0;
    int phase = 0;
};

// Bytes that must decode: no wrong tables last so long.
inline constexpr std::size_t kLeastCoded = 12288;
// How bright the block in front is cannot be known; of these guesses one leaves room for what comes.
inline constexpr std::array kBrightnesses{0, -512, 512};

// The byte that what was made and the run share, if they do, and the first of the run's own bytes.
struct JoinedBits {
    std::vector<std::uint8_t> shared;
    std::size_t from = 0;
};
// `begun`: the bits in front, at the upper end of a byte; the run goes on with the `bit`th of its own.
JoinedBits joinBits(Bytes run, std::size_t byte, int bit, std::uint8_t begun);

// Nothing when the lender's tables are not those that the run was coded with.
std::optional<BlockStart> findBlockStart(Bytes run, const jpeg::Lender& lender, const Control& control);

}  // namespace dreskel::rebuild
