// The files of a job as they are at one moment, shared by those that look through all of them; in order of
// their id.
#pragma once

#include <memory>
#include <vector>

#include "job/finding.h"

namespace dreskel {

using JobFiles = std::vector<std::shared_ptr<const Finding>>;
using JobFilesSeen = std::shared_ptr<const JobFiles>;

}  // namespace dreskel
