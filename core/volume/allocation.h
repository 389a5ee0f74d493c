// Which clusters of a FAT or exFAT volume are in use, and which follows which: the allocation table (FAT
// specification 1.03, section 4; exFAT specification, section 4) and exFAT's bitmap (section 7.1).
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <vector>

#include "base/range.h"
#include "source/source.h"
#include "volume/boot_sector.h"

namespace dreskel {

// Reads pages of the table as they are asked for and keeps a bounded number of them. Not thread-safe.
class Allocation {
  public:
    // `offset`: of the volume on the source, bytes.
    Allocation(const Source& source, const BootSector& facts, std::uint64_t offset);

    const BootSector& facts() const { return facts_; }
    bool valid(std::uint32_t cluster) const { return cluster >= 2 && cluster - 2 < facts_.clusters; }
    // On the source.
    ByteRange place(std::uint32_t cluster) const;
    // The cluster that lies at a place on the source; nothing outside the data area.
    std::optional<std::uint32_t> clusterAt(std::uint64_t offset) const;

    enum class Link { Free, Next, End, Bad, Unknown };
    struct Entry {
        Link link = Link::Unknown;
        std::uint32_t next = 0;
    };
    Entry entry(std::uint32_t cluster) const;

    // Where exFAT's bitmap lies; without it the table is asked, which says nothing of contiguous files.
    void setBitmap(std::vector<ByteRange> ranges) { bitmap_ = std::move(ranges); }
    // Nothing when it could not be read.
    std::optional<bool> isFree(std::uint32_t cluster) const;

    // The clusters of a file from `first`, joined into ranges on the source, in order; at most `bytes` of
    // them. `complete` is false when the chain ends early, runs in a circle or into a free cluster.
    struct Chain {
        std::vector<ByteRange> ranges;
        bool complete = false;
    };
    Chain chain(std::uint32_t first, std::uint64_t bytes) const;
    // The same for a file that the directory says lies in one stretch.
    Chain run(std::uint32_t first, std::uint64_t bytes) const;

  private:
    std::optional<std::uint8_t> byteAt(std::uint64_t offset) const;  // on the source

    const Source& source_;
    BootSector facts_;
    std::uint64_t offset_;
    std::vector<ByteRange> bitmap_;
    mutable std::map<std::uint64_t, std::vector<std::uint8_t>> pages_;
    mutable std::map<std::uint64_t, bool> bad_;
};

}  // namespace dreskel
