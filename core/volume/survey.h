// What can be said of a source from a few reads: its partition table and the filesystems on it, live or what
// is left of them.
#pragma once

#include <functional>
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
    std::vector<std::string> remains;  // of volumes whose boot sectors are all gone, in words
};

Survey surveySource(const Source& source);

// For a source on which nothing was found where it should be: looks through its first 32 MiB for boot
// sectors, allocation tables and folders. `goOn` is asked between reads.
void searchStart(const Source& source, Survey& survey, const std::function<bool()>& goOn);

}  // namespace dreskel
