#include "formats/avc/parameter_sets.h"

#include <algorithm>
#include <optional>

#include "formats/clip/nal_bits.h"

namespace dreskel::avc {
namespace {

constexpr std::size_t kLongestSet = 1U << 14;
constexpr std::uint32_t kLargestSide = 1056, kLargestPicture = 139264;  // macroblocks (Table A-1, level 6.2)

std::optional<Sequence> readSequence(Bytes body, std::uint32_t& number) {
    NalBits bits(body);
    Sequence set;
    const auto profile = bits.u(8);
    bits.skip(16);
    number = bits.ue();
    constexpr std::array<std::uint32_t, 9> kWithChroma{100, 110, 122, 244, 44, 83, 86, 118, 128};
    if (std::find(kWithChroma.begin(), kWithChroma.end(), profile) != kWithChroma.end()) {
        set.chroma = bits.ue();
        if (set.chroma > 2) return std::nullopt;
        set.lumaDepth = bits.ue() + 8;
        set.chromaDepth = bits.ue() + 8;
        bits.skip(1);
        if (bits.flag()) skipScalingLists(bits, 8);
    }
    set.frameBits = bits.ue() + 4;
    set.orderType = bits.ue();
    if (set.orderType == 0) {
        set.orderBits = bits.ue() + 4;
    } else if (set.orderType == 1) {
        set.orderAlwaysZero = bits.flag();
        bits.se();
        bits.se();
        const auto count = bits.ue();
        for (std::uint32_t i = 0; i < count && i < 256 && bits.ok(); ++i) bits.se();
    }
    bits.ue();
    bits.skip(1);
    set.wide = bits.ue() + 1;
    set.high = bits.ue() + 1;
    set.framesOnly = bits.flag();
    if (!set.framesOnly) {
        set.adaptive = bits.flag();
        set.high *= 2;
    }
    set.direct8 = bits.flag();
    const bool sane = bits.ok() && set.wide <= kLargestSide && set.high <= kLargestSide &&
                      set.wide * set.high <= kLargestPicture && set.lumaDepth <= 14 &&
                      set.chromaDepth <= 14 && set.frameBits <= 16 && set.orderType <= 2 &&
                      set.orderBits <= 16;
    return sane ? std::optional(set) : std::nullopt;
}

std::optional<PictureSet> readPicture(Bytes body, std::uint32_t& number) {
    NalBits bits(body);
    PictureSet set;
    number = bits.ue();
    set.sequence = bits.ue();
    set.arithmetic = bits.flag();
    set.orderPresent = bits.flag();
    if (bits.ue() != 0) return std::nullopt;  // slice groups
    set.references = {bits.ue() + 1, bits.ue() + 1};
    set.weighted = bits.flag();
    set.biWeighted = bits.u(2);
    set.qp = 26 + bits.se();
    bits.se();
    bits.se();
    set.deblockingControl = bits.flag();
    bits.skip(1);
    set.redundant = bits.flag();
    if (!bits.ok() || set.sequence >= 32 || set.references[0] > 32 || set.references[1] > 32)
        return std::nullopt;
    // more_rbsp_data(): something in front of the last one.
    auto end = body.size();
    while (end > 0 && body[end - 1] == 0) --end;
    if (end > 0) {
        const auto lastOne = end * 8 - 1 - static_cast<std::size_t>(__builtin_ctz(body[end - 1]));
        if (bits.position() < lastOne) set.transform8 = bits.flag();
    }
    return set;
}

}  // namespace

void ParameterSets::learn(Bytes unit) {
    if (unit.size() < 2) return;
    const unsigned type = unit[0] & 31U;
    if (type != 7 && type != 8) return;
    const auto body = unescaped(unit, 1, kLongestSet);
    std::uint32_t number = 0;
    if (type == 7) {
        const auto set = readSequence(body, number);
        sequences_.put(number, set);
    } else {
        const auto set = readPicture(body, number);
        pictures_.put(number, set);
    }
}

}  // namespace dreskel::avc
