// What a stream's sequence and picture parameter sets (ITU-T H.264, 7.3.2.1 and 7.3.2.2) say that the syntax
// of its slices depends on.
#pragma once

#include <array>
#include <cstdint>
#include <memory>

#include "base/bytes.h"
#include "formats/clip/numbered_sets.h"

namespace dreskel::avc {

struct Sequence {
    unsigned chroma = 1;                      // chroma_format_idc
    unsigned lumaDepth = 8, chromaDepth = 8;  // bits a sample
    unsigned frameBits = 4, orderType = 0, orderBits = 4;
    bool orderAlwaysZero = false;              // delta_pic_order_always_zero_flag
    std::uint32_t wide = 0, high = 0;          // macroblocks; of a frame
    bool framesOnly = true, adaptive = false;  // adaptive: frames of field and frame macroblocks
    bool direct8 = false;

    bool operator==(const Sequence&) const = default;
};

struct PictureSet {
    unsigned sequence = 0;  // its number
    bool arithmetic = false, orderPresent = false, weighted = false, deblockingControl = false,
         redundant = false, transform8 = false;
    unsigned biWeighted = 0;
    std::array<unsigned, 2> references{1, 1};  // by default
    int qp = 26;

    bool operator==(const PictureSet&) const = default;
};

// The sets of one stream by their numbers.
class ParameterSets {
  public:
    // A unit with its byte of header; others than sets are passed over.
    void learn(Bytes unit);
    // Nothing either for those that ask for what is not followed here: slices in any order, field macroblocks
    // among frame macroblocks, colour as fine as brightness.
    std::shared_ptr<const PictureSet> picture(std::uint32_t number) const { return pictures_.at(number); }
    std::shared_ptr<const Sequence> sequence(std::uint32_t number) const { return sequences_.at(number); }

  private:
    NumberedSets<Sequence, 32> sequences_;
    NumberedSets<PictureSet, 256> pictures_;
};

}  // namespace dreskel::avc
