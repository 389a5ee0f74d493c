#include "formats/photo/olympus_rows.h"

#include <array>
#include <cstdlib>

#include "formats/photo/coded_rows.h"

namespace dreskel {
namespace {

constexpr int kOlympusBits = 12;
constexpr int kMostZeros = 12;  // in front of a number that is written out
constexpr int kSteep = 32;

class OlympusSamples {
  public:
    static constexpr std::size_t kHead = 7, kCodeBytes = 8;
    static constexpr std::uint64_t kMostBehind = 64 * 1024;
    static constexpr unsigned kAlike = 2;

    OlympusSamples(std::uint32_t width, std::uint32_t height)
        : width_(width), height_(height), row_(width), above_(width), twoAbove_(width) {}
    std::uint32_t width() const { return width_; }
    std::uint32_t height() const { return height_; }
    int bits() const { return kOlympusBits; }
    CodedSample last() const { return last_; }
    const char* next(jpeg::BitReader& bits);
    void endRow() {
        std::swap(twoAbove_, above_);
        std::swap(above_, row_);
        carries_ = {};
        column_ = 0;
        ++rows_;
    }

  private:
    struct Carry {
        int number = 0, drift = 0, calm = 0;
    };
    int foretold() const;

    std::uint32_t width_, height_;
    std::uint32_t rows_ = 0, column_ = 0;
    std::array<Carry, 2> carries_{};
    std::vector<std::uint16_t> row_, above_, twoAbove_;
    CodedSample last_;
};

int OlympusSamples::foretold() const {
    if (rows_ < 2 && column_ < 2) return 0;
    if (rows_ < 2) return row_[column_ - 2];
    const int north = twoAbove_[column_];
    if (column_ < 2) return north;
    const int west = row_[column_ - 2], corner = twoAbove_[column_ - 2];
    const int down = std::abs(west - corner), along = std::abs(north - corner);
    const bool between = (west < corner && corner < north) || (north < corner && corner < west);
    if (!between) return down > along ? west : north;
    return down > kSteep || along > kSteep ? west + north - corner : (west + north) >> 1;
}

const char* OlympusSamples::next(jpeg::BitReader& bits) {
    auto& carry = carries_[column_ & 1];
    const int least = carry.calm < 3 ? 2 : 0;
    int size = 2 + least;
    while ((carry.number & 0xffff) >> (size + least) != 0) ++size;
    bits.fill();
    const bool negative = bits.take(1) != 0;
    const int low = static_cast<int>(bits.take(2));
    int high = std::countl_zero(bits.top() | 1);
    if (high >= kMostZeros) {
        bits.drop(kMostZeros);
        bits.fill();
        high = size < 16 ? static_cast<int>(bits.take(16 - size) >> 1) : 0;
    } else {
        bits.drop(high + 1);
        bits.fill();
    }
    carry.number = high << size | static_cast<int>(bits.take(size));
    const int difference = (negative ? ~carry.number : carry.number) + carry.drift;
    carry.drift = (difference * 3 + carry.drift) >> 5;
    carry.calm = carry.number > 16 ? 0 : carry.calm + 1;
    const int value = foretold() + (difference * 4 | low);
    if (value < 0 || value >= 1 << kOlympusBits) return "a sample beyond those that can be";
    row_[column_] = static_cast<std::uint16_t>(value);
    last_ = {value, column_ < 2 ? value : row_[column_ - 2], twoAbove_[column_]};
    ++column_;
    return nullptr;
}

}  // namespace

std::unique_ptr<SensorRows> OlympusCoding::rows(std::uint64_t at) const {
    return std::make_unique<CodedRows<OlympusSamples>>(OlympusSamples(width, height), at);
}

}  // namespace dreskel
