// Files chosen by the numbers on contact pages, as a client says them over the telephone: "14, 27-30, p3".
#pragma once

#include <cstdint>
#include <set>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace dreskel {

// `known`: the numbers of all files, of which a span takes those that there are. `listed`: of those on the
// pages, in their order. "p3" is the whole of page 3, "p3-5" are three pages. Numbers are divided by commas,
// semicolons or spaces. Fault::Usage names what is no number.
Result<std::set<std::int64_t>> numbersIn(std::string_view text, const std::vector<std::int64_t>& known,
                                         const std::vector<std::int64_t>& listed);

}  // namespace dreskel
