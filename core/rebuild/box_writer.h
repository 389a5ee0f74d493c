// Writing boxes of ISO/IEC 14496-12 (4.2): numbers are big-endian.
#pragma once

#include <cstdint>
#include <vector>

#include "base/bytes.h"

namespace dreskel::rebuild {

using BoxBytes = std::vector<std::uint8_t>;

inline void put(BoxBytes& into, std::uint64_t value, int bytes) {
    for (int i = bytes - 1; i >= 0; --i) into.push_back(static_cast<std::uint8_t>(value >> (8 * i)));
}

// Over what is there; what would lie beyond the end is left out.
inline void set(BoxBytes& in, std::size_t at, std::uint64_t value, int bytes) {
    for (int i = 0; i < bytes && at + static_cast<std::size_t>(i) < in.size(); ++i)
        in[at + static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(value >> (8 * (bytes - 1 - i)));
}

inline void putBox(BoxBytes& into, std::uint32_t type, Bytes body) {
    put(into, body.size() + 8, 4);
    put(into, type, 4);
    into.insert(into.end(), body.begin(), body.end());
}

}  // namespace dreskel::rebuild
