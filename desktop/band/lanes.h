// What the band shows of a card, gathered from all files at once: where those of each kind lie, and how much
// of each stretch is neither blank nor anybody's. Pure: no widgets.
#pragma once

#include <array>
#include <memory>
#include <vector>

#include "desktop/files.h"

namespace dreskel {

struct LaneSpan {
    ByteRange range;
    std::int64_t id = 0;

    bool operator<(const LaneSpan& other) const { return range.offset < other.range.offset; }
};

struct LanesRequest {
    JobFilesSeen files;
    std::shared_ptr<const std::vector<std::uint8_t>> surface;  // see ScanRecord::surface
    std::uint64_t position = 0;                                // how far the card has been read
    std::uint64_t size = 0;                                    // of the card
};

class Lanes {
  public:
    Lanes() = default;
    explicit Lanes(const LanesRequest& request);

    // In the order of the card.
    const std::vector<LaneSpan>& spansOf(Kind kind) const;
    // How much of a stretch of the card is unexplained, 0 to 1.
    double unexplained(double from, double to) const;

  private:
    std::array<std::vector<LaneSpan>, 4> spans_;
    std::vector<double> sums_{0};  // of the unexplained shares of all cells before each
};

}  // namespace dreskel
