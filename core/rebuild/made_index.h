// Writes a new index (moov box, ISO/IEC 14496-12, 8.2) for samples that were found again, after the template
// of a good clip of the same recorder.
#pragma once

#include "rebuild/sample_walk.h"

namespace dreskel::rebuild {

// The box with its header. `shift`: added to the samples' offsets to give their places in the new file.
// Nothing when no sample is left.
std::vector<std::uint8_t> makeIndex(const ClipTemplate& like, const Walked& walked, std::int64_t shift);

// The header of an mdat box (8.1.1) around so many bytes.
std::vector<std::uint8_t> makeMediaHeader(std::uint64_t length);

}  // namespace dreskel::rebuild
