// Writing the bytes of a long file past the cache: while one portion is read two others are written, so that
// the drive always has something to do, what was written does not push the card out of the memory, and
// progress is what has reached the drive.
#pragma once

#include <cstdint>
#include <functional>

#include "base/control.h"
#include "source/card_view.h"

namespace dreskel {

inline constexpr std::uint64_t kLongFile = 64ULL << 20;  // bytes; shorter ones are better off in the cache

enum class WriteEnd {
    All,
    Stopped,
    SourceEnded,
    Failed,  // errno says why
};

// `fd`: of a new file. Room for all of it is taken at once where the filesystem can do so; where it cannot
// write past its cache it is written through it. `took` is given each portion in its order, once, while it is
// written.
WriteEnd writeLongFile(int fd, PieceReader& bytes, Control& control, const std::function<void(Bytes)>& took);

}  // namespace dreskel
