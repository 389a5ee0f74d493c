#include "formats/vp9/references.h"

namespace dreskel::vp9 {
namespace {

std::size_t number(bool yes) {
    return yes ? 1 : 0;
}
bool uses(const Block& block, Reference reference) {
    return block.references[0] == reference || (block.compound() && block.references[1] == reference);
}

}  // namespace

Pairs::Pairs(const std::array<bool, 4>& turned) {
    if (turned[kLast] == turned[kGolden]) {
        fixed = kOther;
        others = {kLast, kGolden};
    } else if (turned[kLast] == turned[kOther]) {
        fixed = kGolden;
        others = {kLast, kOther};
    } else {
        fixed = kLast;
        others = {kGolden, kOther};
    }
    fixedPlace = number(turned[static_cast<std::size_t>(fixed)]);
    otherPlace = 1 - fixedPlace;
}

std::size_t compoundContext(const Beside& beside, const Pairs& pairs) {
    const auto *above = beside.above, *left = beside.left;
    const auto isFixed = [&](const Block& block) { return block.references[0] == pairs.fixed; };
    if (above == nullptr && left == nullptr) return 1;
    if (above == nullptr || left == nullptr) {
        const auto& one = above != nullptr ? *above : *left;
        return one.compound() ? 3 : number(isFixed(one));
    }
    if (above->compound() && left->compound()) return 4;
    if (!above->compound() && !left->compound()) return number(isFixed(*above) != isFixed(*left));
    const auto& single = above->compound() ? *left : *above;
    return 2 + number(isFixed(single) || !single.inter());
}

std::size_t secondContext(const Beside& beside, const Pairs& pairs) {
    const auto *above = beside.above, *left = beside.left;
    const auto other = [&](const Block& block) {
        return block.references[block.compound() ? pairs.otherPlace : 0];
    };
    const auto last = pairs.others[1];
    if (above == nullptr && left == nullptr) return 2;
    if (above == nullptr || left == nullptr) {
        const auto& one = above != nullptr ? *above : *left;
        if (!one.inter()) return 2;
        return (one.compound() ? 4 : 3) * number(other(one) != last);
    }
    if (!above->inter() && !left->inter()) return 2;
    if (!above->inter() || !left->inter())
        return 1 + 2 * number(other(above->inter() ? *above : *left) != last);
    const auto ofAbove = other(*above), ofLeft = other(*left);
    if (ofAbove == ofLeft && ofAbove == last) return 0;
    if (!above->compound() && !left->compound()) {
        if ((ofAbove == pairs.fixed && ofLeft == pairs.others[0]) ||
            (ofLeft == pairs.fixed && ofAbove == pairs.others[0]))
            return 4;
        return ofAbove == ofLeft ? 3 : 1;
    }
    if (above->compound() && left->compound()) return ofAbove == ofLeft ? 4 : 2;
    const auto ofPair = above->compound() ? ofAbove : ofLeft, ofSingle = above->compound() ? ofLeft : ofAbove;
    if (ofPair == last && ofSingle != last) return 1;
    return ofSingle == last && ofPair != last ? 2 : 4;
}

std::size_t firstSingleContext(const Beside& beside) {
    const auto *above = beside.above, *left = beside.left;
    if (above == nullptr && left == nullptr) return 2;
    if (above == nullptr || left == nullptr || !above->inter() || !left->inter()) {
        const bool both = above != nullptr && left != nullptr;
        const auto& one = above == nullptr || (both && !above->inter()) ? *left : *above;
        if (!one.inter()) return 2;
        return one.compound() ? 1 + number(uses(one, kLast)) : 4 * number(one.references[0] == kLast);
    }
    if (above->compound() && left->compound()) return 1 + number(uses(*above, kLast) || uses(*left, kLast));
    if (!above->compound() && !left->compound())
        return 2 * number(above->references[0] == kLast) + 2 * number(left->references[0] == kLast);
    const auto &single = above->compound() ? *left : *above, &pair = above->compound() ? *above : *left;
    return (single.references[0] == kLast ? 3 : 0) + number(uses(pair, kLast));
}

std::size_t otherSingleContext(const Beside& beside) {
    const auto *above = beside.above, *left = beside.left;
    if (above == nullptr && left == nullptr) return 2;
    if (above == nullptr || left == nullptr) {
        const auto& one = above != nullptr ? *above : *left;
        if (!one.inter() || (one.references[0] == kLast && !one.compound())) return 2;
        return (one.compound() ? 3 : 4) * number(uses(one, kGolden));
    }
    if (!above->inter() && !left->inter()) return 2;
    if (!above->inter() || !left->inter()) {
        const auto& one = above->inter() ? *above : *left;
        if (one.compound()) return 1 + 2 * number(uses(one, kGolden));
        return one.references[0] == kLast ? 3 : 4 * number(one.references[0] == kGolden);
    }
    const auto ofAbove = above->references[0], ofLeft = left->references[0];
    if (above->compound() && left->compound()) {
        if (above->references != left->references) return 2;
        return 3 * number(uses(*above, kGolden));
    }
    if (!above->compound() && !left->compound()) {
        if (ofAbove == kLast && ofLeft == kLast) return 3;
        if (ofAbove == kLast || ofLeft == kLast)
            return 4 * number((ofAbove == kLast ? ofLeft : ofAbove) == kGolden);
        return 2 * number(ofAbove == kGolden) + 2 * number(ofLeft == kGolden);
    }
    const auto &single = above->compound() ? *left : *above, &pair = above->compound() ? *above : *left;
    const auto golden = number(uses(pair, kGolden));
    switch (single.references[0]) {
        case kGolden: return 3 + golden;
        case kOther: return golden;
        default: return 1 + 2 * golden;
    }
}

}  // namespace dreskel::vp9
