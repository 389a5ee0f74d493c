// What the segments before the picture data say: camera, date, orientation (Exif, CIPA DC-008), and where the
// further pictures of a multi-picture file lie (CIPA DC-007).
#pragma once

#include <vector>

#include "formats/format.h"

namespace dreskel::jpeg {

struct Metadata {
    bool exif = false;  // a well-formed Exif block is there
    Description description;
    Bytes thumbnail;  // a JPEG inside of what was given; empty when there is none
    // Further pictures after the first; bytes from the start of the file.
    std::vector<ByteRange> furtherPictures;
};

// `head` is the beginning of the file, as much of it as is at hand.
Metadata readMetadata(Bytes head);

}  // namespace dreskel::jpeg
