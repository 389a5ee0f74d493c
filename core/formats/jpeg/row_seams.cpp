#include "formats/jpeg/row_seams.h"

#include <algorithm>
#include <bit>
#include <utility>

#include "formats/apart.h"

namespace dreskel::jpeg {
namespace {

// Samples behind a border: fewer of them, as in tiles of 256, look foreign in pictures of sensors once in two
// thousand borders, and as many not once in 400 000.
constexpr std::size_t kMostLookedAt = 2048, kLeastLookedAt = 500;
constexpr std::size_t kAtOnce = 4 * Apart::kTogether;  // in so many it must show
constexpr double kAtOnceFrom = 4;                      // how badly these must follow
constexpr double kForeignFrom = 5, kForeignCloselyFrom = 2.5;
constexpr double kLeastGrain = 1;  // what is drawn has less
constexpr std::uint64_t kFirstRows = 16;

}  // namespace

void RowSeams::setRow(std::uint32_t width, std::uint32_t down) {
    down_ = down;
    looked_ = std::min<std::size_t>(width / 2, kMostLookedAt);
    ring_.assign(std::bit_ceil(std::size_t{down} + 2 * looked_ + 2), 0);
}

std::vector<std::int32_t> RowSeams::differences(std::uint64_t from, std::size_t count) const {
    std::vector<std::int32_t> some(count);
    for (std::size_t i = 0; i < count; ++i)
        some[i] = ring_[static_cast<std::size_t>(from + i) & (ring_.size() - 1)];
    return some;
}

// A border that comes before the last one was judged is passed over: a file has many.
void RowSeams::border(std::uint64_t byte) {
    if (border_ || looked_ < kLeastLookedAt || count_ < kFirstRows * down_) return;
    border_ = Border{count_, byte};
}

void RowSeams::judge() {
    const auto [sample, byte] = *std::exchange(border_, std::nullopt);
    const auto apart = [&](std::uint64_t from, std::size_t count) {
        auto some = differences(from, count);
        return Apart::of(some);
    };
    // The sample that the border cuts through may be either's.
    const auto first = sample + 1;
    const auto few = std::min(kAtOnce, looked_ - 1);
    if (apart(first, few) / apart(sample - few, few) < (closely_ ? kForeignCloselyFrom : kAtOnceFrom)) return;
    const auto count = looked_ - 1;
    // Beside the border, and above it, where the same things are.
    const auto beside = apart(sample - count, count), over = apart(first - down_, count);
    const auto at = apart(first, count);
    if (std::min(beside.single, over.single) < kLeastGrain) return;
    if (at / Apart::mostOf(beside, over) > (closely_ ? kForeignCloselyFrom : kForeignFrom)) foreign_ = byte;
}

}  // namespace dreskel::jpeg
