#include "formats/webp/lossless_codes.h"

#include <algorithm>

namespace dreskel::webp {
namespace {

// The lengths of the codes, which are coded themselves.
std::optional<std::vector<std::uint8_t>> readLengths(LowBits& bits, std::size_t symbols) {
    constexpr std::array<std::uint8_t, 19> order{17, 18, 0, 1,  2,  3,  4,  5,  16, 6,
                                                 7,  8,  9, 10, 11, 12, 13, 14, 15};
    std::vector<std::uint8_t> lengthsOfLengths(order.size());
    const auto stated = bits.number(4) + 4;
    for (std::size_t i = 0; i < stated; ++i)
        lengthsOfLengths[order[i]] = static_cast<std::uint8_t>(bits.number(3));
    const auto code = PrefixCode::make(lengthsOfLengths);
    if (!code) return std::nullopt;
    std::size_t most = symbols;
    if (bits.flag()) {
        const auto width = static_cast<int>(2 + 2 * bits.number(3));
        most = 2 + bits.number(width);
        if (most > symbols) return std::nullopt;
    }
    std::vector<std::uint8_t> lengths(symbols);
    std::uint8_t before = 8;
    for (std::size_t at = 0; at < symbols && most > 0; --most) {
        const auto symbol = code->read(bits);
        if (symbol < 16) {
            lengths[at++] = static_cast<std::uint8_t>(symbol);
            if (symbol != 0) before = static_cast<std::uint8_t>(symbol);
            continue;
        }
        constexpr std::array<int, 3> extra{2, 3, 7};
        constexpr std::array<std::size_t, 3> least{3, 3, 11};
        const auto repeats = least[symbol - 16] + bits.number(extra[symbol - 16]);
        if (at + repeats > symbols || !bits.ok()) return std::nullopt;
        std::fill_n(lengths.begin() + static_cast<std::ptrdiff_t>(at), repeats,
                    symbol == 16 ? before : std::uint8_t{0});
        at += repeats;
    }
    return lengths;
}

}  // namespace

std::optional<PrefixCode> readPrefixCode(LowBits& bits, std::size_t symbols) {
    std::vector<std::uint8_t> lengths(symbols);
    if (!bits.flag()) {
        auto stated = readLengths(bits, symbols);
        if (!stated) return std::nullopt;
        lengths = std::move(*stated);
        return bits.ok() ? PrefixCode::make(lengths) : std::nullopt;
    }
    const bool two = bits.flag();
    const auto first = bits.number(bits.flag() ? 8 : 1);
    if (first >= symbols) return std::nullopt;
    lengths[first] = 1;
    if (two) {
        const auto second = bits.number(8);
        if (second >= symbols) return std::nullopt;
        lengths[second] = 1;
    }
    return bits.ok() ? PrefixCode::make(lengths) : std::nullopt;
}

}  // namespace dreskel::webp
