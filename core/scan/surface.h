// What each MiB of the card is like, as far as the pass saw it: the share of its sectors that are blank.
#pragma once

#include <cstdint>
#include <vector>

#include "base/bytes.h"
#include "base/range.h"

namespace dreskel {

constexpr std::uint64_t kSurfaceCell = 1U << 20;  // bytes
constexpr std::uint64_t kLeastBlank = 16U << 10;  // bytes

// A sector that holds one and the same byte throughout, zero or all ones.
bool isBlank(Bytes sector);

class Surface {
  public:
    Surface(std::uint64_t sourceSize, std::vector<std::uint8_t> known);

    // `bytes` begins at `offset` of the source, at a sector.
    void look(std::uint64_t offset, Bytes bytes, std::uint32_t sectorSize);
    // Shares of blank sectors, 0 to 255; of the last cell as much as the source has of it.
    const std::vector<std::uint8_t>& cells() const { return cells_; }

    // Blank stretches of at least kLeastBlank that were seen since the last call.
    std::vector<ByteRange> takeBlank();

  private:
    void noteBlank(std::uint64_t offset, std::uint64_t length);

    ByteRange blank_;  // the stretch that may still grow
    std::vector<ByteRange> blanks_;
    std::uint64_t sourceSize_;
    std::vector<std::uint8_t> cells_;
};

}  // namespace dreskel
