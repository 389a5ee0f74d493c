#include <algorithm>
#include <array>
#include <tuple>

#include "base/patience.h"
#include "media/decoder_process.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/index_in_pieces.h"
#include "rebuild/sample_judge.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kConfidence = 0.95;
// First what is certain, and again with what that leaves free.
struct Round {
    bool strayPieces, evenInPart;
};
constexpr std::chrono::seconds kForStrayPieces(150);  // of processor time, for all clips together
constexpr std::chrono::seconds kForDecoding(15);      // for one clip
constexpr std::array kRounds{Round{false, false}, Round{true, false}, Round{true, true}};
constexpr double kOutOfPlace = 0.1;  // share that decodes
constexpr const char* kNotFound = "what belongs here was not found on the card";

using Index = std::shared_ptr<const rebuild::LooseIndex>;

// A clip, and the indexes that may be its, the likeliest first.
struct Clip {
    rebuild::ClipHead head;
    std::vector<Index> indexes;
    std::vector<std::size_t> tried;                   // with each; see joinClip
    std::chrono::steady_clock::duration decoding{0};  // spent in trials
    std::string family() const { return head.avi ? "avi" : "isobmff"; }
};

bool inPieces(const Finding& finding) {
    const auto& family = finding.evidence.family;
    return (family == "isobmff" || family == "avi") && finding.evidence.condition != Condition::Whole &&
           !finding.inside && finding.evidence.places.empty();
}

void append(std::vector<Piece>& pieces, const CardView& card, const ByteRange& place) {
    for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
}

std::vector<Piece> piecesAt(const CardView& card, const std::vector<ByteRange>& places) {
    std::vector<Piece> pieces;
    for (const auto& place : places) append(pieces, card, place);
    return pieces;
}

// The same with what was not found filled.
std::vector<Piece> piecesOf(const rebuild::JoinedClip& clip, const CardView& card) {
    std::vector<Piece> pieces;
    std::uint64_t from = 0;  // of the file
    for (const auto& place : clip.places) {
        const ByteRange part{from, place.length};
        auto at = from;
        const auto upTo = [&](std::uint64_t end) {
            if (end > at) append(pieces, card, {place.offset + (at - from), end - at});
        };
        for (const auto& gap : clip.missing.within(part)) {
            upTo(gap.offset);
            if (!pieces.empty() && pieces.back().from == PieceFrom::Fill && pieces.back().why == kNotFound) {
                pieces.back().length += gap.length;
            } else {
                pieces.push_back({PieceFrom::Fill, 0, gap.length, kNotFound});
            }
            at = gap.end();
        }
        upTo(part.end());
        from = part.end();
    }
    return pieces;
}

// Each index is read once, whatever number of clips it may belong to.
class Indexes {
  public:
    Indexes(CardView& card, const rebuild::ClipPool& pool, const Control& control)
        : card_(card),
          cluster_(pool.cluster()),
          found_(rebuild::findIndexes(card, pool.stretches(), control)) {
        for (const auto at : found_.movies) {
            if (auto index = rebuild::readIndex(card, at, pool, control))
                movies_.push_back(std::make_shared<const rebuild::LooseIndex>(std::move(*index)));
        }
    }
    // `told`: the file's length, where a directory knows it.
    std::vector<Index> fitting(const rebuild::ClipHead& head, std::optional<std::uint64_t> told) const {
        std::vector<Index> indexes;
        for (const auto& index : movies_) {
            if (!head.avi && rebuild::fits(head, *index, cluster_)) indexes.push_back(index);
        }
        for (const auto at : found_.chunks) {
            if (!head.avi) break;
            auto index = rebuild::readAviIndex(card_, at, head);
            if (index && rebuild::fits(head, *index, cluster_))
                indexes.push_back(std::make_shared<const rebuild::LooseIndex>(std::move(*index)));
        }
        // Of several, one that makes the file as long as a directory says comes first; then the nearest
        // behind: that is where cameras write it.
        std::sort(indexes.begin(), indexes.end(), [&](const auto& a, const auto& b) {
            const auto rank = [&](const Index& index) {
                const bool asTold = told && head.indexAt + index->box.length == *told;
                return std::tuple(!asTold, index->box.offset < head.start, index->box.offset);
            };
            return rank(a) < rank(b);
        });
        return indexes;
    }

