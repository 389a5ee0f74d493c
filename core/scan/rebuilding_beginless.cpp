// Clips whose beginning was overwritten: an index that belongs to no clip that begins anywhere, and the
// samples that it lists; see rebuild/beginless_clip.h.
#include <algorithm>

#include "rebuild/beginless_clip.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr const char* kFamily = "isobmff";
constexpr double kLeastBeginlessDecoded = 0.3;
constexpr const char* kAccount =
    "its beginning was overwritten; a new one was written in front of what its index lists";

}  // namespace

Status Scanner::rebuildBeginless(Running& running, Control& control) {
    const auto space = freeSpace(running);
    const rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    if (!running.movies)
        running.movies = rebuild::findIndexes(running.card, pool.stretches(), control).movies;
    if (running.movies->empty() || control.stopped()) return Done{};
    std::vector<rebuild::ClipHead> heads;
    RangeSet known;  // of clips that were put together, whole or not
    for (const auto& [id, finding] : running.claims.all()) {
        if (finding.evidence.family != kFamily || finding.inside) continue;
        if (const auto head = rebuild::readClipHead(running.card, finding.start())) heads.push_back(*head);
        for (const auto& piece : finding.pieces) {
            if (piece.from == PieceFrom::Card) known.add(piece.onCard());
        }
    }
    std::vector<std::shared_ptr<const rebuild::LooseIndex>> orphans;
    for (const auto at : *running.movies) {
        if (known.contains(at)) continue;
        auto index = rebuild::readLooseIndex(running.card, at);
        if (!index || control.stopped()) continue;
        const bool has = std::any_of(heads.begin(), heads.end(), [&](const rebuild::ClipHead& head) {
            return rebuild::fits(head, *index, pool.cluster());
        });
        if (!has) orphans.push_back(std::make_shared<const rebuild::LooseIndex>(std::move(*index)));
    }
    if (orphans.empty()) return Done{};
    const rebuild::SamplePlaces samples(running.card, pool, orphans, control);
    running.joining = Running::Joining{orphans.size(), 0};
    for (const auto& index : orphans) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        auto clip = rebuild::withoutBeginning(running.card, *index, pool, samples, control);
        if (!clip) continue;
        running.examiner.addRebuilt({clip->at, kFamily}, std::move(clip->pieces));
        const auto keep = [&](Examined& examined) {
            auto& measured = examined.measured;
            if (!measured.accepted || measured.decoded < kLeastBeginlessDecoded) return false;
            leaveUnproven(measured, kAccount);
            measured.notes.emplace_back(kAccount);
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
