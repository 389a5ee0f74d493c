// What the examiner tells of a candidate.
#pragma once

#include <vector>

#include "job/job.h"

namespace dreskel {

struct Examined {
    Candidate candidate;
    Measured measured;
    Preview preview;
    std::vector<ByteRange> places;  // as they were given, cut to the measured length
    std::vector<Piece> rebuilt;     // as they were given
};

}  // namespace dreskel
