#include <algorithm>
#include <iterator>

#include "rebuild/photo_joiner.h"
#include "rebuild/text.h"

namespace dreskel::rebuild {
namespace {

// Whether a cluster can hold coded data of a JPEG, up to an end marker: no other markers but restarts, of
// which the number of the first is left in `restart`.
bool mayGoOn(Bytes block, std::uint8_t& restart) {
    if (block.empty() ||
        std::all_of(block.begin(), block.end(), [&](std::uint8_t byte) { return byte == block[0]; }) ||
        isText(block))
        return false;
    for (std::size_t at = 0; at + 1 < block.size(); ++at) {
        if (block[at] != 0xff) continue;
        const auto next = block[at + 1];
        if (next == 0xd9) return true;
        const bool numbered = next >= 0xd0 && next <= 0xd7;
        if (numbered && restart == Pool::Spot::kNone) restart = next & 7U;
        const bool betweenScans = next == 0xc4 || next == 0xda || next == 0xdd;  // of progressive photos
        if (next != 0x00 && next != 0xff && !numbered && !betweenScans) return false;
    }
    return true;
}

constexpr auto kLiesBefore = [](const Pool::Spot& spot, std::uint64_t place) { return spot.at < place; };

}  // namespace

Pool::Pool(CardView& card, const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin,
           const Control& control)
    : cluster_(cluster), origin_(origin % cluster) {
    std::vector<std::uint8_t> block(cluster);
    auto heads = std::make_shared<std::vector<std::uint8_t>>();
    auto known = std::make_shared<Known>();
    for (const auto& range : free) {
        known->free.add(range);
        const auto behind =
            (range.offset + cluster - origin % cluster) % cluster;  // the last cluster's beginning
        auto at = range.offset + (behind == 0 ? 0 : cluster - behind);
        for (; at + 512 <= range.end() && !control.stopped(); at += cluster) {
            const auto got = card.read(at, block);
            Spot spot{at};
            if (!mayGoOn(Bytes(block).first(got), spot.restart)) continue;
            if (got >= kHead && heads->size() < kMostHeads * kHead) {
                spot.head = static_cast<std::uint32_t>(heads->size() / kHead);
                heads->insert(heads->end(), block.begin(), block.begin() + kHead);
            }
            known->fit.add({at, cluster});
            known->spots.push_back(spot);
        }
    }
    heads_ = std::move(heads);
    auto& spots = known->spots;
    std::sort(spots.begin(), spots.end(), [](const Spot& a, const Spot& b) { return a.at < b.at; });
    known_ = std::move(known);
    listBeginnings();
}

Bytes Pool::head(const Spot& spot) const {
    if (spot.head == Spot::kNoHead) return {};
    return Bytes(*heads_).subspan(std::size_t{spot.head} * kHead, kHead);
}

bool Pool::allFree(const std::vector<ByteRange>& places) const {
    return std::all_of(places.begin(), places.end(), [&](const ByteRange& place) {
        return known_->free.covers(place) && !taken_.intersects(place);
    });
}

bool Pool::begins(const Spot& spot) const {
    return spot.at < cluster_ || !fits(spot.at - cluster_);
}

void Pool::listBeginnings() {
    beginnings_.clear();
    std::copy_if(known_->spots.begin(), known_->spots.end(), std::back_inserter(beginnings_),
                 [this](const Spot& spot) { return begins(spot); });
}

void Pool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places)
        taken_.add({place.offset, (place.length + cluster_ - 1) / cluster_ * cluster_});
    if (taken_.total() / cluster_ * kTakenAtMost >= size()) {
        auto left = std::make_shared<Known>(*known_);
        for (const auto& range : taken_.ranges()) {
            left->free.remove(range);
            left->fit.remove(range);
        }
        std::erase_if(left->spots, [this](const Spot& spot) { return taken_.contains(spot.at); });
        known_ = std::move(left);
        taken_ = {};
        return listBeginnings();
    }
    std::erase_if(beginnings_, [this](const Spot& spot) { return taken_.contains(spot.at); });
    for (const auto& place : places) {
        const auto behind = place.offset + (place.length + cluster_ - 1) / cluster_ * cluster_;
        const auto& spots = known_->spots;
        const auto spot = std::lower_bound(spots.begin(), spots.end(), behind, kLiesBefore);
        if (spot == spots.end() || spot->at != behind || !fits(behind)) continue;
        const auto next = std::lower_bound(beginnings_.begin(), beginnings_.end(), behind, kLiesBefore);
        if (next == beginnings_.end() || next->at != behind) beginnings_.insert(next, *spot);
    }
}

bool Pool::visitFree(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    for (const auto& range : known_->free.ranges()) {
        const auto from = std::max(at, range.offset);
        auto next = (from + cluster_ - 1 - origin_) / cluster_ * cluster_ + origin_;
        for (; next + cluster_ <= range.end(); next += cluster_) {
            if (!taken_.contains(next) && visit(next)) return true;
        }
    }
    return false;
}

bool Pool::visit(Which which, std::uint64_t at, const std::function<bool(const Spot&)>& visit) const {
    const auto round = [at](const std::vector<Spot>& list, const auto& visitOne) {
        const auto from = std::lower_bound(list.begin(), list.end(), at, kLiesBefore);
        return std::any_of(from, list.end(), visitOne) || std::any_of(list.begin(), from, visitOne);
    };
    if (which == Which::Beginnings) return round(beginnings_, visit);
    return round(known_->spots,
                 [&](const Spot& spot) { return !taken_.contains(spot.at) && !begins(spot) && visit(spot); });
}

}  // namespace dreskel::rebuild
