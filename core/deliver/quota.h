// How much a person may still write to a filesystem where an administrator has set limits (quotactl(2)).
#pragma once

#include <sys/quota.h>

#include <cstdint>
#include <optional>
#include <string>

namespace dreskel {

// Bytes up to the hard limit, as the kernel's answer has them; nothing where no limit is set.
std::optional<std::uint64_t> leftOf(const dqblk& answer);

// The least that the limits of this user and this group leave on the filesystem of a block device; nothing
// where there are none, where they are not kept, or for one who is not bound by them.
std::optional<std::uint64_t> leftByQuota(const std::string& device);

}  // namespace dreskel
