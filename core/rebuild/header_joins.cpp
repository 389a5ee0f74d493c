#include "rebuild/header_joins.h"

#include <algorithm>
#include <array>

#include "rebuild/text.h"

namespace dreskel::rebuild {
namespace {

using jpeg::StreamDecoder;

constexpr std::size_t kReach = 4000;         // clusters
constexpr std::uint64_t kLongest = 4 << 20;  // bytes of a header

}  // namespace

HeaderJoins::HeaderJoins(CardView& card, const Pool& pool, std::function<bool(std::uint64_t)> taken)
    : card_(card), pool_(pool), taken_(std::move(taken)), buffer_(pool.cluster()) {}

void HeaderJoins::visit(const StreamDecoder& decoder, std::uint64_t at, std::uint64_t joinAt,
                        const std::function<bool(std::uint64_t)>& visit) {
    std::size_t visited = 0;
    pool_.visitFree(at, [&](std::uint64_t place) {
        if (++visited > kReach) return true;
        if (place == at || taken_(place)) return false;
        return markerStands(decoder, place, joinAt) && goesOn(decoder, place) && visit(place);
    });
}

bool HeaderJoins::told(const StreamDecoder& decoder, std::uint64_t joinAt) const {
    const auto cluster = pool_.cluster();
    return decoder.segmentAt() + cluster >= joinAt && decoder.nextMarker() < joinAt + cluster;
}

bool HeaderJoins::otherBegins(std::uint64_t at) {
    return isOther(at) && (at < pool_.cluster() || !isOther(at - pool_.cluster()));
}

bool HeaderJoins::isOther(std::uint64_t at) {
    const auto block = Bytes(buffer_).first(card_.read(at, buffer_));
    return block.empty() || isText(block) ||
           std::all_of(block.begin(), block.end(), [&](std::uint8_t byte) { return byte == block[0]; });
}

// Cheap, and enough to pass over nearly all places. Where the marker stands before them nothing can be said.
bool HeaderJoins::markerStands(const StreamDecoder& decoder, std::uint64_t at, std::uint64_t joinAt) {
    const auto marker = decoder.nextMarker();
    std::array<std::uint8_t, 2> mark{};
    if (marker < joinAt) return true;
    return card_.read(at + (marker - joinAt), mark) == mark.size() && mark[0] == 0xff && mark[1] >= 0xc0;
}

// Up to the coded data, the clusters from `at` on one behind the other; or over the segment that begins with
// the next marker at least, when they are left again before.
bool HeaderJoins::goesOn(StreamDecoder decoder, std::uint64_t at) {
    const auto marker = decoder.nextMarker();
    for (std::uint64_t length = 0; length < kLongest; length += pool_.cluster(), at += pool_.cluster()) {
        if (!pool_.free(at) || taken_(at)) break;
        const auto got = card_.read(at, buffer_);
        if (got == 0 || decoder.feed(Bytes(buffer_).first(got), false) == StreamDecoder::State::Broken) break;
        if (decoder.codedDataAt() != 0) return true;
    }
    return decoder.offset() > marker;
}

}  // namespace dreskel::rebuild
