// Small pictures as they are kept in the job: JPEG, made from pixels of our own.
#pragma once

#include <cstdint>
#include <vector>

#include "formats/format.h"

namespace dreskel::media {

// At most `side` pixels in each direction. Empty when the picture is.
std::vector<std::uint8_t> encodeThumbnail(const Picture& picture, std::uint32_t side);

// The whole picture as a JPEG of its own, 4:4:4, for keeping.
std::vector<std::uint8_t> encodePicture(const Picture& picture);

// Of one of our own small pictures the pixels; nothing for what is none.
std::optional<Picture> decodeThumbnail(Bytes jpeg);

// Box-filtered to at most `side` pixels; the picture itself when it is no larger.
Picture shrink(const Picture& picture, std::uint32_t side);

}  // namespace dreskel::media
