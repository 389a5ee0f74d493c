#include "formats/vp9/motion.h"

#include <utility>

namespace dreskel::vp9 {
namespace {

// Where to look, nearest first, as columns and rows of eight pixels (6.4.22, mv_ref_blocks).
using Offset = std::pair<std::int8_t, std::int8_t>;
using Offsets = std::array<Offset, 8>;
constexpr Offsets kSmall{{{0, -1}, {-1, 0}, {-1, -1}, {0, -2}, {-2, 0}, {-1, -2}, {-2, -1}, {-2, -2}}};
constexpr std::array<Offsets, 13> kOffsets{{
    kSmall,
    kSmall,
    kSmall,
    kSmall,
    {{{-1, 0}, {0, -1}, {-1, 1}, {-1, -1}, {-2, 0}, {0, -2}, {-1, -2}, {-2, -1}}},
    {{{0, -1}, {-1, 0}, {1, -1}, {-1, -1}, {0, -2}, {-2, 0}, {-2, -1}, {-1, -2}}},
    {{{0, -1}, {-1, 0}, {1, -1}, {-1, 1}, {-1, -1}, {0, -3}, {-3, 0}, {-3, -3}}},
    {{{-1, 0}, {0, -1}, {-1, 2}, {-1, -1}, {1, -1}, {-3, 0}, {0, -3}, {-3, -3}}},
    {{{0, -1}, {-1, 0}, {2, -1}, {-1, -1}, {-1, 1}, {0, -3}, {-3, 0}, {-3, -3}}},
    {{{1, -1}, {-1, 1}, {2, -1}, {-1, 2}, {-1, -1}, {0, -3}, {-3, 0}, {-3, -3}}},
    {{{-1, 0}, {0, -1}, {-1, 4}, {2, -1}, {-1, -1}, {-3, 0}, {0, -3}, {-1, 2}}},
    {{{0, -1}, {-1, 0}, {4, -1}, {-1, 2}, {-1, -1}, {0, -3}, {-3, 0}, {2, -1}}},
    {{{3, -1}, {-1, 3}, {4, -1}, {-1, 4}, {-1, -1}, {0, -1}, {-1, 0}, {6, -1}}},
}};

// The first two different vectors.
class List {
  public:
    explicit List(std::array<Vector, 2>& vectors) : vectors_(vectors) {}
    bool full() const { return count_ == 2; }
    void add(Vector vector) {
        if (full() || (count_ == 1 && vector == vectors_[0])) return;
        vectors_[count_++] = vector;
    }

