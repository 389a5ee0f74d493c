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
            const unsigned extra = symbol & 15U;
            AcStep step;
            if (symbol == 0) {
                step = {static_cast<std::uint8_t>(length), kEndOfBlock};
            } else if (extra != 0 || symbol == 0xf0) {
                step = {static_cast<std::uint8_t>(length + extra),
                        static_cast<std::uint8_t>((symbol >> 4) + 1)};
            }
            for (auto at = first; at < last; ++at) {
                table.look_[at] = {static_cast<std::uint8_t>(length), symbol};
                table.steps_[at] = step;
            }
        }
        table.firstBeyond_[length] = code << (16 - length);
        code <<= 1;
    }
    return index == symbols.size() ? std::optional(table) : std::nullopt;
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
