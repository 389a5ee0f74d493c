#include "formats/avc/slice_head.h"

#include "formats/clip/nal_bits.h"

namespace dreskel::avc {
namespace {

constexpr int kMostChanges = 66;

bool skipListChanges(NalBits& bits) {  // 7.3.3.1
    if (!bits.flag()) return true;
    for (int i = 0; i < kMostChanges && bits.ok(); ++i) {
        const auto change = bits.ue();
        if (change == 3) return true;
        if (change > 3) return false;
        bits.ue();
    }
    return false;
}

void skipWeights(NalBits& bits, bool colour, const SliceHead& head) {  // 7.3.3.2
    bits.ue();
    if (colour) bits.ue();
    for (std::size_t list = 0; list < (head.type == SliceType::B ? 2U : 1U); ++list) {
        for (std::uint32_t i = 0; i < head.references[list] && bits.ok(); ++i) {
            if (bits.flag()) {
                bits.se();
                bits.se();
            }
            if (colour && bits.flag()) {
                for (int n = 0; n < 4; ++n) bits.se();
            }
        }
    }
}

bool skipMarking(NalBits& bits, bool instant) {  // 7.3.3.3
    if (instant) {
        bits.skip(2);
        return true;
    }
    if (!bits.flag()) return true;
    for (int i = 0; i < kMostChanges && bits.ok(); ++i) {
        const auto change = bits.ue();
        if (change == 0) return true;
        if (change > 6) return false;
        if (change != 5) bits.ue();
        if (change == 3) bits.ue();
    }
    return false;
}

}  // namespace

std::optional<SliceHead> readSliceHead(std::uint8_t header, Bytes body, const ParameterSets& sets) {
    const bool instant = (header & 31) == 5;
    const bool reference = (header & 0x60) != 0;
    NalBits bits(body);
    SliceHead head;
    head.first = bits.ue();
    const auto type = bits.ue();
    head.pictureSet = bits.ue();
    const auto picture = sets.picture(head.pictureSet);
    const auto sequence = picture ? sets.sequence(picture->sequence) : nullptr;
    // Types 3 and 4, switching slices, occur on no card.
    if (!bits.ok() || !sequence || type > 9 || type % 5 > 2) return std::nullopt;
    head.type = static_cast<SliceType>(type % 5);
    bits.skip(sequence->frameBits);
    if (!sequence->framesOnly && (head.field = bits.flag())) bits.skip(1);
    head.adaptive = sequence->adaptive && !head.field;
    if (head.adaptive) head.first *= 2;  // it counts pairs
    if (instant) bits.ue();
    if (sequence->orderType == 0) {
        bits.skip(sequence->orderBits);
        if (picture->orderPresent && !head.field) bits.se();
    } else if (sequence->orderType == 1 && !sequence->orderAlwaysZero) {
        bits.se();
        if (picture->orderPresent && !head.field) bits.se();
    }
    if (picture->redundant) head.redundant = bits.ue() > 0;
    if (head.type == SliceType::B) bits.skip(1);
    if (head.type != SliceType::I) {
        const bool both = head.type == SliceType::B;
        head.references = {picture->references[0], both ? picture->references[1] : 0};
        if (bits.flag()) {
            head.references[0] = bits.ue() + 1;
            if (both) head.references[1] = bits.ue() + 1;
        }
        if (head.references[0] > 32 || head.references[1] > 32) return std::nullopt;
        if (!skipListChanges(bits) || (both && !skipListChanges(bits))) return std::nullopt;
        if (both ? picture->biWeighted == 1 : picture->weighted)
            skipWeights(bits, sequence->chroma != 0, head);
    }
    if (reference && !skipMarking(bits, instant)) return std::nullopt;
    if (picture->arithmetic && head.type != SliceType::I) head.initNumber = bits.ue();
    head.qp = picture->qp + bits.se();
    if (picture->deblockingControl) {
        const auto off = bits.ue();
        if (off > 2) return std::nullopt;
        if (off != 1) {
            bits.se();
            bits.se();
        }
    }
    head.dataAt = bits.position();
    if (picture->arithmetic) {
        while (head.dataAt % 8 != 0) {
            if (!bits.flag()) return std::nullopt;  // cabac_alignment_one_bit
            ++head.dataAt;
        }
    }
    const bool good = bits.ok() && head.initNumber.value_or(0) <= 2 && head.dataAt < body.size() * 8;
    return good ? std::optional(head) : std::nullopt;
}

}  // namespace dreskel::avc
