// How blocks of VP9 move: what their neighbours and the picture before suggest, and vectors as they are coded
// (sections 6.4.19, 6.4.20 and 6.4.22 to 6.4.24).
#pragma once

#include <optional>

#include "formats/vp9/chances.h"
#include "formats/vp9/field.h"

namespace dreskel::vp9 {

// What motion in a tile is foretold by. All are kept by the caller.
struct Surroundings {
    const Field& field;
    const Field* before = nullptr;                 // the picture in front, where it may be used
    std::uint32_t firstColumn = 0, endColumn = 0;  // of the tile
    const std::array<bool, 4>& turned;
};

struct Suggested {
    std::array<Vector, 2> vectors{};
    std::size_t context = 0;  // of the block's mode
};
// `quarter`: of a block that moves in parts; nothing for the block as a whole.
Suggested suggest(const Surroundings& around, Place place, BlockSize size, Reference reference,
                  std::optional<std::size_t> quarter);

// To full eighths only where those are coded.
Vector coarse(Vector vector, bool eighths);

// What is added to a vector; counts what came.
Vector readDifference(BoolDecoder& bits, const Chances& chances, Counts& counts, bool eighths);

}  // namespace dreskel::vp9
