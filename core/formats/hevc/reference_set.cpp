#include "formats/hevc/reference_set.h"

namespace dreskel::hevc {
namespace {

constexpr std::size_t kMostPictures = 16;

// From another one by what differs (7-61 and 7-62).
std::optional<ReferenceSet> readPredicted(NalBits& bits, const std::vector<ReferenceSet>& known,
                                          std::uint32_t index, bool ofSlice) {
    const auto back = ofSlice ? bits.ue() + 1 : 1;
    const bool negative = bits.flag();
    const auto size = static_cast<std::int32_t>(bits.ue() & 0x7fff) + 1;
    const auto delta = negative ? -size : size;
    if (!bits.ok() || back > index || index - back >= known.size()) return std::nullopt;
    const auto& from = known[index - back];
    const auto count = from.before.size() + from.behind.size();
    std::vector<bool> used(count + 1), kept(count + 1, true);
    for (std::size_t i = 0; i <= count; ++i) {
        used[i] = bits.flag();
        if (!used[i]) kept[i] = bits.flag();
    }
    ReferenceSet set;
    const auto add = [&](bool behind, std::int32_t distance, std::size_t i) {
        if ((behind ? distance > 0 : distance < 0) && kept[i]) {
            (behind ? set.behind : set.before).push_back(distance);
            (behind ? set.usedBehind : set.usedBefore).push_back(used[i]);
        }
    };
    const auto nearest = from.before.size();
    for (auto i = from.behind.size(); i-- > 0;) add(false, from.behind[i] + delta, nearest + i);
    add(false, delta, count);
    for (std::size_t i = 0; i < nearest; ++i) add(false, from.before[i] + delta, i);
    for (auto i = nearest; i-- > 0;) add(true, from.before[i] + delta, i);
    add(true, delta, count);
    for (std::size_t i = 0; i < from.behind.size(); ++i) add(true, from.behind[i] + delta, nearest + i);
    return set;
}

}  // namespace

std::optional<ReferenceSet> readReferenceSet(NalBits& bits, const std::vector<ReferenceSet>& known,
                                             std::uint32_t index, std::uint32_t count) {
    std::optional<ReferenceSet> set;
    if (index > 0 && bits.flag()) {
        set = readPredicted(bits, known, index, index == count);
    } else {
        const auto before = bits.ue();
        const auto behind = bits.ue();
        if (before > kMostPictures || behind > kMostPictures) return std::nullopt;
        set.emplace();
        std::int32_t distance = 0;
        for (std::uint32_t i = 0; i < before; ++i) {
            set->before.push_back(distance -= static_cast<std::int32_t>(bits.ue() & 0x7fff) + 1);
            set->usedBefore.push_back(bits.flag());
        }
        distance = 0;
        for (std::uint32_t i = 0; i < behind; ++i) {
            set->behind.push_back(distance += static_cast<std::int32_t>(bits.ue() & 0x7fff) + 1);
            set->usedBehind.push_back(bits.flag());
        }
    }
    const bool good = bits.ok() && set && set->before.size() + set->behind.size() <= kMostPictures;
    return good ? set : std::nullopt;
}

}  // namespace dreskel::hevc
