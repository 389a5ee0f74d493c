// In which order VP9 codes the coefficients of a block, and which of those that came foretell one
// (10.6; 9.3.1, "more_coefs").
#pragma once

#include <array>
#include <cstdint>
#include <vector>

namespace dreskel::vp9 {

struct Scan {
    struct Step {
        std::uint16_t place;                  // row by row
        std::array<std::uint16_t, 2> beside;  // places that foretell it; of the first one meaningless
    };
    std::vector<Step> steps;
};

enum class ScanKind : std::uint8_t { Both, Rows, Columns };

// Of a transform of 4 << size samples a side; the largest has one order.
const Scan& scanOf(std::size_t size, ScanKind kind);

}  // namespace dreskel::vp9
