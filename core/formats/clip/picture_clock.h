// When the pictures of a packetised stream are to be decoded (ISO/IEC 13818-1, 2.4.3.7): the steps from one
// to the next are mostly the same, which tells what follows from what only might.
#pragma once

#include <cmath>
#include <cstdint>
#include <optional>

#include "base/bytes.h"

namespace dreskel {

class PictureClock {
  public:
    // The beginning of a packet of the stream, with its start code.
    void take(Bytes packet) {
        const auto now = timeIn(packet);
        if (!now) return;
        if (last_) {
            const auto step = *now - *last_;
            if (step < 0 || step > kLongestStep) {
                ++jumps_;
            } else if (asked_) {
                misfit_ = usual_ ? std::abs(step - *usual_) : step;
                asked_ = false;
            }
            usual_ = step;
        }
        last_ = now;
    }
    // How often it went back, or stood still for long.
    std::uint64_t jumps() const { return jumps_; }
    // By how many seconds the first step since forget() is another than the one before.
    double misfit() const { return misfit_; }
    void forget() {
        asked_ = true;
        misfit_ = 0;
    }

  private:
    static constexpr double kTicksASecond = 90000;
    static constexpr double kLongestStep = 2;  // seconds

    // The decoding time in seconds; where it is not given, it is that of showing.
    static std::optional<double> timeIn(Bytes packet) {
        if (packet.size() < 19 || (packet[6] & 0xc0U) != 0x80 || (packet[7] & 0x80U) == 0)
            return std::nullopt;
        const std::size_t from = (packet[7] & 0x40U) != 0 ? 14 : 9;
        const auto at = [&](std::size_t i) { return std::uint64_t{packet[from + i]}; };
        const auto ticks = (at(0) >> 1 & 7) << 30 | at(1) << 22 | at(2) >> 1 << 15 | at(3) << 7 | at(4) >> 1;
        return static_cast<double>(ticks) / kTicksASecond;
    }

    std::optional<double> last_, usual_;
    std::uint64_t jumps_ = 0;
    double misfit_ = 0;
    bool asked_ = false;
};

}  // namespace dreskel
