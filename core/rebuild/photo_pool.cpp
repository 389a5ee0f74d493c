#include <algorithm>

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

}  // namespace

Pool::Pool(CardView& card, const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin,
           const Control& control)
    : cluster_(cluster), origin_(origin % cluster) {
    std::vector<std::uint8_t> block(cluster);
    auto heads = std::make_shared<std::vector<std::uint8_t>>();
    for (const auto& range : free) {
        free_.add(range);
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
            fit_.add({at, cluster});
            spots_.push_back(spot);
        }
    }
    heads_ = std::move(heads);
    std::sort(spots_.begin(), spots_.end(), [](const Spot& a, const Spot& b) { return a.at < b.at; });
    list();
}

Bytes Pool::head(const Spot& spot) const {
    if (spot.head == Spot::kNoHead) return {};
    return Bytes(*heads_).subspan(std::size_t{spot.head} * kHead, kHead);
}

bool Pool::allFree(const std::vector<ByteRange>& places) const {
    return std::all_of(places.begin(), places.end(), [&](const ByteRange& place) {
        std::uint64_t free = 0;
        for (const auto& part : free_.within(place)) free += part.length;
        return free == place.length;
    });
}

void Pool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places) {
        const ByteRange clusters{place.offset, (place.length + cluster_ - 1) / cluster_ * cluster_};
        free_.remove(clusters);
        fit_.remove(clusters);
        std::erase_if(spots_, [&](const Spot& spot) { return clusters.contains(spot.at); });
    }
    list();
}

void Pool::list() {
    beginnings_.clear();
    others_.clear();
    for (std::size_t i = 0; i < spots_.size(); ++i) {
        const bool beginning = i == 0 || spots_[i - 1].at + cluster_ != spots_[i].at;
        (beginning ? beginnings_ : others_).push_back(spots_[i]);
    }
}

bool Pool::visitFree(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    for (const auto& range : free_.ranges()) {
        const auto from = std::max(at, range.offset);
        auto next = (from + cluster_ - 1 - origin_) / cluster_ * cluster_ + origin_;
        for (; next + cluster_ <= range.end(); next += cluster_) {
            if (visit(next)) return true;
        }
    }
    return false;
}

bool Pool::visit(Which which, std::uint64_t at, const std::function<bool(const Spot&)>& visit) const {
    const auto& list = which == Which::Beginnings ? beginnings_ : others_;
    const auto from = std::lower_bound(list.begin(), list.end(), at,
                                       [](const Spot& spot, std::uint64_t place) { return spot.at < place; });
    return std::any_of(from, list.end(), visit) || std::any_of(list.begin(), from, visit);
}

}  // namespace dreskel::rebuild
