#include "formats/riff/pcm_check.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

#include "formats/loud_noise.h"
#include "formats/riff/waveform.h"

namespace dreskel::riff {
namespace {

// Blocks at the start of a recording that say what it is like.
constexpr std::size_t kOpening = 4;
// In one of so many blocks something as sudden by itself is often; every few blocks it is looked for.
constexpr std::size_t kOftenOf = 256, kOneOf = 4;
// Blank blocks that are no silence any more: recorders hear some noise always.
constexpr std::size_t kSilence = 16;
// Samples at the edge of a block in which sound is looked for.
constexpr std::size_t kEdge = 4;
// So many times worse foretold than others near it: no sound of a recording, which would have to begin on the
// border of a cluster, too.
constexpr double kJumps = 3.5;

}  // namespace

void PcmCheck::feed(Bytes bytes) {
    while (!bytes.empty()) {
        const auto room = kBlock - static_cast<std::size_t>(position_ % kBlock) - block_.size();
        const auto count = std::min(bytes.size(), room);
        block_.insert(block_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(count));
        bytes = bytes.subspan(count);
        if (count == room) judge();
    }
}

void PcmCheck::finish() {
    if (!block_.empty()) judge();
}

void PcmCheck::judge() {
    const auto width = layout_.bytesPerSample;
    const auto lead = std::min(block_.size(), std::size_t{(width - (position_ - dataAt_) % width) % width});
    samples_.resize((block_.size() - lead) / width);
    bool absurd = false;
    const auto* at = block_.data() + lead;
    if (layout_.floating && width == 4) {
        if (!samples_.empty()) std::memcpy(samples_.data(), at, samples_.size() * width);
        if (layout_.bigEndian) {
            for (auto& value : samples_)
                value = std::bit_cast<float>(__builtin_bswap32(std::bit_cast<std::uint32_t>(value)));
        }
        absurd = std::any_of(samples_.begin(), samples_.end(),
                             [](float value) { return !(std::abs(value) < 1000.0F); });
    } else if (width == 1) {
        const int turned = layout_.signedBytes ? 0x80 : 0;
        for (auto& value : samples_) value = static_cast<float>((*at++ ^ turned) - 128) / 128.0F;
    } else {
        // The two upper bytes are enough.
        const unsigned high = layout_.bigEndian ? 0 : width - 1, low = layout_.bigEndian ? 1 : width - 2;
        for (auto& value : samples_) {
            value = static_cast<float>(static_cast<std::int16_t>(at[high] << 8 | at[low])) / 32768.0F;
            at += width;
        }
    }
    const auto loudIn = [&](std::size_t from, std::size_t to) {
        return std::any_of(samples_.begin() + static_cast<std::ptrdiff_t>(from),
                           samples_.begin() + static_cast<std::ptrdiff_t>(to),
                           [](float value) { return value != 0; });
    };
    Block block;
    if (samples_.empty()) samples_.push_back(0);
    const auto all = samples_.size();
    const auto edge = std::min(all, kEdge);
    // Too few samples to judge by, at the start of the data: taken for sound.
    const bool enough = all >= 256;
    block.coded = enough && (layout_.floating ? absurd : isLoudNoise(samples_, layout_.channels));
    const auto first = block_.front();
    block.blank =
        std::all_of(block_.begin(), block_.end(), [first](std::uint8_t byte) { return byte == first; }) &&
        (first == 0 || first == 0xff);
    const auto frame = std::size_t{width} * layout_.channels;
    const auto lastByte =
        std::find_if(block_.rbegin(), block_.rend(), [](std::uint8_t byte) { return byte != 0; });
    block.ends = static_cast<std::uint16_t>(block_.rend() - lastByte);
    block.startsLoud = loudIn(0, edge);
    block.endsLoud = loudIn(all - edge, all);
    const auto phase = static_cast<std::size_t>((position_ - dataAt_) % frame);
    const auto firstFrame = (frame - phase) % frame;
    if (blocks_.size() % kOneOf == 0)
        block.suddenWithin =
            static_cast<float>(suddennessWithin(slice(block_, firstFrame, block_.size()), layout_));
    block.sudden = before_.empty() ? 0.0F : static_cast<float>(suddenness(before_, block_, layout_, phase));
    if (block.sudden > 1) {
        const auto seam = seamOf(before_, block_, layout_, phase);
        block.jumps = seam && seam->jump > kJumps;
    }
    blocks_.push_back(block);
    position_ += block_.size();
    before_.swap(block_);
    block_.clear();
}

// A recording that begins as noise may well go on so.
bool PcmCheck::noisy() const {
    const auto opening = std::min(kOpening, blocks_.size());
    const auto odd = std::count_if(blocks_.begin(), blocks_.begin() + static_cast<std::ptrdiff_t>(opening),
                                   [](const Block& block) { return block.coded; });
    return static_cast<std::size_t>(odd) * 2 > opening;
}

bool PcmCheck::isOver() {
    for (; asked_ < blocks_.size(); ++asked_) {
        const auto& block = blocks_[asked_];
        if (jumpsAt(block) || (block.coded && asked_ >= kOpening && !noisy())) return true;
        blanks_ = block.blank ? blanks_ + 1 : 0;
        if (blanks_ >= kSilence) return true;
        const auto frame = std::uint64_t{layout_.bytesPerSample} * layout_.channels;
        const auto sound = begins(asked_) + block.ends - dataAt_;
        if (!block.blank) soundEnds_ = dataAt_ + (sound + frame - 1) / frame * frame;
    }
    return false;
}

std::vector<bool> PcmCheck::foreign() const {
    std::vector<bool> foreign(blocks_.size(), false);
    const bool all = noisy();
    for (std::size_t i = 0; i < blocks_.size(); ++i) {
        if (!blocks_[i].blank) {
            foreign[i] = blocks_[i].coded && !all;
            continue;
        }
        // Silence may be recorded, but it does not begin and end with a cluster, nor begin with one and never
        // end.
        auto end = i;
        while (end < blocks_.size() && blocks_[end].blank) ++end;
        const bool cutIn = i > 0 && blocks_[i - 1].endsLoud;
        const bool cutOut = end == blocks_.size() || blocks_[end].startsLoud;
        for (auto at = i; at < end; ++at) foreign[at] = cutIn && cutOut;
        i = end - 1;
    }
    return foreign;
}

// Drums and clicks do so all the time, and now and then at a border.
bool PcmCheck::jumpsAt(const Block& block) const {
    if (!block.jumps) return false;
    std::size_t alike = 0;
    for (std::size_t i = 0; i < blocks_.size(); i += kOneOf)
        alike += blocks_[i].suddenWithin >= block.sudden ? 1 : 0;
    return alike == 0 || alike * kOftenOf < blocks_.size();
}

std::optional<std::uint64_t> PcmCheck::jumpsAt() const {
    const auto found =
        std::find_if(blocks_.begin(), blocks_.end(), [&](const Block& block) { return jumpsAt(block); });
    if (found == blocks_.end()) return std::nullopt;
    return begins(static_cast<std::uint64_t>(found - blocks_.begin()));
}

std::optional<std::uint64_t> PcmCheck::foreignAt() const {
    const auto blocks = foreign();
    const auto found = std::find(blocks.begin(), blocks.end(), true);
    if (found == blocks.end()) return std::nullopt;
    return begins(static_cast<std::uint64_t>(found - blocks.begin()));
}

}  // namespace dreskel::riff
