// The bits of a NAL unit's heads and parameter sets (ITU-T H.264, 7.3.1 and 9.1; H.265 has the same).
#pragma once

#include <cstdint>
#include <vector>

#include "base/bytes.h"
#include "formats/clip/unescaped.h"

namespace dreskel {

// The bytes behind a unit's header, without emulation prevention; at most `most` of them.
inline std::vector<std::uint8_t> unescaped(Bytes unit, std::size_t header, std::size_t most = SIZE_MAX) {
    // Two of three bytes stay at least.
    const auto enough = most < unit.size() ? header + most + most / 2 + 2 : unit.size();
    const Unescaped all(unit.first(std::min(unit.size(), enough)), header);
    const auto bytes = all.bytes().first(std::min(most, all.bytes().size()));
    return {bytes.begin(), bytes.end()};
}

// Reads numbers one after the other. Once a read would leave the bytes, which must outlive it, `ok()` is
// false and every later read gives zero.
class NalBits {
  public:
    explicit NalBits(Bytes bytes) : bytes_(bytes) {}

    bool ok() const { return ok_; }
    void fail() { ok_ = false; }
    // Bits read so far.
    std::size_t position() const { return at_; }
    std::uint32_t u(unsigned count) {
        std::uint32_t value = 0;
        for (; count > 0; --count) value = value << 1 | bit();
        return value;
    }
    // As long as what was read stays the same, it goes on in other bytes.
    void goOnIn(Bytes bytes) { bytes_ = bytes; }
    bool flag() { return bit() != 0; }
    void skip(std::size_t count) {
        at_ += count;
        ok_ = ok_ && at_ <= bytes_.size() * 8;
    }
    // Exp-Golomb codes.
    std::uint32_t ue() {
        unsigned zeros = 0;
        while (ok_ && bit() == 0) {
            if (++zeros > 31) ok_ = false;
        }
        return ok_ ? (1U << zeros) - 1 + u(zeros) : 0;
    }
    std::int32_t se() {
        const auto code = static_cast<std::int64_t>(ue());
        return static_cast<std::int32_t>((code & 1) != 0 ? (code + 1) / 2 : -(code / 2));
    }

  private:
    std::uint32_t bit() {
        if (!ok_ || at_ >= bytes_.size() * 8) {
            ok_ = false;
            return 0;
        }
        const auto value = bytes_[at_ / 8] >> (7 - at_ % 8) & 1U;
        ++at_;
        return value;
    }
    Bytes bytes_;
    std::size_t at_ = 0;
    bool ok_ = true;
};

// The scaling lists of H.264 (7.3.2.1.1.1), the first six of four by four.
inline void skipScalingLists(NalBits& bits, int lists) {
    for (int list = 0; list < lists && bits.ok(); ++list) {
        if (!bits.flag()) continue;
        int last = 8;
        int next = 8;
        for (int i = 0; i < (list < 6 ? 16 : 64) && bits.ok(); ++i) {
            if (next != 0) next = (last + bits.se() + 256) % 256;
            last = next == 0 ? last : next;
        }
    }
}

}  // namespace dreskel
