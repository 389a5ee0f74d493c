// A report on paper: PDF, A4, the same words and pictures as the HTML.
#pragma once

#include <string>

#include "base/result.h"
#include "deliver/report.h"

namespace dreskel {

// The bytes of the file. Fails where the libraries that set the type do.
Result<std::string> pdfOf(const Job& job, const Report& report);

}  // namespace dreskel
