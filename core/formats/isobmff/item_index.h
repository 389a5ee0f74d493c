// What a `meta` box says of the pictures in a HEIF file (ISO/IEC 23008-12, 14496-12 section 8.11).
#pragma once

#include <vector>

#include "base/bytes.h"
#include "base/range.h"

namespace dreskel::isobmff {

// A picture, or a tile of one, or what belongs to one.
struct Item {
    enum class Coding { Hevc, Av1, Jpeg, Exif, Notes };
    Coding coding = Coding::Hevc;
    std::vector<ByteRange> extents;
    std::vector<std::uint8_t> settings;  // the decoder's (hvcC, av1C)

    bool coded() const { return coding == Coding::Hevc || coding == Coding::Av1; }

    // HEVC: of a NAL unit's length (ISO/IEC 14496-15, 8.3.3.1); 0 when the settings are too short to say.
    std::size_t lengthBytes() const { return settings.size() > 22 ? (settings[21] & 3U) + 1 : 0; }
};

struct ItemIndex {
    std::vector<ByteRange> extents;       // of all items, in the file
    std::vector<ByteRange> exif;          // of the one that holds Exif
    std::vector<Item> items;              // of those codings
    std::uint32_t width = 0, height = 0;  // of the largest picture, as stored
    bool rotated = false;                 // by a quarter
};

// `body` of the meta box, its version and flags in front.
ItemIndex readItemIndex(Bytes body);

}  // namespace dreskel::isobmff
