// The coefficients of one transform block (7.3.8.11, with the contexts of 9.3.4.2.4 to 9.3.4.2.7).
#include <algorithm>

#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {
namespace {

enum Scan : unsigned { Diagonal, Horizontal, Vertical };

struct Place {
    std::uint8_t x = 0, y = 0;
};
using Order = std::array<Place, 64>;

// 6.5.3 to 6.5.5, for blocks of up to eight by eight.
constexpr Order orderOf(unsigned scan, unsigned size) {
    Order order{};
    const unsigned side = 1U << size;
    std::size_t at = 0;
    if (scan == Diagonal) {
        for (unsigned line = 0; line < 2 * side - 1; ++line) {
            for (unsigned x = 0; x <= line; ++x) {
                const unsigned y = line - x;
                if (x < side && y < side)
                    order[at++] = {static_cast<std::uint8_t>(x), static_cast<std::uint8_t>(y)};
            }
        }
        return order;
    }
    for (unsigned i = 0; i < side * side; ++i) {
        const auto major = static_cast<std::uint8_t>(i / side);
        const auto minor = static_cast<std::uint8_t>(i % side);
        order[i] = scan == Horizontal ? Place{minor, major} : Place{major, minor};
    }
    return order;
}

constexpr std::array<std::array<Order, 4>, 3> kOrders = [] {
    std::array<std::array<Order, 4>, 3> orders{};
    for (unsigned scan = 0; scan < 3; ++scan) {
        for (unsigned size = 0; size < 4; ++size) orders[scan][size] = orderOf(scan, size);
    }
    return orders;
}();

constexpr std::uint32_t kLargestLevel = 1U << 15;
constexpr std::array<std::uint8_t, 16> kSmallContexts{0, 1, 4, 5, 2, 3, 4, 5, 6, 6, 8, 8, 7, 7, 8, 8};

constexpr unsigned significantContext(unsigned size, unsigned scan, bool luma, bool firstGroup, Place in,
                                      unsigned neighbours) {
    unsigned context = 0;
    if (size == 2) {
        context = kSmallContexts[std::size_t{in.y} * 4 + in.x];
    } else if (firstGroup && in.x == 0 && in.y == 0) {
        context = 0;
    } else {
        const unsigned sum = in.x + in.y;
        switch (neighbours) {
            case 0: context = sum == 0 ? 2 : sum < 3 ? 1 : 0; break;
            case 1: context = in.y == 0 ? 2 : in.y == 1 ? 1 : 0; break;
            case 2: context = in.x == 0 ? 2 : in.x == 1 ? 1 : 0; break;
            default: context = 2;
        }
        if (luma) {
            if (!firstGroup) context += 3;
            context += size == 3 ? (scan == Diagonal ? 9 : 15) : 21;
        } else {
            context += size == 3 ? 9 : 12;
        }
    }
    return luma ? context : 27 + context;
}

// The contexts of a group's flags, one behind the other in its order.
using GroupContexts = std::array<std::uint8_t, 16>;

constexpr std::size_t contextsAt(unsigned size, unsigned scan, bool luma, bool firstGroup,
                                 unsigned neighbours) {
    const std::size_t sizes = std::min(size, 4U) - 2;
    return (((sizes * 3 + scan) * 2 + (luma ? 1 : 0)) * 2 + (firstGroup ? 1 : 0)) * 4 + neighbours;
}

constexpr std::array<GroupContexts, 144> kSignificantContexts = [] {
    std::array<GroupContexts, 144> all{};
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto number = static_cast<unsigned>(i);
        const unsigned size = number / 48 + 2;
        const unsigned scan = number / 16 % 3;
        for (std::size_t n = 0; n < 16; ++n)
            all[i][n] = static_cast<std::uint8_t>(significantContext(
                size, scan, (number / 8 & 1) != 0, (number / 4 & 1) != 0, kOrders[scan][2][n], number & 3));
    }
    return all;
}();

