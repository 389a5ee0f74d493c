// What is read: a card (block device) or an image of one. Read-only, always: nothing in this interface
// can write, and every implementation opens with O_RDONLY.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "base/bytes.h"
#include "base/result.h"

namespace dreskel {

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
};

// Opens a block device or a file that holds a raw image. Fault::SourceUnusable when it cannot be opened,
// is neither of the two, or is empty.
Result<std::shared_ptr<Source>> openSource(const std::string& path);

// A source over a descriptor that another process opened; takes a duplicate of it.
Result<std::shared_ptr<Source>> sourceFromDescriptor(int descriptor, const std::string& name);

}  // namespace dreskel
