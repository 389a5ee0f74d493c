// The description of a simulated failing reader: a small JSON file that can be named wherever a source can.
// See docs/copies.md, "A reader that fails on purpose".
#pragma once

#include <optional>
#include <string>

#include "source/failing_source.h"

namespace dreskel {

// Nothing when the file is no such description. An error when it is one but cannot be used; `where` names the
// file and the entry. The image is opened relative to the description's folder.
std::optional<Result<std::shared_ptr<Source>>> openRecipe(const std::string& path);

}  // namespace dreskel
