// What is kept of a macroblock for those that follow it (ITU-T H.264, 6.4.11).
#pragma once

#include <array>
#include <cstdint>

namespace dreskel::avc {

struct Macroblock {
    enum class Kind : std::uint8_t { Inter, Intra4, Intra16, Plain };

    std::uint32_t slice = 0;  // counted from 1; 0: not decoded yet
    Kind kind = Kind::Inter;
    bool skipped = false, direct = false, transform8 = false;
    bool field = false;                 // its rows are every other of the frame
    std::uint8_t luma = 0, chroma = 0;  // coded_block_pattern
    std::uint8_t chromaMode = 0;        // intra_chroma_pred_mode
    // How many coefficients each block of four by four holds, in rows; the colours' are two wide.
    std::array<std::uint8_t, 16> lumaCount{};
    std::array<std::array<std::uint8_t, 8>, 2> chromaCount{};
    std::array<bool, 3> dc{};  // of brightness and the colours: some
    // References by list and quarter, as far as it matters: the first, the second, or further; and how far
    // motion differs from what was foreseen, by list, block and direction.
    std::array<std::array<std::uint8_t, 4>, 2> reference{};
    std::array<std::array<std::array<std::uint8_t, 2>, 16>, 2> difference{};

    bool intra() const { return kind != Kind::Inter; }
};

// Those to the left and above, of the same slice; null where there are none.
struct Neighbours {
    // How the rows of one lie beside the rows of those to its left (Table 6-4), in a frame that holds pairs
    // of macroblocks of fields beside pairs of the frame; elsewhere they are the same.
    enum class Rows : std::uint8_t { Same, FieldsByUpper, FieldsByLower, FrameByField };

    const Macroblock* left = nullptr;  // beside its first row
    const Macroblock* above = nullptr;
    const Macroblock* leftLower = nullptr;  // FrameByField: the lower one of the pair to the left
    Rows rows = Rows::Same;

    struct Place {
        const Macroblock* block = nullptr;
        unsigned row = 0;
    };
    // What lies left of a row of blocks, of `all` rows in a macroblock.
    Place leftOf(unsigned row, unsigned all) const {
        switch (rows) {
            case Rows::FieldsByUpper: return {left, row / 2};
            case Rows::FieldsByLower: return {left, (row + all) / 2};
            case Rows::FrameByField:
                if (row >= all / 2) return {leftLower, row * 2 - all};
                return {left, row * 2};
            default: return {left, row};
        }
    }
};

// A block's coefficients: what they are of.
enum class BlockKind : std::uint8_t { Dc16, Ac16, Luma4, ChromaDc, ChromaAc, Luma8 };  // ctxBlockCat

struct BlockPlace {
    BlockKind kind = BlockKind::Luma4;
    unsigned colour = 0;  // 1 and 2 of chroma
    unsigned index = 0;   // in rows
    unsigned most = 16;   // coefficients it can hold
};

}  // namespace dreskel::avc
