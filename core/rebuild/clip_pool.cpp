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
