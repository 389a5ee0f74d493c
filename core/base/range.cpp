#include "base/range.h"

#include <algorithm>

namespace dreskel {

std::uint64_t lengthOf(const std::vector<ByteRange>& places) {
    std::uint64_t sum = 0;
    for (const auto& place : places) sum += place.length;
    return sum;
}

void cutTo(std::vector<ByteRange>& places, std::uint64_t length) {
    for (auto& place : places) {
        place.length = std::min(place.length, length);
        length -= place.length;
    }
    std::erase_if(places, [](const ByteRange& place) { return place.length == 0; });
}

void RangeSet::add(ByteRange range) {
    if (range.length == 0) return;
    auto start = range.offset;
    auto end = range.end();
    auto next = ends_.upper_bound(start);
    if (next != ends_.begin()) {
        const auto before = std::prev(next);
        if (before->second >= start) {
            start = before->first;
            end = std::max(end, before->second);
            next = ends_.erase(before);
        }
    }
    while (next != ends_.end() && next->first <= end) {
        end = std::max(end, next->second);
        next = ends_.erase(next);
    }
    ends_[start] = end;
}

void RangeSet::remove(ByteRange range) {
    if (range.length == 0) return;
    for (const auto& hit : within(range)) {
        const auto owner = std::prev(ends_.upper_bound(hit.offset));
        const auto start = owner->first;
        const auto end = owner->second;
        ends_.erase(owner);
        if (start < hit.offset) ends_[start] = hit.offset;
        if (hit.end() < end) ends_[hit.end()] = end;
    }
}

bool RangeSet::contains(std::uint64_t at) const {
    return intersects({at, 1});
}

bool RangeSet::intersects(ByteRange range) const {
    const auto next = ends_.lower_bound(range.end());
    return range.length > 0 && next != ends_.begin() && std::prev(next)->second > range.offset;
}

bool RangeSet::covers(ByteRange range) const {
    const auto next = ends_.upper_bound(range.offset);
    return range.length == 0 || (next != ends_.begin() && std::prev(next)->second >= range.end());
}

std::uint64_t RangeSet::total() const {
    std::uint64_t sum = 0;
    for (const auto& [start, end] : ends_) sum += end - start;
    return sum;
}

std::vector<ByteRange> RangeSet::within(ByteRange range) const {
    std::vector<ByteRange> hits;
    auto at = ends_.upper_bound(range.offset);
    if (at != ends_.begin()) --at;
    for (; at != ends_.end() && at->first < range.end(); ++at) {
        const auto start = std::max(at->first, range.offset);
        const auto end = std::min(at->second, range.end());
        if (start < end) hits.push_back({start, end - start});
    }
    return hits;
}

std::vector<ByteRange> RangeSet::gaps(ByteRange range) const {
    std::vector<ByteRange> missing;
    auto at = range.offset;
    for (const auto& hit : within(range)) {
        if (hit.offset > at) missing.push_back({at, hit.offset - at});
        at = hit.end();
    }
    if (at < range.end()) missing.push_back({at, range.end() - at});
    return missing;
}

std::vector<ByteRange> RangeSet::ranges() const {
    std::vector<ByteRange> all;
    all.reserve(ends_.size());
    for (const auto& [start, end] : ends_) all.push_back({start, end - start});
    return all;
}

}  // namespace dreskel
