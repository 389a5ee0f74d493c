// A short-term reference picture set (ITU-T H.265, 7.3.7 and 7.4.8), of a sequence or of one slice.
#pragma once

#include <optional>
#include <vector>

#include "formats/clip/nal_bits.h"
#include "formats/hevc/parameter_sets.h"

namespace dreskel::hevc {

// `index`: its number; that of a slice is as many as the sequence has (`count`).
std::optional<ReferenceSet> readReferenceSet(NalBits& bits, const std::vector<ReferenceSet>& known,
                                             std::uint32_t index, std::uint32_t count);

}  // namespace dreskel::hevc
