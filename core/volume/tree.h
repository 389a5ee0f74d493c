// The folders and files of a volume that can be reached from its root, present and deleted.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "volume/allocation.h"
#include "volume/directory.h"
#include "volume/survey.h"

namespace dreskel {

struct TreeFile {
    DirectoryEntry entry;
    std::string folder;         // "DCIM/100MILLS"; empty in the root
    bool inLostFolder = false;  // the folder itself is deleted
    std::uint64_t entryAt = 0;  // of the entry on the source
};

struct Tree {
    std::vector<TreeFile> files;     // without folders
    std::size_t present = 0;         // files
    std::size_t deleted = 0;         // files, in present and deleted folders
    std::vector<ByteRange> folders;  // clusters that hold folders, on the source
    std::string label;
    bool complete = true;  // false when a limit or `goOn` ended it, or a folder could not be read
};

struct TreeLimits {
    std::size_t files = 2000000;
    std::size_t folders = 100000;
    int depth = 32;
    std::uint64_t folderBytes = 64ULL << 20;  // of one folder
};

// Walks from the root; each folder once. `goOn` is asked between folders. `allocation` must be of the same
// source and volume, and learns where exFAT's bitmap lies.
Tree readTree(const Source& source, const VolumeSeen& volume, Allocation& allocation,
              const TreeLimits& limits, const std::function<bool()>& goOn);

}  // namespace dreskel
