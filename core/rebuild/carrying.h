// Tells which of many places holds the next piece of a coded picture.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <span>
#include <vector>

namespace dreskel::rebuild {

// Bytes that foreign data may be taken for a picture's, at most.
inline constexpr std::uint64_t kUnnoticed = 128 << 10;

// Which of many places carries a picture on. Foreign data do, too, for a while, how long depends on the
// picture: the right one mostly does so many times further than the others. Places come the nearest first,
// and one that is near is the likelier; which says as much as the logarithm of how many are nearer.
class Carrying {
  public:
    struct Place {
        std::uint64_t first = 0, at = 0;  // see Joiner::fill()
        std::uint64_t bytes = 0;          // it is carried on by
        double strain = 0;
        double nearer = 0;  // logarithm of how many are
    };
    // One was tried, and carries it on by so many bytes.
    void count(std::uint64_t bytes) {
        ++tried_;
        carried_ += std::min(bytes, kUnnoticed);
    }
    // The last that was tried carries it on by a cluster or more.
    void take(Place place) {
        place.nearer = std::log(static_cast<double>(tried_));
        const auto better = [&](const Place& a, const Place& b) {
            const bool smoother = isLikely(a) && isLikely(b) && a.strain != b.strain;
            return smoother ? a.strain < b.strain : evidenceOf(a) > evidenceOf(b);
        };
        best_.insert(std::ranges::find_if(best_, [&](const Place& each) { return better(place, each); }),
                     place);
        if (best_.size() > kKept) best_.pop_back();
    }
    // The likeliest first, a few of them; one when that is likely.
    std::span<const Place> best() const { return std::span(best_).first(likely() ? 1 : best_.size()); }
    // None with fewer clusters in front of it is worth a try, nor those much further away.
    bool likely() const { return !best_.empty() && isLikely(best_.front()); }
    // No other would carry it so far, unless there is more to go by; or many were tried in vain.
    bool certain() const {
        if (best_.empty()) return false;
        const auto& best = best_.front();
        return (evidenceOf(best) > kCertain && best.strain == 0) || (best.bytes >= kLeast && tried_ > kMany);
    }

  private:
    static constexpr std::uint64_t kLeast = 16 << 10;
    static constexpr double kLikely = 4, kCertain = 6;
    static constexpr std::size_t kKept = 3;
    static constexpr std::uint64_t kMany = 1536;
    // What is thought of foreign data before any were tried.
    static constexpr std::uint64_t kThought = 4 << 10, kThoughtOf = 8;

    // That it is no chance, as a logarithm.
    double evidenceOf(const Place& place) const {
        if (place.bytes >= kUnnoticed) return 2 * kCertain;
        const auto usual =
            static_cast<double>(carried_ + kThoughtOf * kThought) / static_cast<double>(tried_ + kThoughtOf);
        const auto evidence = static_cast<double>(place.bytes) / usual - place.nearer;
        return place.bytes >= kLeast ? evidence : std::min(evidence, 0.0);
    }
    bool isLikely(const Place& place) const { return evidenceOf(place) > kLikely; }

    std::vector<Place> best_;
    std::uint64_t tried_ = 0, carried_ = 0;
};

}  // namespace dreskel::rebuild
