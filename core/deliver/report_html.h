// A report as one page of HTML that stands alone: pictures inside, no scripts, nothing from elsewhere.
#pragma once

#include <string>

#include "deliver/report.h"

namespace dreskel {

std::string htmlOf(const Job& job, const Report& report);

}  // namespace dreskel
