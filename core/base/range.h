// Ranges of bytes and sets of them. Offsets and lengths are in bytes from the start of the source.
#pragma once

#include <cstdint>
#include <map>
#include <vector>

namespace dreskel {

struct ByteRange {
    std::uint64_t offset = 0;
    std::uint64_t length = 0;

    std::uint64_t end() const { return offset + length; }
    bool contains(std::uint64_t at) const { return at >= offset && at - offset < length; }
    bool covers(const ByteRange& other) const { return other.offset >= offset && other.end() <= end(); }
    bool overlaps(const ByteRange& other) const { return offset < other.end() && other.offset < end(); }
    bool operator==(const ByteRange&) const = default;
};

// Of a file that lies at these places, one after the other: how long it is, and its first `length` bytes.
std::uint64_t lengthOf(const std::vector<ByteRange>& places);
void cutTo(std::vector<ByteRange>& places, std::uint64_t length);

// A set of bytes kept as sorted, disjoint ranges that do not touch. Not thread-safe.
class RangeSet {
  public:
    void add(ByteRange range);
    void remove(ByteRange range);
    bool contains(std::uint64_t at) const;
    bool intersects(ByteRange range) const;
    bool covers(ByteRange range) const;
    std::uint64_t total() const;  // bytes in the set
    bool empty() const { return ends_.empty(); }

    // The parts of `range` that are in the set, or the parts that are not; in order.
    std::vector<ByteRange> within(ByteRange range) const;
    std::vector<ByteRange> gaps(ByteRange range) const;
    std::vector<ByteRange> ranges() const;

  private:
    std::map<std::uint64_t, std::uint64_t> ends_;  // start -> end
};

}  // namespace dreskel
