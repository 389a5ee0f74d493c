// What a TIFF block says of a photo: camera, date taken, orientation, position (Exif, CIPA DC-008; DateTime
// of TIFF 6.0).
#pragma once

#include "formats/format.h"

namespace dreskel {

// False when `block` does not begin with a directory that can be read.
bool readExif(Bytes block, Description& into);

// The small picture that a photo holds of itself, as a JPEG in the block's second directory (CIPA DC-008,
// 4.5.8); empty when there is none.
Bytes thumbnailIn(Bytes block);

// "+47.5916-003.0640/" (ISO 6709, Annex H), as clips keep their place.
std::optional<Position> positionFrom(const std::string& text);

}  // namespace dreskel
