// How blocks of VP9 are foretold and transformed (sections 6.4.5 to 6.4.19).
#include <algorithm>

#include "formats/vp9/tables.h"
#include "formats/vp9/tile.h"

namespace dreskel::vp9 {
namespace {

std::uint8_t largestTransform(BlockSize size) {
    return std::min<std::uint8_t>(3, std::min(kWidths[size], kHeights[size]));
}

// The quarters of eight pixels, one after the other as the block is divided; what is read for one holds for
// those that belong to it.
template <class Read>
void eachQuarter(const Block& block, const Read& read) {
    const std::size_t wide = std::size_t{1} << kWidths[block.size],
                      high = std::size_t{1} << kHeights[block.size];
    for (std::size_t y = 0; y < 2; y += high) {
        for (std::size_t x = 0; x < 2; x += wide) {
            std::array<std::size_t, 4> all{};
            std::size_t count = 0;
            for (std::size_t i = 0; i < high; ++i) {
                for (std::size_t k = 0; k < wide; ++k) all[count++] = 2 * (y + i) + x + k;
            }
            read(2 * y + x, all.data(), count);
        }
    }
}

}  // namespace

const SegmentRule& Tile::ruleOf(const Block& block) const {
    static const SegmentRule none;
    const auto& segments = picture_.kept.segmentation;
    return segments.enabled ? segments.rules[block.segment] : none;
}

void Tile::readModes(Block& block) {
    readSegment(block);
    readSkipped(block);
    if (!picture_.head.inter()) {
        readTransform(block, true);
        return readKeyModes(block);
    }
    const bool inter = readInter(block);
    readTransform(block, !block.skipped || !inter);
    if (!inter) return readIntraModes(block);
    readReferences(block);
    readMotion(block);
}

std::uint8_t Tile::segmentBefore(const Block& block) const {
    const auto width = std::min(eightsOf(kWidths[block.size]), field_.columns() - place_.column);
    const auto height = std::min(eightsOf(kHeights[block.size]), field_.rows() - place_.row);
    std::uint8_t least = 7;
    for (std::uint32_t y = 0; y < height; ++y) {
        for (std::uint32_t x = 0; x < width; ++x) {
            const auto at = std::size_t{place_.row + y} * field_.columns() + place_.column + x;
            least = std::min(least, picture_.segmentsBefore[at]);
        }
    }
    return least;
}

void Tile::keepSegment(const Block& block, bool asBefore) {
    const auto width = std::min(eightsOf(kWidths[block.size]), field_.columns() - place_.column);
    const auto height = std::min(eightsOf(kHeights[block.size]), field_.rows() - place_.row);
    for (std::uint32_t y = 0; y < height; ++y) {
        for (std::uint32_t x = 0; x < width; ++x) {
            const auto at = std::size_t{place_.row + y} * field_.columns() + place_.column + x;
            picture_.segments[at] = asBefore ? picture_.segmentsBefore[at] : block.segment;
        }
    }
}

std::size_t Tile::readSegmentNumber() {
    return readTree(bits_, kSegmentTree, picture_.kept.segmentation.chances.data());
}

void Tile::readSegment(Block& block) {
    const auto& segments = picture_.kept.segmentation;
    if (!segments.enabled) return;
    const bool inter = picture_.head.inter();
    if (!segments.updatesMap) {
        if (inter) block.segment = segmentBefore(block);
        return keepSegment(block, true);
    }
    if (inter && segments.foretold) {
        const auto is = [](const Block* one) { return one != nullptr && one->foretold ? std::size_t{1} : 0; };
        block.foretold = bits_.bit(segments.foretoldChances[is(beside_.above) + is(beside_.left)]);
    }
    block.segment = block.foretold ? segmentBefore(block) : static_cast<std::uint8_t>(readSegmentNumber());
    keepSegment(block, false);
}

void Tile::readSkipped(Block& block) {
    if (ruleOf(block).skipped) {
        block.skipped = true;
        return;
    }
    const auto is = [](const Block* one) { return one != nullptr && one->skipped ? std::size_t{1} : 0; };
    const auto context = is(beside_.above) + is(beside_.left);
    block.skipped = counted(chances_.skipped[context], counts_.skipped[context]);
}

void Tile::readTransform(Block& block, bool choice) {
    const auto largest = largestTransform(block.size);
    block.transform = std::min(largest, picture_.stated.largestTransform);
    if (!choice || !picture_.stated.selectsTransform || block.size < kEight) return;
    const auto of = [&](const Block* one) -> std::uint32_t {
        return one == nullptr || one->skipped ? largest : one->transform;
    };
    auto above = of(beside_.above), left = of(beside_.left);
    if (beside_.left == nullptr) left = above;
    if (beside_.above == nullptr) above = left;
    const std::size_t context = above + left > largest ? 1 : 0;
    const auto read = [&](const auto& chances, auto& counts) {
        std::uint8_t size = 0;
        while (size < largest && bits_.bit(chances[size])) ++size;
        ++counts[size];
        block.transform = size;
    };
    switch (largest) {
        case 1: return read(chances_.transforms8[context], counts_.transforms8[context]);
        case 2: return read(chances_.transforms16[context], counts_.transforms16[context]);
        default: return read(chances_.transforms32[context], counts_.transforms32[context]);
    }
}

bool Tile::readInter(const Block& block) {
    if (const auto& stated = ruleOf(block).reference) return *stated != kInside;
    const auto *above = beside_.above, *left = beside_.left;
    std::size_t context = 0;
    if (above != nullptr && left != nullptr) {
        context = !above->inter() && !left->inter() ? 3 : !above->inter() || !left->inter() ? 1 : 0;
    } else if (above != nullptr || left != nullptr) {
        context = (above != nullptr ? above : left)->inter() ? 0 : 2;
    }
    return counted(chances_.inter[context], counts_.inter[context]);
}

void Tile::readKeyModes(Block& block) {
    const auto mode = [&](std::size_t quarter) {
        const auto other = [](const Block* one, std::size_t i) {
            return one == nullptr ? std::uint8_t{kDc} : one->modes[i];
        };
        const auto over = quarter >= 2 ? block.modes[quarter - 2] : other(beside_.above, quarter + 2);
        const auto beside = quarter % 2 == 1 ? block.modes[quarter - 1] : other(beside_.left, quarter + 1);
        return static_cast<std::uint8_t>(readTree(bits_, kIntraModeTree, kKeyLumaModes[over][beside].data()));
    };
    if (block.size >= kEight) {
        block.modes.fill(mode(0));
    } else {
        eachQuarter(block, [&](std::size_t first, const std::size_t* all, std::size_t count) {
            const auto read = mode(first);
            for (std::size_t i = 0; i < count; ++i) block.modes[all[i]] = read;
        });
    }
    readTree(bits_, kIntraModeTree, kKeyChromaModes[block.modes[3]].data());
}

void Tile::readIntraModes(Block& block) {
    constexpr std::array<std::uint8_t, 13> groups{0, 0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3, 3};
    const std::size_t group = groups[block.size];
    const auto mode = [&] {
        const auto read = readTree(bits_, kIntraModeTree, chances_.lumaModes[group].data());
        ++counts_.lumaModes[group][read];
        return static_cast<std::uint8_t>(read);
    };
    if (block.size >= kEight) {
        block.modes.fill(mode());
    } else {
        eachQuarter(block, [&](std::size_t, const std::size_t* all, std::size_t count) {
            const auto read = mode();
            for (std::size_t i = 0; i < count; ++i) block.modes[all[i]] = read;
        });
    }
    const auto luma = block.modes[3];
    ++counts_.chromaModes[luma][readTree(bits_, kIntraModeTree, chances_.chromaModes[luma].data())];
}

void Tile::readReferences(Block& block) {
    if (const auto& stated = ruleOf(block).reference) {
        block.references = {static_cast<Reference>(*stated), kNone};
        return;
    }
    bool compound = picture_.stated.references == References::Compound;
    if (picture_.stated.references == References::Selected) {
        const auto context = compoundContext(beside_, pairs_);
        compound = counted(chances_.compound[context], counts_.compound[context]);
    }
    if (compound) {
        const auto context = secondContext(beside_, pairs_);
        const bool second = counted(chances_.second[context], counts_.second[context]);
        block.references[pairs_.fixedPlace] = pairs_.fixed;
        block.references[pairs_.otherPlace] = pairs_.others[second ? 1 : 0];
        return;
    }
    Reference reference = kLast;
    const auto first = firstSingleContext(beside_);
    if (counted(chances_.single[first][0], counts_.single[first][0])) {
        const auto other = otherSingleContext(beside_);
        reference = counted(chances_.single[other][1], counts_.single[other][1]) ? kOther : kGolden;
    }
    block.references = {reference, kNone};
}

std::uint8_t Tile::readMotionMode(std::size_t context) {
    const auto mode = readTree(bits_, kMotionModeTree, chances_.motionModes[context].data());
    ++counts_.motionModes[context][mode];
    return static_cast<std::uint8_t>(mode);
}

void Tile::readFilter(Block& block) {
    if (!picture_.head.switchableFilter) return;
    constexpr std::size_t kAny = 3;
    const auto of = [](const Block* one) { return one != nullptr && one->inter() ? one->filter : kAny; };
    const auto above = of(beside_.above), left = of(beside_.left);
    const auto context = left == above || above == kAny ? left : left == kAny ? above : kAny;
    const auto filter = readTree(bits_, kFilterTree, chances_.filters[context].data());
    ++counts_.filters[context][filter];
    block.filter = static_cast<std::uint8_t>(filter);
}

std::array<Vector, 2> Tile::readMoved(const Block& block, const std::array<Vector, 2>& from) {
    auto vectors = from;
    for (std::size_t i = 0; i < (block.compound() ? 2U : 1U); ++i) {
        const bool eighths = picture_.head.eighths && from[i].fine();
        const auto by = readDifference(bits_, chances_, counts_, eighths);
        const auto moved = [&](int value, int difference) {
            constexpr int kFurthest = 1 << 14;
            if (std::abs(value + difference) >= kFurthest) wrong_ = "a part of it moves further than can be";
            return static_cast<std::int16_t>(std::clamp(value + difference, -kFurthest, kFurthest));
        };
        vectors[i] = {moved(from[i].row, by.row), moved(from[i].column, by.column)};
    }
    return vectors;
}

void Tile::readMotion(Block& block) {
    std::array<Vector, 2> best{}, second{};
    std::size_t context = 0;
    for (std::size_t i = 0; i < (block.compound() ? 2U : 1U); ++i) {
        const auto found = suggest(around_, place_, block.size, block.references[i], std::nullopt);
        if (i == 0) context = found.context;
        best[i] = coarse(found.vectors[0], picture_.head.eighths);
        second[i] = coarse(found.vectors[1], picture_.head.eighths);
    }
    const bool still = ruleOf(block).skipped;
    if (still && block.size < kEight) wrong_ = "a small block of it has rules that it cannot have";
    std::uint8_t mode = kZero;
    if (!still && block.size >= kEight) mode = readMotionMode(context);
    readFilter(block);
    if (block.size < kEight) return readQuarters(block, best, context);
    std::array<Vector, 2> vectors{};
    switch (mode) {
        case kNearest: vectors = best; break;
        case kNear: vectors = second; break;
        case kNew: vectors = readMoved(block, best); break;
        default: break;
    }
    block.modes.fill(mode);
    block.vectors.fill(vectors);
}

void Tile::readQuarters(Block& block, const std::array<Vector, 2>& best, std::size_t context) {
    eachQuarter(block, [&](std::size_t quarter, const std::size_t* all, std::size_t count) {
        const auto mode = readMotionMode(context);
        std::array<Vector, 2> vectors{};
        if (mode == kNew) {
            vectors = readMoved(block, best);
        } else if (mode != kZero) {
            vectors = quarterMotion(block, quarter, mode);
        }
        for (std::size_t i = 0; i < count; ++i) {
            block.modes[all[i]] = mode;
            block.vectors[all[i]] = vectors;
        }
    });
}

// Section 6.4.24: what the quarters in front and the neighbours suggest.
std::array<Vector, 2> Tile::quarterMotion(const Block& block, std::size_t quarter, std::uint8_t mode) const {
    std::array<Vector, 2> vectors{};
    for (std::size_t which = 0; which < (block.compound() ? 2U : 1U); ++which) {
        const auto found = suggest(around_, place_, block.size, block.references[which], quarter).vectors;
        const auto of = [&](std::size_t other) { return block.vectors[other][which]; };
        std::array<Vector, 5> candidates{};
        std::size_t count = 0;
        if (quarter == 3) {
            candidates = {of(2), of(1), of(0), found[0], found[1]};
            count = 5;
        } else if (quarter > 0) {
            candidates = {of(0), found[0], found[1]};
            count = 3;
        } else {
            vectors[which] = found[mode == kNear ? 1 : 0];
            continue;
        }
        if (mode == kNearest) {
            vectors[which] = candidates[0];
            continue;
        }
        const auto begin = candidates.begin(), end = begin + static_cast<std::ptrdiff_t>(count);
        const auto next = std::find_if(begin, end, [&](const Vector& each) { return each != *begin; });
        vectors[which] = next == end ? Vector{} : *next;
    }
    return vectors;
}

}  // namespace dreskel::vp9
