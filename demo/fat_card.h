// Writes a FAT32 volume (Microsoft FAT specification 1.03) over a whole image, as a camera would: boot sector
// and its backup, two FATs, folders of 8.3 names. Enough for a demo card; it cannot read or delete.
#pragma once

#include <ctime>
#include <map>
#include <string>
#include <vector>

#include "base/bytes.h"
#include "base/range.h"
#include "base/result.h"
#include "base/unique_fd.h"

namespace dreskel::demo {

class FatCard {
  public:
    static constexpr std::uint32_t kSector = 512;
    static constexpr std::uint32_t kCluster = 4096;

    static Result<FatCard> create(const std::string& path, std::uint64_t size);

    // Writes a new, empty volume: FATs and root folder are cleared, the data area stays as it is.
    Status format(std::uint32_t serial, const std::string& label);

    // Stores a file in DCIM/100MILLS or the like. With `runs`, in clusters, the file is laid out in that many
    // stretches with gaps of `gap` clusters, which later files may use. Gives the ranges of bytes on the
    // card.
    Result<std::vector<ByteRange>> add(const std::string& folder, const std::string& name, Bytes bytes,
                                       std::time_t when, int runs = 1, std::uint32_t gap = 0);
    // Leaves clusters free at the front.
    void skipClusters(std::uint32_t count) { next_ += count; }
    // Writes FATs and folders.
    Status finish();

  private:
    struct Entry {
        std::string name;  // 11 characters, padded
        bool folder = false;
        std::uint32_t cluster = 0;
        std::uint32_t size = 0;
        std::time_t when = 0;
    };
    struct Folder {
        std::uint32_t cluster = 0, parent = 0;
        std::vector<Entry> entries;
    };

    FatCard(UniqueFd fd, std::uint64_t size) : fd_(std::move(fd)), size_(size) {}
    std::uint32_t folderFor(const std::string& path, std::time_t when);
    std::uint32_t takeCluster();
    std::uint64_t offsetOf(std::uint32_t cluster) const {
        return dataStart_ + std::uint64_t{cluster - 2} * kCluster;
    }
    Status put(std::uint64_t offset, Bytes bytes);

    UniqueFd fd_;
    std::uint64_t size_ = 0;
    std::uint64_t dataStart_ = 0;
    std::uint32_t fatSectors_ = 0;
    std::uint32_t clusters_ = 0;
    std::vector<std::uint32_t> fat_;
    std::uint32_t next_ = 3;
    std::map<std::string, std::uint32_t> paths_;  // folder path -> cluster
    std::map<std::uint32_t, Folder> folders_;
};

}  // namespace dreskel::demo
