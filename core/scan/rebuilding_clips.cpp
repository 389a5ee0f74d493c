#include <algorithm>
#include <array>
#include <thread>

#include "media/decoder_process.h"
#include "rebuild/clip_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kConfidence = 0.95;
// First what is certain, and again with what that leaves free.
struct Round {
    bool strayPieces, evenInPart;
};
constexpr std::array kRounds{Round{false, false}, Round{false, false}, Round{true, false}, Round{true, false},
                             Round{true, true}};

bool inPieces(const Finding& finding) {
    return finding.evidence.family == "isobmff" && finding.evidence.condition != Condition::Whole &&
           !finding.inside && finding.evidence.places.empty();
}

std::vector<Join> joinsOf(const rebuild::JoinedClip& clip) {
    std::vector<Join> joins;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < clip.places.size(); ++i) {
        at += clip.places[i].length;
        joins.push_back({at, kConfidence, clip.reasons[i]});
    }
    return joins;
}

}  // namespace

Status Scanner::rebuildClips(Running& running, Control& control) {
    std::vector<rebuild::ClipHead> heads;
    for (const auto& [id, finding] : running.claims.all()) {
        if (!inPieces(finding)) continue;
        if (const auto head = rebuild::readClipHead(running.card, finding.start())) heads.push_back(*head);
    }
    if (heads.empty()) return Done{};
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    running.joining = Running::Joining{heads.size(), 0};
    if (auto stored = store(running, false); !stored) return stored;
    std::vector<rebuild::LooseIndex> indexes;
    for (const auto at : rebuild::findIndexes(running.card, space.stretches, control)) {
        if (auto index = rebuild::readLooseIndex(running.card, at)) indexes.push_back(std::move(*index));
    }
    media::DecoderProcess decoder(source_);
    rebuild::ClipJoinLimits limits;
    bool evenInPart = false;
    const auto join = [&](const rebuild::ClipHead& head) {
        const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to) {
            std::vector<Piece> pieces;
            for (const auto& place : places) {
                for (auto& piece : running.card.pieces(place)) pieces.push_back(std::move(piece));
            }
            const auto report = decoder.checkBetween(pieces, "mp4", from, to, &control);
            if (!report || !report.value().opened) return rebuild::Trial{UINT64_MAX - 1, 0};
            return rebuild::Trial{report.value().errors, report.value().roughness};
        };
        // Of several that fit the nearest behind comes first: that is where cameras write it.
        std::vector<const rebuild::LooseIndex*> fitting;
        for (const auto& index : indexes) {
            if (rebuild::fits(head, index, space.cluster)) fitting.push_back(&index);
        }
        std::sort(fitting.begin(), fitting.end(), [&](const auto* a, const auto* b) {
            const auto rank = [&](const rebuild::LooseIndex& index) {
                return std::pair(index.box.offset < head.start, index.box.offset);
            };
            return rank(*a) < rank(*b);
        });
        for (const auto* index : fitting) {
            const auto clip = rebuild::joinClip(running.card, head, *index, pool, decode, control, limits);
            if (!clip || clip->places.size() < 2) continue;
            running.joins[head.start] = joinsOf(*clip);
            running.examiner.add({head.start, "isobmff"}, clip->places);
            while (!running.examiner.idle() && !control.stopped())
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            if (auto stored = store(running, false); !stored) return false;
            const auto now = running.claims.at({head.start, "isobmff"});
            const bool whole = now && running.claims.all().at(*now).evidence.condition == Condition::Whole;
            if (!whole && !evenInPart) continue;
            pool.take(clip->places);
            return true;
        }
        return false;
    };
    // What is put together is out of the others' way; pieces in which nothing tells whose they are come last.
    for (const auto& round : kRounds) {
        limits.strayPieces = round.strayPieces;
        evenInPart = round.evenInPart;
        running.joining->left = heads.size();
        for (auto head = heads.begin(); head != heads.end();) {
            if (control.stopped()) return Done{};
            --running.joining->left;
            const bool joined = join(*head);
            running.joining->joined += joined ? 1 : 0;
            head = joined ? heads.erase(head) : std::next(head);
            if (auto stored = store(running, false); !stored) return stored;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
