// The list of what was found, as the contract promises it.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "job/job.h"
#include "job/ledger.h"

namespace dreskel {

// Schema, source and scan; without the files.
nlohmann::ordered_json listingHead(const Job& job);
nlohmann::ordered_json ledgerJson(const Ledger& ledger);

nlohmann::ordered_json listing(const Job& job, bool embedded);

}  // namespace dreskel
