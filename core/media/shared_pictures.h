// Memory that a decoder worker and its caller share, in which the worker leaves the pictures of a clip that
// is played: they are too large to go through a socket thirty times a second.
//
// Memory of no file (memfd), sealed against growing and shrinking: a worker gone wrong can spoil pictures,
// but cannot take the memory away under its reader. Takes memory only where pictures were left.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "base/unique_fd.h"

namespace dreskel::media {

class SharedPictures {
  public:
    // One picture of the largest size that is played, or a quarter of a second of smaller ones.
    static constexpr std::size_t kSize = 128U << 20;  // bytes

    SharedPictures() = default;
    ~SharedPictures();
    SharedPictures(const SharedPictures&) = delete;
    SharedPictures& operator=(const SharedPictures&) = delete;

    // False where the system gives no such memory.
    bool make();
    // What a caller has made, in the worker.
    void take(int descriptor) { memory_ = UniqueFd(descriptor); }
    int descriptor() const { return memory_.get(); }
    // All of it, mapped when first asked for; empty when that fails.
    std::span<std::uint8_t> bytes();

  private:
    UniqueFd memory_;
    std::uint8_t* mapped_ = nullptr;
};

}  // namespace dreskel::media
