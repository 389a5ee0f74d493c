#include "job/rows.h"

#include <algorithm>

namespace dreskel {

Rows rowsThere(const Finding& finding) {
    const bool progressive = finding.description.codec.find("progressive") != std::string::npos;
    if (finding.kind != Kind::Photo || finding.condition == Condition::Whole || progressive) return {};
    const auto& map = finding.decodedMap;
    const auto first = std::find_if(map.begin(), map.end(), [](std::uint8_t share) { return share > 0; });
    if (first == map.begin() || first == map.end()) return {0, std::clamp(finding.decoded, 0.0, 1.0)};
    // Of the stretch that it begins in, the lower part.
    const auto size = static_cast<double>(map.size());
    const auto last = std::find_if(map.rbegin(), map.rend(), [](std::uint8_t share) { return share > 0; });
    return {(static_cast<double>(first - map.begin()) + 1 - *first / 255.0) / size,
            static_cast<double>(map.rend() - last) / size};
}

}  // namespace dreskel
