// Bits of entropy-coded JPEG data (ITU-T T.81, F.2.2.5): removes byte stuffing, stops at a marker, and tells
// the end of the window from the end of the data.
#pragma once

#include <cstdint>

#include "base/bytes.h"

namespace dreskel::jpeg {

class BitReader {
  public:
    BitReader() = default;
    explicit BitReader(Bytes window) : window_(window) {}

    // Makes at least 32 bits available, padded with zeros where the data ends; see `overrun()`.
    void fill() {
        if (count_ > 32 || count_ < 0) return;
        refill();
    }
    std::uint32_t top() const { return static_cast<std::uint32_t>(bits_ >> 32); }
    void drop(int count) {
        bits_ <<= count;
        count_ -= count;
    }
    std::uint32_t take(int count) {  // 1 to 16 bits, after fill()
        const auto value = static_cast<std::uint32_t>(bits_ >> (64 - count));
        drop(count);
        return value;
    }

    void dropMany(int count) {  // any number
        for (; count > 32; count -= 32) {
            fill();
            drop(32);
        }
        fill();
        drop(count);
    }

    // More bits were used than there are: the data ended inside a block.
    bool overrun() const { return count_ < 0; }
    // A marker stands where the next byte would be; otherwise the window has run out.
    bool atMarker() const { return marker_; }
    // Whole bytes still unused before the marker or the end of the window.
    int unusedBytes() const { return count_ / 8; }

    // Where decoding can be taken up again: the byte that holds the next bit, and how many of its bits are
    // used.
    struct Mark {
        std::size_t byte = 0;  // in the window
        int bitsUsed = 0;
    };
    Mark mark() const {
        if (count_ <= 0) return {next_, 0};
        auto at = next_;
        for (int left = (count_ + 7) / 8; left > 0 && at > 0; --left) {
            at -= at >= 2 && window_[at - 1] == 0 && window_[at - 2] == 0xff ? 2 : 1;
        }
        return {at, (8 - count_ % 8) % 8};
    }
    // The first byte no bit of which has been used.
    std::size_t nextWholeByte() const {
        const auto here = mark();
        if (here.bitsUsed == 0) return here.byte;
        return here.byte + (window_[here.byte] == 0xff ? 2 : 1);
    }
    int available() const { return count_; }
    // Of the window, about: up to eight bytes ahead of the bit that is read next.
    std::size_t position() const { return next_; }

  private:
    void refill() {
        while (count_ <= 56) {
            if (next_ + 8 <= window_.size()) {
                std::uint64_t word = 0;
                std::memcpy(&word, window_.data() + next_, 8);
                // True when none of the eight bytes is 0xff.
                if (stuffed(word) == 0) {
                    const int bytes = (64 - count_) / 8;
                    const std::uint64_t big = __builtin_bswap64(word);
                    const std::uint64_t kept = bytes == 8 ? big : big >> (64 - 8 * bytes) << (64 - 8 * bytes);
                    bits_ |= kept >> count_;
                    count_ += 8 * bytes;
                    next_ += static_cast<std::size_t>(bytes);
                    return;
                }
            }
            if (next_ >= window_.size()) return;
            const std::uint8_t byte = window_[next_];
            if (byte == 0xff) {
                if (next_ + 1 >= window_.size()) return;
                if (window_[next_ + 1] != 0) {
                    marker_ = true;
                    return;
                }
                ++next_;
            }
            ++next_;
            bits_ |= static_cast<std::uint64_t>(byte) << (56 - count_);
            count_ += 8;
        }
    }
    // Not zero when one of the eight bytes is 0xff: then its complement has a zero byte.
    static std::uint64_t stuffed(std::uint64_t word) {
        const std::uint64_t inverted = ~word;
        return (inverted - 0x0101010101010101ULL) & ~inverted & 0x8080808080808080ULL;
    }

    Bytes window_;
    std::size_t next_ = 0;
    std::uint64_t bits_ = 0;
    int count_ = 0;
    bool marker_ = false;
};

}  // namespace dreskel::jpeg
