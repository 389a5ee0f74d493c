// The stretches of a card that nothing explains, as files of their own: for another day, and another program.
#pragma once

#include <vector>

#include "job/job.h"

namespace dreskel {

// To be saved like files. Their numbers are above those of all files that were found. Stretches below 4 KiB
// are what files leave of their last clusters, and are left out.
std::vector<Finding> rawPiecesOf(const Job& job);

}  // namespace dreskel
