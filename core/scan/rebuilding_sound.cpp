// Recordings of plain samples in pieces: by the waveform, which goes on where pieces belong together; see
// rebuild/sound_joiner.h. Nothing in them proves it, so they stay `partial`.
#include <algorithm>

#include "formats/riff/wav_format.h"
#include "rebuild/sound_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kSoundConfidence = 0.8;
constexpr std::size_t kFront = 64 << 10;
constexpr std::chrono::seconds kForEach{20};
constexpr const char* kWaveGoesOn =
    "the waveform goes on over the border, and the pieces are as long as the recording is together";
constexpr const char* kSoundUnproven = "put together by its waveform; nothing in its coding proves that";

}  // namespace

Status Scanner::rebuildSound(Running& running, Control& control) {
    auto wanted = candidatesOf(running.claims.all(), [](const Finding& finding) {
        return finding.evidence.family == "wav" && !finding.inside &&
               finding.condition == Condition::Partial && finding.evidence.places.empty();
    });
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
        std::vector<std::uint8_t> front(kFront);
        front.resize(running.card.read(candidate.offset, front));
        const auto head = riff::wavHeadOf(front);
        if (!head) continue;
        const auto places =
            rebuild::joinSound(running.card, {candidate.offset, head->length, head->dataAt, head->layout},
                               pool, kForEach, control);
        if (!places) continue;
        running.examiner.add(candidate, *places);
        const auto keep = [&](Examined& examined) {
            if (!examined.measured.accepted || examined.measured.condition != Condition::Whole) return false;
            leaveUnproven(examined.measured, kSoundUnproven);
            running.joins[candidate.offset] = joinsBetween(*places, kSoundConfidence, kWaveGoesOn);
            pool.take(*places);
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
