// Files that are checked record by record, put together from their pieces; see rebuild/walk_joiner.h.

#include "formats/registry.h"
#include "rebuild/preview_seams.h"
#include "rebuild/walk_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kWalkConfidence = 0.95;

bool walkInPieces(const Finding& finding) {
    const auto& evidence = finding.evidence;
    // Those have ways of their own.
    const bool other = evidence.family == "jpeg" || evidence.family == "isobmff" ||
                       evidence.family == "isopicture" || evidence.family.empty();
    return !other && !finding.inside && evidence.condition != Condition::Whole && evidence.places.empty() &&
           evidence.notices == Notices::ForeignBytes;
}

}  // namespace

Status Scanner::rebuildWalked(Running& running, Control& control) {
    // What was put together is out of the others' way, and what seemed to lie inside of it may be a file of
    // its own: once more, as long as that helps.
    for (bool any = true; any;) {
        any = false;
        const auto broken = candidatesOf(running.claims.all(), walkInPieces);
        if (broken.empty()) break;
        const auto space = freeSpace(running);
        rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
        running.joining = Running::Joining{broken.size(), 0};
        for (const auto& candidate : broken) {
            if (control.stopped()) return Done{};
            tell(running);
            --running.joining->left;
            const auto* format = familyNamed(candidate.family);
            std::optional<Examined> best;
            auto seams = jpeg::Seam::Fits;
            const auto whole = [&](const std::vector<ByteRange>& places) {
                best = wholeIn(running, candidate, places);
                if (!best) return false;
                seams = rebuild::seamsOfPreviews(running.card, places, best->measured.enclosed);
                if (seams == jpeg::Seam::DoesNotFit) best.reset();
                return best.has_value();
            };
            // Streams that run on end where they do; what follows is another file as far as anyone can tell.
            const bool none = format == nullptr || format->isStream();
            const auto places =
                none ? std::nullopt
                     : rebuild::joinWalk(running.card, *format, candidate.offset, pool, whole, control);
            if (!places || !best) continue;
            if (seams != jpeg::Seam::Fits) leaveUnproven(best->measured, kUnshown);
            running.joins[candidate.offset] =
                joinsBetween(*places, kWalkConfidence, "its records go on here and are right to the end");
            running.examiner.giveBack(std::move(*best));
            pool.take(*places);
            ++running.joining->joined;
            any = true;
            if (auto stored = store(running, false); !stored) return stored;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
