// The bytes that something was given the last time, and how many of them come again.
#pragma once

#include <algorithm>
#include <cstring>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

class LastBytes {
  public:
    std::size_t size() const { return bytes_.size(); }
    // How many bytes begin like those of the last time; these are kept instead.
    std::size_t replace(Bytes with) {
        constexpr std::size_t kAtOnce = 4096;  // memcmp is many times faster, but does not say where
        const auto common = std::min(bytes_.size(), with.size());
        std::size_t same = 0;
        while (same + kAtOnce <= common &&
               std::memcmp(bytes_.data() + same, with.data() + same, kAtOnce) == 0)
            same += kAtOnce;
        while (same < common && bytes_[same] == with[same]) ++same;
        bytes_.resize(with.size());
        std::copy(with.begin() + static_cast<std::ptrdiff_t>(same), with.end(),
                  bytes_.begin() + static_cast<std::ptrdiff_t>(same));
        return same;
    }

  private:
    std::vector<std::uint8_t> bytes_;
};

}  // namespace dreskel
