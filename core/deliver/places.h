// Where files could be saved to: the drives and network folders that are mounted, each with what its
// filesystem cannot hold.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "source/source.h"

namespace dreskel {

struct Place {
    std::string folder;      // where it is mounted
    std::string filesystem;  // as the trade calls it: "FAT32", "ext4", "network (CIFS)"
    std::uint64_t freeBytes = 0, totalBytes = 0;
    std::optional<std::uint64_t> largestFile;  // bytes, where there is a limit
    bool readOnly = false;
    std::string refused;  // why nothing can be saved there: the card itself, or read-only; otherwise empty
};

// The system's own and those in memory are left out, but for the one that holds the home folder. Does not
// wait for a network that does not answer longer than the system does.
std::vector<Place> placesFor(const Source& source);

// From the text of /proc/self/mountinfo; those that could be looked at at all.
struct Mount {
    std::string folder, type;
    bool readOnly = false;
};
std::vector<Mount> mountsIn(const std::string& text);

// The largest file that the filesystem at a path takes, where it has a limit that files reach.
std::optional<std::uint64_t> largestFileAt(const std::string& path);

}  // namespace dreskel
