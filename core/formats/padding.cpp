#include "formats/padding.h"

#include <algorithm>

namespace dreskel {

std::optional<std::uint64_t> foreignInPadding(Bytes padding, std::uint64_t from) {
    constexpr std::uint64_t border = 4096;
    constexpr std::size_t most = 64, least = 16;  // bytes looked at on each side
    const auto blank = [](Bytes bytes) {
        return std::all_of(bytes.begin(), bytes.end(), [&](auto byte) { return byte == bytes[0]; });
    };
    for (auto at = (from / border + 1) * border; at < from + padding.size(); at += border) {
        const auto inside = static_cast<std::size_t>(at - from);
        const auto before = padding.first(inside).last(std::min(most, inside));
        const auto behind = slice(padding, inside, most);
        if (before.size() < least || behind.size() < least) continue;
        if (blank(before) != blank(behind) || (blank(before) && before[0] != behind[0])) return at;
    }
    return std::nullopt;
}

}  // namespace dreskel
