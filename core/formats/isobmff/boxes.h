// Boxes of the ISO base media file format (ISO/IEC 14496-12, 4.2) and of QuickTime files.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "base/bytes.h"

namespace dreskel::isobmff {

constexpr std::uint32_t fourCc(const char (&text)[5]) {
    return static_cast<std::uint32_t>(static_cast<unsigned char>(text[0])) << 24 |
           static_cast<std::uint32_t>(static_cast<unsigned char>(text[1])) << 16 |
           static_cast<std::uint32_t>(static_cast<unsigned char>(text[2])) << 8 |
           static_cast<std::uint32_t>(static_cast<unsigned char>(text[3]));
}

struct BoxHeader {
    std::uint32_t type = 0;
    std::uint32_t headerSize = 8;  // bytes
    std::uint64_t size = 0;        // bytes, header included; 0: to the end of the file
};

// Nothing when `bytes` does not begin with a possible header.
std::optional<BoxHeader> readBoxHeader(Bytes bytes);

struct Box {
    std::uint32_t type = 0;
    Bytes body;
};

// Steps through the boxes inside a body; ends at the first one that does not fit.
class BoxWalk {
  public:
    explicit BoxWalk(Bytes body) : rest_(body) {}
    std::optional<Box> next();

  private:
    Bytes rest_;
};

std::optional<Box> findBox(Bytes body, std::uint32_t type);

}  // namespace dreskel::isobmff
