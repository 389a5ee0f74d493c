// What a TIFF block says of a photo: camera, date taken, orientation (Exif, CIPA DC-008; DateTime of
// TIFF 6.0).
#pragma once

#include "formats/format.h"

namespace dreskel {

// False when `block` does not begin with a directory that can be read.
bool readExif(Bytes block, Description& into);

}  // namespace dreskel
