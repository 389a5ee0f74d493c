// The entries of one folder, present and deleted, as FAT (specification 1.03, sections 6 and 7) and exFAT
// (specification, sections 6 and 7) write them. Pure parsing: bytes in, entries out.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

struct DirectoryEntry {
    std::string name;  // UTF-8; the long one where there is one
    bool folder = false;
    bool deleted = false;
    bool firstLetterLost = false;  // a deleted FAT entry without a long name: "?" stands for it
    bool contiguous = false;       // exFAT: in one stretch, the table says nothing of it
    bool checked = false;          // its checksum is right (exFAT; FAT: that of the long name)
    std::uint32_t firstCluster = 0;
    bool highHalfZeroed = false;    // FAT32, deleted: the upper half of the first cluster may be lost
    std::uint64_t size = 0;         // bytes
    std::string modified, created;  // ISO 8601, without a zone where none was recorded; may be empty
    std::uint64_t at = 0;           // of the entry, bytes from the start of the folder
};

enum class DirectoryKind { Fat, ExFat };

struct DirectoryContent {
    std::vector<DirectoryEntry> entries;
    std::string label;                // of the volume, in a root folder
    std::uint32_t bitmapCluster = 0;  // exFAT's allocation bitmap, in its root folder
    std::uint64_t bitmapLength = 0;
    // FAT: what "." and ".." say; 0 when they are not there.
    std::uint32_t own = 0, parent = 0;
    bool hasDots = false;
    bool ended = false;  // the mark behind the last entry was met
};

// Deleted entries that make no sense are left out, and so is what follows the end mark.
DirectoryContent readDirectory(Bytes bytes, DirectoryKind kind);

}  // namespace dreskel
