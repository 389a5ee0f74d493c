// What is read: a card (block device) or an image of one. Read-only, always: nothing in this interface
// can write, and every implementation opens with O_RDONLY.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "base/bytes.h"
#include "base/result.h"

namespace dreskel {

class CopyMap;

struct ReadOutcome {
    std::size_t count = 0;  // bytes that were read, from the start of the buffer
    int error = 0;  // errno of what stopped the read before the buffer was full; 0 at the end of the source
};

// Reads may come from several threads at once.
class Source {
  public:
    virtual ~Source() = default;
    virtual std::uint64_t size() const = 0;        // bytes
    virtual std::uint32_t sectorSize() const = 0;  // bytes, the smallest unit that can fail on its own
    virtual const std::string& path() const = 0;
    // A descriptor opened O_RDONLY that a worker process may read the same bytes from. Stays owned here.
    virtual int descriptor() const = 0;
    virtual ReadOutcome read(std::uint64_t offset, MutableBytes into) const = 0;
    // Of a copy: what was and what was not read from its card. Null for everything else.
    virtual std::shared_ptr<const CopyMap> map() const { return nullptr; }
    // False of one that stands for what was searched once and is gone: nothing of it can be searched or
    // saved.
    virtual bool isThere() const { return true; }
    // From now on read past the system's cache where the device allows: errors are then exact to the sector,
    // and what is asked for again is asked of the card. Other users of the same descriptor are affected.
    virtual void avoidCache() {}
};

// Opens a block device, a file that holds a raw image, or the description of a simulated reader. An image
// with a map beside it is a copy: what the map does not call read fails. Fault::SourceUnusable when it cannot
// be opened, is none of these, or is empty.
Result<std::shared_ptr<Source>> openSource(const std::string& path);

// The same with the map named.
Result<std::shared_ptr<Source>> openCopy(const std::string& image, const std::string& map);

// A file that holds a raw image and nothing else: no map, no description.
Result<std::shared_ptr<Source>> openImage(const std::string& path, std::uint32_t sectorSize);

// A source over a descriptor that another process opened; takes a duplicate of it.
Result<std::shared_ptr<Source>> sourceFromDescriptor(int descriptor, const std::string& name);

}  // namespace dreskel
