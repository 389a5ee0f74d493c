// Image file directories as TIFF 6.0 (section 2) lays them out and Exif (CIPA DC-008) and multi-picture files
// (CIPA DC-007) use them. Bounded in every direction.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/bytes.h"

namespace dreskel::tiff {

struct Entry {
    std::uint16_t tag = 0, type = 0;
    std::uint32_t count = 0;
    Bytes value;  // in the block
    Endian endian = Endian::Big;

    std::string text() const;
    std::optional<std::uint32_t> number() const;
};

class Directory {
  public:
    const Entry* find(std::uint16_t tag) const;
    std::size_t size() const { return entries_.size(); }
    // Where the next directory begins; 0 when there is none.
    std::uint32_t next() const { return next_; }

  private:
    friend class Block;
    std::vector<Entry> entries_;
    std::uint32_t next_ = 0;
};

// A block that begins with "II*\0" or "MM\0*". Entries refer to the bytes given, which must outlive them.
class Block {
  public:
    static std::optional<Block> open(Bytes bytes);
    std::uint32_t first() const { return first_; }
    Endian endian() const { return endian_; }
    std::optional<Directory> directory(std::uint32_t offset) const;

  private:
    Bytes bytes_;
    Endian endian_ = Endian::Big;
    std::uint32_t first_ = 0;
};

}  // namespace dreskel::tiff
