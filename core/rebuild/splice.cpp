#include "rebuild/splice.h"

#include <algorithm>
#include <utility>

namespace dreskel::rebuild {

std::vector<ByteRange> cutBefore(const std::vector<ByteRange>& places, std::uint64_t byte,
                                 std::uint64_t cluster) {
    std::vector<ByteRange> cut;
    std::uint64_t at = 0;
    for (const auto& place : places) {
        if (byte <= at) break;
        auto kept = place;
        if (byte < at + place.length)
            kept.length = std::max<std::uint64_t>((byte - at) / cluster, 1) * cluster;
        cut.push_back(kept);
        at += place.length;
    }
    return cut;
}

Cut takeOut(const std::vector<ByteRange>& places, const ByteRange& bytes, std::uint64_t cluster,
            LeftBehind left) {
    Cut cut;
    const auto add = [&](std::uint64_t offset, std::uint64_t length) {
        if (length > 0) cut.way.push_back({offset, length});
    };
    std::uint64_t at = 0;
    bool reached = false;
    for (const auto& place : places) {
        // Of this place, bytes from its beginning.
        const auto within = [&](std::uint64_t byte) { return std::clamp(byte, at, at + place.length) - at; };
        auto from = within(bytes.offset) / cluster * cluster;
        if (at == 0) from = std::max(from, std::min(cluster, place.length));
        const auto to =
            std::max(from, std::min((within(bytes.end()) + cluster - 1) / cluster * cluster, place.length));
        const bool touched = within(bytes.offset) < within(bytes.end()) && to > from;
        if (!touched || isNowhere(place)) {
            add(place.offset, place.length);
        } else {
            add(place.offset, from);
            if (!std::exchange(reached, true)) cut.before = cut.way.size();
            if (left == LeftBehind::Gap) add(kNowhere, to - from);
            add(place.offset + to, place.length - to);
        }
        at += place.length;
    }
    if (!reached) cut.before = cut.way.size();
    return cut;
}

}  // namespace dreskel::rebuild
