// Where following a slice's data can be taken up again: states along the way, as long as the bytes that they
// came of stay the same.
#pragma once

#include <cstddef>
#include <utility>
#include <vector>

namespace dreskel {

template <class State>
class SliceStops {
  public:
    // At `position`, a byte of the slice, another one is wanted.
    bool due(std::size_t position) const {
        return stops_.empty() || position >= stops_.back().position + kStep;
    }
    // `needed`: bytes of the slice that were looked at by then.
    void add(std::size_t position, std::size_t needed, State state) {
        stops_.push_back({position, needed, std::move(state)});
    }
    // The first `same` bytes are what they were: forgets what came of others.
    void backTo(std::size_t same) {
        while (!stops_.empty() && stops_.back().needed > same) stops_.pop_back();
    }
    // The last one, or null.
    const State* last() const { return stops_.empty() ? nullptr : &stops_.back().state; }

  private:
    static constexpr std::size_t kStep = 1024;
    struct Stop {
        std::size_t position, needed;
        State state;
    };
    std::vector<Stop> stops_;
};

}  // namespace dreskel
