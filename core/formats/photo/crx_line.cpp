#include "formats/photo/crx_line.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstdlib>

namespace dreskel {
namespace {

constexpr unsigned kWrittenOut = 41;  // zeros in front of a number that is
constexpr int kWrittenBits = 21;
constexpr int kMostFew = 15;
constexpr int kLastRunState = 31;
// A run grows by so many samples (two to that power) with each bit, and the rest of it takes as many bits.
constexpr std::array<std::uint8_t, 32> kRunBits{0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2,  2,  3,  3,  3,  3,
                                                4, 4, 5, 5, 6, 6, 7, 7, 8, 9, 10, 11, 12, 13, 14, 15};

// Zeros in front of the next one, which is taken, too; more than kWrittenOut are no code.
unsigned zeros(jpeg::BitReader& bits) {
    unsigned count = 0;
    for (;;) {
        bits.fill();
        const auto some = static_cast<unsigned>(std::countl_zero(bits.top()));
        count += some;
        if (some < 32) {
            bits.drop(static_cast<int>(some) + 1);
            return count;
        }
        bits.drop(32);
        if (count > kWrittenOut) return count;
    }
}

}  // namespace

const char* CrxSamples::startRun(jpeg::BitReader& bits) {
    bits.fill();
    if (bits.take(1) == 0) return nullptr;
    std::uint32_t length = 1;
    const auto most = left();
    while (length < most) {
        bits.fill();
        const auto step = kRunBits[static_cast<std::size_t>(runState_)];
        if (bits.take(1) == 0) {
            if (step > 0) length += bits.take(step);
            runState_ = std::max(0, runState_ - 1);
            break;
        }
        length += 1U << step;
        if (length <= most) runState_ = std::min(kLastRunState, runState_ + 1);
        length = std::min(length, most);
    }
    if (length > most) return "a run beyond its line";
    run_ = length;
    return nullptr;
}

const char* CrxSamples::coded(jpeg::BitReader& bits, int foretold) {
    const auto high = zeros(bits);
    if (high > kWrittenOut) return "an impossible code";
    bits.fill();
    std::uint32_t number = high;
    if (high == kWrittenOut) {
        number = bits.take(kWrittenBits - 16) << 16;
        number |= bits.take(16);
    } else if (few_ > 0) {
        number = high << few_ | bits.take(few_);
    }
    const auto half = static_cast<std::int32_t>(number >> 1);
    const auto value = foretold + ((number & 1) != 0 ? -half - 1 : half);
    // The line above tells how large the next one is likely to be.
    if (rows_ > 0 && left() > 1)
        number = (number + 2U * static_cast<std::uint32_t>(std::abs(ahead() - north()))) >> 1;
    few_ += ((number >> few_) > 2 ? 1 : 0) + ((number >> few_) > 5 ? 1 : 0) -
            (number < (1U << few_ >> 1) ? 1 : 0);
    few_ = std::min(few_, kMostFew);
    return put(value);
}

const char* CrxSamples::next(jpeg::BitReader& bits) {
    if (column_ == 0) line_[0] = rows_ == 0 ? 0 : north();
    if (run_ == 0 && mayRun()) {
        if (const auto* wrong = startRun(bits)) return wrong;
        broke_ = run_ == 0;
    }
    if (run_ == 0) return coded(bits, foretold());
    const auto* wrong = put(west());
    broke_ = --run_ == 0 && left() > 0;
    return wrong;
}

void CrxSamples::endRow() {
    line_[column_ + 1] = line_[column_] + 1;
    std::swap(line_, above_);
    column_ = 0;
    ++rows_;
}

}  // namespace dreskel
