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
    // One row that does hardly follow is then too much. Pictures have such edges, but few of them lie just
    // where pieces were put together.
    void lookClosely(bool closely) { closely_ = closely; }
    void add(int value, int left, int twoAbove) {
        along_ += static_cast<std::uint32_t>(value > left ? value - left : left - value);
        down_ += static_cast<std::uint32_t>(value > twoAbove ? value - twoAbove : twoAbove - value);
        ++count_;
    }
    enum class Row { Follows, Strange, Foreign };
    // A row is complete. Foreign: it is not the same picture any more.
    Row endRow() {
        const auto count = static_cast<double>(std::max<std::uint64_t>(1, count_));
        const double along = static_cast<double>(along_) / count;
        const double down = static_cast<double>(down_) / count;
        along_ = down_ = count_ = 0;
        // The first two have none to be compared with.
        if (++rows_ <= 2) return Row::Follows;
        const double thanAlong = closely_ ? kCloselyThanAlong : kThanAlong,
                     thanUsual = closely_ ? kCloselyThanUsual : kThanUsual;
        const bool odd =
            rows_ > kLearnt && down > thanAlong * along + least_ && down > thanUsual * usual_ + least_;
        strange_ = odd ? strange_ + 1 : 0;
        if (!odd) usual_ = rows_ == 3 ? down : usual_ + (down - usual_) / 16;
        if (strange_ >= (closely_ ? 1 : kMostStrange)) return Row::Foreign;
        return odd ? Row::Strange : Row::Follows;
    }

  private:
    // An edge across the whole picture is one or two rows; a picture that was dragged along itself differs
    // more from row to row than along the rows, but hardly so much, and not all at once.
    static constexpr double kThanAlong = 12, kThanUsual = 8;
    static constexpr double kCloselyThanAlong = 3, kCloselyThanUsual = 4;
    static constexpr std::uint32_t kLearnt = 10;  // rows
    static constexpr int kMostStrange = 6;        // rows

    int least_ = 1;
    std::uint64_t along_ = 0, down_ = 0, count_ = 0;
    std::uint32_t rows_ = 0;
    double usual_ = 0;
    int strange_ = 0;
    bool closely_ = false;
};

}  // namespace dreskel::jpeg
