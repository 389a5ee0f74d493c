// Boot sectors of the filesystems that cards carry: FAT12/16/32 (Microsoft FAT specification 1.03) and exFAT
// (Microsoft exFAT specification, section 3). Others are named by their signature only.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/bytes.h"

namespace dreskel {

struct BootSector {
    std::string kind;               // "FAT12", "FAT16", "FAT32", "exFAT"; others by name only
    std::uint64_t size = 0;         // bytes of the volume
    std::uint32_t sectorSize = 0;   // bytes
    std::uint32_t clusterSize = 0;  // bytes; 0 where it is not known
    std::uint64_t dataStart = 0;    // bytes from the start of the volume to its first cluster
    std::uint32_t clusters = 0;
    std::uint64_t tableStart = 0;   // bytes from the start of the volume to its first allocation table
    std::uint64_t tableLength = 0;  // bytes of one allocation table
    std::uint64_t rootStart = 0;    // FAT12 and FAT16: bytes from the start of the volume to the root folder
    std::uint64_t rootLength = 0;   // bytes; 0 where the root folder is a chain of clusters
    std::uint32_t rootCluster = 0;  // where it is one
    std::uint64_t hiddenBytes = 0;  // where the volume believes to begin on its device
    std::uint32_t serial = 0;
    std::string label;
};

// Nothing when the sector is not a sound boot sector.
std::optional<BootSector> readBootSector(Bytes sector);

}  // namespace dreskel
