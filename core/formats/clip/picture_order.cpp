#include "formats/clip/picture_order.h"

#include <algorithm>
#include <array>
#include <vector>

#include "formats/clip/nal_bits.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongestHead = 96;  // bytes of a slice that are looked at
constexpr std::size_t kLongestSet = 1024;

UnitKind avcKind(Bytes unit) {
    const unsigned type = unit[0] & 31U;
    const bool reference = (unit[0] & 0x60U) != 0;
    if ((unit[0] & 0x80U) != 0 || type == 0 || type > 20) return UnitKind::Impossible;
    if (type == 7 || type == 8) return reference ? UnitKind::Leading : UnitKind::Impossible;
    if (type == 6 || type == 9) return reference ? UnitKind::Impossible : UnitKind::Leading;
    if (type >= 10 && type <= 12) return reference ? UnitKind::Impossible : UnitKind::Other;
    if (type == 5) return reference ? UnitKind::Slice : UnitKind::Impossible;
    return type <= 4 ? UnitKind::Slice : UnitKind::Other;
}

UnitKind hevcKind(Bytes unit) {
    const unsigned type = unit[0] >> 1;
    const unsigned layer = (unit[0] & 1U) << 5 | unit[1] >> 3;
    if ((unit[0] & 0x80U) != 0 || (unit[1] & 7U) == 0 || layer != 0) return UnitKind::Impossible;
    if (type <= 9 || (type >= 16 && type <= 21)) return UnitKind::Slice;
    if ((type >= 32 && type <= 35) || type == 39) return UnitKind::Leading;
    return type >= 36 && type <= 40 ? UnitKind::Other : UnitKind::Impossible;
}

}  // namespace

UnitKind unitKind(PictureCoding coding, Bytes unit) {
    if (unit.size() < 2) return UnitKind::Impossible;
    return coding == PictureCoding::Avc ? avcKind(unit) : hevcKind(unit);
}

void PictureOrder::learn(Bytes unit) {
    if (unitKind(coding_, unit) != UnitKind::Leading) return;
    coding_ == PictureCoding::Avc ? learnAvc(unit) : learnHevc(unit);
}

void PictureOrder::learnAvc(Bytes unit) {
    if ((unit[0] & 31U) != 7) return;
    const auto body = unescaped(unit, 1, kLongestSet);
    NalBits bits(body);
    const auto profile = bits.u(8);
    bits.skip(16);
    bits.ue();
    constexpr std::array<std::uint32_t, 13> kWithChroma{100, 110, 122, 244, 44,  83, 86,
                                                        118, 128, 138, 139, 134, 135};
    bool separate = false;
    if (std::find(kWithChroma.begin(), kWithChroma.end(), profile) != kWithChroma.end()) {
        const auto chroma = bits.ue();
        if (chroma == 3) separate = bits.flag();
        bits.ue();
        bits.ue();
        bits.skip(1);
        if (bits.flag()) skipScalingLists(bits, chroma == 3 ? 12 : 8);
    }
    const auto frameBits = bits.ue() + 4;
    const auto type = bits.ue();
    unsigned lsbBits = 0;
    if (type == 0) {
        lsbBits = bits.ue() + 4;
    } else if (type == 1) {
        bits.skip(1);
        bits.se();
        bits.se();
        const auto count = bits.ue();
        for (std::uint32_t i = 0; i < count && bits.ok(); ++i) bits.se();
    }
    bits.ue();
    bits.skip(1);
    bits.ue();
    bits.ue();
    const bool framesOnly = bits.flag();
    if (!bits.ok() || frameBits > 16 || lsbBits > 16) return;
    frameBits_ = frameBits;
    lsbBits_ = lsbBits;
    separatePlanes_ = separate;
    framesOnly_ = framesOnly;
    haveSequence_ = true;
}

void PictureOrder::learnHevc(Bytes unit) {
    const unsigned type = unit[0] >> 1;
    const auto body = unescaped(unit, 2, kLongestSet);
    NalBits bits(body);
    if (type == 34) {
        bits.ue();
        bits.ue();
        bits.skip(1);
        const bool output = bits.flag();
        const auto extra = bits.u(3);
        if (!bits.ok()) return;
        outputFlag_ = output;
        extraBits_ = extra;
        havePicture_ = true;
        return;
    }
    if (type != 33) return;
    bits.skip(4);
    const auto layers = bits.u(3);
    bits.skip(1 + 96);
    std::array<std::pair<bool, bool>, 8> present{};
    for (unsigned i = 0; i < layers; ++i) {
        present[i].first = bits.flag();
        present[i].second = bits.flag();
    }
    if (layers > 0) bits.skip((8 - layers) * 2);
    for (unsigned i = 0; i < layers; ++i)
        bits.skip((present[i].first ? 88U : 0U) + (present[i].second ? 8U : 0U));
    bits.ue();
    const bool separate = bits.ue() == 3 && bits.flag();
    bits.ue();
    bits.ue();
    if (bits.flag()) {
        for (int i = 0; i < 4; ++i) bits.ue();
    }
    bits.ue();
    bits.ue();
    const auto lsbBits = bits.ue() + 4;
    if (!bits.ok() || lsbBits > 16) return;
    separatePlanes_ = separate;
    lsbBits_ = lsbBits;
    haveSequence_ = true;
}

std::optional<SliceHead> PictureOrder::read(Bytes unit) const {
    if (unitKind(coding_, unit) != UnitKind::Slice) return std::nullopt;
    SliceHead head;
    if (coding_ == PictureCoding::Avc) {
        const unsigned type = unit[0] & 31U;
        const auto body = unescaped(unit, 1, kLongestHead);
        NalBits bits(body);
        head.first = bits.ue() == 0;
        head.sync = head.resets = type == 5;
        bits.ue();
        bits.ue();
        if (!haveSequence_ || !head.first) return head;
        if (separatePlanes_) bits.skip(2);
        head.frame = bits.u(frameBits_);
        if (!framesOnly_ && (head.field = bits.flag())) head.bottom = bits.flag();
        if (type == 5) bits.ue();
        if (lsbBits_ > 0) head.lsb = bits.u(lsbBits_);
        return bits.ok() ? std::optional(head) : std::nullopt;
    }
    const unsigned type = unit[0] >> 1;
    const bool instant = type == 19 || type == 20;
    const auto body = unescaped(unit, 2, kLongestHead);
    NalBits bits(body);
    head.first = bits.flag();
    head.sync = type >= 16 && type <= 21;
    // Pictures in front of a broken link are not shown, but counted on.
    head.resets = instant || (type >= 16 && type <= 18);
    if (!head.first || !ready()) return head;
    if (type >= 16 && type <= 23) bits.skip(1);
    bits.ue();
    bits.skip(extraBits_);
    bits.ue();
    if (outputFlag_) bits.skip(1);
    if (separatePlanes_) bits.skip(2);
    head.lsb = instant ? 0 : bits.u(lsbBits_);
    return bits.ok() ? std::optional(head) : std::nullopt;
}

}  // namespace dreskel
