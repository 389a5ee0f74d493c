// The elements of macroblocks in arithmetic coding (ITU-T H.264, 9.3).
#include <algorithm>

#include "formats/avc/contexts.h"
#include "formats/avc/syntax.h"

namespace dreskel::avc {
namespace {

// Where the contexts of residual blocks begin, by ctxBlockCat (Tables 9-34 and 9-40).
constexpr std::array<std::size_t, 6> kCoded{85, 89, 93, 97, 101, 0};
constexpr std::array<std::array<std::size_t, 6>, 2> kSignificant{
    {{105, 120, 134, 149, 152, 402}, {277, 292, 306, 321, 324, 436}}};  // of frames and of fields
constexpr std::array<std::array<std::size_t, 6>, 2> kLast{
    {{166, 181, 195, 210, 213, 417}, {338, 353, 367, 382, 385, 451}}};
constexpr std::array<std::size_t, 6> kLevel{227, 237, 247, 257, 266, 426};

// Table 9-43, by levelListIdx.
constexpr std::array<std::array<std::uint8_t, 63>, 2> kSignificant8{
    {{0,  1,  2, 3, 4, 5,  5,  4,  4,  3, 3, 4,  4,  4,  5,  5,  4,  4,  4,  4,  3,
      3,  6,  7, 7, 7, 8,  9,  10, 9,  8, 7, 7,  6,  11, 12, 13, 11, 6,  7,  8,  9,
      14, 10, 9, 8, 6, 11, 12, 13, 11, 6, 9, 14, 10, 9,  11, 12, 13, 11, 14, 10, 12},
     {0,  1,  1,  2,  2,  3,  3,  4,  5,  6,  7,  7,  7, 8,  4,  5,  6,  9,  10, 10, 8,
      11, 12, 11, 9,  9,  10, 10, 8,  11, 12, 11, 9,  9, 10, 10, 8,  11, 12, 11, 9,  9,
      10, 10, 8,  13, 13, 9,  9,  10, 10, 8,  13, 13, 9, 9,  10, 10, 14, 14, 14, 14, 14}}};
constexpr std::array<std::uint8_t, 63> kLast8{0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2,
                                              2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 3, 3, 3, 3, 3, 3, 3, 3, 4, 4,
                                              4, 4, 4, 4, 4, 4, 5, 5, 5, 5, 6, 6, 6, 6, 7, 7, 7, 7, 8, 8, 8};

using Kind = Macroblock::Kind;

// The contexts of the flags of one kind of block: of coefficients that are not zero, and of the last of
// these.
struct BlockContexts {
    std::array<std::uint16_t, 63> significant{}, last{};
};

// 9.3.3.1.3. `chroma8`: chroma of eight blocks, whose DC values come eight together.
constexpr BlockContexts blockContexts(std::size_t field, std::size_t kind, bool chroma8) {
    BlockContexts contexts;
    for (std::size_t at = 0; at < 63; ++at) {
        std::size_t first = at;
        std::size_t second = at;
        if (kind == static_cast<std::size_t>(BlockKind::Luma8)) {
            first = kSignificant8[field][at];
            second = kLast8[at];
        } else if (kind == static_cast<std::size_t>(BlockKind::ChromaDc)) {
            first = second = std::min(at / (chroma8 ? 2 : 1), std::size_t{2});
        }
        contexts.significant[at] = static_cast<std::uint16_t>(kSignificant[field][kind] + first);
        contexts.last[at] = static_cast<std::uint16_t>(kLast[field][kind] + second);
    }
    return contexts;
}

constexpr std::array<std::array<std::array<BlockContexts, 2>, 6>, 2> kBlockContexts = [] {
    std::array<std::array<std::array<BlockContexts, 2>, 6>, 2> all{};
    for (std::size_t i = 0; i < 24; ++i)
        all[i / 12][i / 2 % 6][i % 2] = blockContexts(i / 12, i / 2 % 6, i % 2 != 0);
    return all;
}();

template <typename Condition>
unsigned both(const Neighbours& near, const Condition& condition, unsigned weightAbove = 1) {
    return (near.left != nullptr && condition(*near.left) ? 1U : 0U) +
           (near.above != nullptr && condition(*near.above) ? weightAbove : 0U);
}

class ArithmeticSyntax : public Syntax {
  public:
    ArithmeticSyntax(Bytes body, const Sequence& sequence, const SliceHead& head)
        : decoder_(body, head.dataAt / 8),
          contexts_(initialContexts(head.initNumber, head.qp)),
          slice_(head.type),
          size_(body.size()),
          chroma_(sequence.chroma),
          mostQp_(26 + 3 * (static_cast<int>(sequence.lumaDepth) - 8)) {}

