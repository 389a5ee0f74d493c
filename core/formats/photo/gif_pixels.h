// The coded pixels of one picture of a GIF (Graphics Interchange Format, version 89a, appendix F), followed
// without making them: how many come of the codes, and whether each code is one that can stand there.
#pragma once

#include <array>
#include <cstdint>

#include "base/bytes.h"

namespace dreskel {

class GifPixels {
  public:
    GifPixels() = default;
    // `codeSize`: of the colours, 2 to 11 bits.
    GifPixels(unsigned codeSize, std::uint64_t pixels);

    // The bytes of the next sub-block; what is wrong with them, nothing when nothing is. After that it asks
    // for no more.
    const char* feed(Bytes bytes);
    // The chain of sub-blocks is over.
    const char* finish();

  private:
    static constexpr unsigned kLongest = 12;  // bits of a code
    const char* code(unsigned code);
    unsigned clear() const { return 1U << codeSize_; }

    unsigned codeSize_ = 2, bits_ = 3, next_ = 0;
    std::uint64_t left_ = 0;     // pixels that are still to come
    std::uint32_t pending_ = 0;  // bits that have come and are of no code yet
    unsigned have_ = 0;          // of those
    std::uint32_t before_ = 0;   // how many pixels the code before stands for; 0: there is none
    unsigned behind_ = 0;        // bytes behind the end
    bool ended_ = false, wrong_ = false;
    std::array<std::uint32_t, 1U << kLongest> lengths_{};  // of what each code stands for, in pixels
};

}  // namespace dreskel
