// Stretches of a card that no file, no filesystem and no blank account for, with what they look like.
#pragma once

#include <functional>
#include <vector>

#include "base/range.h"
#include "scan/block_kind.h"
#include "source/source.h"

namespace dreskel {

struct Stretch {
    ByteRange range;
    BlockKind kind = BlockKind::Structured;  // of most of the blocks that were looked at
    bool mixed = false;                      // not all of those agree
};

// Looks at a few blocks of each stretch; in order of place. Blocks; stretches come as far as `goOn` lets it.
std::vector<Stretch> lookAtUnexplained(const Source& source, const std::vector<ByteRange>& ranges,
                                       const std::function<bool()>& goOn);

}  // namespace dreskel
