// The one sequential pass: every byte of a span read once, in large aligned reads, and shown to a visitor.
// Reading and looking happen in two threads with a few buffers between them.
#pragma once

#include <functional>
#include <vector>

#include "base/control.h"
#include "base/range.h"
#include "source/source.h"

namespace dreskel {

class Pass {
  public:
    static constexpr std::size_t kPortion = 4U << 20;  // bytes a read

    // `offset` and the size are multiples of the sector size, but at the end of the source. `unreadable` lies
    // inside the portion; those bytes are zero.
    using Visit =
        std::function<void(std::uint64_t offset, Bytes bytes, const std::vector<ByteRange>& unreadable)>;

    // Blocks until the span is through or `control` stops it; true when all of it was read. `visit` runs in
    // the calling thread.
    static bool run(const Source& source, ByteRange span, Control& control, const Visit& visit);
};

}  // namespace dreskel
