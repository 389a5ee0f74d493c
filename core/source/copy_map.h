// What is known of each byte of a card that is being copied: whether it was read, and if not, why.
#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <mutex>
#include <optional>
#include <string_view>
#include <vector>

#include "base/range.h"

namespace dreskel {

enum class Tried {
    Untried,
    Waiting,  // a read over it failed, or it was stepped over near one; smaller reads come later
    Stalled,  // the reader took too long hereabouts; left for last
    Failed,   // a single sector that could not be read, as often as was tried
    Read,
};
constexpr std::size_t kTriedStates = 5;
std::string_view toWord(Tried state);
std::optional<Tried> triedFromWord(std::string_view word);

struct MapCell {
    ByteRange range;
    Tried state = Tried::Untried;
    int tries = 0;  // failed reads of just this, so far
    bool operator==(const MapCell&) const = default;
};

// Covers [0, size) without gaps; neighbours of the same state are one cell. Safe to use from several threads.
class CopyMap {
  public:
    explicit CopyMap(std::uint64_t size);

    std::uint64_t size() const { return size_; }
    // What reaches past the end is cut off.
    void set(ByteRange range, Tried state, int tries = 0);
    std::vector<MapCell> cells() const;
    // The parts of `within` that are in a state, in order.
    std::vector<MapCell> cells(Tried state, ByteRange within) const;
    std::uint64_t total(Tried state) const;  // bytes
    // The parts of `within` that have not been read, for whatever reason; in order, joined.
    std::vector<ByteRange> unread(ByteRange within) const;

  private:
    struct Cell {
        std::uint64_t end = 0;
        Tried state = Tried::Untried;
        int tries = 0;
    };
    void split(std::uint64_t at);
    void join(std::uint64_t start);

    std::uint64_t size_;
    mutable std::mutex mutex_;
    std::map<std::uint64_t, Cell> cells_;
    std::array<std::uint64_t, kTriedStates> totals_{};
};

}  // namespace dreskel
