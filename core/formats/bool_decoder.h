// The arithmetic decoder of VP8 (RFC 6386, section 7) and VP9 (VP9 Bitstream & Decoding Process
// Specification, 9.2).
#pragma once

#include <bit>
#include <cstdint>

#include "base/bytes.h"

namespace dreskel {

class BoolDecoder {
  public:
    explicit BoolDecoder(Bytes bytes) : bytes_(bytes) { fill(); }

    bool bit(std::uint32_t chance) {
        const std::uint32_t split = 1 + (((range_ - 1) * chance) >> 8);
        const auto bigSplit = std::uint64_t{split} << 56;
        const bool one = value_ >= bigSplit;
        if (one) {
            range_ -= split;
            value_ -= bigSplit;
        } else {
            range_ = split;
        }
        const int shift = std::countl_zero(range_) - 24;
        range_ <<= shift;
        value_ <<= shift;
        left_ -= shift;
        if (left_ < 8) fill();
        return one;
    }
    std::uint32_t number(int bits) {
        std::uint32_t all = 0;
        while (bits-- > 0) all = all << 1 | (bit(128) ? 1U : 0U);
        return all;
    }
    bool flag() { return bit(128); }

    // More was asked for than there is.
    bool overrun() const { return needed() > bytes_.size() + kMostLookAhead; }
    // Whether the bytes end here, but for what encoders write behind the last bit.
    bool endsHere() const { return !overrun() && bytes_.size() <= needed() + kMostPadding; }

  private:
    static constexpr std::uint64_t kMostPadding = 5, kMostLookAhead = 2;

    // Bytes that were needed so far, behind the end of the view too, where zeros are read.
    std::uint64_t needed() const { return at_ - static_cast<std::uint64_t>((left_ - 8) / 8); }
    void fill() {
        while (left_ <= 56) {
            const std::uint64_t next = at_ < bytes_.size() ? bytes_[static_cast<std::size_t>(at_)] : 0;
            value_ |= next << (56 - left_);
            ++at_;
            left_ += 8;
        }
    }

    Bytes bytes_;
    std::uint64_t at_ = 0;
    std::uint64_t value_ = 0;  // the bits that are next, from the top
    int left_ = 0;             // how many of them there are
    std::uint32_t range_ = 255;
};

}  // namespace dreskel
