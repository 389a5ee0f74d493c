// Which frames a block of VP9 is foretold from: what its neighbours say of it (9.3.1).
#pragma once

#include "formats/vp9/block.h"
#include "formats/vp9/frame_head.h"

namespace dreskel::vp9 {

// Of two frames, the one that is always among them, and the others (7.4.2, setup_compound_reference_mode).
struct Pairs {
    explicit Pairs(const std::array<bool, 4>& turned);
    Reference fixed;
    std::array<Reference, 2> others;
    std::size_t fixedPlace, otherPlace;  // among a block's two
};

// The blocks above and on the left; null: none.
struct Beside {
    const Block* above = nullptr;
    const Block* left = nullptr;
};

std::size_t compoundContext(const Beside& beside, const Pairs& pairs);
std::size_t secondContext(const Beside& beside, const Pairs& pairs);
std::size_t firstSingleContext(const Beside& beside);
std::size_t otherSingleContext(const Beside& beside);

}  // namespace dreskel::vp9
