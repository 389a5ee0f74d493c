// Whether the rows of a picture go on with those above, for codings in which foreign data decode to samples,
// too. Foreign rows are as smooth along themselves as any, being differences, but begin anywhere: they have
// nothing to do with the rows above. Rows are compared with those two above, as a sensor's colours alternate.
#pragma once

#include <algorithm>
#include <cstdint>

namespace dreskel::jpeg {

class RowContinuity {
  public:
    void setPrecision(int bits) { least_ = 1 << std::max(0, bits - 8); }
    void add(int value, int left, int twoAbove) {
        along_ += static_cast<std::uint32_t>(value > left ? value - left : left - value);
        down_ += static_cast<std::uint32_t>(value > twoAbove ? value - twoAbove : twoAbove - value);
        ++count_;
    }
    // A row is complete. How many in a row, up to this one, did not follow.
    int endRow() {
        const auto count = static_cast<double>(std::max<std::uint64_t>(1, count_));
        const double along = static_cast<double>(along_) / count;
        const double down = static_cast<double>(down_) / count;
        along_ = down_ = count_ = 0;
        // The first two have none to be compared with.
        if (++rows_ <= 2) return 0;
        const bool odd =
            rows_ > kLearnt && down > kThanAlong * along + least_ && down > kThanUsual * usual_ + least_;
        strange_ = odd ? strange_ + 1 : 0;
        if (!odd) usual_ = rows_ == 3 ? down : usual_ + (down - usual_) / 16;
        return strange_;
    }

  private:
    // An edge across the whole picture is one or two rows; a picture that was dragged along itself differs
    // more from row to row than along the rows, but hardly so much, and not all at once.
    static constexpr double kThanAlong = 12, kThanUsual = 8;
    static constexpr std::uint32_t kLearnt = 10;  // rows

    int least_ = 1;
    std::uint64_t along_ = 0, down_ = 0, count_ = 0;
    std::uint32_t rows_ = 0;
    double usual_ = 0;
    int strange_ = 0;
};

}  // namespace dreskel::jpeg
