// How the macroblocks of one frame of VP8 move (RFC 6386, sections 16.3, 16.4 and 17): as far as the modes
// and vectors of further ones are coded by it.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "formats/bool_decoder.h"
#include "formats/vp8/tables.h"

namespace dreskel::vp8 {

struct Vector {
    std::int32_t row = 0, column = 0;  // quarters of a pixel
    bool operator==(const Vector&) const = default;
    bool still() const { return row == 0 && column == 0; }
};

enum Reference : std::uint8_t { Inside, Last, Golden, Other };

class MotionField {
  public:
    // In macroblocks.
    MotionField(std::uint32_t columns, std::uint32_t rows);

    void beginRow(std::uint32_t row);
    void takeInside(std::uint32_t column) { at(column) = {}; }
    // Reads how a macroblock moves that is foretold from a reference; whether each of its parts does by
    // itself.
    bool read(std::uint32_t column, Reference reference, const std::array<bool, 4>& turned,
              const MotionChances& chances, BoolDecoder& bits);

  private:
    struct Block {
        Reference reference = Inside;
        bool inParts = false;
        std::array<Vector, 16> parts{};
        const Vector& whole() const { return parts.back(); }
    };
    // How those above, on the left and between move.
    struct Near {
        std::array<Vector, 3> vectors{};  // the best guess, the most frequent one, the second
        std::array<std::size_t, 4> weights{};
    };

    Near near(std::uint32_t column, Reference reference, const std::array<bool, 4>& turned) const;
    Vector within(Vector vector, std::uint32_t column) const;
    void readParts(std::uint32_t column, Vector best, const MotionChances& chances, BoolDecoder& bits);
    Block& at(std::uint32_t column) { return row_[column + 1]; }

    std::uint32_t columns_, rows_, rowNumber_ = 0;
    std::vector<Block> row_, above_;  // with one in front that is none
};

}  // namespace dreskel::vp8
