// Tells sound samples from data that cannot be sound. PCM has no checksum: any bytes decode. But coded data
// (photos, clips, archives) read as samples is as loud as sound can be with no sample having to do with the
// next, and no recording is both.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "base/bytes.h"

namespace dreskel::riff {

class PcmCheck {
  public:
    static constexpr std::size_t kBlock = 4096;  // bytes judged at a time

    struct Layout {
        unsigned bytesPerSample = 2;  // 1 (unsigned) to 4, little-endian
        unsigned channels = 1;
        bool floating = false;  // 32-bit floats
    };
    explicit PcmCheck(Layout layout) : layout_(layout) {}

    // The next bytes of the data chunk, from its beginning on, in any portions.
    void feed(Bytes bytes);

    // Where, from the start of the data chunk, it first stops looking like this recording: a run of blocks
    // that look coded, in a recording that does not begin that way. Nothing when it never does.
    std::optional<std::uint64_t> foreignAt() const;
    std::uint64_t blocks() const { return coded_.size(); }
    std::uint64_t codedBlocks() const;
    const std::vector<bool>& coded() const { return coded_; }

  private:
    void judge();

    Layout layout_;
    std::vector<float> samples_;  // of one block, -1 to 1; kept to spare allocations
    std::vector<std::uint8_t> block_;
    std::vector<bool> coded_;
    std::uint64_t position_ = 0;
};

}  // namespace dreskel::riff