    bool fieldPair(bool left, bool above) override { return bit(70 + (left ? 1U : 0U) + (above ? 1U : 0U)); }
    bool skipped(const Neighbours& near) override {
        const auto busy = [](const Macroblock& one) { return !one.skipped; };
        return bit((slice_ == SliceType::B ? 24 : 11) + both(near, busy));
    }
    Type type(const Neighbours& near) override;
    unsigned subType() override;
    bool transform8(const Neighbours& near) override {
        return bit(399 + both(near, [](const Macroblock& one) { return one.transform8; }));
    }
    void intraMode() override {
        if (bit(68)) return;
        for (int i = 0; i < 3; ++i) bit(69);
    }
    unsigned chromaMode(const Neighbours& near) override {
        const auto other = [](const Macroblock& one) { return one.chromaMode != 0; };
        if (!bit(64 + both(near, other))) return 0;
        return !bit(67) ? 1 : !bit(67) ? 2 : 3;
    }
    unsigned reference(const Macroblock& now, const Neighbours& near, unsigned list, unsigned quarter,
                       unsigned count) override;
    unsigned difference(const Macroblock& now, const Neighbours& near, unsigned list, unsigned index,
                        unsigned direction) override;
    Pattern pattern(const Macroblock& now, const Neighbours& near) override;
    int qpDelta(bool beforeDiffered) override {
        int value = 0;
        std::size_t context = 60 + (beforeDiffered ? 1U : 0U);
        while (bit(context)) {
            context = value == 0 ? 62 : 63;
            if (++value > 2 * mostQp_) {
                fail("a quantisation that cannot be");
                return 0;
            }
        }
        return value;
    }
    void plain(std::size_t bits) override {
        if (!decoder_.endsClean(true)) return fail("samples do not begin where they must");
        decoder_.restart((bits + 7) / 8);
    }
    unsigned coefficients(const Macroblock& now, const Neighbours& near, const BlockPlace& place) override;
    bool ends() override { return decoder_.terminate(); }
    bool endsClean() const override { return decoder_.endsClean(true) && decoder_.position() == size_; }
    std::unique_ptr<Syntax> goOnIn(Bytes body) const override {
        auto other = std::make_unique<ArithmeticSyntax>(*this);
        other->decoder_.goOnIn(body);
        other->size_ = body.size();
        return other;
    }
    std::size_t needed() const override { return decoder_.needed(); }
    std::size_t position() const override { return decoder_.position(); }
    bool overrun() const override { return decoder_.overrun(); }

  private:
    bool bit(std::size_t context) { return decoder_.decide(contexts_[context]); }
    Type intraType(std::size_t base, bool own, const Neighbours& near);
    bool codedBefore(const Macroblock& now, const Macroblock* other, const BlockPlace& place,
                     unsigned otherIndex) const;
    unsigned codedContext(const Macroblock& now, const Neighbours& near, const BlockPlace& place) const;
    void levels(ArithmeticDecoder& decoder, std::size_t kind, unsigned count);

