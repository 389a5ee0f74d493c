#include "volume/boot_sector.h"

#include <algorithm>
#include <bit>

namespace dreskel {
namespace {

bool powerOfTwo(std::uint32_t value, std::uint32_t least, std::uint32_t most) {
    return std::has_single_bit(value) && value >= least && value <= most;
}

std::optional<BootSector> readExFat(Bytes sector) {
    ByteReader reader(sector, Endian::Little);
    reader.seek(64);
    const auto hidden = reader.u64();
    const auto sectors = reader.u64();
    const auto tableOffset = reader.u32();
    const auto tableSectors = reader.u32();
    const auto heapOffset = reader.u32();
    const auto clusters = reader.u32();
    const auto rootCluster = reader.u32();
    const auto serial = reader.u32();
    reader.skip(4);
    const unsigned sectorShift = reader.u8();
    const unsigned clusterShift = reader.u8();
    if (!reader.ok() || sectorShift < 9 || sectorShift > 12 || clusterShift > 25 - sectorShift)
        return std::nullopt;
    if (sectors == 0 || clusters == 0 || heapOffset == 0 || sectors > (1ULL << 50)) return std::nullopt;
    BootSector found;
    found.kind = "exFAT";
    found.sectorSize = 1U << sectorShift;
    found.clusterSize = found.sectorSize << clusterShift;
    found.size = sectors << sectorShift;
    found.dataStart = std::uint64_t{heapOffset} << sectorShift;
    found.tableStart = std::uint64_t{tableOffset} << sectorShift;
    found.tableLength = std::uint64_t{tableSectors} << sectorShift;
    found.rootCluster = rootCluster;
    found.hiddenBytes = hidden < (1ULL << 50) ? hidden << sectorShift : 0;
    found.clusters = std::min<std::uint32_t>(clusters, 0xfffffff5U);
    found.serial = serial;
    return found;
}

std::optional<BootSector> readFat(Bytes sector) {
    ByteReader reader(sector, Endian::Little);
    reader.seek(11);
    BootSector found;
    found.sectorSize = reader.u16();
    const std::uint32_t perCluster = reader.u8();
    const std::uint32_t reserved = reader.u16();
    const std::uint32_t copies = reader.u8();
    const std::uint32_t rootEntries = reader.u16();
    const std::uint32_t small = reader.u16();
    const auto media = reader.u8();
    const std::uint32_t fatSmall = reader.u16();
    reader.skip(4);
    const std::uint32_t hidden = reader.u32();
    const std::uint32_t large = reader.u32();
    const std::uint32_t fatLarge = reader.u32();
    const auto sectors = small != 0 ? small : large;
    const auto fatSectors = fatSmall != 0 ? fatSmall : fatLarge;
    if (!reader.ok() || !powerOfTwo(found.sectorSize, 512, 4096) || !powerOfTwo(perCluster, 1, 128)) {
        return std::nullopt;
    }
    if (reserved == 0 || copies == 0 || copies > 2 || sectors == 0 || fatSectors == 0 || media < 0xf0) {
        return std::nullopt;
    }
    const auto rootSectors = (rootEntries * 32 + found.sectorSize - 1) / found.sectorSize;
    const auto before = std::uint64_t{reserved} + std::uint64_t{copies} * fatSectors + rootSectors;
    if (before >= sectors) return std::nullopt;
    found.clusterSize = found.sectorSize * perCluster;
    found.clusters = static_cast<std::uint32_t>((sectors - before) / perCluster);
    found.size = std::uint64_t{sectors} * found.sectorSize;
    found.dataStart = before * found.sectorSize;
    found.tableStart = std::uint64_t{reserved} * found.sectorSize;
    found.tableLength = std::uint64_t{fatSectors} * found.sectorSize;
    found.hiddenBytes = std::uint64_t{hidden} * found.sectorSize;
    if (rootEntries > 0) {
        found.rootStart = found.dataStart - std::uint64_t{rootSectors} * found.sectorSize;
        found.rootLength = std::uint64_t{rootEntries} * 32;
    } else {
        reader.seek(44);
        found.rootCluster = reader.u32();
    }
    // The number of clusters decides, as the specification says; no other mark is to be believed.
    found.kind = found.clusters < 4085 ? "FAT12" : found.clusters < 65525 ? "FAT16" : "FAT32";
    reader.seek(fatSmall == 0 ? 67 : 39);
    found.serial = reader.u32();
    found.label = reader.text(11);
    if (found.label == "NO NAME") found.label.clear();
    return found;
}

}  // namespace

std::optional<BootSector> readBootSector(Bytes sector) {
    if (sector.size() < 512 || sector[510] != 0x55 || sector[511] != 0xaa) return std::nullopt;
    if (startsWith(sector.subspan(3), "EXFAT   ")) return readExFat(sector);
    if (startsWith(sector.subspan(3), "NTFS    ")) {
        ByteReader reader(sector, Endian::Little);
        reader.seek(11);
        BootSector found;
        found.kind = "NTFS";
        found.sectorSize = reader.u16();
        reader.seek(40);
        found.size = reader.u64() * found.sectorSize;
        return found;
    }
    return readFat(sector);
}

}  // namespace dreskel
