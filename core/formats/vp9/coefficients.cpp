#include "formats/vp9/coefficients.h"

#include "formats/vp9/tables.h"

namespace dreskel::vp9 {
namespace {

// What is behind a large value's category (9.3.2, cat1_prob and following; the last for samples of 12 bits).
constexpr std::array<std::array<std::uint8_t, 6>, 5> kExtra{{
    {159, 0},
    {165, 145, 0},
    {173, 148, 140, 0},
    {176, 155, 140, 135, 0},
    {180, 157, 141, 134, 130, 0},
}};
constexpr std::array<std::uint8_t, 18> kLargestExtra{255, 255, 255, 255, 254, 254, 254, 252, 249,
                                                     243, 230, 196, 177, 153, 140, 133, 130, 129};

// Two, three, four, then six categories (9.3.1, token_tree behind ONE_TOKEN).
constexpr Tree<16> kLargeTree{2, 6, 0, 4, -1, -2, 8, 10, -3, -4, 12, 14, -5, -6, -7, -8};

// How large a value is, for those that it foretells: 2, 3 or 5 of the kinds above count alike.
std::uint8_t passLarge(BoolDecoder& bits, std::uint8_t chance, unsigned sampleBits) {
    constexpr std::array<std::uint8_t, 9> weights{2, 3, 3, 4, 4, 5, 5, 5, 5};
    constexpr std::size_t kFirstCategory = 3, kLargest = 8;
    const auto value = readTree(bits, kLargeTree, kLargeValues[chance - 1U].data());
    if (value == kLargest) {
        for (std::size_t i = 12 - sampleBits; i < kLargestExtra.size(); ++i) bits.bit(kLargestExtra[i]);
    } else if (value >= kFirstCategory) {
        for (const auto* extra = kExtra[value - kFirstCategory].data(); *extra != 0; ++extra)
            bits.bit(*extra);
    }
    return weights[value];
}

std::size_t bandOf(std::uint8_t transform, std::size_t i) {
    constexpr std::array<std::uint8_t, 16> ofSmallest{0, 1, 1, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 5, 5, 5};
    if (transform == 0) return ofSmallest[i];
    constexpr std::array<std::uint8_t, 21> ofOthers{0, 1, 1, 2, 2, 2, 3, 3, 3, 3, 4,
                                                    4, 4, 4, 4, 4, 4, 4, 4, 4, 4};
    return i < ofOthers.size() ? ofOthers[i] : 5;
}

}  // namespace

bool passCoefficients(BoolDecoder& bits, const BlockKind& kind, std::size_t beside, unsigned sampleBits,
                      const Chances& chances, Counts& counts) {
    const auto inter = kind.inter ? 1U : 0U, plane = kind.chroma ? 1U : 0U;
    const auto& all = chances.coefficients[kind.transform][plane][inter];
    auto& seen = counts.coefficients[kind.transform][plane][inter];
    const auto& steps = scanOf(kind.transform, kind.scan).steps;
    std::array<std::uint8_t, 1024> weights;  // of those that came
    bool mayEnd = true;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const auto& step = steps[i];
        if (i > 0) beside = (1U + weights[step.beside[0]] + weights[step.beside[1]]) >> 1;
        const auto band = bandOf(kind.transform, i);
        const auto& chance = all[band][beside];
        auto& count = seen[band][beside];
        if (mayEnd) {
            ++count.asked;
            if (!bits.bit(chance[0])) {
                ++count.over;
                return i > 0;
            }
        }
        mayEnd = bits.bit(chance[1]);
        if (!mayEnd) {
            ++count.zero;
            weights[step.place] = 0;
        } else {
            if (!bits.bit(chance[2])) {
                ++count.one;
                weights[step.place] = 1;
            } else {
                ++count.large;
                weights[step.place] = passLarge(bits, chance[2], sampleBits);
            }
            bits.flag();  // the sign
        }
    }
    return true;
}

}  // namespace dreskel::vp9
