// What can be said of a source from a few reads: its partition table and the filesystems on it, live or what
// is left of them.
#pragma once

#include <string>
#include <vector>

#include "volume/boot_sector.h"
#include "volume/partition_table.h"

namespace dreskel {

struct VolumeSeen {
    enum class State { Live, Earlier, Damaged };
    BootSector facts;
    std::uint64_t offset = 0;  // bytes on the source
    State state = State::Live;
    std::string why;  // how it is known, when it is not live
};
std::string_view toWord(VolumeSeen::State state);

struct Survey {
    PartitionTable table;
    std::vector<VolumeSeen> volumes;
};

Survey surveySource(const Source& source);

}  // namespace dreskel
