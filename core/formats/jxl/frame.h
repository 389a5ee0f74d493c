// A frame of a JPEG XL codestream (ISO/IEC 18181-1, annex F): its header, the lengths of its sections, and
// the beginning of the first of them, which tells a frame from bytes that only look like one.
#pragma once

#include <cstdint>
#include <optional>

#include "base/bytes.h"
#include "formats/jxl/headers.h"

namespace dreskel::jxl {

struct Frame {
    std::uint64_t headLength = 0;      // bytes of the header and of the table of lengths
    std::uint64_t sectionsLength = 0;  // bytes of what follows
    bool last = false;
    // Its entropy codes ended as only codes do.
    bool proven = false;
};

enum class Found { Frame, None, MoreBytesNeeded };

// `bytes` begin with the frame; `preview`: it is the preview of the file, not the picture.
Found readFrame(Bytes bytes, const Header& header, bool preview, Frame& into);

}  // namespace dreskel::jxl
