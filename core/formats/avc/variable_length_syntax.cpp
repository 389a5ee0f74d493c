// The elements of macroblocks in variable-length codes (ITU-T H.264, 9.1 and 9.2).
#include <algorithm>

#include "formats/avc/cavlc_tables.h"
#include "formats/avc/syntax.h"
#include "formats/clip/nal_bits.h"

namespace dreskel::avc {
namespace {

// Table 9-4: coded_block_pattern by codeNum, for intra and for other prediction; luma in the lower four bits.
// With colour, and without.
constexpr std::array<std::uint8_t, 48> kPatternIntra{
    47, 31, 15, 0,  23, 27, 29, 30, 7, 11, 13, 14, 39, 43, 45, 46, 16, 3,  5,  10, 12, 19, 21, 26,
    28, 35, 37, 42, 44, 1,  2,  4,  8, 17, 18, 20, 24, 6,  9,  22, 25, 32, 33, 34, 36, 40, 38, 41};
constexpr std::array<std::uint8_t, 48> kPatternInter{
    0,  16, 1,  2,  4,  8,  32, 3,  5,  10, 12, 15, 47, 7,  11, 13, 14, 6,  9,  31, 35, 37, 42, 44,
    33, 34, 36, 40, 39, 43, 45, 46, 17, 18, 20, 24, 19, 21, 26, 28, 23, 27, 29, 30, 22, 25, 38, 41};
constexpr std::array<std::uint8_t, 16> kGreyIntra{15, 0, 7, 11, 13, 14, 3, 5, 10, 12, 1, 2, 4, 8, 6, 9};
constexpr std::array<std::uint8_t, 16> kGreyInter{0, 1, 2, 4, 8, 3, 5, 10, 12, 15, 7, 11, 13, 14, 6, 9};

class VariableLengthSyntax : public Syntax {
  public:
    VariableLengthSyntax(Bytes body, const Sequence& sequence, const SliceHead& head)
        : bits_(body),
          slice_(head.type),
          chroma_(sequence.chroma),
          mostQp_(26 + 3 * (static_cast<int>(sequence.lumaDepth) - 8)) {
        bits_.skip(head.dataAt);
        findEnd(body);
    }

    bool fieldPair(bool, bool) override { return bits_.flag(); }
    bool skipped(const Neighbours&) override {
        if (run_ < 0) run_ = bits_.ue();
        if (run_ > 0) {
            --run_;
            return true;
        }
        run_ = -1;
        return false;
    }
    Type type(const Neighbours&) override {
        const auto number = bits_.ue();
        const unsigned inter = slice_ == SliceType::I ? 0 : slice_ == SliceType::P ? 5 : 23;
        if (number > inter + 25) {
            fail("a kind of macroblock that there is not");
            return {};
        }
        return number < inter ? Type{false, number} : Type{true, number - inter};
    }
    unsigned subType() override {
        const auto number = bits_.ue();
        if (number > (slice_ == SliceType::P ? 3U : 12U)) fail("a kind of macroblock that there is not");
        return number;
    }
    bool transform8(const Neighbours&) override { return bits_.flag(); }
    void intraMode() override {
        if (!bits_.flag()) bits_.skip(3);
    }
    unsigned chromaMode(const Neighbours&) override {
        const auto mode = bits_.ue();
        if (mode > 3) fail("a kind of prediction that there is not");
        return mode;
    }
    unsigned reference(const Macroblock&, const Neighbours&, unsigned, unsigned, unsigned count) override {
        const auto value = count == 2 ? (bits_.flag() ? 0 : 1) : bits_.ue();
        if (value >= count) fail("a reference to a picture that is not there");
        return value;
    }
    unsigned difference(const Macroblock&, const Neighbours&, unsigned, unsigned, unsigned) override {
        const auto value = bits_.ue();
        if (value > 1U << 16) fail("a motion that cannot be");
        return (value + 1) / 2;
    }
    Pattern pattern(const Macroblock& now, const Neighbours&) override {
        const auto number = bits_.ue();
        if (number >= (chroma_ == 0 ? 16U : 48U)) {
            fail("a pattern of blocks that there is not");
            return {};
        }
        const unsigned both = chroma_ == 0 ? (now.intra() ? kGreyIntra : kGreyInter)[number]
                                           : (now.intra() ? kPatternIntra : kPatternInter)[number];
        return {both & 15, both >> 4};
    }
    int qpDelta(bool) override {
        const auto value = bits_.se();
        if (value < -mostQp_ || value >= mostQp_) fail("a quantisation that cannot be");
        return value;
    }
    void plain(std::size_t bits) override {
        while (bits_.ok() && bits_.position() % 8 != 0) {
            if (bits_.flag()) fail("samples do not begin where they must");
        }
        bits_.skip(bits);
    }
    unsigned coefficients(const Macroblock& now, const Neighbours& near, const BlockPlace& place) override;
    bool ends() override { return run_ <= 0 && bits_.position() >= end_; }
    bool endsClean() const override { return bits_.ok() && bits_.position() == end_; }
    std::unique_ptr<Syntax> goOnIn(Bytes body) const override {
        auto other = std::make_unique<VariableLengthSyntax>(*this);
        other->bits_.goOnIn(body);
        other->findEnd(body);
        return other;
    }
    std::size_t needed() const override { return position(); }
    std::size_t position() const override { return (bits_.position() + 7) / 8; }
    bool overrun() const override { return !bits_.ok() || bits_.position() > end_; }

