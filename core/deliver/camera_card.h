// A layout that a camera may show again: the directory structure of DCF (JEITA CP-3461B, 3.2): a DCIM folder,
// numbered folders in it, eight-character names that end in a number, and the same number for what belongs
// together.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "job/finding.h"

namespace dreskel {

// Where each file goes, by its id: "DCIM/100SAVED/SAVE0001.JPG". Numbered without a gap in the order in which
// they were taken; what is not dated comes behind, in the order of the card.
std::map<std::int64_t, std::string> cameraPaths(const std::vector<Finding>& files);

// Fault::DestinationRefused unless the folder is empty, as a newly formatted card is.
Status checkEmpty(const std::string& destination);

// What cameras commonly refuse to show of these files, in sentences; empty when nothing stands out.
std::vector<std::string> cameraDoubts(const std::vector<Finding>& files);

}  // namespace dreskel
