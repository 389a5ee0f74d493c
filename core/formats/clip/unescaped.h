// The bytes of a NAL unit behind its header, without emulation prevention (ITU-T H.264, 7.3.1; H.265,
// 7.3.1.1), and where in the unit each of them stands.
#pragma once

#include <algorithm>
#include <cstring>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

class Unescaped {
  public:
    Unescaped(Bytes unit, std::size_t header) : header_(header), size_(unit.size()) {
        bytes_.reserve(unit.size());
        auto from = std::min(header, unit.size());
        while (from < unit.size()) {
            const auto zeros = escapeFrom(unit, from);
            const auto end = zeros < unit.size() ? zeros + 2 : unit.size();
            bytes_.insert(bytes_.end(), unit.data() + from, unit.data() + end);
            if (zeros < unit.size()) leftOut_.push_back(bytes_.size());
            from = end + 1;
        }
    }

    Bytes bytes() const { return bytes_; }
    // Without the zeros at its end (cabac_zero_words).
    void trim() {
        while (!bytes_.empty() && bytes_.back() == 0) bytes_.pop_back();
    }
    // Where in the unit a byte of these stands; the unit's size for what is behind them.
    std::size_t place(std::size_t at) const {
        const auto before = std::upper_bound(leftOut_.begin(), leftOut_.end(), at) - leftOut_.begin();
        return std::min(size_, header_ + at + static_cast<std::size_t>(before));
    }
    // How many of these bytes come from what is in front of a place in the unit.
    std::size_t before(std::size_t place) const {
        std::size_t low = 0;
        std::size_t high = bytes_.size();
        while (low < high) {
            const auto middle = (low + high) / 2;
            if (this->place(middle) < place) {
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        return low;
    }

  private:
    // Where two zeros and 03 stand next, of which the last is left out wherever it stands; the unit's size
    // when they do not. The zeros in front are counted anew behind it. Looking for zeros is much faster than
    // for all three.
    static std::size_t escapeFrom(Bytes unit, std::size_t from) {
        for (auto at = from; at + 2 < unit.size(); ++at) {
            const auto* zero = std::memchr(unit.data() + at, 0, unit.size() - 2 - at);
            if (zero == nullptr) break;
            at = static_cast<std::size_t>(static_cast<const std::uint8_t*>(zero) - unit.data());
            if (unit[at + 1] == 0 && unit[at + 2] == 3) return at;
        }
        return unit.size();
    }

    std::vector<std::uint8_t> bytes_;
    std::vector<std::size_t> leftOut_;  // the bytes behind which something was
    std::size_t header_, size_;
};

}  // namespace dreskel