  private:
    // The last one of the bits ends the slice.
    void findEnd(Bytes body) {
        auto size = body.size();
        while (size > 0 && body[size - 1] == 0) --size;
        end_ = size == 0 ? 0 : size * 8 - 1 - static_cast<std::size_t>(__builtin_ctz(body[size - 1]));
    }
    // The place of the next code in a table; the table's size where there is none.
    template <std::size_t Size>
    std::size_t code(const std::array<VlcCode, Size>& table) {
        std::uint32_t value = 0;
        for (unsigned length = 1; length <= 16 && bits_.ok(); ++length) {
            value = value << 1 | bits_.u(1);
            for (std::size_t i = 0; i < Size; ++i) {
                if (table[i].length == length && table[i].code == value) return i;
            }
        }
        fail("an impossible code");
        return Size;
    }
    unsigned around(const Macroblock& now, const Neighbours& near, const BlockPlace& place) const;
    std::size_t token(const Macroblock& now, const Neighbours& near, const BlockPlace& place);
    void levels(unsigned total, unsigned ones);
    void runs(unsigned total, const BlockPlace& place);

    NalBits bits_;
    SliceType slice_;
    unsigned chroma_;
    int mostQp_;
    std::size_t end_ = 0;    // bits
    std::int64_t run_ = -1;  // of skipped macroblocks that is left; -1: to be read
};

// nC of 9.2.1.
unsigned VariableLengthSyntax::around(const Macroblock& now, const Neighbours& near,
                                      const BlockPlace& place) const {
    const bool colour = place.kind == BlockKind::ChromaAc;
    const unsigned wide = colour ? 2 : 4;
    const unsigned all = !colour ? 16 : chroma_ == 2 ? 8 : 4;
    const auto count = [&](const Macroblock& one, unsigned at) {
        return unsigned{colour ? one.chromaCount[place.colour - 1][at] : one.lumaCount[at]};
    };
    const auto at = place.index;
    const auto beside = near.leftOf(at / wide, all / wide);
    const auto* left = at % wide != 0 ? &now : beside.block;
    const auto* above = at >= wide ? &now : near.above;
    const unsigned a =
        left == nullptr ? 0 : count(*left, at % wide != 0 ? at - 1 : beside.row * wide + wide - 1);
    const unsigned b = above == nullptr ? 0 : count(*above, at >= wide ? at - wide : at + all - wide);
    return left != nullptr && above != nullptr ? (a + b + 1) / 2 : a + b;
}

std::size_t VariableLengthSyntax::token(const Macroblock& now, const Neighbours& near,
                                        const BlockPlace& place) {
    if (place.kind == BlockKind::ChromaDc) return place.most == 4 ? code(kTokensDc420) : code(kTokensDc422);
    const auto n = around(now, near, place);
    return code(kTokens[n < 2 ? 0 : n < 4 ? 1 : n < 8 ? 2 : 3]);
}

void VariableLengthSyntax::levels(unsigned total, unsigned ones) {  // 9.2.2.1
    bits_.skip(ones);
    unsigned suffix = total > 10 && ones < 3 ? 1 : 0;
    for (unsigned i = ones; i < total && wrong() == nullptr; ++i) {
        unsigned prefix = 0;
        while (prefix < 26 && bits_.ok() && !bits_.flag()) ++prefix;
        if (prefix == 26) return fail("a coefficient that cannot be");
        const unsigned size = prefix == 14 && suffix == 0 ? 4 : prefix >= 15 ? prefix - 3 : suffix;
        std::uint32_t level = (std::min(15U, prefix) << suffix) + bits_.u(size);
        if (prefix >= 15 && suffix == 0) level += 15;
        if (prefix >= 16) level += (1U << (prefix - 3)) - 4096;
        if (i == ones && ones < 3) level += 2;
        const auto value = (level + 2) / 2;  // without its sign
        if (suffix == 0) suffix = 1;
        if (value > 3U << (suffix - 1) && suffix < 6) ++suffix;
    }
}

void VariableLengthSyntax::runs(unsigned total, const BlockPlace& place) {  // 9.2.3
    if (total >= place.most) return;
    std::size_t zeros = 0;
    if (place.kind != BlockKind::ChromaDc) {
        zeros = code(kZeros[total - 1]);
    } else {
        zeros = place.most == 4 ? code(kZerosDc420[total - 1]) : code(kZerosDc422[total - 1]);
    }
    if (total + zeros > place.most) return fail("more coefficients than a block can hold");
    for (unsigned i = 1; i < total && zeros > 0 && wrong() == nullptr; ++i) {
        const auto run = code(kRuns[std::min<std::size_t>(zeros, 7) - 1]);
        if (run > zeros) return fail("more coefficients than a block can hold");
        zeros -= run;
    }
}

unsigned VariableLengthSyntax::coefficients(const Macroblock& now, const Neighbours& near,
                                            const BlockPlace& place) {
    const auto found = token(now, near, place);
    if (wrong() != nullptr) return 0;
    const auto total = static_cast<unsigned>(found / 4);
    if (total > place.most) {
        fail("more coefficients than a block can hold");
        return 0;
    }
    if (total == 0) return 0;
    levels(total, static_cast<unsigned>(found % 4));
    if (wrong() == nullptr) runs(total, place);
    return total;
}

}  // namespace

std::unique_ptr<Syntax> variableLengthSyntax(Bytes body, const Sequence& sequence, const SliceHead& head) {
    return std::make_unique<VariableLengthSyntax>(body, sequence, head);
}

}  // namespace dreskel::avc
