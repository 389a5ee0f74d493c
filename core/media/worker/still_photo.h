// Photos that are not JPEGs, decoded by libraries: camera raw files by LibRaw, HEIF and AVIF by libheif, the
// others by libav.
#pragma once

#include <string>
#include <vector>

#include "formats/format.h"

namespace dreskel::media {

// What came of decoding a photo from its bytes.
struct StillOutcome {
    Picture picture;       // empty when nothing came of it
    std::string trouble;   // the first complaint; empty when there was none
    bool unknown = false;  // of a camera or a coding that the library does not know: nothing can be said
    double reached = 1;    // the share of the file before that complaint
    std::uint32_t fullWidth = 0, fullHeight = 0;
};

bool isRaw(const std::string& format);
bool isHeif(const std::string& format);

// `quick`: every byte is decoded, but the picture may be the file's own preview. As stored, not turned, but
// for HEIF, whose turns are part of the picture. At most `side` pixels; 0: full size.
StillOutcome decodeRaw(Bytes file, int side, bool quick);
// `strict`: nothing comes of what is damaged.
StillOutcome decodeHeif(Bytes file, int side, bool strict);

// To at most `side` pixels by whole steps; 0 leaves it as it is.
Picture shrunk(Picture picture, int side);

}  // namespace dreskel::media
