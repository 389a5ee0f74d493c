// Times as files and directories tell them: ISO 8601, of the camera's clock unless a zone is recorded.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace dreskel {

// Seconds since 1970. `localClock`: a time without a zone is of this machine's zone, so that it reads here as
// the camera showed it; otherwise such times count as of one unknown zone, to be compared with one another.
// Nothing when it is no time.
std::optional<std::int64_t> secondsOf(const std::string& iso, bool localClock);

}  // namespace dreskel
