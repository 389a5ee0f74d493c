// Findings as JSON: the contract's entries for `list --json` and the manifest, and the job's own record.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "job/finding.h"

namespace dreskel {

// An entry as docs/contract.md promises it.
nlohmann::ordered_json entryOf(const Finding& finding);

// Everything, for the job's database, and back.
std::string recordOf(const Finding& finding);
std::optional<Finding> findingFrom(const std::string& record);

}  // namespace dreskel
