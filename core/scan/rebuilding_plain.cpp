// Recordings and pictures of plain samples in pieces: by the waveform, or by the rows, which go on where
// pieces belong together; see rebuild/plain_joiner.h. Nothing in them proves it, so they stay `partial`.
#include <algorithm>

#include "formats/registry.h"
#include "rebuild/plain_joiner.h"
#include "rebuild/walk_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kPlainConfidence = 0.8;
constexpr std::chrono::seconds kForEach{20};
constexpr std::size_t kLargestWant = 4 << 20;

// Whether nothing but its samples can tell where its pieces are: what lay in its way is no proof.
bool plainInPieces(const Finding& finding) {
    const auto& evidence = finding.evidence;
    return evidence.plainSamples && !finding.inside && !evidence.decided && evidence.rebuilt.empty() &&
           (finding.condition == Condition::Partial || finding.condition == Condition::Broken);
}

// What its header says of its samples; null when it says nothing.
std::shared_ptr<const PlainSamples> samplesAt(CardView& card, const Candidate& candidate,
                                              const Control& control) {
    const auto* format = familyNamed(candidate.family);
    if (format == nullptr) return nullptr;
    const auto measure = format->measure();
    std::vector<std::uint8_t> buffer;
    for (;;) {
        const auto want = measure->want();
        auto samples = measure->samples();
        if (samples || !want) return samples;
        if (want->length > kLargestWant || control.stopped()) return nullptr;
        buffer.resize(want->length);
        buffer.resize(card.read(candidate.offset + want->offset, buffer));
        measure->give(buffer);
    }
}

using Places = std::vector<ByteRange>;

// Straight from its beginning to its samples; or, where what stands in front of these is in pieces itself
// (previews), as far as its own records tell.
std::optional<Places> placesOf(CardView& card, const Candidate& candidate, const PlainSamples& samples,
                               const rebuild::ClipPool& pool, const Control& control) {
    const auto join = [&](Places front) {
        return rebuild::joinPlain(card, std::move(front), samples, pool, kForEach, control);
    };
    if (auto places = join({{candidate.offset, pool.cluster()}})) return places;
    const auto* format = familyNamed(candidate.family);
    std::optional<Places> found;
    const auto goesOn = [&](const Places& places) {
        const std::uint64_t cluster = pool.cluster();
        auto front = places;
        cutTo(front,
              (samples.range().offset / cluster + 1) * cluster);  // the clusters up to the first sample
        found = front.size() > 1 ? join(front) : std::nullopt;
        return found.has_value();
    };
    rebuild::joinWalk(card, *format, candidate.offset, pool, goesOn, control);
    return found;
}

}  // namespace

Status Scanner::rebuildPlain(Running& running, Control& control) {
    auto wanted = candidatesOf(running.claims.all(), plainInPieces);
    if (wanted.empty()) return Done{};
    std::sort(wanted.begin(), wanted.end(),
              [](const Candidate& a, const Candidate& b) { return a.offset < b.offset; });
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    running.joining = Running::Joining{wanted.size(), 0};
    for (const auto& candidate : wanted) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        const auto samples = samplesAt(running.card, candidate, control);
        if (!samples) continue;
        const auto places = placesOf(running.card, candidate, *samples, pool, control);
        if (!places) continue;
        auto whole = wholeIn(running, candidate, *places);
        if (!whole) continue;
        leaveUnproven(whole->measured, samples->unproven());
        running.joins[candidate.offset] = joinsBetween(*places, kPlainConfidence, samples->goesOn());
        running.examiner.giveBack(std::move(*whole));
        pool.take(*places);
        ++running.joining->joined;
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
