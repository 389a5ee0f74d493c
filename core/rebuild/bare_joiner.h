// Puts bare streams of H.264 and HEVC together again that lie in pieces. Nothing in them says how long a unit
// is or where it goes on; but each picture is followed by its syntax, bit by bit
// (formats/clip/start_codes.h): where one is wrong a piece ended, and only its own bytes carry it on.
#pragma once

#include <optional>
#include <vector>

#include "base/control.h"
#include "base/patience.h"
#include "formats/clip/picture_order.h"
#include "rebuild/clip_pool.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// Where the stream that begins at `start` lies, as far as it was found; nothing when that is one piece.
// Behind its end there may be other bytes up to the end of the last piece. `patience`: for searching;
// following what is there is not counted.
std::optional<std::vector<ByteRange>> joinBare(CardView& card, PictureCoding coding, std::uint64_t start,
                                               const ClipPool& pool, Patience& patience,
                                               const Control& control);

}  // namespace dreskel::rebuild
