#include "rebuild/clip_pool.h"

#include <algorithm>

namespace dreskel::rebuild {

ClipPool::ClipPool(const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin)
    : cluster_(cluster), origin_(origin % cluster) {
    for (const auto& range : free) free_.add(range);
}

bool ClipPool::free(std::uint64_t at) const {
    return free_.contains(at) && free_.contains(at + cluster_ / 2) && free_.contains(at + cluster_ - 1);
}

void ClipPool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places)
        free_.remove({place.offset, (place.length + cluster_ - 1) / cluster_ * cluster_});
}

bool ClipPool::visitNear(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    std::vector<ByteRange> wholes;  // of whole clusters only
    for (const auto& range : free_.ranges()) {
        const auto first = (range.offset + cluster_ - 1 - origin_) / cluster_ * cluster_ + origin_;
        if (first + cluster_ > range.end()) continue;
        const ByteRange whole{first, (range.end() - first) / cluster_ * cluster_};
        if (at > whole.offset && at < whole.end()) {
            const auto front = (at - whole.offset + cluster_ - 1) / cluster_ * cluster_;
            wholes.push_back({whole.offset, front});
            if (front < whole.length) wholes.push_back({whole.offset + front, whole.length - front});
        } else {
            wholes.push_back(whole);
        }
    }
    auto ahead = std::partition_point(wholes.begin(), wholes.end(),
                                      [&](const ByteRange& whole) { return whole.offset < at; });
    auto back = std::make_reverse_iterator(ahead);
    std::uint64_t passed = 0, passedBack = 0;  // of the stretch in hand
    while (ahead != wholes.end() || back != wholes.rend()) {
        const auto next = ahead != wholes.end() ? ahead->offset + passed : UINT64_MAX;
        // The cluster that `at` lies in ends behind it.
        const auto apart = [&] { return at - std::min(at, back->end() - passedBack); };
        const bool forwards = back == wholes.rend() || (next != UINT64_MAX && next - at <= apart());
        if (visit(forwards ? next : back->end() - passedBack - cluster_)) return true;
        auto& gone = forwards ? passed : passedBack;
        gone += cluster_;
        if (gone < (forwards ? ahead->length : back->length)) continue;
        gone = 0;
        if (forwards) {
            ++ahead;
        } else {
            ++back;
        }
    }
    return false;
}

bool ClipPool::visit(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    const auto through = [&](std::uint64_t from, std::uint64_t to) {
        for (const auto& range : free_.ranges()) {
            const auto begin = std::max(from, range.offset);
            const auto first = (begin + cluster_ - 1 - origin_) / cluster_ * cluster_ + origin_;
            for (auto next = first; next + cluster_ <= range.end() && next < to; next += cluster_) {
                if (visit(next)) return true;
            }
        }
        return false;
    };
    return through(at, UINT64_MAX) || through(0, at);
}

}  // namespace dreskel::rebuild
