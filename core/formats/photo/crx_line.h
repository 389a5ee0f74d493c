// One plane of Canon's CR3: numbers in codes of Golomb and Rice, runs of samples as the one before them, a
// forecast from beside, above and between.
#pragma once

#include <cstdint>
#include <cstdlib>
#include <vector>

#include "formats/photo/coded_rows.h"

namespace dreskel {

class CrxSamples {
  public:
    static constexpr std::size_t kHead = 0, kCodeBytes = 40;
    static constexpr std::uint64_t kMostBehind = 64;
    static constexpr unsigned kAlike = 1;

    CrxSamples(std::uint32_t width, std::uint32_t height, unsigned bits)
        : width_(width),
          height_(height),
          bits_(static_cast<int>(bits)),
          line_(width + 2),
          above_(width + 2) {}
    std::uint32_t width() const { return width_; }
    std::uint32_t height() const { return height_; }
    int bits() const { return bits_; }
    CodedSample last() const { return last_; }
    const char* next(jpeg::BitReader& bits);
    void endRow();

  private:
    // What stands where, around the sample in hand.
    int west() const { return line_[column_]; }
    int north() const { return above_[column_ + 1]; }
    int corner() const { return above_[column_]; }
    int ahead() const { return above_[column_ + 2]; }
    std::uint32_t left() const { return width_ - column_; }  // in the line
    bool mayRun() const {
        if (broke_ || left() < 2) return false;
        return rows_ == 0 ? west() == 0 : west() == north() && west() == ahead();
    }
    const char* startRun(jpeg::BitReader& bits);
    const char* coded(jpeg::BitReader& bits, int foretold);
    int foretold() const {
        if (rows_ == 0) return broke_ ? 0 : west();
        if (broke_) return north();
        const int slope = north() - corner();
        const bool falls = slope < 0, first = (corner() < west()) != falls;
        if (!first) return slope + west();
        return (west() < north()) != falls ? north() : west();
    }
    const char* put(int value) {
        if (std::abs(value) > 1 << bits_) return "a sample beyond those that can be";
        last_ = {value, column_ == 0 ? value : west(), north()};
        line_[++column_] = value;
        broke_ = false;
        return nullptr;
    }

    std::uint32_t width_, height_;
    int bits_;
    std::uint32_t rows_ = 0, column_ = 0;
    std::uint32_t run_ = 0;  // samples of it that are left
    bool broke_ = false;     // the sample in hand is the one at which a run ended
    int few_ = 0, runState_ = 0;
    std::vector<std::int32_t> line_, above_;  // with one more on either side
    CodedSample last_;
};

}  // namespace dreskel
