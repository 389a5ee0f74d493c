// Files that belong to another: the text, the thumbnail, the small twin or the note that a camera writes
// beside a photo or a clip. Tied by name where a directory gives it, otherwise by time.
#pragma once

#include <map>

#include "job/finding.h"

namespace dreskel {

struct Belonging {
    std::int64_t to = 0;  // id of the file that it belongs to
    std::string why;
};

// By id of the sidecar. `files`: all findings; those that are not listed are left out.
std::map<std::int64_t, Belonging> belongings(const std::map<std::int64_t, Finding>& files);

}  // namespace dreskel
