// What of a card is left for the pieces of files: no whole file's, no structure, not blank; and the grid that
// files lie on.
#pragma once

#include <functional>
#include <vector>

#include "base/range.h"
#include "scan/claims.h"

namespace dreskel {

struct FreeSpace {
    std::vector<ByteRange> stretches;
    std::uint32_t cluster = 4096;  // bytes
    std::uint64_t origin = 0;      // a place where a cluster begins
};

// Its clusters that are free as a whole.
RangeSet wholeClusters(const FreeSpace& space, ByteRange span);

// Whether a lost file of a kind that any bytes may belong to lies across a present one, which shows that it
// is not whole.
bool looksWholeOver(const Finding& finding, const RangeSet& present);

// `others`: stretches that are known to be no file's, or a present one's. `blank`: that hold nothing; a
// cluster that is blank in part may be the last of a file. `inDoubt`: whole files that are not to be
// believed.
FreeSpace freeSpaceOf(const Claims& claims, ByteRange span, const std::vector<std::vector<ByteRange>>& others,
                      const std::vector<ByteRange>& blank,
                      const std::function<bool(const Finding&)>& inDoubt);

}  // namespace dreskel
