// Pairs of numbers, and how the two go together.
#pragma once

#include <algorithm>
#include <cmath>

namespace dreskel {

struct Pairs {
    double count = 0, a = 0, b = 0, aa = 0, bb = 0, ab = 0;  // sums

    void add(double one, double other) {
        ++count;
        a += one;
        b += other;
        aa += one * one;
        bb += other * other;
        ab += one * other;
    }
    // Of at least one pair.
    double varianceOfA() const { return std::max(0.0, aa / count - a / count * (a / count)); }
    double varianceOfB() const { return std::max(0.0, bb / count - b / count * (b / count)); }
    double covariance() const { return ab / count - a / count * (b / count); }
    // 0 where one of them does not vary.
    double correlation() const {
        const double both = std::sqrt(varianceOfA() * varianceOfB());
        return both > 0 ? covariance() / both : 0;
    }
};

}  // namespace dreskel
