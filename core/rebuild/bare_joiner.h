// Puts bare streams of H.264 and HEVC together again that lie in pieces. Nothing in them says how long a unit
// is or where it goes on; but each picture is followed by its syntax, bit by bit
// (formats/clip/start_codes.h): where one is wrong a piece ended, and only its own bytes carry it on.
#pragma once

#include <chrono>
#include <optional>
#include <vector>

#include "base/control.h"
#include "formats/clip/picture_order.h"
#include "rebuild/clip_pool.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

struct BareJoinLimits {
    std::chrono::milliseconds time{60000};  // of processor time, for one stream
    std::size_t pieces = 64;
};

// Where the stream that begins at `start` lies, as far as it was found; nothing when that is one piece.
// Behind its end there may be other bytes up to the end of the last piece.
std::optional<std::vector<ByteRange>> joinBare(CardView& card, PictureCoding coding, std::uint64_t start,
                                               const ClipPool& pool, const Control& control,
                                               const BareJoinLimits& limits = {});

}  // namespace dreskel::rebuild
