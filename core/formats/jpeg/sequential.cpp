#include "formats/jpeg/sequential.h"

#include <algorithm>

namespace dreskel::jpeg {

std::optional<int> longDifference(BitReader& bits, const HuffmanTable& table) {
    auto code = table.look(bits.top());
    if (code.length == 0) code = table.slow(bits.top());
    if (code.length == 0 || code.symbol > 15) return std::nullopt;
    bits.drop(code.length);
    if (code.symbol == 0) return 0;
    return difference(static_cast<int>(bits.take(code.symbol)), code.symbol);
}

namespace {

struct OneCode {
    BitReader bits;   // behind it
    unsigned k = 64;  // of the coefficient behind it; 64: the block is done
    const char* wrong = nullptr;
};

// One code by itself: a long one, the one that fills the block, or what is wrong.
OneCode passOneCode(BitReader bits, const HuffmanTable& table, unsigned k) {
    bits.fill();
    auto code = table.look(bits.top());
    if (code.length == 0) code = table.slow(bits.top());
    const unsigned run = code.symbol >> 4;
    const unsigned size = code.symbol & 15;
    if (code.length == 0 || (size == 0 && run != 0 && run < 15)) return {bits, k, kNoCode};
    bits.drop(code.length + static_cast<int>(size));
    if (code.symbol == 0) return {bits};
    k += run + 1;
    return {bits, k, k > 64 ? kTooMany : nullptr};
}

// Readers go to functions that are not inlined as copies: what nothing points at stays in registers.

// F.2.2.2. What costs time are the chain from one look-up to the next and branches that cannot be foreseen:
// a look-up passes several codes, and there is one branch for each, which tells the end of the block.
[[gnu::always_inline]] inline const char* passCoefficients(BitReader& bits, const HuffmanTable& table) {
    unsigned k = 1;
    while (k < 64) {
        // One fill serves two steps.
        static_assert(2 * HuffmanTable::kMostBits <= 56);
        bits.fill();
        auto step = table.step(bits.top());
        if (step.bits != 0 && k + step.advance < 64) [[likely]] {
            bits.drop(step.bits);
            k += step.advance;
            step = table.step(bits.top());
            if (step.bits != 0 && k + step.advance < 64) [[likely]] {
                bits.drop(step.bits);
                k += step.advance;
                continue;
            }
        }
        // The end of the block, if no coefficient of the step lies beyond it.
        if (step.advance >= HuffmanTable::kEndOfBlock && k + step.advance < HuffmanTable::kEndOfBlock + 64U) {
            bits.drop(step.bits);
            return nullptr;
        }
        const auto one = passOneCode(bits, table, k);
        bits = one.bits;
        if (one.wrong != nullptr) return one.wrong;
        k = one.k;
    }
    return nullptr;
}

[[gnu::always_inline]] inline const char* passBlock(BitReader& bits, const SequentialScan::Part& part,
                                                    int& value) {
    bits.fill();
    const auto step = part.dcTable->dcStep(bits.top());
    if (step.bits != 0) [[likely]] {
        bits.drop(step.bits);
        value += step.difference;
    } else {
        auto behind = bits;
        const auto further = longDifference(behind, *part.dcTable);
        bits = behind;
        if (!further) return kNoCode;
        value += *further;
    }
    if (value > part.mostDc || value < -part.mostDc) return kTooBright;
    return passCoefficients(bits, *part.acTable);
}

[[gnu::always_inline]] inline const char* pass(BitReader& bits, const SequentialScan& scan,
                                               DcPredictions& predictions, std::size_t x, std::size_t y) {
    for (std::size_t i = 0; i < scan.count; ++i) {
        const auto& part = scan.parts[i];
        auto* kept =
            part.plane == nullptr ? nullptr : part.plane + part.high * y * part.planeWidth + part.wide * x;
        int value = predictions[i];
        for (std::size_t row = 0; row < part.high; ++row) {
            for (std::size_t column = 0; column < part.wide; ++column) {
                if (const auto* wrong = passBlock(bits, part, value)) return wrong;
                if (kept != nullptr) kept[column] = static_cast<std::int16_t>(value);
            }
            if (kept != nullptr) kept += part.planeWidth;
        }
        predictions[i] = value;
    }
    return nullptr;
}

}  // namespace

// Shifts that leave the flags alone make the chain shorter, where the processor has them.
[[gnu::target_clones("default", "bmi2")]] std::uint64_t passMcus(BitReader& reader,
                                                                 const SequentialScan& scan,
                                                                 DcPredictions& predictions,
                                                                 std::uint64_t mcu, std::uint64_t most,
                                                                 std::size_t until) {
    auto x = static_cast<std::size_t>(mcu % scan.mcusWide);
    auto y = static_cast<std::size_t>(mcu / scan.mcusWide);
    std::uint64_t passed = 0;
    // A copy, which the compiler can keep in registers.
    BitReader bits = reader;
    DcPredictions values = predictions;
    for (; passed < most && bits.position() < until; ++passed) {
        if (pass(bits, scan, values, x, y) != nullptr || bits.overrun()) break;
        reader = bits;
        predictions = values;
        if (++x == scan.mcusWide) {
            x = 0;
            ++y;
        }
    }
    return passed;
}

const char* passRestOfMcu(BitReader& bits, const SequentialScan& scan, DcPredictions& predictions,
                          std::size_t from) {
    for (std::size_t i = 0; i < scan.count; ++i) {
        const auto& part = scan.parts[i];
        const auto blocks = part.wide * part.high;
        for (auto block = std::min(from, blocks); block < blocks; ++block) {
            if (const auto* wrong = passBlock(bits, part, predictions[i])) return wrong;
        }
        from -= std::min(from, blocks);
    }
    return nullptr;
}

const char* passMcu(BitReader& bits, const SequentialScan& scan, DcPredictions& predictions,
                    std::uint64_t mcu) {
    return pass(bits, scan, predictions, static_cast<std::size_t>(mcu % scan.mcusWide),
                static_cast<std::size_t>(mcu / scan.mcusWide));
}

}  // namespace dreskel::jpeg
