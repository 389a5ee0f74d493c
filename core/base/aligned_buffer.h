// Memory that direct reads and writes (O_DIRECT) may go to.
#pragma once

#include <cstdlib>

#include "base/bytes.h"

namespace dreskel {

class AlignedBuffer {
  public:
    static constexpr std::size_t kAlignment = 4096;  // bytes; enough for every sector size in use

    // `size` is rounded up to a multiple of the alignment.
    explicit AlignedBuffer(std::size_t size)
        : size_((size + kAlignment - 1) / kAlignment * kAlignment),
          data_(static_cast<std::uint8_t*>(std::aligned_alloc(kAlignment, size_))) {}
    ~AlignedBuffer() { std::free(data_); }
    AlignedBuffer(const AlignedBuffer&) = delete;
    AlignedBuffer& operator=(const AlignedBuffer&) = delete;

    MutableBytes bytes() const { return {data_, size_}; }

  private:
    std::size_t size_;
    std::uint8_t* data_;
};

}  // namespace dreskel
