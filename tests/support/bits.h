// Writes bits, from the high end of each byte on: what the tests' own encoders have in common.
#pragma once

#include <cstdint>

#include "tests/support/support.h"

namespace dreskel::test {

class BitWriter {
  public:
    // The lowest `count` bits of a value, 0 to 64.
    void put(std::uint64_t value, int count) {
        for (int i = count - 1; i >= 0; --i) {
            if (bits_ % 8 == 0) bytes_.push_back(0);
            bytes_.back() = static_cast<std::uint8_t>(bytes_.back() | (value >> i & 1) << (7 - bits_ % 8));
            ++bits_;
        }
    }
    // An Exp-Golomb code (ITU-T H.264, 9.1).
    void golomb(std::uint32_t value) {
        int length = 0;
        while ((std::uint64_t{value} + 1) >> (length + 1) != 0) ++length;
        put(0, length);
        put(std::uint64_t{value} + 1, length + 1);
    }
    std::size_t bits() const { return bits_; }
    // The last byte is filled up with zeros.
    const Buffer& bytes() const { return bytes_; }

  private:
    Buffer bytes_;
    std::size_t bits_ = 0;
};

}  // namespace dreskel::test
