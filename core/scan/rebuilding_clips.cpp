#include <algorithm>
#include <array>
#include <tuple>

#include "base/patience.h"
#include "media/decoder_process.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/sample_judge.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kConfidence = 0.95;
// First what is certain, and again with what that leaves free.
struct Round {
    bool strayPieces, evenInPart;
};
constexpr std::chrono::minutes kForStrayPieces(4);  // of processor time, for all clips together
constexpr std::array kRounds{Round{false, false}, Round{true, false}, Round{true, true}};

bool inPieces(const Finding& finding) {
    const auto& family = finding.evidence.family;
    return (family == "isobmff" || family == "avi") && finding.evidence.condition != Condition::Whole &&
           !finding.inside && finding.evidence.places.empty();
}

}  // namespace

Status Scanner::rebuildClips(Running& running, Control& control) {
    std::vector<rebuild::ClipHead> heads;
    for (const auto& [id, finding] : running.claims.all()) {
        if (!inPieces(finding)) continue;
        const auto head = finding.evidence.family == "avi"
                              ? rebuild::readAviHead(running.card, finding.start())
                              : rebuild::readClipHead(running.card, finding.start());
        if (head) heads.push_back(*head);
    }
    if (heads.empty()) return Done{};
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    running.joining = Running::Joining{heads.size(), 0};
    if (auto stored = store(running, false); !stored) return stored;
    const auto found = rebuild::findIndexes(running.card, space.stretches, control);
    std::vector<rebuild::LooseIndex> movies;
    for (const auto at : found.movies) {
        if (auto index = rebuild::readLooseIndex(running.card, at)) movies.push_back(std::move(*index));
    }
    const auto fitting = [&](const rebuild::ClipHead& head) {
        std::vector<rebuild::LooseIndex> indexes;
        for (const auto& index : movies) {
            if (!head.avi && rebuild::fits(head, index, space.cluster)) indexes.push_back(index);
        }
        for (const auto at : found.chunks) {
            if (!head.avi) break;
            auto index = rebuild::readAviIndex(running.card, at, head);
            if (index && rebuild::fits(head, *index, space.cluster)) indexes.push_back(std::move(*index));
        }
        // Of several, one that makes the file as long as a directory says comes first; then the nearest
        // behind: that is where cameras write it.
        const auto told = running.book.lengthAt(head.start, head.avi ? "avi" : "isobmff", 0);
        std::sort(indexes.begin(), indexes.end(), [&](const auto& a, const auto& b) {
            const auto rank = [&](const rebuild::LooseIndex& index) {
                const bool asTold = told && head.indexAt + index.box.length == *told;
                return std::tuple(!asTold, index.box.offset < head.start, index.box.offset);
            };
            return rank(a) < rank(b);
        });
        return indexes;
    };
    media::DecoderProcess decoder(source_);
    rebuild::ClipJoinLimits limits;
    const Patience forStrayPieces(kForStrayPieces);
    bool evenInPart = false;
    const auto examine = [&](const Candidate& candidate, const std::vector<ByteRange>& places) {
        running.examiner.add(candidate, places);
        running.examiner.finish();
        return store(running, false);
    };
    // The share of it that decodes; 1 when it is whole and only then.
    const auto decoded = [&](const rebuild::ClipHead& head, const std::string& family) {
        const auto id = running.claims.at({head.start, family});
        if (!id) return 0.0;
        const auto& evidence = running.claims.all().at(*id).evidence;
        return evidence.condition == Condition::Whole ? 1.0 : std::min(evidence.decoded, 0.9999);
    };
    const auto join = [&](const rebuild::ClipHead& head) {
        rebuild::SampleJudge* judge = nullptr;
        const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to) {
            const auto verdict = judge->judge(places, from, to, pool.cluster());
            if (verdict.wrong) return rebuild::Trial{1, 0, verdict.reached};
            if (verdict.certain) return rebuild::Trial{};
            std::vector<Piece> pieces;
            for (const auto& place : places) {
                for (auto& piece : running.card.pieces(place)) pieces.push_back(std::move(piece));
            }
            const auto report = decoder.checkBetween(pieces, head.avi ? "avi" : "mp4", from, to, &control);
            if (!report || !report.value().opened) return rebuild::Trial{UINT64_MAX - 1, 0, 0};
            return rebuild::Trial{report.value().errors, report.value().roughness, 0};
        };
        const std::string family = head.avi ? "avi" : "isobmff";
        for (const auto& index : fitting(head)) {
            rebuild::SampleJudge pictures(running.card, index);
            judge = &pictures;
            if (forStrayPieces.over()) limits.stray = {};
            const auto clip = rebuild::joinClip(running.card, head, index, pool, decode, control, limits);
            if (!clip || clip->places.size() < 2) continue;
            const auto before = decoded(head, family);
            running.joins[head.start] = joinsOf(*clip, kConfidence);
            if (auto stored = examine({head.start, family}, clip->places); !stored) return false;
            const auto after = decoded(head, family);
            if (after < 1.0 && (!evenInPart || after <= before)) {
                // Back to what it was in one piece.
                running.joins.erase(head.start);
                if (auto stored = examine({head.start, family}, {}); !stored) return false;
                continue;
            }
            pool.take(clip->places);
            return true;
        }
        return false;
    };
    // What is put together is out of the others' way; pieces in which nothing tells whose they are come last.
    for (const auto& round : kRounds) {
        limits.strayPieces = round.strayPieces;
        evenInPart = round.evenInPart;
        // The same once more helps only when others have got out of the way.
        for (auto left = heads.size() + 1; heads.size() < left && !heads.empty();) {
            left = heads.size();
            running.joining->left = left;
            for (auto head = heads.begin(); head != heads.end();) {
                if (control.stopped()) return Done{};
                --running.joining->left;
                const bool joined = join(*head);
                running.joining->joined += joined ? 1 : 0;
                head = joined ? heads.erase(head) : std::next(head);
                if (auto stored = store(running, false); !stored) return stored;
            }
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
