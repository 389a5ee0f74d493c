#include "formats/prefix_code.h"

#include <algorithm>

namespace dreskel {
namespace {

std::uint32_t turnedRound(std::uint32_t code, int length) {
    std::uint32_t turned = 0;
    for (int i = 0; i < length; ++i) turned = turned << 1 | (code >> i & 1U);
    return turned;
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

}  // namespace dreskel
