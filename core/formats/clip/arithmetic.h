// The arithmetic decoder that ITU-T H.265 (9.3.4.3) and H.264 (9.3.3.2) share, and its context variables.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel {

// How probable the next bit is: the state of 9.3.4.3.2, twice, and the likelier value in the lowest bit.
using Context = std::uint8_t;

// From the initial state, 1 to 126 (H.265, 9.3.2.2; H.264, 9.3.1.1).
inline Context contextOf(int state) {
    const bool one = state > 63;
    return static_cast<Context>((one ? state - 64 : 63 - state) << 1 | (one ? 1 : 0));
}

class ArithmeticDecoder {
  public:
    ArithmeticDecoder() = default;
    ArithmeticDecoder(Bytes bytes, std::size_t from) : bytes_(bytes), next_(from) { start(); }

    // What comes is mostly the likelier: with a branch, and both ways as short as they can be, it takes less
    // time than without one (of 40 Mbit/s of H.264 a tenth).
    bool decide(Context& context) {
        const unsigned before = context;
        const auto entry = static_cast<std::uint32_t>(kSteps[before] >> (range_ >> 2 & 48));
        const auto least = entry & 255;
        const auto leastCount = entry >> 8 & 255;
        const auto most = range_ - least;
        const auto mostCount = most >> 8 ^ 1;
        const auto scaled = std::uint64_t{most} << kBelow;
        if (value_ < scaled) {
            context = kNext[before];
            range_ = most << mostCount;
            shift(static_cast<int>(mostCount));
            return (before & 1) != 0;
        }
        value_ -= scaled;
        context = kNext[128 | before];
        range_ = least << leastCount;
        shift(static_cast<int>(leastCount));
        return (before & 1) == 0;
    }
    bool bypass() {
        shift(1);
        const auto scaled = std::uint64_t{range_} << kBelow;
        const std::uint64_t one = value_ >= scaled ? ~std::uint64_t{0} : 0;  // as good as random: no branch
        value_ -= scaled & one;
        return one != 0;
    }
    std::uint32_t bypass(unsigned count) {  // up to 32
        if (ahead_ < static_cast<int>(count)) fill();
        const auto scaled = std::uint64_t{range_} << kBelow;
        std::uint32_t bits = 0;
        ahead_ -= static_cast<int>(count);
        for (; count > 0; --count) {
            value_ <<= 1;
            const bool one = value_ >= scaled;
            value_ -= one ? scaled : 0;
            bits = bits << 1 | (one ? 1U : 0U);
        }
        return bits;
    }
    // An Exp-Golomb code of bypassed bits (H.265, 9.3.3.5; H.264, 9.3.2.3); nothing when it is longer than
    // any can be.
    std::optional<std::uint32_t> exponentialGolomb(unsigned order) {
        std::uint32_t base = 0;
        while (bypass()) {
            base += 1U << order;
            if (++order > 20) return std::nullopt;
        }
        return base + bypass(order);
    }
    bool terminate() {
        range_ -= 2;
        if (value_ >= std::uint64_t{range_} << kBelow) return true;
        if (range_ < 256) {
            range_ <<= 1;
            shift(1);
        }
        return false;
    }
    // After terminate() said yes: whether a one ends the bits and zeros fill the byte, as they must (H.265,
    // 9.3.2.5). `lastBit`: the last bit of the byte may be anything; an encoder of H.264 leaves it so.
    bool endsClean(bool lastBit = false) const {
        const auto used = bitsUsed();
        if (used == 0 || used > bytes_.size() * 8) return false;
        const auto byte = bytes_[(used - 1) / 8];
        const auto rest =
            static_cast<std::uint8_t>((lastBit && used % 8 != 0 ? byte & 0xfe : byte) << ((used - 1) % 8));
        return rest == 0x80;
    }
    // Starts anew `skip` bytes behind the byte that was ended in.
    void restart(std::size_t skip) {
        next_ = std::min(bytes_.size(), position() + std::min(skip, bytes_.size()));
        start();
    }
    // The first byte of which nothing has been used.
    std::size_t position() const { return (bitsUsed() + 7) / 8; }
    // The bytes that may have been looked at by now. As long as they stay the same, it goes on in others.
    std::size_t needed() const { return next_ + 8; }
    void goOnIn(Bytes bytes) { bytes_ = bytes; }
    // Of a state and a range: the part of the range that stands for the less likely value.
    static std::uint32_t leastRange(unsigned state, std::uint32_t range) {
        return kLeastRange[state][range >> 6 & 3];
    }
    // A context when a value has come.
    static Context after(Context context, bool bit) {
        const unsigned state = context >> 1;
        if (bit == ((context & 1) != 0))
            return static_cast<Context>(std::min(state + 1, 62U) << 1 | (context & 1U));
        if (state == 0) context ^= 1;
        return static_cast<Context>(kLessProbable[state] << 1 | (context & 1));
    }
    // More was asked for than there is.
    bool overrun() const { return bitsUsed() > bytes_.size() * 8; }

  private:
    static constexpr int kBelow =
        54;  // bits of value_ below the nine of the standard; doubled, those take ten

    std::size_t bitsUsed() const {
        return static_cast<std::size_t>(static_cast<std::int64_t>(next_ * 8) - ahead_);
    }
    void start() {
        range_ = 510;
        value_ = 0;
        ahead_ = -9;
        fill();
    }
    // At least 47 bits are ahead then, zeros where the bytes end. Bits that are loaded again are the same
    // bits.
    void fill() {
        std::uint64_t word = 0;
        if (next_ + 8 <= bytes_.size()) {
            std::memcpy(&word, bytes_.data() + next_, 8);
            word = __builtin_bswap64(word);
        } else {
            for (std::size_t i = next_; i < bytes_.size(); ++i)
                word |= std::uint64_t{bytes_[i]} << (56 - 8 * (i - next_));
        }
        value_ |= word >> (10 + ahead_);
        const int count = (kBelow - ahead_) / 8;
        next_ += static_cast<std::size_t>(count);
        ahead_ += 8 * count;
    }
    void shift(int count) {
        value_ <<= count;
        ahead_ -= count;
        if (ahead_ < 0) fill();
    }

    static const std::array<std::array<std::uint8_t, 4>, 64> kLeastRange;
    // The same by context, each with how far it is shifted to be a range again, the four of a state in one
    // word: it can be loaded before the range is known.
    static const std::array<std::uint64_t, 128> kSteps;
    static const std::array<std::uint8_t, 64> kLessProbable;
    static const std::array<Context, 256> kNext;  // after() of what was likelier, and of what was not

    Bytes bytes_;
    std::size_t next_ = 0;  // may be behind the end, where zeros are read
    std::uint32_t range_ = 510;
    std::uint64_t value_ = 0;  // the nine bits of the standard below the top one, then what is ahead of them
    int ahead_ = 0;            // how many of those are there
};

}  // namespace dreskel
