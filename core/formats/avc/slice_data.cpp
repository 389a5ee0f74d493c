#include "formats/avc/slice_data.h"

#include <algorithm>
#include <utility>

namespace dreskel::avc {
namespace {

using Kind = Macroblock::Kind;

constexpr unsigned kPlainType = 25, kQuartersP = 3, kQuartersB = 22, kDirect = 0;

struct Lists {
    bool first = false, second = false;
};
constexpr Lists kFirst{true, false}, kSecond{false, true}, kBoth{true, true};

// Table 7-14: the lists of the two parts of macroblock types 4 to 21 of B slices, two types a line: above
// each other and side by side.
constexpr std::array<std::array<Lists, 2>, 9> kListsB{{{kFirst, kFirst},
                                                       {kSecond, kSecond},
                                                       {kFirst, kSecond},
                                                       {kSecond, kFirst},
                                                       {kFirst, kBoth},
                                                       {kSecond, kBoth},
                                                       {kBoth, kFirst},
                                                       {kBoth, kSecond},
                                                       {kBoth, kBoth}}};

// Tables 7-17 and 7-18: how wide and high the parts of a quarter are, in blocks of four by four.
struct Quarter {
    unsigned wide = 2, high = 2;
    Lists lists = kFirst;
    bool direct = false;
};
constexpr std::array<Quarter, 4> kQuarterP{{{2, 2}, {2, 1}, {1, 2}, {1, 1}}};
constexpr std::array<Quarter, 13> kQuarterB{{{2, 2, {}, true},
                                             {2, 2, kFirst},
                                             {2, 2, kSecond},
                                             {2, 2, kBoth},
                                             {2, 1, kFirst},
                                             {1, 2, kFirst},
                                             {2, 1, kSecond},
                                             {1, 2, kSecond},
                                             {2, 1, kBoth},
                                             {1, 2, kBoth},
                                             {1, 1, kFirst},
                                             {1, 1, kSecond},
                                             {1, 1, kBoth}}};

// Blocks of four by four in the order of coding (6.4.3), as places in rows.
constexpr std::array<unsigned, 16> kInRows{0, 1, 4, 5, 2, 3, 6, 7, 8, 9, 12, 13, 10, 11, 14, 15};

}  // namespace

SliceData::SliceData(std::shared_ptr<const Sequence> sequence, std::shared_ptr<const PictureSet> picture,
                     const SliceHead& head)
    : sequence_(std::move(sequence)),
      picture_(std::move(picture)),
      field_(head.field),
      adaptive_(head.adaptive),
      wide_(sequence_->wide),
      blocks_(wide_ * (sequence_->high / (head.field ? 2 : 1))) {}

Neighbours SliceData::neighbours() const {
    if (adaptive_) return neighboursInPairs();
    Neighbours near;
    if (next_ % wide_ > 0 && blocks_[next_ - 1].slice == slices_) near.left = &blocks_[next_ - 1];
    if (next_ >= wide_ && blocks_[next_ - wide_].slice == slices_) near.above = &blocks_[next_ - wide_];
    return near;
}

const Macroblock* SliceData::pairToTheLeft() const {
    if (next_ / 2 % wide_ == 0) return nullptr;
    const auto* upper = &blocks_[next_ / 2 * 2 - 2];
    return upper->slice == slices_ ? upper : nullptr;
}

const Macroblock* SliceData::pairAbove() const {
    if (next_ / 2 < wide_) return nullptr;
    const auto* upper = &blocks_[(next_ / 2 - wide_) * 2];
    return upper->slice == slices_ ? upper : nullptr;
}

// 6.4.12.2
Neighbours SliceData::neighboursInPairs() const {
    using Rows = Neighbours::Rows;
    const bool lower = next_ % 2 != 0;
    Neighbours near;
    if (!now_->field && lower) {
        near.above = now_ - 1;
    } else if (const auto* pair = pairAbove()) {
        near.above = now_->field && !lower && pair->field ? pair : pair + 1;
    }
    const auto* pair = pairToTheLeft();
    if (pair == nullptr) return near;
    if (pair->field == now_->field) {
        near.left = lower ? pair + 1 : pair;
        return near;
    }
    near.left = pair;
    if (now_->field) {
        near.leftLower = pair + 1;
        near.rows = Rows::FrameByField;
    } else {
        near.rows = lower ? Rows::FieldsByLower : Rows::FieldsByUpper;
    }
    return near;
}

void SliceData::beginMacroblock() {
    now_ = &blocks_[next_];
    *now_ = {};
    now_->slice = slices_;
    now_->field = field_;
    if (!adaptive_) return;
    if (next_ % 2 != 0) {
        now_->field = now_[-1].field;
        return;
    }
    // As those next to it, until it is told (7.4.4).
    fieldTold_ = false;
    const auto* like = pairToTheLeft();
    if (like == nullptr) like = pairAbove();
    now_->field = like != nullptr && like->field;
}

// Told in the first macroblock of a pair that is not skipped, for both.
void SliceData::fieldOrFrame() {
    if (!adaptive_ || std::exchange(fieldTold_, true)) return;
    const auto ofFields = [](const Macroblock* pair) { return pair != nullptr && pair->field; };
    now_->field = syntax_->fieldPair(ofFields(pairToTheLeft()), ofFields(pairAbove()));
    if (next_ % 2 != 0) now_[-1].field = now_->field;
}

std::optional<PictureFault> SliceData::begin(const SliceHead& head, Bytes body) {
    if (head.first != next_ || complete()) return PictureFault{0, "a part of the picture is missing"};
    syntax_ = picture_->arithmetic ? arithmeticSyntax(body, *sequence_, head)
                                   : variableLengthSyntax(body, *sequence_, head);
    ++slices_;
    differed_ = false;
    return std::nullopt;
}

// What is known of the blocks behind is of another try; each is told anew before anything refers to it.
void SliceData::takeUp(const State& state, Bytes body) {
    syntax_ = state.syntax->goOnIn(body);
    next_ = state.next;
    slices_ = state.slices;
    fieldTold_ = state.fieldTold;
    differed_ = state.differed;
}

std::optional<PictureFault> SliceData::slice(const SliceHead& head, Bytes body, Stops* stops) {
    if (stops != nullptr && stops->last() != nullptr) {
        takeUp(*stops->last(), body);
    } else if (auto fault = begin(head, body)) {
        return fault;
    }
    const auto fault = [&](const char* why) { return PictureFault{syntax_->position(), why}; };
    for (;;) {
        if (complete()) return fault("its data go on behind the last block");
        const bool ofPair = adaptive_ && next_ % 2 != 0;
        if (stops != nullptr && !ofPair && stops->due(syntax_->position()))
            stops->add(syntax_->position(), syntax_->needed(), state(body));
        beginMacroblock();
        if (head.type != SliceType::I && syntax_->skipped(neighbours())) {
            now_->skipped = true;
            now_->direct = head.type == SliceType::B;
            differed_ = false;
        } else {
            fieldOrFrame();
            macroblock(head);
        }
        if (syntax_->wrong() != nullptr) return fault(syntax_->wrong());
        if (syntax_->overrun()) return fault("its data end inside a block");
        ++next_;
        if (adaptive_ && next_ % 2 != 0) continue;  // a slice ends with a pair
        if (syntax_->ends()) break;
    }
    if (!syntax_->endsClean()) return fault("its data do not end with its last block");
    return std::nullopt;
}

void SliceData::macroblock(const SliceHead& head) {
    const auto type = syntax_->type(neighbours());
    if (syntax_->wrong() != nullptr) return;
    if (!type.intra) return inter(head, type.number);
    if (type.number != kPlainType) return intra(type.number);
    now_->kind = Kind::Plain;
    now_->luma = 15;
    now_->chroma = 2;
    now_->lumaCount.fill(16);
    for (auto& colour : now_->chromaCount) colour.fill(16);
    now_->dc.fill(true);
    differed_ = false;
    constexpr std::array<std::size_t, 3> kChromaSamples{0, 128, 256};
    syntax_->plain(256 * std::size_t{sequence_->lumaDepth} +
                   kChromaSamples[sequence_->chroma] * sequence_->chromaDepth);
}

void SliceData::intra(unsigned number) {
    now_->kind = number == 0 ? Kind::Intra4 : Kind::Intra16;
    if (number == 0) {
        if (picture_->transform8) now_->transform8 = syntax_->transform8(neighbours());
        for (int i = 0; i < (now_->transform8 ? 4 : 16); ++i) syntax_->intraMode();
    } else {
        now_->luma = number > 12 ? 15 : 0;
        now_->chroma = static_cast<std::uint8_t>((number - 1) / 4 % 3);
    }
    if (sequence_->chroma != 0)
        now_->chromaMode = static_cast<std::uint8_t>(syntax_->chromaMode(neighbours()));
    if (number == 0) pattern(false);
    residual();
}

void SliceData::inter(const SliceHead& head, unsigned number) {
    const bool b = head.type == SliceType::B;
    bool may8 = true;
    if (b && number == kDirect) {
        now_->direct = true;
        may8 = sequence_->direct8;
    } else if (b ? number == kQuartersB : number >= kQuartersP) {
        may8 = quarters(head, !b && number > kQuartersP);
    } else if (b) {
        if (number < 4) {
            parts(head, {{0, 0, 4, 4, number != 2, number != 1}});
        } else {
            const auto& lists = kListsB[(number - 4) / 2];
            const bool rows = number % 2 == 0;
            parts(head, {{0, 0, rows ? 4U : 2U, rows ? 2U : 4U, lists[0].first, lists[0].second},
                         {rows ? 0U : 2U, rows ? 2U : 0U, rows ? 4U : 2U, rows ? 2U : 4U, lists[1].first,
                          lists[1].second}});
        }
    } else if (number == 0) {
        parts(head, {{}});
    } else if (number == 1) {
        parts(head, {{0, 0, 4, 2}, {0, 2, 4, 2}});
    } else {
        parts(head, {{0, 0, 2, 4}, {2, 0, 2, 4}});
    }
    if (syntax_->wrong() != nullptr) return;
    pattern(may8);
    residual();
}

void SliceData::parts(const SliceHead& head, const std::vector<Part>& parts) {
    for (unsigned list = 0; list < 2; ++list) {
        for (const auto& part : parts) {
            if (list == 0 ? part.first : part.second) reference(part, list, head.references[list]);
        }
    }
    for (unsigned list = 0; list < 2; ++list) {
        for (const auto& part : parts) {
            if (list == 0 ? part.first : part.second) difference(part, list);
        }
    }
}

// Four quarters, each with its own parts. Whether blocks of eight by eight may be transformed.
bool SliceData::quarters(const SliceHead& head, bool firstReference) {
    const bool b = head.type == SliceType::B;
    std::array<Quarter, 4> quarter{};
    bool may8 = true;
    for (auto& one : quarter) {
        const auto type = syntax_->subType();
        if (syntax_->wrong() != nullptr) return false;
        one = b ? kQuarterB[type] : kQuarterP[type];
        may8 = may8 && (one.direct ? sequence_->direct8 : one.wide == 2 && one.high == 2);
    }
    const auto place = [](unsigned i) { return Part{(i & 1) * 2, (i >> 1) * 2, 2, 2}; };
    const auto uses = [](const Quarter& one, unsigned list) {
        return list == 0 ? one.lists.first : one.lists.second;
    };
    for (unsigned list = 0; list < 2; ++list) {
        for (unsigned i = 0; i < 4; ++i) {
            if (uses(quarter[i], list) && !firstReference) reference(place(i), list, head.references[list]);
        }
    }
    for (unsigned list = 0; list < 2; ++list) {
        for (unsigned i = 0; i < 4; ++i) {
            if (!uses(quarter[i], list)) continue;
            const auto at = place(i);
            for (unsigned y = 0; y < 2; y += quarter[i].high) {
                for (unsigned x = 0; x < 2; x += quarter[i].wide)
                    difference({at.x + x, at.y + y, quarter[i].wide, quarter[i].high}, list);
            }
        }
    }
    return may8;
}

void SliceData::reference(const Part& part, unsigned list, unsigned count) {
    if (adaptive_ && now_->field) count *= 2;  // the fields of each frame
    if (count < 2 || syntax_->wrong() != nullptr) return;
    const unsigned quarter = part.y / 2 * 2 + part.x / 2;
    const auto found = syntax_->reference(*now_, neighbours(), list, quarter, count);
    for (unsigned y = part.y / 2; y < (part.y + part.high) / 2; ++y) {
        for (unsigned x = part.x / 2; x < (part.x + part.wide) / 2; ++x)
            now_->reference[list][y * 2 + x] = static_cast<std::uint8_t>(std::min(found, 2U));
    }
}

void SliceData::difference(const Part& part, unsigned list) {
    std::array<std::uint8_t, 2> found{};
    for (unsigned direction = 0; direction < 2 && syntax_->wrong() == nullptr; ++direction) {
        const auto value = syntax_->difference(*now_, neighbours(), list, part.y * 4 + part.x, direction);
        found[direction] = static_cast<std::uint8_t>(std::min(value, 255U));
    }
    for (unsigned y = part.y; y < part.y + part.high; ++y) {
        for (unsigned x = part.x; x < part.x + part.wide; ++x) now_->difference[list][y * 4 + x] = found;
    }
}

void SliceData::pattern(bool may8) {
    const auto found = syntax_->pattern(*now_, neighbours());
    now_->luma = static_cast<std::uint8_t>(found.luma);
    now_->chroma = static_cast<std::uint8_t>(found.chroma);
    if (now_->luma != 0 && picture_->transform8 && !now_->intra() && may8)
        now_->transform8 = syntax_->transform8(neighbours());
}

void SliceData::residual() {
    if (now_->luma == 0 && now_->chroma == 0 && now_->kind != Kind::Intra16) {
        differed_ = false;
        return;
    }
    differed_ = syntax_->qpDelta(differed_) != 0;
    lumaBlocks();
    if (now_->chroma != 0) chromaBlocks();
}

void SliceData::lumaBlocks() {
    const auto near = neighbours();
    const bool large = now_->kind == Kind::Intra16;
    if (large) now_->dc[0] = syntax_->coefficients(*now_, near, {BlockKind::Dc16, 0, 0, 16}) > 0;
    const bool whole8 = now_->transform8 && picture_->arithmetic;
    for (unsigned i = 0; i < 16 && syntax_->wrong() == nullptr; ++i) {
        if ((now_->luma >> (i / 4) & 1) == 0) continue;
        if (whole8) {
            if (i % 4 == 0) syntax_->coefficients(*now_, near, {BlockKind::Luma8, 0, kInRows[i], 64});
            now_->lumaCount[kInRows[i]] = 1;
            continue;
        }
        const BlockPlace place{large ? BlockKind::Ac16 : BlockKind::Luma4, 0, kInRows[i], large ? 15U : 16U};
        now_->lumaCount[kInRows[i]] = static_cast<std::uint8_t>(syntax_->coefficients(*now_, near, place));
    }
}

void SliceData::chromaBlocks() {
    const auto near = neighbours();
    const unsigned blocks = sequence_->chroma == 2 ? 8 : 4;  // of one colour
    for (unsigned colour = 1; colour < 3; ++colour)
        now_->dc[colour] = syntax_->coefficients(*now_, near, {BlockKind::ChromaDc, colour, 0, blocks}) > 0;
    if (now_->chroma != 2) return;
    for (unsigned colour = 1; colour < 3; ++colour) {
        for (unsigned i = 0; i < blocks && syntax_->wrong() == nullptr; ++i)
            now_->chromaCount[colour - 1][i] = static_cast<std::uint8_t>(
                syntax_->coefficients(*now_, near, {BlockKind::ChromaAc, colour, i, 15}));
    }
}

}  // namespace dreskel::avc
