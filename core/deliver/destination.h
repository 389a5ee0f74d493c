// Whether files may be written to a place at all: decided before anything is written there.
#pragma once

#include <cstdint>
#include <string>

#include "base/result.h"
#include "source/source.h"

namespace dreskel {

struct Room {
    std::string existing;         // the nearest folder on the way to the destination that exists
    std::uint64_t freeBytes = 0;  // for this person: within their quota, where there is one
    std::uint64_t totalBytes = 0;
};

// The room at a destination, which need not exist yet.
Result<Room> roomAt(const std::string& destination);

// Fault::DestinationRefused when the destination lies on the source itself (its disk, a partition of it, a
// mount of its image; through links and bind mounts), cannot be written to, or has not `bytes` free;
// Fault::SourceUnusable when the source is not there.
Status checkDestination(const Source& source, const std::string& destination, std::uint64_t bytes);

}  // namespace dreskel
