// How far samples of a picture are from those above them: one by one, and in sums, in which noise counts
// little.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <span>
#include <vector>

namespace dreskel {

struct Apart {
    static constexpr std::size_t kTogether = 32;  // samples that are summed up

    double single = 0, together = 0;

    // From the differences, of which the list is made disorder.
    static Apart of(std::vector<std::int32_t>& differences) {
        double sums = 0;
        std::int64_t sum = 0;
        for (std::size_t i = 0; i < differences.size(); ++i) {
            sum += differences[i];
            differences[i] = std::abs(differences[i]);
            if ((i + 1) % kTogether != 0) continue;
            sums += static_cast<double>(std::abs(sum));
            sum = 0;
        }
        const auto middle = differences.begin() + static_cast<std::ptrdiff_t>(differences.size() / 2);
        std::nth_element(differences.begin(), middle, differences.end());
        const auto count = static_cast<double>(differences.size() / kTogether * kTogether);
        // What quantising does.
        return {*middle + 0.5, sums / count + 0.25};
    }
    static Apart mostOf(const Apart& a, const Apart& b) {
        return {std::max(a.single, b.single), std::max(a.together, b.together)};
    }
    double operator/(const Apart& other) const {
        return std::sqrt(single / other.single * (together / other.together));
    }
};

}  // namespace dreskel