  private:
    std::array<Vector, 2>& vectors_;
    std::size_t count_ = 0;
};

void addOther(List& list, const Block& block, Reference reference, const std::array<bool, 4>& turned) {
    const auto add = [&](std::size_t i) {
        auto vector = block.vectors[3][i];
        if (turned[static_cast<std::size_t>(block.references[i])] !=
            turned[static_cast<std::size_t>(reference)]) {
            vector.row = static_cast<std::int16_t>(-vector.row);
            vector.column = static_cast<std::int16_t>(-vector.column);
        }
        list.add(vector);
    };
    if (!block.inter()) return;
    if (block.references[0] != reference) add(0);
    // Compared as they are, before one is turned.
    if (block.compound() && block.references[1] != reference && block.vectors[3][0] != block.vectors[3][1])
        add(1);
}

// Of a neighbour, by whether it is foretold from others, and how (7.4.6, counter_to_context).
std::size_t weightOf(const Block& block) {
    if (!block.inter()) return 9;
    switch (block.modes[3]) {
        case kZero: return 3;
        case kNew: return 1;
        default: return 0;
    }
}
std::size_t contextOf(std::size_t weight) {
    switch (weight) {
        case 0: return 2;
        case 1: return 3;
        case 2: return 4;
        case 3: return 1;
        case 4: return 3;
        case 6: return 0;
        case 18: return 6;
        default: return 5;
    }
}

// No further out of the picture than two blocks.
Vector within(Vector vector, Place place, BlockSize size, const Field& field) {
    const auto clamped = [](int value, std::uint32_t at, std::uint32_t length, std::uint32_t count) {
        constexpr int kEightPixels = 64, kBorder = 128;
        const int least = -static_cast<int>(at) * kEightPixels - kBorder;
        const int most =
            (static_cast<int>(count) - static_cast<int>(length) - static_cast<int>(at)) * kEightPixels +
            kBorder;
        return static_cast<std::int16_t>(value < least ? least : value > most ? most : value);
    };
    return {clamped(vector.row, place.row, eightsOf(kHeights[size]), field.rows()),
            clamped(vector.column, place.column, eightsOf(kWidths[size]), field.columns())};
}

int readPart(BoolDecoder& bits, const MotionPart& chances, Counts::Motion& counts, bool eighths) {
    const auto counted = [&](std::uint8_t chance, auto& of) {
        const bool one = bits.bit(chance);
        ++of[one ? 1 : 0];
        return one ? 1U : 0U;
    };
    const bool negative = counted(chances.sign, counts.sign) != 0;
    const auto kind = readTree(bits, kClassTree, chances.classes.data());
    ++counts.classes[kind];
    std::uint32_t pixels = 0;
    std::uint32_t base = 0;
    if (kind == 0) {
        pixels = counted(chances.nearPixels[0], counts.nearPixels);
    } else {
        for (std::size_t i = 0; i < kind; ++i) pixels |= counted(chances.bits[i], counts.bits[i]) << i;
        base = 2U << (kind + 2);
    }
    const auto& fractions = kind == 0 ? chances.nearFractions[pixels] : chances.fractions;
    const auto fraction = readTree(bits, kFractionTree, fractions.data());
    ++(kind == 0 ? counts.nearFractions[pixels] : counts.fractions)[fraction];
    auto& ofEighths = kind == 0 ? counts.nearEighth : counts.eighth;
    // One that is not coded is counted as if it were.
    std::uint32_t eighth = 1;
    if (eighths) {
        eighth = counted(kind == 0 ? chances.nearEighth : chances.eighth, ofEighths);
    } else {
        ++ofEighths[1];
    }
    const auto size =
        static_cast<int>(base + (pixels << 3 | static_cast<std::uint32_t>(fraction) << 1 | eighth)) + 1;
    return negative ? -size : size;
}

}  // namespace

Suggested suggest(const Surroundings& around, Place place, BlockSize size, Reference reference,
                  std::optional<std::size_t> quarter) {
    // Of a neighbour's quarters the one that touches this quarter: by whether it is above or on the left.
    constexpr std::array<std::array<std::size_t, 2>, 4> touching{{{2, 1}, {3, 1}, {2, 3}, {3, 3}}};
    Suggested found;
    List list(found.vectors);
    std::array<const Block*, 8> neighbours{};
    std::size_t weight = 0;
    for (std::size_t i = 0; i < neighbours.size(); ++i) {
        const auto [columns, rows] = kOffsets[size][i];
        const auto column = static_cast<std::int64_t>(place.column) + columns;
        const auto row = static_cast<std::int64_t>(place.row) + rows;
        if (row < 0 || row >= around.field.rows() || column < around.firstColumn ||
            column >= around.endColumn)
            continue;
        const auto& block =
            around.field.at({static_cast<std::uint32_t>(row), static_cast<std::uint32_t>(column)});
        neighbours[i] = &block;
        if (i < 2) weight += weightOf(block);
        const auto part =
            i < 2 && quarter && block.size < kEight ? touching[*quarter][columns == 0 ? 0 : 1] : 3;
        for (std::size_t which = 0; which < 2; ++which) {
            if (block.references[which] != reference) continue;
            list.add(block.vectors[part][which]);
            break;
        }
    }
    found.context = contextOf(weight);
    const auto* before = around.before == nullptr ? nullptr : &around.before->at(place);
    if (before != nullptr) {
        for (std::size_t which = 0; which < 2; ++which) {
            if (before->references[which] != reference) continue;
            list.add(before->vectors[3][which]);
            break;
        }
    }
    for (const auto* block : neighbours) {
        if (block != nullptr) addOther(list, *block, reference, around.turned);
    }
    if (before != nullptr) addOther(list, *before, reference, around.turned);
    for (auto& vector : found.vectors) vector = within(vector, place, size, around.field);
    return found;
}

Vector coarse(Vector vector, bool eighths) {
    if (eighths && vector.fine()) return vector;
    const auto even = [](std::int16_t value) {
        if ((value & 1) == 0) return value;
        return static_cast<std::int16_t>(value > 0 ? value - 1 : value + 1);
    };
    return {even(vector.row), even(vector.column)};
}

Vector readDifference(BoolDecoder& bits, const Chances& chances, Counts& counts, bool eighths) {
    const auto joint = readTree(bits, kFourTree, chances.joints.data());
    ++counts.joints[joint];
    Vector vector;
    if (joint >= 2)
        vector.row = static_cast<std::int16_t>(readPart(bits, chances.motion[0], counts.motion[0], eighths));
    if (joint == 1 || joint == 3)
        vector.column =
            static_cast<std::int16_t>(readPart(bits, chances.motion[1], counts.motion[1], eighths));
    return vector;
}

}  // namespace dreskel::vp9
