// What stands in the parts of a file that hold nothing: room left free in front of an index, filling up to a
// border. Nothing checks them, but they are mostly blank from end to end.
#pragma once

#include <optional>

#include "base/bytes.h"

namespace dreskel {

// Where, in the padding that begins at byte `from` of its file, something else begins or ends just at a
// border of 4096 bytes of the file, as a foreign cluster does: from one byte over and over to others, or
// back. Nothing where that is not so; notes that makers leave in it are blank from where they end.
std::optional<std::uint64_t> foreignInPadding(Bytes padding, std::uint64_t from);

}  // namespace dreskel
