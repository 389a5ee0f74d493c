// Streams in pieces: transport and program streams, MP3, ADTS, AMR; see rebuild/stream_joiner.h. Each was
// found by its beginning, and seemed to end where its first piece does.

#include <algorithm>
#include <functional>

#include "formats/registry.h"
#include "rebuild/stream_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kStreamConfidence = 0.9;
constexpr double kNearlyAll = 0.9999;
constexpr const char* kBreaksOff =
    "it breaks off at the end of a cluster, within a record; what it goes on with was not found";
constexpr const char* kUnproven =
    "put together by its records; another recording of the same settings would fit as well";
constexpr double kLeastStreamDecoded = 0.97;  // of one that did not come back to its end

// `ids`: of the streams, in order. The free stretches, and what only seems to be taken: the cluster behind
// the border that the last record of a stream reaches over; and streams that begin within a cluster, which
// are the middle of others.
std::vector<ByteRange> withDoubtfulEnds(const Claims& claims, const std::vector<std::int64_t>& ids,
                                        const FreeSpace& space,
                                        const std::function<std::uint64_t(std::uint64_t)>& runOf) {
    RangeSet others;
    for (const auto& [id, finding] : claims.all()) {
        const bool stream = std::binary_search(ids.begin(), ids.end(), id);
        if (stream || finding.inside || finding.condition != Condition::Whole) continue;
        for (const auto& piece : finding.pieces) others.add(piece.onCard());
    }
    RangeSet free;
    for (const auto& stretch : space.stretches) free.add(stretch);
    for (const auto id : ids) {
        const auto& range = claims.all().at(id).evidence.range;
        if (range.offset % space.cluster != space.origin) {
            const auto from = range.offset - range.offset % space.cluster + space.origin;
            const ByteRange all{from, range.end() - from};
            if (!others.intersects(all)) free.add(all);
        }
        const auto over = range.length % space.cluster;
        const ByteRange last{range.end() - over, space.cluster};
        if (over < rebuild::kLongestRecord && over < range.length && !others.intersects(last)) free.add(last);
    }
    // What a stream runs through is its own; but all of it may be the middle of another.
    for (const auto id : ids) {
        const auto& range = claims.all().at(id).evidence.range;
        if (range.offset % space.cluster != space.origin) continue;
        const auto own = runOf(range.offset);
        if (own <= space.cluster) continue;
        free.remove({range.offset + space.cluster, own - space.cluster});
        if (!others.intersects({range.offset, space.cluster})) free.add({range.offset, space.cluster});
    }
    return free.ranges();
}

// How its first records read.
std::unique_ptr<Measure> beginningOf(CardView& card, const Format& format, std::uint64_t at) {
    std::vector<std::uint8_t> head(512 << 10);  // a clock is told ten times a second
    head.resize(card.read(at, head));
    auto probe = format.measure();
    probe->giveSome(head);
    return probe;
}

// Every piece of a recording may look like one. Those that are earlier by their own clocks come first: what
// leads on from them takes up the later ones.
std::vector<std::int64_t> earliestFirst(CardView& card, const Format& format, const Claims& claims,
                                        const std::vector<std::int64_t>& ids) {
    if (!format.measure()->hasClock()) return ids;
    std::vector<std::pair<double, std::int64_t>> timed;
    for (const auto id : ids) {
        const auto begins = beginningOf(card, format, claims.all().at(id).start());
        timed.emplace_back(begins->firstTime().value_or(0), id);
    }
    std::stable_sort(timed.begin(), timed.end(),
                     [](const auto& one, const auto& other) { return one.first < other.first; });
    std::vector<std::int64_t> ordered;
    for (const auto& [time, id] : timed) ordered.push_back(id);
    return ordered;
}

void breaksOff(Claims& claims, std::int64_t id, const std::string& why) {
    claims.revise([&](Finding& finding) {
        if (finding.id != id || finding.evidence.condition != Condition::Whole) return false;
        finding.evidence.condition = Condition::Partial;
        finding.evidence.decoded = kNearlyAll;
        finding.evidence.why = why;
        return true;
    });
}

}  // namespace

Status Scanner::rebuildStreams(Running& running, Control& control) {
    std::map<std::string, std::vector<std::int64_t>> families;
    for (const auto& [id, finding] : running.claims.all()) {
        const auto* format = familyNamed(finding.evidence.family);
        if (format == nullptr || !format->isStream() || finding.inside) continue;
        if (finding.evidence.places.empty()) families[finding.evidence.family].push_back(id);
    }
    for (const auto& [family, ids] : families) {
        const auto space = freeSpace(running);
        const auto& format = *familyNamed(family);
        const auto runOf = [&](std::uint64_t start) {
            return rebuild::runOfStream(running.card, start, format, space.cluster, control);
        };
        const rebuild::ClipPool free(withDoubtfulEnds(running.claims, ids, space, runOf), space.cluster,
                                     space.origin);
        auto pool = rebuild::StreamPool::of(running.card, {&format}, free, control).front();
        if (pool.empty()) continue;
        running.joining = Running::Joining{ids.size(), 0};
        RangeSet joinedPlaces;
        for (const auto id : earliestFirst(running.card, format, running.claims, ids)) {
            if (control.stopped()) return Done{};
            tell(running);
            --running.joining->left;
            const auto known = running.claims.all().find(id);
            if (known == running.claims.all().end()) continue;
            const auto before = known->second.evidence.range.length;
            const Candidate candidate{known->second.start(), family};
            if (joinedPlaces.contains(candidate.offset)) continue;
            if (candidate.offset % space.cluster != space.origin) {
                // Whether it is the beginning for certain, wherever it lies: it may be from before a format.
                if (!beginningOf(running.card, format, candidate.offset)->knowsItsBeginning())
                    breaksOff(running.claims, id,
                              "it begins within a cluster: what is in front of it was not found");
                continue;
            }
            const auto joined = rebuild::joinStream(running.card, candidate.offset, pool, control);
            if (control.stopped()) return Done{};
            if (joined.places.size() < 2) {
                if (joined.breaksOff) breaksOff(running.claims, id, kBreaksOff);
                continue;
            }
            running.examiner.add(candidate, joined.places);
            running.examiner.finish();
            if (control.stopped()) return Done{};
            for (auto& examined : running.examiner.take()) {
                auto& measured = examined.measured;
                const bool longer = measured.accepted && measured.length > before;
                const bool fine =
                    measured.condition == Condition::Whole ||
                    (measured.condition == Condition::Partial && measured.decoded >= kLeastStreamDecoded);
                if (!longer || !fine) continue;
                if (joined.breaksOff) leaveUnproven(measured, kBreaksOff);
                if (measured.notices != Notices::ForeignBytes) leaveUnproven(measured, kUnproven);
                running.joins[candidate.offset] =
                    joinsBetween(joined.places, kStreamConfidence, rebuild::kWhyStreamsJoin);
                pool.take(joined.places);
                for (const auto& place : joined.places) joinedPlaces.add(place);
                running.examiner.giveBack(std::move(examined));
                ++running.joining->joined;
            }
            if (auto stored = store(running, false); !stored) return stored;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
