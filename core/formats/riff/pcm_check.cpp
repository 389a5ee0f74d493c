#include "formats/riff/pcm_check.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace dreskel::riff {
namespace {

// Blocks at the start of a recording that say what it is like, and how many in a row make a foreign stretch.
constexpr std::size_t kOpening = 4;
constexpr std::size_t kRun = 2;

}  // namespace

void PcmCheck::feed(Bytes bytes) {
    while (!bytes.empty()) {
        const auto count = std::min(bytes.size(), kBlock - block_.size());
        block_.insert(block_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(count));
        bytes = bytes.subspan(count);
        if (block_.size() == kBlock) judge();
    }
}

void PcmCheck::judge() {
    const auto width = layout_.bytesPerSample;
    samples_.clear();
    bool absurd = false;
    const auto lead = (width - position_ % width) % width;
    for (std::size_t at = lead; at + width <= block_.size(); at += width) {
        float value = 0;
        if (layout_.floating && width == 4) {
            std::memcpy(&value, block_.data() + at, 4);
            absurd = absurd || !(std::abs(value) < 1000.0F);
        } else if (width == 1) {
            value = (static_cast<float>(block_[at]) - 128.0F) / 128.0F;
        } else {
            const auto high = static_cast<std::int16_t>(block_[at + width - 1] << 8 | block_[at + width - 2]);
            value = static_cast<float>(high) / 32768.0F;
        }
        samples_.push_back(value);
    }
    double energy = 0;
    double together = 0;
    double sum = 0;
    const auto count = static_cast<double>(samples_.size());
    for (const float value : samples_) sum += value;
    const double mean = sum / count;
    for (std::size_t i = 0; i < samples_.size(); ++i) {
        const double here = samples_[i] - mean;
        energy += here * here;
        if (i >= layout_.channels) together += here * (samples_[i - layout_.channels] - mean);
    }
    // Evenly spread samples have a root mean square of 0.577; neighbours of coded data correlate by chance
    // only.
    const double loudness = std::sqrt(energy / count);
    const double likeness = energy > 0 ? std::abs(together / energy) : 1.0;
    const bool loudNoise = loudness > 0.45 && loudness < 0.70 && likeness < 0.15;
    coded_.push_back(layout_.floating ? absurd : loudNoise);
    position_ += block_.size();
    block_.clear();
}

std::optional<std::uint64_t> PcmCheck::foreignAt() const {
    const auto opening = std::min(kOpening, coded_.size());
    const auto odd = std::count(coded_.begin(), coded_.begin() + static_cast<std::ptrdiff_t>(opening), true);
    // A recording that begins as noise may well go on so.
    if (static_cast<std::size_t>(odd) * 2 > opening) return std::nullopt;
    std::size_t run = 0;
    for (std::size_t i = 0; i < coded_.size(); ++i) {
        run = coded_[i] ? run + 1 : 0;
        if (run == kRun) return std::uint64_t{i + 1 - kRun} * kBlock;
    }
    return std::nullopt;
}

std::uint64_t PcmCheck::codedBlocks() const {
    return static_cast<std::uint64_t>(std::count(coded_.begin(), coded_.end(), true));
}

}  // namespace dreskel::riff
