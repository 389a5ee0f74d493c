#include "formats/jpeg/huffman.h"

#include <algorithm>

namespace dreskel::jpeg {

std::optional<HuffmanTable> HuffmanTable::make(Bytes counts, Bytes symbols) {
    if (counts.size() != 16 || symbols.size() > 256) return std::nullopt;
    HuffmanTable table;
    std::copy(symbols.begin(), symbols.end(), table.symbols_.begin());
    table.symbolCount_ = static_cast<std::uint16_t>(symbols.size());

    std::uint32_t code = 0;
    std::uint32_t index = 0;
    for (unsigned length = 1; length <= 16; ++length) {
        const std::uint32_t count = counts[length - 1];
        if (index + count > symbols.size() || code + count > (1U << length)) return std::nullopt;
        table.symbolOffset_[length] = static_cast<std::int32_t>(index) - static_cast<std::int32_t>(code);
        for (std::uint32_t i = 0; i < count; ++i, ++code, ++index) {
            if (length > kLookBits) continue;
            const std::uint8_t symbol = symbols[index];
            const auto first = code << (kLookBits - length);
            const auto last = first + (1U << (kLookBits - length));
            for (auto at = first; at < last; ++at) {
                table.look_[at] = {static_cast<std::uint8_t>(length), symbol};
            }
        }
        table.firstBeyond_[length] = code << (16 - length);
        code <<= 1;
    }
    if (index != symbols.size()) return std::nullopt;
    table.packSteps();
    table.packDcSteps();
    return table;
}

void HuffmanTable::packSteps() {
    for (std::uint32_t index = 0; index < steps_.size(); ++index) {
        unsigned bits = 0;
        unsigned advance = 0;
        while (bits < kStepBits) {
            const auto rest = index << (32 - kStepBits) << bits;
            const auto code = look(rest);
            // The bits that are known may be too few to tell this code from another.
            if (code.length == 0 || bits + code.length > kStepBits) break;
            const unsigned extra = code.symbol & 15U;
            if (code.symbol == 0) {
                bits += code.length;
                advance += kEndOfBlock;
                break;
            }
            // What is impossible, and what no block can hold, is for the slow way to say.
            const unsigned further = (code.symbol >> 4U) + 1;
            if ((extra == 0 && code.symbol != 0xf0) || advance + further > 63) break;
            bits += code.length + extra;
            advance += further;
        }
        steps_[index] = std::bit_cast<std::uint16_t>(
            AcStep{static_cast<std::uint8_t>(bits), static_cast<std::uint8_t>(advance)});
    }
}

void HuffmanTable::packDcSteps() {
    for (std::uint32_t index = 0; index < dcSteps_.size(); ++index) {
        const auto code = look_[index];
        const int bits = code.length + code.symbol;
        if (code.length == 0 || bits > kLookBits) continue;
        const auto raw = static_cast<int>(index >> (kLookBits - bits) & ((1U << code.symbol) - 1));
        dcSteps_[index] = static_cast<std::int16_t>(difference(raw, code.symbol) * 16 + bits);
    }
}

HuffmanTable::Code HuffmanTable::slow(std::uint32_t top) const {
    const std::uint32_t sixteen = top >> 16;
    for (unsigned length = kLookBits + 1; length <= 16; ++length) {
        if (sixteen >= firstBeyond_[length]) continue;
        const auto index = static_cast<std::int32_t>(sixteen >> (16 - length)) + symbolOffset_[length];
        if (index < 0 || index >= symbolCount_) return {};
        return {static_cast<std::uint8_t>(length), symbols_[static_cast<std::size_t>(index)]};
    }
    return {};
}

}  // namespace dreskel::jpeg
