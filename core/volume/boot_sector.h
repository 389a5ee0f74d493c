// Boot sectors of the filesystems that cards carry: FAT12/16/32 (Microsoft FAT specification 1.03) and exFAT
// (Microsoft exFAT specification, section 3). Others are named by their signature only.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/bytes.h"

namespace dreskel {

struct BootSector {
    std::string kind;               // "FAT12", "FAT16", "FAT32", "exFAT", "NTFS"
    std::uint64_t size = 0;         // bytes of the volume
    std::uint32_t sectorSize = 0;   // bytes
    std::uint32_t clusterSize = 0;  // bytes; 0 where it is not known
    std::uint64_t dataStart = 0;    // bytes from the start of the volume to its first cluster
    std::uint32_t clusters = 0;
    std::uint32_t serial = 0;
    std::string label;
};

// Nothing when the sector is not a sound boot sector.
std::optional<BootSector> readBootSector(Bytes sector);

}  // namespace dreskel
