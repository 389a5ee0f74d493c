// A job that is done with, kept for the record: what was found, decided and delivered stays, what takes room
// goes.
#pragma once

#include <cstdint>
#include <string>

#include "job/job.h"

namespace dreskel {

struct Smaller {
    std::uint64_t before = 0, after = 0;  // bytes of the job's folder
    std::string copy;                     // the copy that was deleted with its map; empty when there is none
    std::uint64_t copyBytes = 0;          // that it took
};

// Forgets the small pictures and waveforms. `copyToo` deletes the copy of the card that this job made:
// nothing can be searched or saved from it afterwards, what was found can still be read. A source that is not
// a copy made by the job is never touched. The job must be open for writing.
Result<Smaller> makeSmall(Job& job, const std::string& folder, bool copyToo);

// What makeSmall would delete as the copy; empty when there is none.
std::string copyMadeBy(const Job& job);

}  // namespace dreskel
