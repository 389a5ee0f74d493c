// The MCUs of a sequential scan (ITU-T T.81, F.2.2) without the values of their AC coefficients, many in a
// row: what nearly all of the time goes into when a card of photos is checked.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "formats/jpeg/bit_reader.h"
#include "formats/jpeg/huffman.h"

namespace dreskel::jpeg {

// A scan, laid out for it. Points into the decoder and its planes, and must not outlive either.
struct SequentialScan {
    struct Part {
        const HuffmanTable* dcTable = nullptr;
        const HuffmanTable* acTable = nullptr;
        int mostDc = 0;                  // more than that, either way, no picture can have
        std::size_t wide = 1, high = 1;  // blocks of it in an MCU
        std::int16_t* plane = nullptr;   // where its DC values are kept; null: nowhere
        std::size_t planeWidth = 0;
    };
    std::array<Part, 4> parts;
    std::size_t count = 0;
    std::uint32_t mcusWide = 0;
};

// The DC value that each part's next block is the difference from.
using DcPredictions = std::array<int, 4>;

// Passes MCUs from `mcu` on: at most `most`, and only such as begin in front of byte `until` of the clean
// data. Gives how many are good; bits and predictions are as behind the last of them.
std::uint64_t passMcus(BitReader& bits, const SequentialScan& scan, DcPredictions& predictions,
                       std::uint64_t mcu, std::uint64_t most, std::size_t until);

// Passes one, and gives what is wrong with it, or null; bits and predictions are then as where that showed.
const char* passMcu(BitReader& bits, const SequentialScan& scan, DcPredictions& predictions,
                    std::uint64_t mcu);

// The same of an MCU from its `from`th block on; its values are kept nowhere.
const char* passRestOfMcu(BitReader& bits, const SequentialScan& scan, DcPredictions& predictions,
                          std::size_t from);

// What a DC code and its bits say, where one look-up does not (HuffmanTable::dcStep). Nothing when there is
// no such code.
std::optional<int> longDifference(BitReader& bits, const HuffmanTable& table);

inline constexpr const char* kNoCode = "an impossible code";
inline constexpr const char* kTooBright = "a brightness that no picture can have";
inline constexpr const char* kTooMany = "more coefficients than a block can hold";

}  // namespace dreskel::jpeg
