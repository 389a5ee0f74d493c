// Folders that a format or a lost boot sector left without a volume: found by what their sectors look like,
// put together into trees again by their own cluster numbers, and placed on the card by what lies where they
// say.
#pragma once

#include <functional>
#include <map>
#include <vector>

#include "volume/remembered.h"

namespace dreskel {

// Whether a sector is part of a FAT or exFAT folder: every entry in it makes sense, and some entry names
// something. Cheap for anything else.
bool looksLikeFolder(Bytes sector);

// How clusters were numbered: cluster n lies at base + (n - 2) * clusterSize.
struct ClusterGrid {
    std::int64_t base = 0;          // bytes on the source; the first cluster's place
    std::uint64_t clusterSize = 0;  // bytes
    auto operator<=>(const ClusterGrid&) const = default;
};

// Files found by their signatures, by where they begin: their lengths. What tells one grid from another.
using Anchors = std::map<std::uint64_t, std::uint64_t>;

// `sectors`: where looksLikeFolder() said so. Folders in `known` belong to a volume that was read already.
// Bounded; cycles end; what cannot be placed is left out.
std::vector<RememberedFile> rememberOrphans(const Source& source, std::vector<std::uint64_t> sectors,
                                            const RangeSet& known, const Survey& survey,
                                            const Anchors& anchors);

}  // namespace dreskel
