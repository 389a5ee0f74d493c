// Puts files together again that are checked record by record: chunks and pages with check sums (PNG, Ogg,
// FLAC), and records that say where the next one begins (Matroska, ASF, MXF). Where a format's own walk finds
// something wrong, it is gone on with from a state before that, with other clusters of the card, until it is
// content.
#pragma once

#include <chrono>
#include <functional>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/format.h"
#include "rebuild/clip_joiner.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct WalkJoinLimits {
    std::chrono::milliseconds time{5000};  // of processor time, for one file, `whole` not counted
    int pieces = 48;
};

// Where the file that begins at `start` lies; nothing when no way was found. `whole`: whether a file that
// walks to its end is, by every check there is.
std::optional<std::vector<ByteRange>> joinWalk(
    CardView& card, const Format& format, std::uint64_t start, const ClipPool& pool,
    const std::function<bool(const std::vector<ByteRange>& places)>& whole, const Control& control,
    const WalkJoinLimits& limits = {});

}  // namespace dreskel::rebuild
