// The coded pictures and tiles inside a HEIF or AVIF file, each followed to its end: where foreign bytes are
// among them, decoders mostly make a picture of them without complaint.
#pragma once

#include <optional>
#include <string>

#include "base/bytes.h"

namespace dreskel::media {

struct ItemFault {
    std::uint64_t byte = 0;  // of the file
    std::string why;
};

// The first thing that is wrong; nothing when all is right, or when nothing can be said.
std::optional<ItemFault> faultOfItems(Bytes file);

}  // namespace dreskel::media
