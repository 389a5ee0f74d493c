// Where a user's own settings lie (XDG Base Directory Specification).
#pragma once

#include <string>

namespace dreskel {

// The path of Dreskel's file of this name in the user's configuration; it need not be there.
std::string configurationFile(const std::string& name);

}  // namespace dreskel
