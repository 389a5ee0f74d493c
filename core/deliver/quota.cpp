#include "deliver/quota.h"

#include <unistd.h>

#include <algorithm>

namespace dreskel {

std::optional<std::uint64_t> leftOf(const dqblk& answer) {
    constexpr std::uint64_t kUnit = 1024;  // of limits; what is taken is told in bytes
    constexpr std::uint32_t kNeeded = QIF_BLIMITS | QIF_SPACE;
    if ((answer.dqb_valid & kNeeded) != kNeeded || answer.dqb_bhardlimit == 0) return std::nullopt;
    const auto limit =
        answer.dqb_bhardlimit > UINT64_MAX / kUnit ? UINT64_MAX : answer.dqb_bhardlimit * kUnit;
    return limit - std::min<std::uint64_t>(limit, answer.dqb_curspace);
}

std::optional<std::uint64_t> leftByQuota(const std::string& device) {
    if (::geteuid() == 0) return std::nullopt;
    std::optional<std::uint64_t> least;
    for (const auto& [kind, who] : {std::pair{USRQUOTA, static_cast<int>(::geteuid())},
                                    std::pair{GRPQUOTA, static_cast<int>(::getegid())}}) {
        dqblk answer{};
        if (::quotactl(QCMD(Q_GETQUOTA, kind), device.c_str(), who, reinterpret_cast<caddr_t>(&answer)) != 0)
            continue;
        if (const auto left = leftOf(answer)) least = std::min(least.value_or(UINT64_MAX), *left);
    }
    return least;
}

}  // namespace dreskel
