// Changing some bytes of a file that is told by its pieces.
#pragma once

#include <string>
#include <vector>

#include "base/words.h"

namespace dreskel::rebuild {

// The pieces with these bytes in place of those at `at`; they must lie inside the file.
void replaceBytes(std::vector<Piece>& pieces, std::uint64_t at, std::vector<std::uint8_t> bytes,
                  const std::string& why);

// Only the first `length` bytes of the file.
void cutAt(std::vector<Piece>& pieces, std::uint64_t length);

}  // namespace dreskel::rebuild
