// Reading over bad places: a failed read is narrowed down to the sectors that really fail.
#pragma once

#include "base/range.h"
#include "source/source.h"

namespace dreskel {

// Fills `into` with the bytes from `offset`; what cannot be read is zero and comes back as ranges, in order.
// `offset` should be a multiple of the sector size. Bytes past the end of the source count as unreadable.
std::vector<ByteRange> readTolerant(const Source& source, std::uint64_t offset, MutableBytes into);

}  // namespace dreskel
