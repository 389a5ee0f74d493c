// Streams whose beginning was overwritten: they can be played from anywhere, so what is left of one is a clip
// or a recording. Found in free space by their records, and followed from piece to piece as those that have a
// beginning.

#include <algorithm>

#include "formats/registry.h"
#include "rebuild/stream_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

// Bytes; less plays for a moment only.
constexpr std::uint64_t kLeastLeft = 128 << 10, kLeastSound = 32 << 10;
constexpr double kBeheadedConfidence = 0.8;
constexpr const char* kNoBeginning = "its beginning was not found; it plays from where it begins now";

struct Run {
    std::uint64_t start = 0, length = 0;  // bytes
    double begins = 0;                    // seconds of its clock
    bool worthIt = false;
};

bool worthIt(const Measured& measured) {
    return measured.accepted && measured.length >= (measured.kind == Kind::Audio ? kLeastSound : kLeastLeft);
}

// What follows on `start`, record by record, within the stretch.
Run runFrom(CardView& card, const Format& format, std::uint64_t start, std::uint64_t end,
            const Control& control) {
    const auto walk = format.measure();
    std::vector<std::uint8_t> buffer;
    while (const auto want = walk->want()) {
        const auto left = end - std::min(end, start + want->offset);
        buffer.resize(static_cast<std::size_t>(std::min<std::uint64_t>(want->length, left)));
        buffer.resize(card.read(start + want->offset, buffer));
        walk->give(buffer);
        if (control.stopped()) break;
    }
    const auto begins = walk->firstTime();
    const auto reached = walk->reached();
    return {start, reached, begins.value_or(0), worthIt(walk->finish())};
}

// Whether its records go on for a while from there; one or two may be there by chance.
bool recordsFollow(CardView& card, const Format& format, std::uint64_t at) {
    std::vector<std::uint8_t> bytes(kLeastSound / 2);
    bytes.resize(card.read(at, bytes));
    const auto probe = format.measure();
    return probe->giveSome(bytes) && probe->reached() > bytes.size() / 2;
}

// The families of which something may be left: what is worth it is so long that looking here and there is
// enough, and most cards hold none.
std::vector<const Format*> familiesIn(CardView& card, const rebuild::ClipPool& free, const Control& control) {
    constexpr std::size_t kLook = 4096;
    std::vector<const Format*> waiting, found;
    for (const auto* format : builtInFormats()) {
        if (format->isStream()) waiting.push_back(format);
    }
    const auto stepFor = [](const Format& format) {
        return (format.kindOf(format.formats().front()) == Kind::Audio ? kLeastSound : kLeastLeft) / 2;
    };
    std::vector<std::uint8_t> head(std::min<std::size_t>(kLook, free.cluster()));
    free.visit(0, [&](std::uint64_t at) {
        const auto due = [&](std::uint64_t step) { return at % step < free.cluster(); };
        if (!due(kLeastSound / 2)) return control.stopped();
        const auto bytes = Bytes(head).first(card.read(at, head));
        std::erase_if(waiting, [&](const Format* format) {
            const auto first = due(stepFor(*format)) ? format->firstRecordIn(bytes) : std::nullopt;
            if (!first || !recordsFollow(card, *format, at + *first)) return false;
            found.push_back(format);
            return true;
        });
        return waiting.empty() || control.stopped();
    });
    return found;
}

// A table in the middle of a stream looks like its beginning: a run may lead through one that is in one
// piece.
bool mayBeTheMiddle(const Finding& finding) {
    const auto& evidence = finding.evidence;
    const auto* format = familyNamed(evidence.family);
    return format != nullptr && format->isStream() && evidence.places.empty() &&
           evidence.condition != Condition::Whole;
}

FreeSpace withMiddles(FreeSpace space, const Claims& claims) {
    RangeSet free;
    for (const auto& stretch : space.stretches) free.add(stretch);
    for (const auto& [id, finding] : claims.all()) {
        if (!mayBeTheMiddle(finding)) continue;
        for (const auto& piece : finding.pieces) free.add(piece.onCard());
    }
    space.stretches = free.ranges();
    return space;
}

// What is known to be of the family.
struct Known {
    RangeSet all, joined;
};

Known knownOf(const Format& format, const Claims& claims) {
    Known known;
    for (const auto& [id, finding] : claims.all()) {
        if (finding.evidence.family != format.name()) continue;
        for (const auto& piece : finding.pieces) {
            known.all.add(piece.onCard());
            if (!mayBeTheMiddle(finding)) known.joined.add(piece.onCard());
        }
    }
    return known;
}

// Those that are earlier by their own clocks first: what leads on from them takes up the later ones.
std::vector<Run> runsIn(CardView& card, const FreeSpace& space, const RangeSet& others,
                        const rebuild::StreamPool& pool, const Control& control) {
    std::vector<Run> runs;
    std::uint64_t over = 0;
    auto stretch = space.stretches.begin();
    for (const auto at : pool.at({}, 0)) {
        if (control.stopped()) break;
        const auto record = *pool.recordAt(at);
        if (at < over || others.contains(record)) continue;
        while (stretch != space.stretches.end() && stretch->end() <= at) ++stretch;
        if (stretch == space.stretches.end()) break;
        const auto run = runFrom(card, pool.format(), record, stretch->end(), control);
        over = run.start + run.length;
        if (run.worthIt) runs.push_back(run);
    }
    std::stable_sort(runs.begin(), runs.end(),
                     [](const Run& one, const Run& other) { return one.begins < other.begins; });
    return runs;
}

}  // namespace

Status Scanner::rebuildBeheaded(Running& running, Control& control) {
    const auto space = withMiddles(freeSpace(running), running.claims);
    const rebuild::ClipPool free(space.stretches, space.cluster, space.origin);
    const auto families = familiesIn(running.card, free, control);
    if (families.empty()) return Done{};
    for (auto& pool : rebuild::StreamPool::of(running.card, families, free, control)) {
        const auto known = knownOf(pool.format(), running.claims);
        pool.take(known.joined.ranges());
        if (pool.empty()) continue;
        const auto runs = runsIn(running.card, space, known.all, pool, control);
        pool.take(known.all.ranges());
        running.joining = Running::Joining{runs.size(), 0};
        RangeSet taken;
        for (const auto& run : runs) {
            tell(running);
            --running.joining->left;
            if (taken.contains(run.start)) continue;
            const auto joined = rebuild::joinStream(running.card, run.start, pool, control);
            if (control.stopped()) return Done{};
            const Candidate candidate{run.start, std::string(pool.format().name()), true};
            const auto keep = [&](Examined& examined) {
                auto& measured = examined.measured;
                if (!worthIt(measured) || measured.decoded <= 0) return false;
                if (measured.condition == Condition::Whole) {
                    leaveUnproven(measured, kNoBeginning);
                } else {
                    measured.notes.emplace_back(kNoBeginning);
                }
                running.joins[run.start] =
                    joinsBetween(joined.places, kBeheadedConfidence, rebuild::kWhyStreamsJoin);
                pool.take(joined.places);
                for (const auto& place : joined.places) taken.add(place);
                ++running.joining->joined;
                return true;
            };
            const bool inPieces = joined.places.size() > 1;
            running.examiner.add(candidate, inPieces ? joined.places : std::vector<ByteRange>());
            if (!running.examiner.sift(keep)) return Done{};
            if (auto stored = store(running, false); !stored) return stored;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
