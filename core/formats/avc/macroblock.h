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
    std::uint8_t luma = 0, chroma = 0;  // coded_block_pattern
    std::uint8_t chromaMode = 0;        // intra_chroma_pred_mode
    // How many coefficients each block of four by four holds, in rows; the colours' are two wide.
    std::array<std::uint8_t, 16> lumaCount{};
    std::array<std::array<std::uint8_t, 8>, 2> chromaCount{};
    std::array<bool, 3> dc{};  // of brightness and the colours: some
    // References above the first, by list and quarter, and how far motion differs from what was foreseen, by
    // list, block and direction.
    std::array<std::array<bool, 4>, 2> further{};
    std::array<std::array<std::array<std::uint8_t, 2>, 16>, 2> difference{};

    bool intra() const { return kind != Kind::Inter; }
};

// Those to the left and above, of the same slice; null where there are none.
struct Neighbours {
    const Macroblock* left = nullptr;
    const Macroblock* above = nullptr;
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
