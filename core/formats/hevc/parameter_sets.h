// What a stream's sequence and picture parameter sets (ITU-T H.265, 7.3.2.2 and 7.3.2.3) say that the syntax
// of its slices depends on.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

#include "base/bytes.h"
#include "formats/clip/numbered_sets.h"

namespace dreskel::hevc {

// A set of reference pictures (7.3.7), as far as it is needed: how far before and behind each one is.
struct ReferenceSet {
    std::vector<std::int32_t> before, behind;  // distances in the order of showing
    std::vector<bool> usedBefore, usedBehind;  // by the picture itself

    bool operator==(const ReferenceSet&) const = default;
};

struct Sequence {
    unsigned chroma = 1;          // chroma_format_idc
    bool separatePlanes = false;  // three pictures of one colour
    std::uint32_t width = 0, height = 0;
    unsigned lumaDepth = 8, chromaDepth = 8;  // bits a sample
    unsigned orderBits = 4;                   // of slice_pic_order_cnt_lsb
    unsigned minBlock = 3, treeBlock = 4;     // logarithms of the sizes of coding blocks
    unsigned minTransform = 2, maxTransform = 5;
    unsigned interDepth = 0, intraDepth = 0;  // of transform trees
    bool asymmetric = false, sampleOffsets = false, temporalVectors = false, longTerm = false;
    bool plain = false;  // samples that are not coded may occur
    unsigned plainLumaDepth = 8, plainChromaDepth = 8, minPlain = 3, maxPlain = 5;
    std::vector<ReferenceSet> referenceSets;
    std::vector<bool> longTermUsed;
    // Range extensions (7.3.2.2.2).
    bool skipContext = false, implicitDifferences = false, explicitDifferences = false;
    bool persistentRice = false;

    bool operator==(const Sequence&) const = default;
    unsigned chromaArray() const { return separatePlanes ? 0 : chroma; }
    std::uint32_t treeBlocksWide() const { return (width + (1U << treeBlock) - 1) >> treeBlock; }
    std::uint32_t treeBlocksHigh() const { return (height + (1U << treeBlock) - 1) >> treeBlock; }
};

struct PictureSet {
    unsigned sequence = 0;  // its number
    bool dependentSlices = false, outputFlag = false, signHiding = false, cabacInit = false;
    unsigned extraBits = 0;
    std::array<unsigned, 2> references{1, 1};  // by default
    int qp = 26;
    bool transformSkip = false, qpDelta = false, chromaOffsets = false, weighted = false, biWeighted = false,
         bypass = false, tiles = false, rowsAlone = false, acrossSlices = false, deblockingControl = false,
         deblockingOverride = false, deblockingOff = false, listsModified = false, headExtension = false;
    unsigned qpDeltaDepth = 0;
    std::vector<std::uint32_t> columns, rows;  // of tiles, in tree blocks; empty when they are alike
    std::uint32_t tileColumns = 1, tileRows = 1;
    // Range extensions (7.3.2.3.2).
    unsigned maxSkip = 2;  // logarithm
    bool crossComponent = false, chromaOffsetList = false;
    unsigned chromaOffsetDepth = 0, chromaOffsets2 = 0;  // chroma_qp_offset_list_len_minus1

    bool operator==(const PictureSet&) const = default;
};

// The sets of one stream by their numbers.
class ParameterSets {
  public:
    // A unit with its two bytes of header; others than sets are passed over.
    void learn(Bytes unit);
    std::shared_ptr<const PictureSet> picture(std::uint32_t number) const { return pictures_.at(number); }
    std::shared_ptr<const Sequence> sequence(std::uint32_t number) const { return sequences_.at(number); }

  private:
    NumberedSets<Sequence, 16> sequences_;
    NumberedSets<PictureSet, 64> pictures_;
};

}  // namespace dreskel::hevc
