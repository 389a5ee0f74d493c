// All that a track's tables say of its samples (ISO/IEC 14496-12, 8.6 and 8.7), one by one, and the tables
// written again for some of them.
#pragma once

#include <optional>
#include <vector>

#include "base/bytes.h"
#include "formats/isobmff/fragment.h"

namespace dreskel::rebuild {

using isobmff::TimedSample;

// `table`: the inside of an stbl box. Nothing when a table is missing, damaged or contradicts another.
// Bounded by limits::kLargestTablesOfAClip.
std::optional<std::vector<TimedSample>> readTimedSamples(Bytes table);

// The inside of an stbl box like `table`, for these samples. Tables that say more than is known of them, of
// groups and dependencies, are left out.
std::vector<std::uint8_t> writeTimedSamples(Bytes table, const std::vector<TimedSample>& samples);

}  // namespace dreskel::rebuild
