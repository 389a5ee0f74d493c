#include "scan/surface.h"

#include <algorithm>
#include <utility>

namespace dreskel {

bool isBlank(Bytes sector) {
    if (sector.empty() || (sector[0] != 0x00 && sector[0] != 0xff)) return false;
    return std::memcmp(sector.data(), sector.data() + 1, sector.size() - 1) == 0;
}

Surface::Surface(std::uint64_t sourceSize, std::vector<std::uint8_t> known)
    : sourceSize_(sourceSize), cells_(std::move(known)) {
    cells_.resize(static_cast<std::size_t>((sourceSize + kSurfaceCell - 1) / kSurfaceCell), 0);
}

void Surface::noteBlank(std::uint64_t offset, std::uint64_t length) {
    if (blank_.end() == offset) {
        blank_.length += length;
        return;
    }
    if (blank_.length >= kLeastBlank) blanks_.push_back(blank_);
    blank_ = {offset, length};
}

std::vector<ByteRange> Surface::takeBlank() {
    if (blank_.length >= kLeastBlank) blanks_.push_back(std::exchange(blank_, {blank_.end(), 0}));
    return std::exchange(blanks_, {});
}

void Surface::look(std::uint64_t offset, Bytes bytes, std::uint32_t sectorSize) {
    while (!bytes.empty()) {
        const auto cell = offset / kSurfaceCell;
        const auto part = slice(bytes, 0, (cell + 1) * kSurfaceCell - offset);
        std::uint64_t blank = 0;
        for (std::size_t at = 0; at < part.size(); at += sectorSize) {
            const auto sector = slice(part, at, sectorSize);
            if (!isBlank(sector)) continue;
            blank += sector.size();
            noteBlank(offset + at, sector.size());
        }
        auto& share = cells_[static_cast<std::size_t>(cell)];
        const auto length = std::min(kSurfaceCell, sourceSize_ - cell * kSurfaceCell);
        share = static_cast<std::uint8_t>(std::min<std::uint64_t>(255, share + blank * 255 / length));
        offset += part.size();
        bytes = bytes.subspan(part.size());
    }
}

}  // namespace dreskel