    ArithmeticDecoder decoder_;
    Contexts contexts_;
    SliceType slice_;
    std::size_t size_;  // bytes
    unsigned chroma_;
    int mostQp_;
};

// Table 9-36, with the prefix of other slices passed already. `own`: of an I slice.
Syntax::Type ArithmeticSyntax::intraType(std::size_t base, bool own, const Neighbours& near) {
    const auto large = [](const Macroblock& one) {
        return one.kind == Kind::Intra16 || one.kind == Kind::Plain;
    };
    if (!bit(base + (own ? both(near, large) : 0))) return {true, 0};
    if (decoder_.terminate()) return {true, 25};
    const std::size_t next = own ? base + 3 : base + 1;
    const std::size_t more = own ? 1 : 0;
    unsigned number = 1;
    number += bit(next) ? 12 : 0;
    if (bit(next + 1)) number += bit(next + 1 + more) ? 8 : 4;
    number += bit(next + 2 + more) ? 2 : 0;
    number += bit(next + 2 + 2 * more) ? 1 : 0;
    return {true, number};
}

Syntax::Type ArithmeticSyntax::type(const Neighbours& near) {
    if (slice_ == SliceType::I) return intraType(3, true, near);
    if (slice_ == SliceType::P) {
        if (bit(14)) return intraType(17, false, near);
        if (!bit(15)) return {false, bit(16) ? 3U : 0U};
        return {false, bit(17) ? 1U : 2U};
    }
    const auto told = [](const Macroblock& one) { return !one.direct; };
    if (!bit(27 + both(near, told))) return {false, 0};
    if (!bit(30)) return {false, bit(32) ? 2U : 1U};
    unsigned bits = bit(31) ? 8 : 0;
    for (unsigned weight = 4; weight > 0; weight /= 2) bits += bit(32) ? weight : 0;
    if (bits < 8) return {false, bits + 3};
    if (bits == 13) return intraType(32, false, near);
    if (bits == 14) return {false, 11};
    if (bits == 15) return {false, 22};
    return {false, 2 * bits + (bit(32) ? 1U : 0U) - 4};
}

unsigned ArithmeticSyntax::subType() {
    if (slice_ == SliceType::P) {
        if (bit(21)) return 0;
        if (!bit(22)) return 1;
        return bit(23) ? 2 : 3;
    }
    if (!bit(36)) return 0;
    if (!bit(37)) return bit(39) ? 2 : 1;
    unsigned type = 3;
    if (bit(38)) {
        if (bit(39)) return bit(39) ? 12 : 11;
        type += 4;
    }
    type += bit(39) ? 2 : 0;
    return type + (bit(39) ? 1U : 0U);
}

unsigned ArithmeticSyntax::reference(const Macroblock& now, const Neighbours& near, unsigned list,
                                     unsigned quarter, unsigned count) {
    // A field's macroblock counts both fields of each frame that one of the frame refers to.
    const auto further = [&](const Macroblock* one, unsigned at) {
        return one != nullptr && one->reference[list][at] > (one->field && !now.field ? 1 : 0);
    };
    const auto beside = near.leftOf(quarter / 2, 2);
    const bool left =
        (quarter & 1) != 0 ? further(&now, quarter - 1) : further(beside.block, beside.row * 2 + 1);
    const bool above = (quarter & 2) != 0 ? further(&now, quarter - 2) : further(near.above, quarter + 2);
    std::size_t context = 54 + (left ? 1U : 0U) + (above ? 2U : 0U);
    unsigned value = 0;
    while (bit(context)) {
        context = value == 0 ? 58 : 59;
        if (++value >= count) {
            fail("a reference to a picture that is not there");
            return 0;
        }
    }
    return value;
}

unsigned ArithmeticSyntax::difference(const Macroblock& now, const Neighbours& near, unsigned list,
                                      unsigned index, unsigned direction) {
    // The rows of a field lie twice as far apart.
    const auto of = [&](const Macroblock* one, unsigned at) {
        const unsigned value = one == nullptr ? 0U : one->difference[list][at][direction];
        if (one == nullptr || direction == 0 || one->field == now.field) return value;
        return now.field ? value / 2 : value * 2;
    };
    const auto beside = near.leftOf(index / 4, 4);
    const unsigned sum = ((index & 3) != 0 ? of(&now, index - 1) : of(beside.block, beside.row * 4 + 3)) +
                         (index >= 4 ? of(&now, index - 4) : of(near.above, index + 12));
    const std::size_t base = direction == 0 ? 40 : 47;
    if (!bit(base + (sum < 3 ? 0U : sum > 32 ? 2U : 1U))) return 0;
    unsigned value = 1;
    while (value < 9 && bit(base + std::min(2 + value, 6U))) ++value;
    if (value == 9) {
        const auto rest = decoder_.exponentialGolomb(3);
        if (!rest) fail("a motion that cannot be");
        value += rest.value_or(0);
    }
    decoder_.bypass();
    return value;
}

Syntax::Pattern ArithmeticSyntax::pattern(const Macroblock& now, const Neighbours& near) {
    // Blocks without coefficients next to it; what is not there, and plain samples, count as blocks with.
    const auto empty = [&](const Macroblock* one, unsigned quarter) {
        return one != nullptr && one->kind != Kind::Plain && (one->luma >> quarter & 1) == 0;
    };
    Macroblock own = now;
    own.luma = 0;
    for (unsigned quarter = 0; quarter < 4; ++quarter) {
        const auto beside = near.leftOf(quarter / 2, 2);
        const bool left =
            (quarter & 1) != 0 ? empty(&own, quarter - 1) : empty(beside.block, beside.row * 2 + 1);
        const bool above = (quarter & 2) != 0 ? empty(&own, quarter - 2) : empty(near.above, quarter + 2);
        if (bit(73 + (left ? 1U : 0U) + (above ? 2U : 0U)))
            own.luma = static_cast<std::uint8_t>(own.luma | 1U << quarter);
    }
    Pattern pattern{own.luma, 0};
    if (chroma_ == 0) return pattern;
    const auto some = [](const Macroblock& one) { return one.kind == Kind::Plain || one.chroma != 0; };
    if (!bit(77 + both(near, some, 2))) return pattern;
    const auto all = [](const Macroblock& one) { return one.kind == Kind::Plain || one.chroma == 2; };
    pattern.chroma = bit(81 + both(near, all, 2)) ? 2 : 1;
    return pattern;
}

bool ArithmeticSyntax::codedBefore(const Macroblock& now, const Macroblock* other, const BlockPlace& place,
                                   unsigned otherIndex) const {
    if (other == nullptr) return now.intra();
    if (other->kind == Kind::Plain) return true;
    switch (place.kind) {
        case BlockKind::Dc16: return other->dc[0];
        case BlockKind::ChromaDc: return other->dc[place.colour];
        case BlockKind::ChromaAc: return other->chromaCount[place.colour - 1][otherIndex] != 0;
        default: return other->lumaCount[otherIndex] != 0;
    }
}

unsigned ArithmeticSyntax::codedContext(const Macroblock& now, const Neighbours& near,
                                        const BlockPlace& place) const {
    bool left = false;
    bool above = false;
    const auto at = place.index;
    if (place.kind == BlockKind::Dc16 || place.kind == BlockKind::ChromaDc) {
        left = codedBefore(now, near.left, place, 0);
        above = codedBefore(now, near.above, place, 0);
    } else {
        const unsigned wide = place.kind == BlockKind::ChromaAc ? 2 : 4;
        const unsigned all = wide == 4 ? 16 : chroma_ == 2 ? 8 : 4;
        const auto beside = near.leftOf(at / wide, all / wide);
        left = at % wide != 0 ? codedBefore(now, &now, place, at - 1)
                              : codedBefore(now, beside.block, place, beside.row * wide + wide - 1);
        above = at >= wide ? codedBefore(now, &now, place, at - wide)
                           : codedBefore(now, near.above, place, at + all - wide);
    }
    return (left ? 1U : 0U) + (above ? 2U : 0U);
}

[[gnu::always_inline]] inline void ArithmeticSyntax::levels(ArithmeticDecoder& decoder, std::size_t kind,
                                                            unsigned count) {
    const auto bit = [&](std::size_t context) { return decoder.decide(contexts_[context]); };
    const auto base = kLevel[kind];
    const unsigned mostGreater = kind == 3 ? 3 : 4;
    unsigned ones = 0;
    unsigned greater = 0;
    for (; count > 0; --count) {
        if (!bit(base + (greater != 0 ? 0 : std::min(4U, 1 + ones)))) {
            ++ones;
        } else {
            const auto context = base + 5 + std::min(mostGreater, greater);
            unsigned value = 1;
            while (value < 14 && bit(context)) ++value;
            if (value == 14 && !decoder.exponentialGolomb(0)) return fail("a coefficient that cannot be");
            ++greater;
        }
        decoder.bypass();
    }
}

unsigned ArithmeticSyntax::coefficients(const Macroblock& now, const Neighbours& near,
                                        const BlockPlace& place) {
    const auto kind = static_cast<std::size_t>(place.kind);
    if (place.kind != BlockKind::Luma8 && !bit(kCoded[kind] + codedContext(now, near, place))) return 0;
    // The compiler can keep a copy in registers; writing a context could change the member, for all it knows.
    ArithmeticDecoder decoder = decoder_;
    const auto& contexts = kBlockContexts[now.field ? 1 : 0][kind][chroma_ == 2 ? 1 : 0];
    const unsigned end = place.most - 1;
    unsigned count = 0;
    unsigned at = 0;
    for (; at < end; ++at) {
        if (!decoder.decide(contexts_[contexts.significant[at]])) continue;
        ++count;
        if (decoder.decide(contexts_[contexts.last[at]])) break;
    }
    if (at == end) ++count;
    levels(decoder, kind, count);
    decoder_ = decoder;
    return count;
}

}  // namespace

std::unique_ptr<Syntax> arithmeticSyntax(Bytes body, const Sequence& sequence, const SliceHead& head) {
    return std::make_unique<ArithmeticSyntax>(body, sequence, head);
}

}  // namespace dreskel::avc
