#include "formats/vp9/chances.h"

#include <algorithm>

namespace dreskel::vp9 {
namespace {

using Pair = std::array<std::uint32_t, 2>;

// Section 8.4.2.
std::uint8_t merged(std::uint8_t before, Pair counts, std::uint32_t saturation, std::uint32_t most) {
    const auto all = std::uint64_t{counts[0]} + counts[1];
    if (all == 0) return before;
    const auto stated = std::clamp<std::uint64_t>((256 * std::uint64_t{counts[0]} + all / 2) / all, 1, 255);
    const auto weight = most * std::min<std::uint64_t>(all, saturation) / saturation;
    return static_cast<std::uint8_t>((before * (256 - weight) + stated * weight + 128) >> 8);
}

std::uint8_t merged(std::uint8_t before, Pair counts) {
    return merged(before, counts, 20, 128);
}

template <std::size_t Length>
std::uint32_t mergeTree(std::uint8_t* chances, const std::uint8_t* before, const std::uint32_t* counts,
                        const Tree<Length>& tree, std::size_t at = 0) {
    Pair branches{};
    for (std::size_t side = 0; side < 2; ++side) {
        const int next = tree[at + side];
        branches[side] = next <= 0 ? counts[-next]
                                   : mergeTree(chances, before, counts, tree, static_cast<std::size_t>(next));
    }
    chances[at >> 1] = merged(before[at >> 1], branches);
    return branches[0] + branches[1];
}

// Of several of one kind.
template <class Into, class Before, class Of, std::size_t Length>
void mergeTrees(Into& chances, const Before& before, const Of& counts, const Tree<Length>& tree) {
    for (std::size_t i = 0; i < chances.size(); ++i)
        mergeTree(chances[i].data(), before[i].data(), counts[i].data(), tree);
}

template <class Into, class Of>
void mergeEach(Into& chances, const Into& before, const Of& counts) {
    for (std::size_t i = 0; i < chances.size(); ++i) chances[i] = merged(before[i], counts[i]);
}

void adaptCoefficients(Chances& chances, const Chances& before, const Counts& counts, const Adapting& how) {
    const std::uint32_t most = how.inter && how.follows == Follows::AfterKey ? 128 : 112;
    constexpr std::uint32_t saturation = 24;
    for (std::size_t transform = 0; transform < 4; ++transform) {
        for (std::size_t plane = 0; plane < 2; ++plane) {
            for (std::size_t inter = 0; inter < 2; ++inter) {
                for (std::size_t band = 0; band < 6; ++band) {
                    for (std::size_t beside = 0; beside < (band == 0 ? 3U : 6U); ++beside) {
                        const auto& old = before.coefficients[transform][plane][inter][band][beside];
                        const auto& seen = counts.coefficients[transform][plane][inter][band][beside];
                        auto& now = chances.coefficients[transform][plane][inter][band][beside];
                        now[0] = merged(old[0], {seen.over, seen.asked - seen.over}, saturation, most);
                        now[1] = merged(old[1], {seen.zero, seen.one + seen.large}, saturation, most);
                        now[2] = merged(old[2], {seen.one, seen.large}, saturation, most);
                    }
                }
            }
        }
    }
}

void adaptTransforms(Chances& chances, const Chances& before, const Counts& counts) {
    for (std::size_t i = 0; i < 2; ++i) {
        chances.transforms8[i][0] = merged(before.transforms8[i][0], counts.transforms8[i]);
        const auto& of16 = counts.transforms16[i];
        chances.transforms16[i][0] = merged(before.transforms16[i][0], {of16[0], of16[1] + of16[2]});
        chances.transforms16[i][1] = merged(before.transforms16[i][1], {of16[1], of16[2]});
        mergeTree(chances.transforms32[i].data(), before.transforms32[i].data(),
                  counts.transforms32[i].data(), kFourTree);
    }
}

void adaptMotion(Chances& chances, const Chances& before, const Counts& counts, bool eighths) {
    mergeTree(chances.joints.data(), before.joints.data(), counts.joints.data(), kFourTree);
    for (std::size_t i = 0; i < 2; ++i) {
        auto& now = chances.motion[i];
        const auto& old = before.motion[i];
        const auto& seen = counts.motion[i];
        now.sign = merged(old.sign, seen.sign);
        mergeTree(now.classes.data(), old.classes.data(), seen.classes.data(), kClassTree);
        now.nearPixels[0] = merged(old.nearPixels[0], seen.nearPixels);
        mergeEach(now.bits, old.bits, seen.bits);
        mergeTrees(now.nearFractions, old.nearFractions, seen.nearFractions, kFractionTree);
        mergeTree(now.fractions.data(), old.fractions.data(), seen.fractions.data(), kFractionTree);
        if (!eighths) continue;
        now.nearEighth = merged(old.nearEighth, seen.nearEighth);
        now.eighth = merged(old.eighth, seen.eighth);
    }
}

}  // namespace

void adapt(Chances& chances, const Chances& before, const Counts& counts, const Adapting& how) {
    adaptCoefficients(chances, before, counts, how);
    if (!how.inter) return;
    mergeEach(chances.inter, before.inter, counts.inter);
    mergeEach(chances.compound, before.compound, counts.compound);
    mergeEach(chances.second, before.second, counts.second);
    for (std::size_t i = 0; i < chances.single.size(); ++i)
        mergeEach(chances.single[i], before.single[i], counts.single[i]);
    mergeTrees(chances.motionModes, before.motionModes, counts.motionModes, kMotionModeTree);
    mergeTrees(chances.lumaModes, before.lumaModes, counts.lumaModes, kIntraModeTree);
    mergeTrees(chances.chromaModes, before.chromaModes, counts.chromaModes, kIntraModeTree);
    mergeTrees(chances.partitions, before.partitions, counts.partitions, kFourTree);
    if (how.switchableFilter) mergeTrees(chances.filters, before.filters, counts.filters, kFilterTree);
    if (how.selectsTransform) adaptTransforms(chances, before, counts);
    mergeEach(chances.skipped, before.skipped, counts.skipped);
    adaptMotion(chances, before, counts, how.eighths);
}

}  // namespace dreskel::vp9
