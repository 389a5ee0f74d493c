#include "formats/hevc/slice_head.h"

#include <algorithm>
#include <bit>

#include "formats/hevc/reference_set.h"

namespace dreskel::hevc {
namespace {

unsigned bitsFor(std::uint32_t count) {  // Ceil(Log2(count))
    return count <= 1 ? 0 : static_cast<unsigned>(std::bit_width(count - 1));
}

void skipWeights(NalBits& bits, const Sequence& sequence, const SliceHead& head) {  // 7.3.6.3
    const bool colour = sequence.chromaArray() != 0;
    bits.ue();
    if (colour) bits.se();
    for (std::size_t list = 0; list < (head.type == SliceType::B ? 2U : 1U); ++list) {
        std::array<bool, 16> luma{}, chroma{};
        for (std::uint32_t i = 0; i < head.references[list]; ++i) luma[i] = bits.flag();
        for (std::uint32_t i = 0; colour && i < head.references[list]; ++i) chroma[i] = bits.flag();
        for (std::uint32_t i = 0; i < head.references[list]; ++i) {
            for (int n = 0; n < (luma[i] ? 2 : 0) + (chroma[i] ? 4 : 0); ++n) bits.se();
        }
    }
}

// The pictures that it may refer to; how many there are decides how long further fields are.
std::optional<std::uint32_t> readReferences(NalBits& bits, const Sequence& sequence) {
    bits.skip(sequence.orderBits);
    std::optional<ReferenceSet> own;
    const ReferenceSet* set = nullptr;
    const auto count = static_cast<std::uint32_t>(sequence.referenceSets.size());
    if (!bits.flag()) {
        own = readReferenceSet(bits, sequence.referenceSets, count, count);
        set = own ? &*own : nullptr;
    } else if (const auto number = bits.u(bitsFor(count)); number < count) {
        set = &sequence.referenceSets[number];
    }
    if (set == nullptr) return std::nullopt;
    auto used = std::count(set->usedBefore.begin(), set->usedBefore.end(), true) +
                std::count(set->usedBehind.begin(), set->usedBehind.end(), true);
    if (sequence.longTerm) {
        const auto known = static_cast<std::uint32_t>(sequence.longTermUsed.size());
        const auto listed = known > 0 ? bits.ue() : 0;
        const auto further = bits.ue();
        if (listed > 32 || further > 32) return std::nullopt;
        for (std::uint32_t i = 0; i < listed + further; ++i) {
            if (i < listed) {
                const auto number = known > 1 ? bits.u(bitsFor(known)) : 0;
                if (number >= known) return std::nullopt;
                used += sequence.longTermUsed[number] ? 1 : 0;
            } else {
                bits.skip(sequence.orderBits);
                used += bits.flag() ? 1 : 0;
            }
            if (bits.flag()) bits.ue();
        }
    }
    return static_cast<std::uint32_t>(used);
}

// Of P and B slices.
bool readPrediction(NalBits& bits, const Sequence& sequence, const PictureSet& picture, std::uint32_t used,
                    bool temporal, SliceHead& head) {
    const bool both = head.type == SliceType::B;
    head.references = {picture.references[0], both ? picture.references[1] : 0};
    if (bits.flag()) {
        head.references[0] = bits.ue() + 1;
        if (both) head.references[1] = bits.ue() + 1;
    }
    if (head.references[0] > 15 || head.references[1] > 15) return false;
    if (picture.listsModified && used > 1) {
        for (std::size_t list = 0; list < (both ? 2U : 1U); ++list) {
            if (bits.flag()) bits.skip(std::size_t{head.references[list]} * bitsFor(used));
        }
    }
    if (both) head.noSecondDifference = bits.flag();
    if (picture.cabacInit) head.cabacInit = bits.flag();
    if (temporal) {
        const bool fromFirst = !both || bits.flag();
        if (head.references[fromFirst ? 0 : 1] > 1) bits.ue();
    }
    if (both ? picture.biWeighted : picture.weighted) skipWeights(bits, sequence, head);
    const auto fewer = bits.ue();
    head.mergeCandidates = 5 - std::min(fewer, 5U);
    return fewer <= 4;
}

}  // namespace

std::optional<SliceHead> readSliceHead(unsigned unitType, Bytes body, const ParameterSets& sets,
                                       const std::optional<SliceHead>& before) {
    NalBits bits(body);
    const bool first = bits.flag();
    if (unitType >= 16 && unitType <= 23) bits.skip(1);
    const auto number = bits.ue();
    const auto picture = sets.picture(number);
    const auto sequence = picture ? sets.sequence(picture->sequence) : nullptr;
    if (!bits.ok() || !sequence) return std::nullopt;
    const auto blocks = sequence->treeBlocksWide() * sequence->treeBlocksHigh();
    bool dependent = false;
    std::uint32_t address = 0;
    if (!first) {
        if (picture->dependentSlices) dependent = bits.flag();
        address = bits.u(bitsFor(blocks));
        if (address == 0 || address >= blocks) return std::nullopt;
    }
    if (dependent && !before) return std::nullopt;
    SliceHead head;
    if (dependent) head = *before;
    head.first = first;
    head.dependent = dependent;
    head.address = address;
    head.pictureSet = number;
    if (!dependent) {
        bits.skip(picture->extraBits);
        const auto type = bits.ue();
        if (type > 2) return std::nullopt;
        head.type = static_cast<SliceType>(type);
        if (picture->outputFlag) bits.skip(1);
        if (sequence->separatePlanes) bits.skip(2);
        std::uint32_t used = 0;
        bool temporal = false;
        if (unitType != 19 && unitType != 20) {
            const auto references = readReferences(bits, *sequence);
            if (!references) return std::nullopt;
            used = *references;
            temporal = sequence->temporalVectors && bits.flag();
        }
        if (sequence->sampleOffsets) {
            head.lumaOffsets = bits.flag();
            if (sequence->chromaArray() != 0) head.chromaOffsets = bits.flag();
        }
        if (head.type != SliceType::I && !readPrediction(bits, *sequence, *picture, used, temporal, head))
            return std::nullopt;
        head.qp = picture->qp + bits.se();
        if (picture->chromaOffsets) {
            bits.se();
            bits.se();
        }
        if (picture->chromaOffsetList) head.chromaQpOffsets = bits.flag();
        const bool own = picture->deblockingOverride && bits.flag();
        bool deblockingOff = picture->deblockingOff;
        if (own) {
            deblockingOff = bits.flag();
            if (!deblockingOff) {
                bits.se();
                bits.se();
            }
        }
        if (picture->acrossSlices && (head.lumaOffsets || head.chromaOffsets || !deblockingOff)) bits.skip(1);
    }
    if (picture->tiles || picture->rowsAlone) {
        const auto entries = bits.ue();
        if (entries > blocks) return std::nullopt;
        if (entries > 0) {
            const auto length = bits.ue() + 1;
            bits.skip(std::size_t{entries} * length);
        }
    }
    if (picture->headExtension) bits.skip(std::size_t{bits.ue()} * 8);
    // byte_alignment(): a one and zeros.
    const bool aligned = bits.flag();
    head.dataAt = (bits.position() + 7) / 8;
    const bool good = bits.ok() && aligned && head.dataAt < body.size() &&
                      bits.u(static_cast<unsigned>(head.dataAt * 8 - bits.position())) == 0;
    return good ? std::optional(head) : std::nullopt;
}

}  // namespace dreskel::hevc
