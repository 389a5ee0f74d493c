#include "formats/hevc/parameter_sets.h"

#include <optional>

#include "formats/clip/nal_bits.h"
#include "formats/hevc/reference_set.h"

namespace dreskel::hevc {
namespace {

constexpr std::size_t kLongestSet = 1U << 16;
constexpr std::uint32_t kLargestSide = 1U << 14, kLargestPicture = 1U << 27;  // samples; Table A.8 and more
constexpr unsigned kHeaderBytes = 2;

void skipProfile(NalBits& bits, unsigned layers) {  // 7.3.3
    bits.skip(96);
    std::array<std::array<bool, 2>, 8> present{};
    for (unsigned i = 0; i < layers; ++i) present[i] = {bits.flag(), bits.flag()};
    if (layers > 0) bits.skip(std::size_t{8 - layers} * 2);
    for (unsigned i = 0; i < layers; ++i) bits.skip((present[i][0] ? 88U : 0U) + (present[i][1] ? 8U : 0U));
}

void skipScalingListData(NalBits& bits) {  // 7.3.4
    for (unsigned size = 0; size < 4; ++size) {
        for (unsigned matrix = 0; matrix < 6 && bits.ok(); matrix += size == 3 ? 3 : 1) {
            if (!bits.flag()) {
                bits.ue();
                continue;
            }
            if (size > 1) bits.se();
            for (unsigned i = 0; i < (size == 0 ? 16U : 64U) && bits.ok(); ++i) bits.se();
        }
    }
}

void skipRates(NalBits& bits, unsigned count, bool subPictures) {  // E.2.3
    for (unsigned i = 0; i < count && bits.ok(); ++i) {
        bits.ue();
        bits.ue();
        if (subPictures) {
            bits.ue();
            bits.ue();
        }
        bits.skip(1);
    }
}

void skipBuffering(NalBits& bits, unsigned layers) {  // E.2.2, with what all layers share
    const bool nal = bits.flag();
    const bool vcl = bits.flag();
    bool subPictures = false;
    if (nal || vcl) {
        subPictures = bits.flag();
        if (subPictures) bits.skip(19);
        bits.skip(8);
        if (subPictures) bits.skip(4);
        bits.skip(15);
    }
    for (unsigned i = 0; i <= layers && bits.ok(); ++i) {
        const bool general = bits.flag();
        const bool within = general || bits.flag();
        bool low = false;
        if (within) {
            bits.ue();
        } else {
            low = bits.flag();
        }
        const auto count = low ? 1 : bits.ue() + 1;
        if (count > 32) return bits.fail();
        if (nal) skipRates(bits, count, subPictures);
        if (vcl) skipRates(bits, count, subPictures);
    }
}

void skipUsability(NalBits& bits, unsigned layers) {  // E.2.1
    if (bits.flag() && bits.u(8) == 255) bits.skip(32);
    if (bits.flag()) bits.skip(1);
    if (bits.flag()) {
        bits.skip(4);
        if (bits.flag()) bits.skip(24);
    }
    if (bits.flag()) {
        bits.ue();
        bits.ue();
    }
    bits.skip(3);
    if (bits.flag()) {
        for (int i = 0; i < 4; ++i) bits.ue();
    }
    if (bits.flag()) {
        bits.skip(64);
        if (bits.flag()) bits.ue();
        if (bits.flag()) skipBuffering(bits, layers);
    }
    if (bits.flag()) {
        bits.skip(3);
        for (int i = 0; i < 5; ++i) bits.ue();
    }
}

bool sane(const Sequence& set) {
    return set.width > 0 && set.height > 0 && set.width <= kLargestSide && set.height <= kLargestSide &&
           set.width * set.height <= kLargestPicture && set.chroma <= 3 && set.lumaDepth <= 16 &&
           set.chromaDepth <= 16 && set.orderBits <= 16 && set.minBlock >= 3 && set.treeBlock >= 4 &&
           set.treeBlock <= 6 && set.minBlock <= set.treeBlock && set.minTransform < set.minBlock &&
           set.maxTransform <= 5 && set.minTransform <= set.maxTransform &&
           set.maxTransform <= set.treeBlock && set.interDepth <= 4 && set.intraDepth <= 4 &&
           set.width % (1U << set.minBlock) == 0 && set.height % (1U << set.minBlock) == 0;
}

// Nothing for what is damaged, and for extensions whose slices cannot be followed here.
std::optional<Sequence> readSequence(Bytes body, std::uint32_t& number) {
    NalBits bits(body);
    Sequence set;
    bits.skip(4);
    const auto layers = bits.u(3);
    bits.skip(1);
    skipProfile(bits, layers);
    number = bits.ue();
    set.chroma = bits.ue();
    if (set.chroma == 3) set.separatePlanes = bits.flag();
    set.width = bits.ue();
    set.height = bits.ue();
    if (bits.flag()) {
        for (int i = 0; i < 4; ++i) bits.ue();
    }
    set.lumaDepth = bits.ue() + 8;
    set.chromaDepth = bits.ue() + 8;
    set.orderBits = bits.ue() + 4;
    const bool each = bits.flag();
    for (unsigned i = each ? 0 : layers; i <= layers; ++i) {
        for (int j = 0; j < 3; ++j) bits.ue();
    }
    set.minBlock = bits.ue() + 3;
    set.treeBlock = set.minBlock + bits.ue();
    set.minTransform = bits.ue() + 2;
    set.maxTransform = set.minTransform + bits.ue();
    set.interDepth = bits.ue();
    set.intraDepth = bits.ue();
    if (!bits.ok() || !sane(set)) return std::nullopt;
    if (bits.flag() && bits.flag()) skipScalingListData(bits);
    set.asymmetric = bits.flag();
    set.sampleOffsets = bits.flag();
    set.plain = bits.flag();
    if (set.plain) {
        set.plainLumaDepth = bits.u(4) + 1;
        set.plainChromaDepth = bits.u(4) + 1;
        set.minPlain = bits.ue() + 3;
        set.maxPlain = set.minPlain + bits.ue();
        bits.skip(1);
    }
    const auto sets = bits.ue();
    if (sets > 64) return std::nullopt;
    for (std::uint32_t i = 0; i < sets; ++i) {
        auto one = readReferenceSet(bits, set.referenceSets, i, sets);
        if (!one) return std::nullopt;
        set.referenceSets.push_back(std::move(*one));
    }
    set.longTerm = bits.flag();
    if (set.longTerm) {
        const auto count = bits.ue();
        if (count > 32) return std::nullopt;
        for (std::uint32_t i = 0; i < count; ++i) {
            bits.skip(set.orderBits);
            set.longTermUsed.push_back(bits.flag());
        }
    }
    set.temporalVectors = bits.flag();
    bits.skip(1);
    if (bits.flag()) skipUsability(bits, layers);
    if (bits.flag()) {
        const bool range = bits.flag();
        if (bits.u(7) != 0) return std::nullopt;
        if (range) {
            bits.skip(1);
            set.skipContext = bits.flag();
            set.implicitDifferences = bits.flag();
            set.explicitDifferences = bits.flag();
            const bool extended = bits.flag();
            bits.skip(2);
            set.persistentRice = bits.flag();
            const bool aligned = bits.flag();
            if (extended || aligned) return std::nullopt;
        }
    }
    return bits.ok() ? std::optional(set) : std::nullopt;
}

std::optional<PictureSet> readPicture(Bytes body, std::uint32_t& number) {
    NalBits bits(body);
    PictureSet set;
    number = bits.ue();
    set.sequence = bits.ue();
    set.dependentSlices = bits.flag();
    set.outputFlag = bits.flag();
    set.extraBits = bits.u(3);
    set.signHiding = bits.flag();
    set.cabacInit = bits.flag();
    set.references = {bits.ue() + 1, bits.ue() + 1};
    set.qp = 26 + bits.se();
    bits.skip(1);
    set.transformSkip = bits.flag();
    set.qpDelta = bits.flag();
    if (set.qpDelta) set.qpDeltaDepth = bits.ue();
    bits.se();
    bits.se();
    set.chromaOffsets = bits.flag();
    set.weighted = bits.flag();
    set.biWeighted = bits.flag();
    set.bypass = bits.flag();
    set.tiles = bits.flag();
    set.rowsAlone = bits.flag();
    if (set.tiles) {
        set.tileColumns = bits.ue() + 1;
        set.tileRows = bits.ue() + 1;
        if (set.tileColumns > 20 || set.tileRows > 22) return std::nullopt;
        if (!bits.flag()) {
            for (std::uint32_t i = 1; i < set.tileColumns; ++i) set.columns.push_back(bits.ue() + 1);
            for (std::uint32_t i = 1; i < set.tileRows; ++i) set.rows.push_back(bits.ue() + 1);
        }
        bits.skip(1);
    }
    set.acrossSlices = bits.flag();
    set.deblockingControl = bits.flag();
    if (set.deblockingControl) {
        set.deblockingOverride = bits.flag();
        set.deblockingOff = bits.flag();
        if (!set.deblockingOff) {
            bits.se();
            bits.se();
        }
    }
    if (bits.flag()) skipScalingListData(bits);
    set.listsModified = bits.flag();
    bits.ue();
    set.headExtension = bits.flag();
    if (bits.flag()) {
        const bool range = bits.flag();
        if (bits.u(7) != 0) return std::nullopt;
        if (range) {
            if (set.transformSkip) set.maxSkip = bits.ue() + 2;
            set.crossComponent = bits.flag();
            set.chromaOffsetList = bits.flag();
            if (set.chromaOffsetList) {
                set.chromaOffsetDepth = bits.ue();
                set.chromaOffsets2 = bits.ue();
            }
        }
    }
    const bool good = bits.ok() && set.sequence < 16 && set.references[0] <= 15 && set.references[1] <= 15 &&
                      set.qpDeltaDepth <= 3 && set.chromaOffsetDepth <= 3 && set.chromaOffsets2 <= 5;
    return good ? std::optional(set) : std::nullopt;
}

}  // namespace

void ParameterSets::learn(Bytes unit) {
    // Those of other layers have numbers of their own.
    if (unit.size() <= kHeaderBytes || (unit[0] & 1) != 0 || unit[1] >> 3 != 0) return;
    const unsigned type = unit[0] >> 1;
    if (type != 33 && type != 34) return;
    const auto body = unescaped(unit, kHeaderBytes, kLongestSet);
    std::uint32_t number = 0;
    if (type == 33) {
        const auto set = readSequence(body, number);
        sequences_.put(number, set);
    } else {
        const auto set = readPicture(body, number);
        pictures_.put(number, set);
    }
}

}  // namespace dreskel::hevc
