// Pictures whose samples are stored as they are, row by row: whether the rows go on over the border of two
// clusters. What stands behind it is compared with the rows above, which lie before it; noise and fine
// texture are left out by comparing sums over a few samples, too.
#pragma once

#include "formats/plain_samples.h"

namespace dreskel {

struct Raster {
    // How samples lie in bytes: one a byte, two bytes each, packed from the highest bit on, or as Sony's
    // sixteen in sixteen bytes (area_check.cpp).
    enum class Packing { OneByte, LittleWords, BigWords, Tens, Twelves, Fourteens, Sixteens };
    ByteRange range;             // of the rows in the file
    std::uint64_t rowBytes = 0;  // from one row to the next
    unsigned alike = 1;          // rows from one to the next of the same colours: 2 on a sensor
    unsigned besides = 1;        // the same along a row, in samples
    Packing packing = Packing::OneByte;
};

// Null for rows that are too short, or too long, to tell, or that do not hold whole units.
std::shared_ptr<const PlainSamples> samplesOf(const Raster& raster, std::uint64_t fileLength);

}  // namespace dreskel
