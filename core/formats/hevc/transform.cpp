// Transform trees and units (7.3.8.8, 7.3.8.10, 7.3.8.12, 7.3.8.14).
#include <algorithm>

#include "formats/hevc/slice_data.h"

namespace dreskel::hevc {

void SliceData::transformTree(const CodingBlock& block, const Transform& at, const Coded& above,
                              unsigned maxDepth) {
    if (wrong_ != nullptr || arithmetic_.overrun()) return;
    const bool inter = !block.intra && sequence_.interDepth == 0 && !block.plainShape && at.depth == 0;
    const bool forced = block.split && at.depth == 0;
    const bool split = at.size <= sequence_.maxTransform && at.size > sequence_.minTransform &&
                               at.depth < maxDepth && !forced
                           ? bit(element::kSplitTransform + 5 - at.size)
                           : at.size > sequence_.maxTransform || forced || inter;
    const auto array = sequence_.chromaArray();
    Coded coded;
    if ((at.size > 2 && array != 0) || array == 3) {
        const bool two = array == 2 && (!split || at.size == 3);
        const auto read = [&](const std::array<bool, 2>& parent, std::array<bool, 2>& flags) {
            if (!parent[0] && !parent[1]) return;
            flags[0] = bit(element::kChromaCoded + at.depth);
            if (two) flags[1] = bit(element::kChromaCoded + at.depth);
        };
        read(above.cb, coded.cb);
        read(above.cr, coded.cr);
    } else if (array != 0 && at.depth > 0) {
        coded = above;
    }
    if (split) {
        if (at.size <= 2) return wrong("a block that cannot be split");
        const int half = 1 << (at.size - 1);
        for (unsigned part = 0; part < 4; ++part) {
            const int x = at.x + static_cast<int>(part & 1) * half;
            const int y = at.y + static_cast<int>(part >> 1) * half;
            transformTree(block, {x, y, at.x, at.y, at.size - 1, at.depth + 1, part}, coded, maxDepth);
        }
        return;
    }
    const bool told = block.intra || at.depth != 0 || coded.any();
    const bool luma = !told || bit(element::kLumaCoded + (at.depth == 0 ? 1 : 0));
    transformUnit(block, at, coded, luma);
}

void SliceData::transformUnit(const CodingBlock& block, const Transform& at, const Coded& coded, bool luma) {
    if (!luma && !coded.any()) return;
    quantisation(block, coded);
    const auto part = block.split ? (at.y >= block.y + (1 << (block.size - 1)) ? 2U : 0U) +
                                        (at.x >= block.x + (1 << (block.size - 1)) ? 1U : 0U)
                                  : 0U;
    if (luma) residual(block, at.size, 0, block.luma[part]);
    chromaResiduals(block, at, coded, luma);
}

void SliceData::quantisation(const CodingBlock& block, const Coded& coded) {
    if (picture_.qpDelta && !qpDeltaCoded_) {
        qpDeltaCoded_ = true;
        std::uint32_t size = 0;
        while (size < 5 && bit(element::kQpDelta + (size == 0 ? 0 : 1))) ++size;
        if (size == 5) size += exponentialGolomb(0);
        if (size > 26 + 6 * (sequence_.lumaDepth - 8) / 2) wrong("a quantisation that cannot be");
        if (size > 0) arithmetic_.bypass();
    }
    if (head_.chromaQpOffsets && coded.any() && !block.bypass && !chromaOffsetCoded_) {
        chromaOffsetCoded_ = true;
        if (bit(element::kOffsetCoded) && picture_.chromaOffsets2 > 0) {
            unsigned index = 0;
            while (index < picture_.chromaOffsets2 && bit(element::kOffsetIndex)) ++index;
        }
    }
}

void SliceData::chromaResiduals(const CodingBlock& block, const Transform& at, const Coded& coded,
                                bool luma) {
    const auto array = sequence_.chromaArray();
    if (array == 0) return;
    const bool small = at.size == 2 && array != 3;
    if (small && at.index != 3) return;
    const unsigned size = array == 3 || small ? at.size : at.size - 1;
    const auto half = 1 << (block.size - 1);
    const auto part = block.split && array == 3
                          ? (at.y >= block.y + half ? 2U : 0U) + (at.x >= block.x + half ? 1U : 0U)
                          : 0U;
    for (unsigned colour = 1; colour < 3; ++colour) {
        if (picture_.crossComponent && array == 3 && luma && (!block.intra || block.chromaMode[part] == 4)) {
            unsigned scale = 0;
            while (scale < 4 && bit(element::kScale + 4 * (colour - 1) + scale)) ++scale;
            if (scale > 0) bit(element::kScaleSign + colour - 1);
        }
        const auto& flags = colour == 1 ? coded.cb : coded.cr;
        for (std::size_t i = 0; i < (array == 2 ? 2U : 1U); ++i) {
            if (flags[i]) residual(block, size, colour, block.chroma[part]);
        }
    }
}

}  // namespace dreskel::hevc
