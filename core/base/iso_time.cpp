#include "base/iso_time.h"

#include <cstdio>
#include <ctime>

namespace dreskel {

std::optional<std::int64_t> secondsOf(const std::string& iso, bool localClock) {
    std::tm parts{};
    int read = 0;
    if (std::sscanf(iso.c_str(), "%4d-%2d-%2dT%2d:%2d:%2d%n", &parts.tm_year, &parts.tm_mon, &parts.tm_mday,
                    &parts.tm_hour, &parts.tm_min, &parts.tm_sec, &read) != 6)
        return std::nullopt;
    const bool possible = parts.tm_year >= 1970 && parts.tm_mon >= 1 && parts.tm_mon <= 12 &&
                          parts.tm_mday >= 1 && parts.tm_mday <= 31 && parts.tm_hour >= 0 &&
                          parts.tm_hour < 24 && parts.tm_min >= 0 && parts.tm_min < 60 && parts.tm_sec >= 0 &&
                          parts.tm_sec <= 60;
    if (!possible) return std::nullopt;
    parts.tm_year -= 1900;
    parts.tm_mon -= 1;
    auto rest = iso.substr(static_cast<std::size_t>(read));
    if (!rest.empty() && rest[0] == '.') {
        const auto end = rest.find_first_not_of("0123456789", 1);
        rest = end == std::string::npos ? std::string() : rest.substr(end);
    }
    if (rest.empty() && localClock) {
        parts.tm_isdst = -1;
        const auto seconds = std::mktime(&parts);
        return seconds == -1 ? std::nullopt : std::optional<std::int64_t>(seconds);
    }
    int hours = 0;
    int minutes = 0;
    char sign = '+';
    if (!rest.empty() && rest != "Z" && std::sscanf(rest.c_str(), "%c%2d:%2d", &sign, &hours, &minutes) != 3)
        return std::nullopt;
    const auto ahead = (sign == '-' ? -1 : 1) * (std::int64_t{hours} * 3600 + std::int64_t{minutes} * 60);
    return timegm(&parts) - ahead;
}

}  // namespace dreskel
