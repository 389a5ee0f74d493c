#include "formats/photo/difference_rows.h"

#include "formats/photo/coded_rows.h"

namespace dreskel {
namespace {

constexpr int kRaised = 16;  // samples behind the split may be so far below zero

class DifferenceSamples {
  public:
    static constexpr std::size_t kHead = 0, kCodeBytes = 4;
    static constexpr std::uint64_t kMostBehind = 1024;
    static constexpr unsigned kAlike = 2;

    explicit DifferenceSamples(const DifferenceCoding& coding)
        : coding_(coding), above_(coding.width), twoAbove_(coding.width) {
        for (std::size_t i = 0; i < 4; ++i) down_[i / 2][i % 2] = coding.first[i];
    }
    std::uint32_t width() const { return coding_.width; }
    std::uint32_t height() const { return coding_.height; }
    int bits() const { return static_cast<int>(coding_.bits); }
    CodedSample last() const { return last_; }
    const char* next(jpeg::BitReader& bits);
    void endRow() {
        column_ = 0;
        ++row_;
    }

  private:
    DifferenceCoding coding_;
    std::uint32_t row_ = 0, column_ = 0;
    std::array<std::array<int, 2>, 2> down_{};
    std::array<int, 2> along_{};
    std::vector<std::uint16_t> above_, twoAbove_;
    CodedSample last_;
};

const char* DifferenceSamples::next(jpeg::BitReader& bits) {
    const bool behindSplit = coding_.split > 0 && row_ >= coding_.split;
    const auto& codes = behindSplit ? *coding_.codesBehindSplit : *coding_.codes;
    bits.fill();
    const auto code = codes[bits.top() >> (32 - DifferenceCoding::kLookBits)];
    if (code.length == 0) return "an impossible code";
    bits.drop(code.length);
    const int length = code.symbol & 15, leftOut = code.symbol >> 4;
    const int raw = length > leftOut ? static_cast<int>(bits.take(length - leftOut)) : 0;
    int difference = ((raw << 1) + 1) << leftOut >> 1;
    if (length > 0 && (difference & 1 << (length - 1)) == 0)
        difference -= (1 << length) - (leftOut == 0 ? 1 : 0);
    const auto side = column_ & 1;
    auto& along = along_[side];
    const int left = along;
    along = column_ < 2 ? down_[row_ & 1][side] += difference : along + difference;
    const int raised = behindSplit ? kRaised : 0;
    if (along + raised < 0 || along + raised >= coding_.beyond + 2 * raised)
        return "a sample beyond those that can be";
    const auto value = static_cast<std::uint16_t>(along + kRaised);
    const auto above = above_[column_];
    last_ = {value, column_ < 2 ? value : left + kRaised, twoAbove_[column_]};
    twoAbove_[column_] = above;
    above_[column_] = value;
    ++column_;
    return nullptr;
}

}  // namespace

std::unique_ptr<SensorRows> DifferenceCoding::rows(std::uint64_t at) const {
    return std::make_unique<CodedRows<DifferenceSamples>>(DifferenceSamples(*this), at);
}

}  // namespace dreskel
