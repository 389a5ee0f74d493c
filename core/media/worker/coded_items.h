// The items inside a HEIF or AVIF file, each checked to its end: where foreign bytes are
// among them, decoders mostly make a picture of them without complaint.
#pragma once

#include <optional>

#include "formats/isobmff/item_check.h"

namespace dreskel::media {

// The first thing that is wrong, its byte counted from the start of the file; nothing when all is right, or
// when nothing can be said.
std::optional<isobmff::ItemFault> faultOfItems(Bytes file);

}  // namespace dreskel::media
