// Clips without an index: the recorder lost power before it wrote one, or it was overwritten. The samples are
// found again by their own structure, and an index is written after the template of a good clip of the same
// recorder: lent, or whole on the card.
#include <algorithm>
#include <set>

#include "media/decoder_process.h"
#include "scan/lending.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostTemplates = 6;
constexpr double kLeastDecoded = 0.5;

// Of good clips with the same settings one is enough.
std::vector<rebuild::ClipTemplate> templatesOf(const std::vector<GoodClip>& good, CardView& card) {
    std::vector<rebuild::ClipTemplate> templates;
    std::set<std::string> known;
    for (const auto& clip : good) {
        if (templates.size() == kMostTemplates) break;
        auto like = clip.readTemplate(card);
        if (!like) continue;
        if (known.insert(rebuild::settingsOf(*like)).second) templates.push_back(std::move(*like));
    }
    return templates;
}

// The one that the technician chose for a clip.
std::optional<rebuild::ClipTemplate> chosenTemplate(const std::vector<GoodClip>& good, const Lending& lending,
                                                    CardView& card) {
    const auto chosen = std::find_if(good.begin(), good.end(), [&](const GoodClip& clip) {
        return clip.path == lending.path && clip.start == lending.from;
    });
    return chosen == good.end() ? std::nullopt : chosen->readTemplate(card);
}

}  // namespace

Status Scanner::rebuildUnindexed(Running& running, Control& control) {
    std::map<std::uint64_t, Lending> lendings;
    std::set<std::uint64_t> anew;
    for (auto& lending : job_->lendings()) {
        if (!lending.carriedOut) anew.insert(lending.start);
        lendings.emplace(lending.start, std::move(lending));
    }
    const auto& findings = running.claims.all();
    const auto good = goodClips(findings, running.record.references);
    const auto broken = openClips(running.card, findings, freeSpace(running, true).stretches,
                                  running.record.span.end(), anew);
    if (broken.empty() || good.empty()) return Done{};
    const auto templates = templatesOf(good, running.card);
    media::DecoderProcess decoder(source_);
    const auto examine = [&](const rebuild::OpenClip& clip, const rebuild::ClipTemplate& like,
                             const rebuild::Walked& walked) -> std::optional<Examined> {
        running.examiner.addRebuilt({clip.start, "isobmff"},
                                    rebuild::withNewIndex(running.card, clip, like, walked));
        running.examiner.finish();
        auto done = running.examiner.take();
        if (done.empty() || !done.front().measured.accepted) return std::nullopt;
        return std::move(done.front());
    };
    running.joining = Running::Joining{broken.size(), 0};
    for (const auto& clip : broken) {
        if (control.stopped()) return Done{};
        tell(running);
        --running.joining->left;
        const auto lending = lendings.find(clip.start);
        std::vector<rebuild::ClipTemplate> own;
        if (lending != lendings.end()) {
            if (auto like = chosenTemplate(good, lending->second, running.card))
                own.push_back(std::move(*like));
        }
        const bool chosen = !own.empty();
        const auto all = clip.pieces(running.card);
        // What one template explains more of than another is tried first.
        std::vector<std::pair<const rebuild::ClipTemplate*, rebuild::Walked>> walks;
        for (const auto& like : chosen ? own : templates) {
            const auto lengths = [&](ByteRange part, Bytes settings) {
                const auto told = decoder.soundLengths(all, part, settings, &control);
                return told ? told.value() : std::vector<std::uint32_t>();
            };
            auto walked = rebuild::walkOpenClip(running.card, clip, like, UINT64_MAX, lengths, control);
            if (control.stopped()) return Done{};
            if (walked) walks.emplace_back(&like, std::move(*walked));
        }
        std::stable_sort(walks.begin(), walks.end(), [](const auto& a, const auto& b) {
            return a.second.covered() > b.second.covered();
        });
        std::optional<Examined> best;
        double bestScore = 0;  // bytes that decode
        for (auto& [like, walked] : walks) {
            // The last picture may be cut off.
            for (int tries = 0; tries < 2; ++tries) {
                if (tries == 0 && static_cast<double>(walked.covered()) <= bestScore) break;
                auto examined = examine(clip, *like, walked);
                if (control.stopped()) return Done{};
                const double decoded = examined ? examined->measured.decoded : 0;
                const bool fine = examined && examined->measured.condition == Condition::Whole;
                const auto score = decoded * static_cast<double>(walked.covered());
                // The technician has seen what a good clip gives, and decides.
                if (decoded >= (chosen ? 0 : kLeastDecoded) && (fine || score > bestScore)) {
                    examined->measured.notes.push_back(rebuild::accountOf(*like, walked));
                    bestScore = score;
                    best = std::move(examined);
                }
                if (fine) break;
                walked = walked.withoutLastPicture();
            }
        }
        if (best) {
            leaveUnproven(best->measured, "its index was lost and has been written anew");
            running.joins.erase(clip.start);
            running.examiner.giveBack(std::move(*best));
            ++running.joining->joined;
        }
        if (lending != lendings.end()) {
            if (auto told = job_->lendingCarriedOut(clip.start); !told) return told;
        }
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
