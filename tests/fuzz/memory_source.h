// Any bytes as a source.
#pragma once

#include <algorithm>
#include <string>

#include "source/source.h"

namespace dreskel::fuzz {

class MemorySource : public Source {
  public:
    explicit MemorySource(Bytes bytes) : bytes_(bytes) {}
    std::uint64_t size() const override { return bytes_.size(); }
    std::uint32_t sectorSize() const override { return 512; }
    const std::string& path() const override { return path_; }
    int descriptor() const override { return -1; }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        const auto part = slice(bytes_, offset, into.size());
        std::copy(part.begin(), part.end(), into.begin());
        return {part.size(), 0};
    }

  private:
    Bytes bytes_;
    std::string path_ = "memory";
};

}  // namespace dreskel::fuzz
