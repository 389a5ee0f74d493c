// The file that formats of the technician's own are kept in and shared by: open JSON, described in
// docs/own-formats.md.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "formats/own/own_format.h"

namespace dreskel::own {

// From the text of a file; `path` is for the error, which says the line and the reason. One bad definition
// refuses the whole file.
Result<std::vector<Definition>> definitionsFrom(const std::string& text, const std::string& path);
std::string textOf(const std::vector<Definition>& definitions);

// A file that is not there holds none.
Result<std::vector<Definition>> readDefinitions(const std::string& path);
// Replaces the file in one step; its folder is made when it is not there.
Status writeDefinitions(const std::string& path, const std::vector<Definition>& definitions);

// Where this user's are kept: dreskel/formats.json in the XDG configuration folder.
std::string usualPath();

}  // namespace dreskel::own
