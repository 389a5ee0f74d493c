// Samples that tell by how they begin whether they are where an index says (ISO/IEC 14496-15; JPEG markers;
// chunks of RIFF).
#pragma once

#include <vector>

#include "rebuild/clip_index.h"

namespace dreskel::rebuild {

struct Witness {
    const isobmff::SampleTrack* track = nullptr;
    const isobmff::Sample* sample = nullptr;
};

// Of all tracks, by their place in the file. The index must outlive them.
std::vector<Witness> witnessesOf(const LooseIndex& index);

// What one looks like when it begins here on the source. `buffer` is kept from one use to the next.
isobmff::Looks looksAt(CardView& card, const Witness& witness, std::uint64_t place,
                       std::vector<std::uint8_t>& buffer);

}  // namespace dreskel::rebuild
