// Partition tables: MBR, and GPT (UEFI specification 2.10, section 5). Most cards have one MBR partition, or
// none.
#pragma once

#include <string>
#include <vector>

#include "base/range.h"
#include "source/source.h"

namespace dreskel {

struct Partition {
    ByteRange range;
    std::string type;  // "0x0c", or a GUID
};

struct PartitionTable {
    std::string kind;  // "none", "MBR", "GPT"
    std::vector<Partition> partitions;
};

PartitionTable readPartitionTable(const Source& source);

}  // namespace dreskel