constexpr GroupContexts sixteenTimes(std::uint8_t context) {
    GroupContexts all{};
    for (auto& one : all) one = context;
    return all;
}
// Of blocks that were not transformed, by whether they are of brightness.
constexpr std::array<GroupContexts, 2> kUntransformed{sixteenTimes(43), sixteenTimes(42)};

}  // namespace

unsigned SliceData::lastPrefix(std::size_t place, unsigned size, unsigned colour) {
    const unsigned offset = colour == 0 ? 3 * (size - 2) + ((size - 1) >> 2) : 15;
    const unsigned shift = colour == 0 ? (size + 1) >> 2 : size - 2;
    unsigned prefix = 0;
    while (prefix < 2 * size - 1 && bit(place + offset + (prefix >> shift))) ++prefix;
    return prefix;
}

[[gnu::always_inline]] inline std::uint32_t SliceData::remainingLevel(ArithmeticDecoder& arithmetic,
                                                                      unsigned rice) {  // 9.3.3.11
    unsigned prefix = 0;
    while (prefix < 20 && arithmetic.bypass()) ++prefix;
    if (prefix == 20) {
        wrong("a coefficient that cannot be");
        return 0;
    }
    if (prefix <= 3) return (prefix << rice) + arithmetic.bypass(rice);
    return (((1U << (prefix - 3)) + 2) << rice) + arithmetic.bypass(prefix - 3 + rice);
}

