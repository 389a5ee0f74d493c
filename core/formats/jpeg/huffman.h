// Huffman tables of a JPEG (ITU-T T.81, Annex C and F.2.2.3), arranged for decoding by lookup.
#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel::jpeg {

// What the `size` bits behind a DC code say (T.81, F.1.2.1).
constexpr int difference(int raw, int size) {
    return size > 0 && raw < 1 << (size - 1) ? raw - (1 << size) + 1 : raw;
}

// The tables of a DHT segment (T.81, B.2.4.2) one by one: `shown(ac, number, counts, symbols)`, number 0
// to 3. False where the segment is damaged, or `shown` says so.
template <class Shown>
bool eachHuffmanTable(Bytes body, Shown&& shown) {
    ByteReader reader(body);
    while (reader.left() > 0) {
        const auto head = reader.u8();
        const auto counts = reader.take(16);
        std::size_t total = 0;
        for (const auto count : counts) total += count;
        const auto symbols = reader.take(total);
        if (!reader.ok() || (head >> 4) > 1 || (head & 15) > 3) return false;
        if (!shown((head >> 4) == 1, std::size_t{head & 15U}, counts, symbols)) return false;
    }
    return true;
}

class HuffmanTable {
  public:
    static constexpr int kLookBits = 12;
    static constexpr std::uint8_t kEndOfBlock = 128;

    struct Code {
        std::uint8_t length = 0;  // bits of the code; 0: no code of up to kLookBits bits matches
        std::uint8_t symbol = 0;
    };
    // For AC coefficients whose value does not matter: as many codes as kStepBits bits hold, and their extra
    // bits, skipped in one step. The extra bits of the last may lie beyond.
    struct AcStep {
        std::uint8_t bits = 0;     // altogether, at most kMostBits; 0: take the slow way
        std::uint8_t advance = 0;  // coefficients passed, and kEndOfBlock more when the block ends
    };
    // A DC code and the difference behind it.
    struct DcStep {
        int bits = 0;  // 0: they are longer than kLookBits together, or no code
        int difference = 0;
    };
    static constexpr int kStepBits = 13;
    static constexpr int kMostBits = kStepBits + 15;

    // From the 16 counts and the symbols of a DHT segment. Nothing when the counts cannot be a prefix code.
    static std::optional<HuffmanTable> make(Bytes counts, Bytes symbols);

    Code look(std::uint32_t top) const { return look_[top >> (32 - kLookBits)]; }
    AcStep step(std::uint32_t top) const {
        return std::bit_cast<AcStep>(steps_[top >> (32 - kStepBits)]);  // one load, not one for each field
    }
    DcStep dcStep(std::uint32_t top) const {
        const int packed = dcSteps_[top >> (32 - kLookBits)];
        return {packed & 15, packed >> 4};
    }
    // For codes longer than kLookBits; `top` holds the next 32 bits. Length 0: an impossible code.
    Code slow(std::uint32_t top) const;

  private:
    void packSteps();
    void packDcSteps();

    std::array<Code, 1 << kLookBits> look_{};
    std::array<std::uint16_t, 1 << kStepBits> steps_{};
    std::array<std::int16_t, 1 << kLookBits> dcSteps_{};  // difference and bits, in one load
    std::array<std::uint32_t, 18>
        firstBeyond_{};  // per length: first code value, left-aligned to 16 bits, that is longer
    std::array<std::int32_t, 17> symbolOffset_{};
    std::array<std::uint8_t, 256> symbols_{};
    std::uint16_t symbolCount_ = 0;
};

}  // namespace dreskel::jpeg
