// Whether the bytes of an item are what its index says of them; foreign bytes are not.
#pragma once

#include <optional>

#include "formats/isobmff/item_index.h"

namespace dreskel::isobmff {

struct ItemFault {
    std::uint64_t byte = 0;  // of the item
    std::string why;
};

// HEVC and JPEG are followed to their end, Exif and notes looked at as far as their structure goes. Nothing
// is said of AV1, and nothing when all is right.
std::optional<ItemFault> faultOf(const Item& item, Bytes bytes);

}  // namespace dreskel::isobmff
