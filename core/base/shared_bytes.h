// Bytes that only grow, and are copied often while they do: copies share what is full.
#pragma once

#include <algorithm>
#include <memory>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

// Copying costs a pointer for each block of 64 KiB, and the last block's bytes.
class SharedBytes {
  public:
    std::size_t size() const { return full_.size() * kBlock + rest_.size(); }

    void append(Bytes bytes) {
        while (!bytes.empty()) {
            const auto some = bytes.first(std::min(bytes.size(), kBlock - rest_.size()));
            rest_.insert(rest_.end(), some.begin(), some.end());
            bytes = bytes.subspan(some.size());
            if (rest_.size() < kBlock) continue;
            full_.push_back(std::make_shared<const std::vector<std::uint8_t>>(std::move(rest_)));
            rest_.clear();
        }
    }
    void clear() {
        full_.clear();
        rest_.clear();
    }
    std::vector<std::uint8_t> all() const {
        std::vector<std::uint8_t> bytes;
        bytes.reserve(size());
        for (const auto& block : full_) bytes.insert(bytes.end(), block->begin(), block->end());
        bytes.insert(bytes.end(), rest_.begin(), rest_.end());
        return bytes;
    }
    // As many of the first as one block holds.
    Bytes beginning() const { return full_.empty() ? Bytes(rest_) : Bytes(*full_.front()); }

  private:
    static constexpr std::size_t kBlock = 64 << 10;
    std::vector<std::shared_ptr<const std::vector<std::uint8_t>>> full_;
    std::vector<std::uint8_t> rest_;
};

}  // namespace dreskel
