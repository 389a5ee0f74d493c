// Bits from the low end of each byte, and prefix codes over them, as lossless WebP (WebP Lossless Bitstream
// Specification, section 6) and JPEG XL (ISO/IEC 18181-1, annex C) have them.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

// Bits from the low end of each byte. Behind the end come zeros, and ok() is false.
class LowBits {
  public:
    explicit LowBits(Bytes bytes) : bytes_(bytes) {}
    bool ok() const { return used_ <= bytes_.size() * 8; }
    std::uint64_t used() const { return used_; }
    std::uint64_t bytesUsed() const { return (used_ + 7) / 8; }
    // The next `kPeek` bits.
    static constexpr int kPeek = 25;
    std::uint32_t peek() {
        while (held_ < kPeek) {
            const std::uint64_t next = at_ < bytes_.size() ? bytes_[static_cast<std::size_t>(at_)] : 0;
            value_ |= next << held_;
            held_ += 8;
            ++at_;
        }
        return static_cast<std::uint32_t>(value_);
    }
    void skip(int bits) {
        value_ >>= bits;
        held_ -= bits;
        used_ += static_cast<std::uint64_t>(bits);
    }
    // At most kPeek.
    std::uint32_t number(int bits) {
        const auto found = peek() & ((1U << bits) - 1);
        skip(bits);
        return found;
    }
    bool flag() { return number(1) != 0; }

  private:
    Bytes bytes_;
    std::uint64_t at_ = 0, used_ = 0, value_ = 0;
    int held_ = 0;
};

class PrefixCode {
  public:
    static constexpr int kLongest = 15;
    // From the length of each symbol's code, 0 for none. Nothing when codes are missing or too many; a single
    // symbol takes no bits.
    static std::optional<PrefixCode> make(const std::vector<std::uint8_t>& lengths);

    std::uint32_t read(LowBits& bits) const {
        const auto next = bits.peek();
        auto entry = table_[next & ((1U << look_) - 1)];
        if (entry.further > 0) entry = table_[entry.symbol + (next >> look_ & ((1U << entry.further) - 1))];
        bits.skip(entry.length);
        return entry.symbol;
    }

  private:
    static constexpr int kMostLook = 8;
    struct Entry {
        std::uint8_t length = 0;   // bits of the code
        std::uint8_t further = 0;  // codes that are longer: so many bits more are looked at
        std::uint16_t symbol = 0;  // or where the entries for those begin
    };
    int look_ = 0;  // so many bits are looked at first
    std::vector<Entry> table_;
};

}  // namespace dreskel
