// Clusters that are none of a file's among data that any bytes fit: samples of pictures and of sound that are
// stored as they are. Blank ones lie just between borders; writing is like no samples.
#pragma once

#include <optional>
#include <vector>

#include "base/bytes.h"

namespace dreskel {

class StrangeBlocks {
  public:
    // `from`: the byte of the file with which the samples begin.
    explicit StrangeBlocks(std::uint64_t from) : next_(from) {}
    // The next of them, in any portions.
    void add(Bytes bytes);
    // Once all are there: the byte of the file with which the first of those clusters begins.
    // `more`: the file goes on with others elsewhere, so that its end is none of the samples'.
    std::optional<std::uint64_t> finish(bool more = false);

  private:
    static constexpr std::size_t kBlock = 4096;  // bytes; clusters are a multiple of it, but for tiny cards'
    // What is left behind the last border may be blank by chance when it is shorter.
    static constexpr std::size_t kLeastAtEnd = 512;

    void look(Bytes block);
    void found(std::uint64_t at) {
        if (!found_) found_ = at;
    }

    std::uint64_t next_;
    std::vector<std::uint8_t> block_;  // behind the last border
    std::optional<std::uint8_t> before_;
    struct Run {
        std::uint64_t at;
        std::uint8_t value;
    };
    std::optional<Run> run_;  // of blank blocks, in hand
    std::optional<std::uint64_t> found_;
};

}  // namespace dreskel
