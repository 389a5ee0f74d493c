// The edit list of a track (elst box, ISO/IEC 14496-12, 8.6.6), as cameras use it: waiting, then the media
// from some place on.
#pragma once

#include <cstdint>

#include "base/bytes.h"
#include "rebuild/box_writer.h"

namespace dreskel::rebuild {

struct EditList {
    std::uint64_t wait = 0;   // of the movie's timescale, before anything is shown
    std::uint64_t start = 0;  // of the media's timescale, what is shown first
};

// `body`: the inside of an elst box; what follows the first shown part is not looked at.
EditList readEdits(Bytes body);

// The inside of an elst box. `length`: of what is shown, of the movie's timescale.
BoxBytes writeEdits(const EditList& edits, std::uint64_t length);

}  // namespace dreskel::rebuild