void SliceData::residual(const CodingBlock& block, unsigned size, unsigned colour, std::uint8_t direction) {
    if (wrong_ != nullptr || arithmetic_.overrun()) return;
    const bool luma = colour == 0;
    const bool skips = picture_.transformSkip && !block.bypass && size <= picture_.maxSkip &&
                       bit(element::kSkipTransform + (luma ? 0 : 1));
    const bool untransformed = skips || block.bypass;
    bool differences = false;
    if (!block.intra && sequence_.explicitDifferences && untransformed) {
        differences = bit(element::kDifferences + (luma ? 0 : 1));
        if (differences) bit(element::kDifferencesAcross + (luma ? 0 : 1));
    }
    unsigned lastX = lastPrefix(element::kLastX, size, colour);
    unsigned lastY = lastPrefix(element::kLastY, size, colour);
    for (auto* last : {&lastX, &lastY}) {
        if (*last > 3) {
            const unsigned more = (*last >> 1) - 1;
            *last = ((2 + (*last & 1)) << more) + arithmetic_.bypass(more);
        }
    }
    unsigned scan = Diagonal;
    if (block.intra && (size == 2 || (size == 3 && (luma || sequence_.chromaArray() == 3)))) {
        scan = direction >= 6 && direction <= 14    ? Vertical
               : direction >= 22 && direction <= 30 ? Horizontal
                                                    : Diagonal;
    }
    if (scan == Vertical) std::swap(lastX, lastY);
    const auto& groups = kOrders[scan][size - 2];
    const auto& within = kOrders[scan][2];
    const auto same = [](Place one, unsigned x, unsigned y) { return one.x == x && one.y == y; };
    std::size_t group = 0;
    while (!same(groups[group], lastX >> 2, lastY >> 2)) {
        if (++group == groups.size()) return wrong("a coefficient outside of its block");
    }
    std::size_t last = 0;
    while (!same(within[last], lastX & 3, lastY & 3)) ++last;

    const bool neverHidden = block.bypass || differences ||
                             (block.intra && sequence_.implicitDifferences && skips &&
                              (direction == PictureGrid::kHorizontal || direction == PictureGrid::kVertical));
    const bool plainContext = sequence_.skipContext && untransformed;
    std::array<std::uint8_t, 8> codedGroups{};  // by row, a bit a column
    bool second = false;                        // the group before ended with a level above one
    const auto lastGroup = group;
    // The compiler can keep a copy in registers; writing a context could change the member, for all it knows.
    ArithmeticDecoder arithmetic = arithmetic_;
    const auto bit = [&](std::size_t context) { return arithmetic.decide(entropy_.contexts[context]); };
    for (auto i = lastGroup + 1; i-- > 0 && wrong_ == nullptr && !arithmetic.overrun();) {
        const auto place = groups[i];
        const bool right = place.x < 7 && (codedGroups[place.y] >> (place.x + 1) & 1) != 0;
        const bool below = place.y < 7 && (codedGroups[place.y + 1U] >> place.x & 1) != 0;
        bool coded = true;
        bool inferred = false;
        if (i < lastGroup && i > 0) {
            coded = bit(element::kGroupCoded + (right || below ? 1U : 0U) + (luma ? 0U : 2U));
            inferred = true;
        }
        if (!coded) continue;
        codedGroups[place.y] = static_cast<std::uint8_t>(codedGroups[place.y] | 1U << place.x);
        const auto& contexts = plainContext
                                   ? kUntransformed[luma ? 1 : 0]
                                   : kSignificantContexts[contextsAt(size, scan, luma, i == 0,
                                                                     (right ? 1U : 0U) + (below ? 2U : 0U))];
        std::array<std::uint8_t, 16> found{};  // of coefficients that are not zero, the last first
        std::size_t count = 0;
        auto n = static_cast<int>(i == lastGroup ? last : 16);
        if (i == lastGroup) found[count++] = static_cast<std::uint8_t>(last);
        while (--n >= 0) {
            bool significant = true;
            if (n > 0 || !inferred) {
                significant = bit(element::kSignificant + std::size_t{contexts[static_cast<std::size_t>(n)]});
            }
            // Without a branch: whether it is one is as good as random.
            found[count] = static_cast<std::uint8_t>(n);
            count += significant ? 1 : 0;
            inferred = inferred && !significant;
        }
        if (count == 0) continue;
        // Levels above one and two.
        unsigned set = i == 0 || !luma ? 0 : 2;
        if (i != lastGroup && second) ++set;
        unsigned step = 1;
        std::array<std::uint8_t, 16> base{};
        std::size_t firstGreater = 16;
        for (std::size_t k = 0; k < count; ++k) {
            base[k] = 1;
            if (k >= 8) continue;
            if (bit(element::kGreater1 + 4 * set + step + (luma ? 0U : 16U))) {
                base[k] = 2;
                step = 0;
                if (firstGreater == 16) firstGreater = k;
            } else if (step > 0 && step < 3) {
                ++step;
            }
        }
        second = step == 0;
        if (firstGreater < 16 && bit(element::kGreater2 + set + (luma ? 0U : 4U))) base[firstGreater] = 3;
        const bool hidden = picture_.signHiding && !neverHidden && found[0] - found[count - 1] > 3;
        arithmetic.bypass(static_cast<unsigned>(count) - (hidden ? 1U : 0U));
        // What is left of them.
        auto& statistic = entropy_.rice[(luma ? 2U : 0U) + (untransformed ? 1U : 0U)];
        unsigned rice = sequence_.persistentRice ? statistic / 4U : 0;
        bool firstLeft = true;
        for (std::size_t k = 0; k < count && wrong_ == nullptr; ++k) {
            const unsigned most = k >= 8 ? 1 : k == firstGreater ? 3 : 2;
            if (base[k] != most) continue;
            const auto left = remainingLevel(arithmetic, rice);
            const auto level = base[k] + left;
            if (level > kLargestLevel) wrong("a coefficient that cannot be");
            if (level > 3U << rice) rice = sequence_.persistentRice ? rice + 1 : std::min(rice + 1, 4U);
            if (firstLeft && sequence_.persistentRice) {
                if (left >= 3U << (statistic / 4)) {
                    ++statistic;
                } else if (2 * left < 1U << (statistic / 4) && statistic > 0) {
                    --statistic;
                }
            }
            firstLeft = false;
        }
    }
    arithmetic_ = arithmetic;
}

}  // namespace dreskel::hevc
