// The index in front of a HEIC as that of a clip: its pictures, or their tiles, are its samples (ISO/IEC
// 23008-12; ISO/IEC 14496-12, 8.11). With it clip_joiner.h puts such a photo together from its pieces.
#pragma once

#include <optional>
#include <vector>

#include "formats/isobmff/item_check.h"
#include "rebuild/clip_index.h"

namespace dreskel::rebuild {

struct PictureIndex {
    ClipHead head;
    LooseIndex index;
    std::vector<isobmff::Item> items;  // tiles, and what is with them
};
// Nothing when no index and media data of a stated length stand near the front.
std::optional<PictureIndex> readPictureIndex(CardView& card, std::uint64_t start);

// Of the facts and notes that reach in between two bytes of the file, which lies in these places: how many
// are not what they should be. Pictures are the samples of the index.
std::uint64_t damagedFacts(CardView& card, const std::vector<ByteRange>& places,
                           const std::vector<isobmff::Item>& items, std::uint64_t from, std::uint64_t to);

}  // namespace dreskel::rebuild
