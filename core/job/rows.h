// Which rows of a photo are there, from its top, as shares of its height.
#pragma once

#include "job/finding.h"

namespace dreskel {

struct Rows {
    double from = 0, to = 1;
};

// A photo that lost its beginning has its rows at the foot, one that breaks off at the top; of a progressive
// one all are there, only coarser.
Rows rowsThere(const Finding& finding);

}  // namespace dreskel
