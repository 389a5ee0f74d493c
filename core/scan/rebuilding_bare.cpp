// Bare streams of H.264 and HEVC in pieces, by their pictures; see rebuild/bare_joiner.h.
#include <algorithm>

#include "rebuild/bare_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kBareConfidence = 0.95;
constexpr const char* kPictureGoesOn = "the coded picture that lies over the border goes on here";

bool bareInPieces(const Finding& finding) {
    return finding.evidence.family == "elementary" && !finding.inside && finding.evidence.places.empty() &&
           finding.condition != Condition::Whole;
}

}  // namespace

Status Scanner::rebuildBare(Running& running, Control& control) {
    struct Broken {
        Candidate candidate;
        PictureCoding coding;
        std::uint64_t length;
    };
    std::vector<Broken> broken;
    for (const auto& [id, finding] : running.claims.all()) {
        if (!bareInPieces(finding)) continue;
        const auto coding = finding.format == "hevc" ? PictureCoding::Hevc : PictureCoding::Avc;
        broken.push_back({{finding.start(), finding.evidence.family}, coding, finding.evidence.proven});
    }
    if (broken.empty()) return Done{};
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    running.joining = Running::Joining{broken.size(), 0};
    for (const auto& [candidate, coding, length] : broken) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        if (candidate.offset % space.cluster != space.origin % space.cluster) continue;
        const auto places = rebuild::joinBare(running.card, coding, candidate.offset, pool, control);
        if (!places) continue;
        running.examiner.add(candidate, *places);
        const auto keep = [&](Examined& examined) {
            const auto& measured = examined.measured;
            const bool fine = measured.condition == Condition::Whole ||
                              (measured.condition == Condition::Partial && measured.proven > length);
            if (!measured.accepted || !fine) return false;
            running.joins[candidate.offset] = joinsBetween(examined.places, kBareConfidence, kPictureGoesOn);
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