  private:
    CardView& card_;
    std::uint64_t cluster_;
    rebuild::FoundIndexes found_;
    std::vector<Index> movies_;
};

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
    const Indexes indexes(running.card, pool, control);
    std::vector<Clip> clips;
    std::vector<Index> all;
    for (const auto& head : heads) {
        Clip clip{head, {}, {}};
        clip.indexes = indexes.fitting(head, running.book.lengthAt(head.start, clip.family(), 0));
        all.insert(all.end(), clip.indexes.begin(), clip.indexes.end());
        clip.tried.resize(clip.indexes.size());
        if (!clip.indexes.empty()) clips.push_back(std::move(clip));
    }
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    const rebuild::SamplePlaces samples(running.card, pool, all, control);
    media::DecoderProcess decoder(source_);
    rebuild::ClipJoinLimits limits;
    const Patience forStrayPieces(kForStrayPieces);
    const auto examine = [&](const Candidate& candidate, const rebuild::JoinedClip& clip) {
        if (clip.missing.empty()) {
            running.examiner.add(candidate, clip.places);
        } else {
            running.examiner.addRebuilt(candidate, piecesOf(clip, running.card));
        }
        running.examiner.finish();
        return store(running, false);
    };
    // The share of it that decodes; 1 when it is whole and only then.
    const auto decoded = [&](const Candidate& clip) {
        const auto id = running.claims.at(clip);
        if (!id) return 0.0;
        const auto& evidence = running.claims.all().at(*id).evidence;
        return evidence.condition == Condition::Whole ? 1.0 : std::min(evidence.decoded, 0.9999);
    };
    const auto join = [&](Clip& clip) {
        const Candidate candidate{clip.head.start, clip.family()};
        for (std::size_t i = 0; i < clip.indexes.size(); ++i) {
            const auto& index = clip.indexes[i];
            rebuild::SampleJudge judge(running.card, *index);
            const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from,
                                    std::uint64_t to) {
                const auto verdict = judge.judge(places, from, to, pool.cluster());
                if (verdict.wrong) return rebuild::Trial{1, 0, verdict.reached};
                if (verdict.certain) return rebuild::Trial{};
                constexpr rebuild::Trial kNotKnown{UINT64_MAX - 1, 0, 0};
                if (clip.decoding > kForDecoding) return kNotKnown;
                const auto began = std::chrono::steady_clock::now();
                const auto report = decoder.checkBetween(piecesAt(running.card, places),
                                                         clip.head.avi ? "avi" : "mp4", from, to, &control);
                clip.decoding += std::chrono::steady_clock::now() - began;
                if (!report || !report.value().opened) return kNotKnown;
                return rebuild::Trial{report.value().errors, report.value().roughness, 0};
            };
            if (forStrayPieces.over()) limits.stray = {};
            const auto joined = rebuild::joinClip(running.card, clip.head, *index, pool, samples, decode,
                                                  control, limits, clip.tried[i]);
            if (!joined || joined->places.size() < 2) continue;
            const auto before = decoded(candidate);
            running.joins[candidate.offset] = joinsOf(*joined, kConfidence);
            if (auto stored = examine(candidate, *joined); !stored) return false;
            const auto after = decoded(candidate);
            // Read straight on, a decoder may find pictures of the same clip that are out of their place.
            const bool better = joined->missing.empty() ? after > before : after + kOutOfPlace > before;
            if (after < 1.0 && (!limits.withGaps || !better)) {
                // Back to what it was in one piece.
                running.joins.erase(candidate.offset);
                if (auto stored = examine(candidate, {}); !stored) return false;
                continue;
            }
            pool.take(joined->places);
            return true;
        }
        return false;
    };
    // What is put together is out of the others' way; pieces in which nothing tells whose they are come last.
    for (const auto& round : kRounds) {
        limits.strayPieces = round.strayPieces;
        limits.withGaps = round.evenInPart;
        // The same once more helps only when others have got out of the way.
        for (auto left = clips.size() + 1; clips.size() < left && !clips.empty();) {
            left = clips.size();
            running.joining->left = left;
            for (auto clip = clips.begin(); clip != clips.end();) {
                if (control.stopped()) return Done{};
                --running.joining->left;
                const bool joined = join(*clip);
                running.joining->joined += joined ? 1 : 0;
                clip = joined ? clips.erase(clip) : std::next(clip);
                if (auto stored = store(running, false); !stored) return stored;
            }
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
