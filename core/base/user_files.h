// Where a user's own settings lie (XDG Base Directory Specification).
#pragma once

#include <string>

#include "base/result.h"

namespace dreskel {

// The path of Dreskel's file of this name in the user's configuration; it need not be there.
std::string configurationFile(const std::string& name);

// Written beside it first, so that it is either as it was or as it should be. `what` begins the sentence of
// an error: "The formats". Makes the folder.
Status replaceUserFile(const std::string& path, const std::string& text, const std::string& what);

}  // namespace dreskel
