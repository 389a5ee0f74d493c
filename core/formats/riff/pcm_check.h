// Tells sound samples from data that cannot be sound. PCM has no checksum: any bytes decode. But coded data
// (photos, clips, archives) read as samples is as loud as sound can be with no sample having to do with the
// next, and no recording is both.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <vector>

#include "base/bytes.h"

namespace dreskel::riff {

class PcmCheck {
  public:
    static constexpr std::size_t kBlock = 4096;  // bytes judged at a time: the smallest usual cluster

    struct Layout {
        unsigned bytesPerSample = 2;  // 1 to 4
        unsigned channels = 1;
        bool floating = false;  // 32-bit floats
        bool bigEndian = false;
        bool signedBytes = false;  // of one byte: with a sign, not from 128 on
    };
    // `dataAt`: where in the file the data chunk begins. Blocks are counted from the start of the file, as
    // clusters are, so that a foreign cluster fills a block.
    PcmCheck(Layout layout, std::uint64_t dataAt)
        : layout_(layout), dataAt_(dataAt), position_(dataAt), soundEnds_(dataAt) {}

    // The next bytes of the data chunk, from its beginning on, in any portions.
    void feed(Bytes bytes);
    // For a recording that does not say how long it is: whether its sound is over, by what came so far. Looks
    // at what is new since it was asked the last time.
    bool isOver();
    // Where it ended in the file, or what was given does: the last frame in which there is sound.
    std::uint64_t soundEnds() const { return soundEnds_; }
    // No more will come; judges what is left of the last cluster.
    void finish();

    // The first border of blocks that the waveform jumps at (waveform.h), in the file; nothing when it never
    // does.
    std::optional<std::uint64_t> jumpsAt() const;
    // Where in the file it first stops being this recording: blocks that look coded, in a recording that does
    // not begin that way, or blank ones between sound that breaks off and starts exactly with the cluster.
    // Nothing when it never does.
    std::optional<std::uint64_t> foreignAt() const;
    // For each block from the first on, whether it is foreign.
    std::vector<bool> foreign() const;

  private:
    struct Block {
        bool coded = false;
        bool blank = false;
        bool jumps = false;                         // at its beginning
        float sudden = 0, suddenWithin = 0;         // how much so, there and elsewhere (waveform.h)
        bool startsLoud = false, endsLoud = false;  // there is sound in its first, or its last, few samples
        std::uint16_t ends = 0;                     // bytes of it up to the last that is not zero
    };
    void judge();
    bool noisy() const;
    // Of a block in the file. The first is what is left of the cluster that the data begin in.
    std::uint64_t begins(std::uint64_t block) const {
        return std::max(dataAt_, (dataAt_ / kBlock + block) * kBlock);
    }
    // At the beginning of this block it jumps as it does not by itself.
    bool jumpsAt(const Block& block) const;

    Layout layout_;
    std::uint64_t dataAt_ = 0;
    std::uint64_t position_ = 0;                // in the file, of the block's first byte
    std::vector<std::uint8_t> block_, before_;  // before_: the one before it
    std::vector<float> samples_;                // of one block, -1 to 1; kept to spare allocations
    std::vector<Block> blocks_;
    std::size_t asked_ = 0, blanks_ = 0;  // blocks that isOver() has looked at; blank ones up to there
    std::uint64_t soundEnds_ = 0;
};

}  // namespace dreskel::riff
