// Whether the rows of a picture go on over the border of two clusters, for codings that tell each sample from
// others. Foreign data may be coded alike; then nothing is wrong with them but that, from just there on, the
// samples have nothing to do with those above. Edges of things begin anywhere, but not all of a sudden both
// along a row and down.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

namespace dreskel::jpeg {

// A plain value: a copy is a state to go on from.
class RowSeams {
  public:
    static constexpr std::uint64_t kSmallestCluster = 4096;  // bytes
    static constexpr const char* kForeign = "what stands here does not go on from what is above it";

    // Samples in a row, and to the one below that each is compared with.
    void setRow(std::uint32_t width, std::uint32_t down);

    // Stricter, as befits a place where pieces were put together: see jump().
    void lookClosely(bool closely) { closely_ = closely; }
    // How far the next sample is from the one above it.
    void add(int difference) {
        if (ring_.empty()) return;
        ring_[static_cast<std::size_t>(count_++) & (ring_.size() - 1)] = difference;
        if (border_ && count_ == border_->sample + looked_) judge();
    }
    // Behind a border of the card's smallest clusters, which stands at this byte, the next sample begins.
    void border(std::uint64_t byte);
    // The byte at which what follows does not go on from what is above it.
    std::optional<std::uint64_t> foreign() const { return foreign_; }

  private:
    struct Border {
        std::uint64_t sample, byte;
    };
    void judge();
    std::vector<std::int32_t> differences(std::uint64_t from, std::size_t count) const;

    std::uint64_t down_ = 0;
    std::size_t looked_ = 0;
    std::vector<std::int32_t> ring_;  // the last differences
    std::uint64_t count_ = 0;
    std::optional<Border> border_;  // that is to be judged
    std::optional<std::uint64_t> foreign_;
    bool closely_ = false;
};

}  // namespace dreskel::jpeg
