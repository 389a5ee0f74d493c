#include "formats/vp8/motion.h"

#include <algorithm>
#include <utility>

namespace dreskel::vp8 {
namespace {

// Section 17.2.
std::int32_t readPart(const MotionPart& part, BoolDecoder& bits) {
    const auto& chances = part.chances;
    int value = 0;
    if (bits.bit(chances[MotionPart::kIsLong])) {
        constexpr int kLongest = 9;
        const auto bit = [&](int i) {
            return bits.bit(chances[MotionPart::kBits + static_cast<std::size_t>(i)]) ? 1 << i : 0;
        };
        for (int i = 0; i < 3; ++i) value += bit(i);
        for (int i = kLongest; i > 3; --i) value += bit(i);
        // Without a higher bit this one must be there, or it would be a short one.
        if (value < 16 || bits.bit(chances[MotionPart::kBits + 3])) value += 8;
    } else {
        const auto* tree = &chances[MotionPart::kShort];
        const int high = bits.bit(tree[0]) ? 1 : 0;
        const int middle = bits.bit(tree[1 + 3 * high]) ? 1 : 0;
        value = 4 * high + 2 * middle + (bits.bit(tree[2 + 3 * high + middle]) ? 1 : 0);
    }
    const bool negative = value != 0 && bits.bit(chances[MotionPart::kSign]);
    return negative ? -value : value;
}

Vector readVector(Vector from, const MotionChances& chances, BoolDecoder& bits) {
    from.row += readPart(chances[0], bits);
    from.column += readPart(chances[1], bits);
    return from;
}

// Which part a subblock belongs to, for each way to divide a macroblock (16.4): above and below, left and
// right, quarters, one by one.
std::size_t partOf(std::size_t way, std::size_t subblock) {
    const auto row = subblock / 4, column = subblock % 4;
    switch (way) {
        case 0: return row / 2;
        case 1: return column / 2;
        case 2: return row / 2 * 2 + column / 2;
        default: return subblock;
    }
}

}  // namespace

MotionField::MotionField(std::uint32_t columns, std::uint32_t rows)
    : columns_(columns), rows_(rows), row_(columns + 1), above_(columns + 1) {}

void MotionField::beginRow(std::uint32_t row) {
    rowNumber_ = row;
    if (row > 0) std::swap(row_, above_);
}

// Guesses point at most so far out of the picture that nothing of it is left.
Vector MotionField::within(Vector vector, std::uint32_t column) const {
    const auto clamped = [](int value, std::uint32_t at, std::uint32_t count) {
        constexpr int kMacroblock = 16 * 4;
        const int least = -static_cast<int>(at + 1) * kMacroblock;
        const int most = static_cast<int>(count - at) * kMacroblock;
        return std::clamp(value, least, most);
    };
    return {clamped(vector.row, rowNumber_, rows_), clamped(vector.column, column, columns_)};
}

MotionField::Near MotionField::near(std::uint32_t column, Reference reference,
                                    const std::array<bool, 4>& turned) const {
    const auto &above = above_[column + 1], &left = row_[column], &between = above_[column];
    std::array<Vector, 4> found{};
    Near near;
    auto& weights = near.weights;
    std::size_t count = 0;
    for (const auto& [block, weight] :
         {std::pair(&above, 2U), std::pair(&left, 2U), std::pair(&between, 1U)}) {
        if (block->reference == Inside) continue;
        auto vector = block->whole();
        if (vector.still()) {
            weights[0] += weight;
            continue;
        }
        if (turned[block->reference] != turned[reference]) {
            vector.row = -vector.row;
            vector.column = -vector.column;
        }
        if (count == 0 || vector != found[count]) found[++count] = vector;
        weights[count] += weight;
    }
    if (weights[3] > 0 && found[3] == found[1]) ++weights[1];
    weights[3] = (above.inParts ? 2U : 0U) + (left.inParts ? 2U : 0U) + (between.inParts ? 1U : 0U);
    if (weights[2] > weights[1]) {
        std::swap(weights[1], weights[2]);
        std::swap(found[1], found[2]);
    }
    if (weights[1] >= weights[0]) found[0] = found[1];
    for (std::size_t i = 0; i < 3; ++i) near.vectors[i] = within(found[i], column);
    return near;
}

bool MotionField::read(std::uint32_t column, Reference reference, const std::array<bool, 4>& turned,
                       const MotionChances& chances, BoolDecoder& bits) {
    const auto near = this->near(column, reference, turned);
    const auto further = [&](std::size_t i) { return bits.bit(kMotionModes[near.weights[i]][i]); };
    auto& block = at(column);
    block.reference = reference;
    block.inParts = false;
    Vector vector;
    if (further(0)) {
        vector = near.vectors[1];
        if (further(1)) {
            vector = near.vectors[2];
            if (further(2)) {
                if (further(3)) {
                    block.inParts = true;
                    readParts(column, near.vectors[0], chances, bits);
                    return true;
                }
                vector = readVector(near.vectors[0], chances, bits);
            }
        }
    }
    block.parts.fill(vector);
    return false;
}

void MotionField::readParts(std::uint32_t column, Vector best, const MotionChances& chances,
                            BoolDecoder& bits) {
    const std::size_t way = !bits.bit(110) ? 3 : !bits.bit(111) ? 2 : bits.bit(150) ? 1 : 0;
    auto& parts = at(column).parts;
    const auto &beside = row_[column].parts, &over = above_[column + 1].parts;
    std::size_t next = 0;
    for (std::size_t i = 0; i < 16; ++i) {
        if (partOf(way, i) != next) continue;
        const auto left = i % 4 == 0 ? beside[i + 3] : parts[i - 1];
        const auto above = i < 4 ? over[i + 12] : parts[i - 4];
        const std::size_t like = left == above   ? (above.still() ? 4 : 3)
                                 : above.still() ? 2
                                 : left.still()  ? 1
                                                 : 0;
        const auto& modes = kPartModes[like];
        Vector vector;
        if (!bits.bit(modes[0])) {
            vector = left;
        } else if (!bits.bit(modes[1])) {
            vector = above;
        } else if (bits.bit(modes[2])) {
            vector = readVector(best, chances, bits);
        }
        for (auto k = i; k < 16; ++k) {
            if (partOf(way, k) == next) parts[k] = vector;
        }
        ++next;
    }
}

}  // namespace dreskel::vp8
