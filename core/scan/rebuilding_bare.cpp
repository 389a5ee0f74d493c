// Bare streams of H.264 and HEVC in pieces, by their pictures; see rebuild/bare_joiner.h.
#include <algorithm>

#include "formats/clip/elementary.h"
#include "formats/families.h"
#include "rebuild/bare_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kBareConfidence = 0.95;
constexpr std::chrono::minutes kForAll{20};  // of processor time, for searching
constexpr const char* kPictureGoesOn = "the coded picture that lies over the border goes on here";

struct Bare {
    std::uint64_t start;
    PictureCoding coding;
    std::uint64_t proven;  // bytes, read straight on
};

// Looking at every free cluster's beginning of a large card is worth it only where there are such streams.
constexpr std::uint64_t kMostForNone = 4ULL << 30;  // bytes of free space

// Where streams begin in free space. What is there of one may be too little to be a file by itself.
std::vector<Bare> bareStreams(CardView& card, const Claims& claims, const rebuild::ClipPool& pool,
                              const Control& control) {
    std::map<std::uint64_t, const Finding*> known;
    bool some = false;
    for (const auto& [id, finding] : claims.all()) {
        known.emplace(finding.start(), &finding);
        some = some || finding.evidence.family == elementaryFormat().name();
    }
    std::uint64_t free = 0;
    for (const auto& stretch : pool.stretches()) free += stretch.length;
    if (!some && free > kMostForNone) return {};
    std::vector<Bare> streams;
    std::vector<std::uint8_t> head(Format::kHead);
    pool.visit(0, [&](std::uint64_t at) {
        const auto got = card.read(at, head);
        const auto coding = bareCodingOf(Bytes(head).first(got));
        const auto finding = known.find(at);
        const bool done = finding != known.end() && (finding->second->condition == Condition::Whole ||
                                                     !finding->second->evidence.places.empty());
        if (coding && !done)
            streams.push_back({at, *coding, finding == known.end() ? 0 : finding->second->evidence.proven});
        return control.stopped();
    });
    return streams;
}

}  // namespace

Status Scanner::rebuildBare(Running& running, Control& control) {
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    const auto streams = bareStreams(running.card, running.claims, pool, control);
    running.joining = Running::Joining{streams.size(), 0};
    // All of them share it, so that a card full of heads does not take days.
    Patience patience(kForAll);
    for (const auto& stream : streams) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        const auto places =
            rebuild::joinBare(running.card, stream.coding, stream.start, pool, patience, control);
        if (!places) continue;
        const Candidate candidate{stream.start, std::string(elementaryFormat().name())};
        running.examiner.add(candidate, *places);
        const auto keep = [&](Examined& examined) {
            const auto& measured = examined.measured;
            const bool fine = measured.condition == Condition::Whole ||
                              (measured.condition == Condition::Partial && measured.proven > stream.proven);
            if (!measured.accepted || !fine) return false;
            running.joins[stream.start] = joinsBetween(examined.places, kBareConfidence, kPictureGoesOn);
            pool.take(examined.places);
            ++running.joining->joined;
            return true;
        };
        if (!running.examiner.sift(keep)) return Done{};
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
