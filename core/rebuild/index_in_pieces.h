// An index (moov, ISO/IEC 14496-12, 8.2) that may lie in pieces itself: its boxes say where the next of them
// must begin, and its tables hold numbers of a kind that other data do not.
#pragma once

#include "rebuild/clip_index.h"
#include "rebuild/clip_pool.h"

namespace dreskel::rebuild {

// `at`: where it begins on the card. In one piece where its boxes fill it exactly. Nothing when the clusters
// that complete it are not found.
std::optional<LooseIndex> readIndex(CardView& card, std::uint64_t at, const ClipPool& pool,
                                    const Control& control);

}  // namespace dreskel::rebuild
