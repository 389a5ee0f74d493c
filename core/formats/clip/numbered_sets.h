// Parameter sets by the numbers that slices call them by (ITU-T H.264, 7.4.1.2.1; H.265, 7.4.2.4.2).
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>

namespace dreskel {

template <class Set, std::size_t Count>
class NumberedSets {
  public:
    // Nothing for those that have not come, are damaged, or ask for what is not followed.
    std::shared_ptr<const Set> at(std::uint32_t number) const {
        return number < Count ? sets_[number] : nullptr;
    }
    // Streams repeat their sets: one that says the same stays the same object. A damaged one takes the place
    // of what was there.
    void put(std::uint32_t number, const std::optional<Set>& set) {
        if (number >= Count) return;
        auto& place = sets_[number];
        if (set && place && *place == *set) return;
        place = set ? std::make_shared<const Set>(*set) : nullptr;
    }

  private:
    std::array<std::shared_ptr<const Set>, Count> sets_;
};

}  // namespace dreskel
