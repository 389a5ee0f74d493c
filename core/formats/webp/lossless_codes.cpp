#include "formats/webp/lossless_codes.h"

#include <algorithm>

namespace dreskel::webp {
namespace {

std::uint32_t turnedRound(std::uint32_t code, int length) {
    std::uint32_t turned = 0;
    for (int i = 0; i < length; ++i) turned = turned << 1 | (code >> i & 1U);
    return turned;
}

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

std::optional<PrefixCode> PrefixCode::make(const std::vector<std::uint8_t>& lengths) {
    std::array<std::uint32_t, kLongest + 1> counts{};
    std::size_t used = 0, only = 0;
    std::uint8_t longest = 0;
    for (std::size_t i = 0; i < lengths.size(); ++i) {
        if (lengths[i] == 0) continue;
        ++counts[lengths[i]];
        ++used;
        only = i;
        longest = std::max(longest, lengths[i]);
    }
    PrefixCode made;
    if (used == 1) {
        made.table_.push_back({0, 0, static_cast<std::uint16_t>(only)});
        return made;
    }
    std::array<std::uint32_t, kLongest + 1> next{};
    std::uint32_t code = 0;
    for (std::size_t length = 1; length <= kLongest; ++length) {
        code = (code + counts[length - 1]) << 1;
        next[length] = code;
    }
    if (used == 0 || code + counts[kLongest] != 1U << kLongest) return std::nullopt;
    const int look = made.look_ = std::min<int>(longest, kMostLook);
    const auto mask = (1U << look) - 1;
    made.table_.resize(std::size_t{1} << look);
    // Where codes are longer, how much longer the longest is that begins with the same bits.
    auto codes = next;
    for (const auto length : lengths) {
        if (length == 0) continue;
        const auto turned = turnedRound(codes[length]++, length);
        auto& further = made.table_[turned & mask].further;
        if (length > look) further = std::max(further, static_cast<std::uint8_t>(length - look));
    }
    for (std::size_t i = 0; i <= mask; ++i) {
        if (made.table_[i].further == 0) continue;
        made.table_[i].symbol = static_cast<std::uint16_t>(made.table_.size());
        made.table_.resize(made.table_.size() + (std::size_t{1} << made.table_[i].further));
    }
    for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol) {
        const auto length = lengths[symbol];
        if (length == 0) continue;
        const auto turned = turnedRound(next[length]++, length);
        const Entry entry{length, 0, static_cast<std::uint16_t>(symbol)};
        if (length <= look) {
            for (auto at = turned; at <= mask; at += 1U << length) made.table_[at] = entry;
            continue;
        }
        const auto link = made.table_[turned & mask];
        for (auto at = turned >> look; at < 1U << link.further; at += 1U << (length - look))
            made.table_[link.symbol + at] = entry;
    }
    return made;
}

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
