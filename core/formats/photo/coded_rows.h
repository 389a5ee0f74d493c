// What the codings of sensor_rows.h have in common: bits from portions of bytes, rows, and what is made of
// what goes wrong.
#pragma once

#include <utility>
#include <vector>

#include "formats/jpeg/bit_reader.h"
#include "formats/jpeg/row_continuity.h"
#include "formats/jpeg/row_seams.h"
#include "formats/photo/sensor_rows.h"

namespace dreskel {

// How a sample differs from its neighbours of the same colour, for RowContinuity.
struct CodedSample {
    int value = 0, left = 0, above = 0;
};

// `Samples`, a plain value, reads one after the other:
//   static constexpr std::size_t kHead;        bytes in front of the first
//   static constexpr std::size_t kCodeBytes;   that one may take
//   static constexpr std::uint64_t kMostBehind;  bytes behind the last one
//   std::uint32_t width() const, height() const; int bits() const;
//   static constexpr unsigned kAlike;          rows to the next one of the same colours
//   const char* next(jpeg::BitReader& bits);   why it cannot be; null when it can
//   CodedSample last() const;
//   void endRow();
template <class Samples>
class CodedRows final : public SensorRows {
  public:
    // `at`: where in the file the data stand.
    CodedRows(Samples samples, std::uint64_t at)
        : samples_(std::move(samples)), nextBorder_(kSmallestCluster - at % kSmallestCluster) {
        continuity_.setPrecision(samples_.bits());
        seams_.setRow(samples_.width(), samples_.width() * Samples::kAlike);
    }
    // How it is coded is certain: what goes wrong at its beginning is wrong, too.
    void beSure() { sure_ = true; }

    std::unique_ptr<SensorRows> clone() const override { return std::make_unique<CodedRows>(*this); }
    State feed(Bytes bytes, bool last) override;
    void lookClosely(bool closely) override {
        continuity_.lookClosely(closely);
        seams_.lookClosely(closely);
    }
    std::uint64_t offset() const override { return offset_; }
    const std::string& why() const override { return why_; }

  private:
    static constexpr std::uint32_t kFewRows = 4;  // what goes wrong in those is not understood
    static constexpr auto kSmallestCluster = jpeg::RowSeams::kSmallestCluster;

    std::size_t run(Bytes window, bool last);
    void broken(std::uint64_t byte, const char* why);

    Samples samples_;
    std::uint64_t nextBorder_;  // of the file's smallest clusters, from the first byte of the data on
    State state_ = State::Hungry;
    std::uint64_t offset_ = 0, behind_ = 0, lastThatFollowed_ = 0;
    std::vector<std::uint8_t> carry_;
    std::size_t head_ = Samples::kHead;  // bytes of it that have yet to come
    int bitsUsed_ = 0;                   // of the first byte of the carry
    std::uint32_t row_ = 0, column_ = 0;
    jpeg::RowContinuity continuity_;
    jpeg::RowSeams seams_;
    bool sure_ = false;
    std::string why_;
};

template <class Samples>
void CodedRows<Samples>::broken(std::uint64_t byte, const char* why) {
    if (row_ < kFewRows && !sure_) {
        state_ = State::NotUnderstood;
        return;
    }
    state_ = State::Broken;
    offset_ = byte;
    why_ = why;
}

template <class Samples>
SensorRows::State CodedRows<Samples>::feed(Bytes bytes, bool last) {
    const auto head = std::min(head_, bytes.size());
    head_ -= head;
    offset_ += head;
    bytes = bytes.subspan(head);
    if (state_ == State::Hungry) {
        carry_.insert(carry_.end(), bytes.begin(), bytes.end());
        const auto all = std::exchange(carry_, {});
        const auto consumed = run(all, last);
        carry_.assign(all.begin() + static_cast<std::ptrdiff_t>(consumed), all.end());
        if (state_ == State::Hungry && last) broken(offset_, "the data end before the picture does");
        if (state_ == State::Ended) behind_ = std::exchange(carry_, {}).size();
    } else if (state_ == State::Ended) {
        behind_ += bytes.size();
    }
    if (state_ == State::Ended && behind_ > Samples::kMostBehind)
        broken(lastThatFollowed_, "the picture ends before its data do");
    return state_;
}

// Consumes what it can of the window and returns how much that was.
template <class Samples>
std::size_t CodedRows<Samples>::run(Bytes window, bool last) {
    jpeg::BitReader bits(window);
    bits.fill();
    bits.drop(bitsUsed_);
    const auto base = offset_;
    const auto place = [&] { return base + bits.mark().byte; };
    while (row_ < samples_.height()) {
        if (!last && bits.position() + Samples::kCodeBytes + 8 > window.size()) {
            const auto mark = bits.mark();
            offset_ = base + mark.byte;
            bitsUsed_ = mark.bitsUsed;
            return mark.byte;
        }
        if (base + bits.position() >= nextBorder_ && place() >= nextBorder_) {
            seams_.border(nextBorder_);
            nextBorder_ += kSmallestCluster;
        }
        const auto* wrong = samples_.next(bits);
        if (wrong == nullptr && bits.overrun()) wrong = "the data end inside a row";
        if (wrong != nullptr) {
            broken(place(), wrong);
            return window.size();
        }
        const auto sample = samples_.last();
        continuity_.add(sample.value, sample.left, sample.above);
        seams_.add(sample.value - sample.above);
        if (seams_.foreign()) {
            broken(*seams_.foreign(), jpeg::RowSeams::kForeign);
            return window.size();
        }
        if (++column_ < samples_.width()) continue;
        column_ = 0;
        ++row_;
        samples_.endRow();
        const auto row = continuity_.endRow();
        if (row == jpeg::RowContinuity::Row::Follows) lastThatFollowed_ = place();
        if (row == jpeg::RowContinuity::Row::Foreign) {
            broken(lastThatFollowed_, "its rows have nothing to do with those above");
            return window.size();
        }
    }
    state_ = State::Ended;
    offset_ = base + bits.nextWholeByte();
    return std::min(window.size(), bits.nextWholeByte());
}

}  // namespace dreskel
