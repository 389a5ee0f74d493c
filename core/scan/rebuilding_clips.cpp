#include <algorithm>
#include <array>
#include <atomic>
#include <tuple>

#include "base/every_core.h"
#include "base/patience.h"
#include "media/decoder_process.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/fragment_chain.h"
#include "rebuild/index_in_pieces.h"
#include "rebuild/sample_judge.h"
#include "rebuild/sound_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kClipConfidence = 0.95;
// First what is certain, and again with what that leaves free.
struct ClipRound {
    bool strayPieces, evenInPart;
};
// Of processor time, for searches for pieces in which no sample begins: of one clip, and of all.
constexpr std::chrono::milliseconds kForStrayPieces(40000), kForAllStrayPieces(480000);
constexpr std::chrono::seconds kForSound(4);      // of processor time, for one recording
constexpr std::chrono::seconds kForDecoding(60);  // of the clock, for one clip
constexpr int kMostTimes = 16;
constexpr std::array kClipRounds{ClipRound{false, false}, ClipRound{true, false}, ClipRound{true, true}};
constexpr double kOutOfPlace = 0.1;  // share that decodes
constexpr const char* kNotFound = "what belongs here was not found on the card";
constexpr const char* kGoesOn = "it goes on with another fragment, which could not be read";

using Index = std::shared_ptr<const rebuild::LooseIndex>;

// A clip, and the indexes that may be its, the likeliest first.
struct Clip {
    rebuild::ClipHead head;
    std::vector<Index> indexes;
    std::vector<std::size_t> tried;                   // with each; see joinClip
    std::chrono::steady_clock::duration decoding{0};  // spent in trials
    std::chrono::milliseconds searching{0};           // of processor time
    Candidate candidate() const { return {head.start, family()}; }
    std::string family() const { return head.avi ? "avi" : "isobmff"; }
};

bool clipInPieces(const Finding& finding) {
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
          pool_(pool),
          control_(control),
          cluster_(pool.cluster()),
          found_(rebuild::findIndexes(card, pool.stretches(), control)),
          fragments_(rebuild::numberFragments(card, found_.fragments)) {
        for (const auto at : found_.movies) {
            if (auto index = rebuild::readIndex(card, at, pool, control))
                movies_.push_back(std::make_shared<const rebuild::LooseIndex>(std::move(*index)));
        }
    }
    const std::vector<std::uint64_t>& movies() const { return found_.movies; }
    const rebuild::FragmentPlaces& fragments() const { return fragments_; }
    // Of a clip whose index stands in front and lies in pieces.
    std::optional<rebuild::ClipHead> headBefore(std::uint64_t start) const {
        for (const auto& index : movies_) {
            if (auto head = rebuild::readClipHead(card_, start, *index)) return head;
        }
        return std::nullopt;
    }
    // `told`: the file's length, where a directory knows it.
    std::vector<Index> fitting(const rebuild::ClipHead& head, std::optional<std::uint64_t> told) const {
        std::vector<Index> indexes;
        for (const auto& index : movies_) {
            if (head.avi || !rebuild::fits(head, *index, cluster_)) continue;
            indexes.push_back(index->fragmented
                                  ? std::make_shared<const rebuild::LooseIndex>(rebuild::withFragments(
                                        card_, head, *index, fragments_, pool_, control_))
                                  : index);
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
    const rebuild::ClipPool& pool_;
    const Control& control_;
    std::uint64_t cluster_;
    rebuild::FoundIndexes found_;
    rebuild::FragmentPlaces fragments_;
    std::vector<Index> movies_;
};

// Without what was not found.
RangeSet ownOf(const std::vector<Piece>& pieces) {
    RangeSet own;
    for (const auto& piece : pieces) {
        if (piece.from == PieceFrom::Card) own.add(piece.onCard());
    }
    return own;
}

// What stands at the front of a clip; its index, too, when that lies between its media data.
std::optional<Clip> clipAt(CardView& card, const Candidate& candidate, const Indexes& indexes,
                           const rebuild::ClipPool& pool, const Control& control) {
    const auto start = candidate.offset;
    auto fragmented = rebuild::readFragments(card, start, indexes.fragments(), pool, control);
    if (fragmented) {
        Clip clip{fragmented->head, {}, {}};
        clip.indexes.push_back(std::make_shared<const rebuild::LooseIndex>(std::move(fragmented->index)));
        return clip;
    }
    const bool avi = candidate.family == "avi";
    auto head = avi ? rebuild::readAviHead(card, start) : rebuild::readClipHead(card, start);
    if (!head && !avi) head = indexes.headBefore(start);
    return head ? std::optional(Clip{*head, {}, {}}) : std::nullopt;
}

// Looks for the pieces of clips, on every core; what one finds does not depend on the others.
class ClipSearch {
  public:
    ClipSearch(std::shared_ptr<Source> source, CardView& card, const rebuild::ClipPool& pool,
               const rebuild::SamplePlaces& samples, Control& control)
        : source_(std::move(source)), card_(card), pool_(pool), samples_(samples), control_(control) {}

    using Found = std::vector<std::optional<rebuild::JoinedClip>>;
    // One for each clip; `tell` is called now and then with how many are done.
    Found all(std::vector<Clip>& clips, const rebuild::ClipJoinLimits& limits,
              const std::function<void(std::size_t)>& tell) {
        Found found(clips.size());
        while (decoders_.size() < threadsFor(clips.size()))
            decoders_.push_back(std::make_unique<media::DecoderProcess>(source_));
        const auto search = [&](std::size_t at, std::size_t thread) {
            if (control_.proceed()) found[at] = one(clips[at], limits, *decoders_[thread]);
        };
        onEveryCore(clips.size(), search, tell);
        return found;
    }

  private:
    std::optional<rebuild::JoinedClip> one(Clip& clip, rebuild::ClipJoinLimits limits,
                                           media::DecoderProcess& decoder) {
        for (std::size_t i = 0; i < clip.indexes.size(); ++i) {
            const auto& index = clip.indexes[i];
            if (auto sound = soundAlone(clip.head, *index, decoder)) return sound;
            rebuild::SampleJudge judge(card_, *index);
            const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from,
                                    std::uint64_t to) {
                const auto verdict = judge.judge(places, from, to);
                if (verdict.wrong) return rebuild::Trial{1, verdict.strain, verdict.reached};
                if (verdict.certain) return rebuild::Trial{0, verdict.strain, 0};
                constexpr rebuild::Trial kNotKnown{UINT64_MAX - 1, 0, 0};
                if (clip.decoding > kForDecoding) return kNotKnown;
                const auto began = std::chrono::steady_clock::now();
                const auto report = decoder.checkBetween(piecesAt(card_, places),
                                                         clip.head.avi ? "avi" : "mp4", from, to, &control_);
                clip.decoding += std::chrono::steady_clock::now() - began;
                if (!report || !report.value().opened) return kNotKnown;
                return rebuild::Trial{report.value().errors, report.value().roughness, 0};
            };
            const auto leftForAll = kForAllStrayPieces - std::chrono::milliseconds(searching_);
            limits.stray = std::min({limits.stray, kForStrayPieces - clip.searching, leftForAll});
            const auto before = Patience::worked();
            auto joined = rebuild::joinClip(card_, clip.head, *index, pool_, samples_, decode, control_,
                                            limits, clip.tried[i]);
            if (limits.strayPieces) {
                const auto took =
                    std::chrono::duration_cast<std::chrono::milliseconds>(Patience::worked() - before);
                clip.searching += took;
                searching_ += took.count();
            }
            // A clip that seemed to end at a fragment that is lost may go on in one piece.
            if (joined && (joined->places.size() > 1 || !index->parts.empty())) return joined;
        }
        return std::nullopt;
    }
    // A recording without a picture.
    std::optional<rebuild::JoinedClip> soundAlone(const rebuild::ClipHead& head,
                                                  const rebuild::LooseIndex& index,
                                                  media::DecoderProcess& decoder) {
        const auto* track = rebuild::soundTrackOf(index);
        if (track == nullptr) return std::nullopt;
        const bool lossless = track->sound == isobmff::SoundCoding::Lossless;
        const auto right = [&](const std::vector<ByteRange>& places,
                               std::span<const isobmff::Sample> frames) {
            return lossless ? rebuild::rightLosslessFrames(card_, track->settings, places, frames)
                            : rightAacFrames(decoder, track->settings, places, frames);
        };
        return rebuild::joinSound(card_, head, index, pool_, right, Patience(kForSound), control_);
    }
    std::size_t rightAacFrames(media::DecoderProcess& decoder, Bytes settings,
                               const std::vector<ByteRange>& places,
                               std::span<const isobmff::Sample> frames) {
        if (frames.empty()) return 0;
        const auto from = frames.front().offset;
        const ByteRange part{from, frames.back().offset + frames.back().size - from};
        const auto lengths = decoder.soundLengths(piecesAt(card_, places), part, settings, &control_);
        std::size_t right = 0;
        for (; lengths && right < std::min(frames.size(), lengths.value().size()); ++right) {
            // Of the last one only the least is known that decodes.
            const bool last = right + 1 == frames.size();
            const auto length = lengths.value()[right], stated = frames[right].size;
            if (last ? length > stated : length != stated) break;
        }
        return right;
    }

    std::shared_ptr<Source> source_;
    CardView& card_;
    const rebuild::ClipPool& pool_;
    const rebuild::SamplePlaces& samples_;
    Control& control_;
    std::vector<std::unique_ptr<media::DecoderProcess>> decoders_;  // one a thread
    std::atomic<std::int64_t> searching_ = 0;                       // milliseconds of processor time
};

}  // namespace

Status Scanner::rebuildClips(Running& running, Control& control) {
    const auto broken = candidatesOf(running.claims.all(), clipInPieces);
    if (broken.empty()) return Done{};
    const auto space = freeSpace(running);
    rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
    running.joining = Running::Joining{broken.size(), 0};
    if (auto stored = store(running, false); !stored) return stored;
    const Indexes indexes(running.card, pool, control);
    if (!control.stopped()) running.movies = indexes.movies();
    std::vector<Clip> clips;
    std::vector<Index> all;
    // Where clips begin that go on behind all that is known of them, or behind what was found this time.
    std::set<std::uint64_t> goingOn, cutShort;
    for (const auto& each : broken) {
        auto clip = clipAt(running.card, each, indexes, pool, control);
        if (!clip) continue;
        if (clip->indexes.empty())
            clip->indexes = indexes.fitting(clip->head, running.book.lengthAt(each.offset, each.family, 0));
        if (clip->indexes.empty()) continue;
        all.insert(all.end(), clip->indexes.begin(), clip->indexes.end());
        clip->tried.resize(clip->indexes.size());
        if (std::ranges::any_of(clip->indexes, [](const Index& index) { return index->goesOn; }))
            goingOn.insert(each.offset);
        clips.push_back(std::move(*clip));
    }
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    const rebuild::SamplePlaces samples(running.card, pool, all, control);
    ClipSearch search(source_, running.card, pool, samples, control);
    rebuild::ClipJoinLimits limits;
    struct Standing {
        bool whole = false;
        double length = 0, decoded = 0;  // bytes
    };
    const auto standing = [&](const Candidate& clip) {
        const auto id = running.claims.at(clip);
        if (!id) return Standing{};
        const auto& evidence = running.claims.all().at(*id).evidence;
        const auto length = static_cast<double>(evidence.range.length);
        return Standing{evidence.condition == Condition::Whole, length, evidence.decoded * length};
    };
    const auto keep = [&](Examined& examined) {
        const auto start = examined.candidate.offset;
        if (goingOn.contains(start) || cutShort.contains(start)) leaveUnproven(examined.measured, kGoesOn);
        return true;
    };
    const auto examined = [&] {
        (void)running.examiner.sift(keep);
        return store(running, false);
    };
    // Tries all that are left once more. Whether some were put together, or stood in each other's way.
    const auto round = [&]() -> Result<bool> {
        const auto tell = [&](std::size_t done) {
            running.joining->left = clips.size() - done;
            (void)store(running, false);
        };
        auto found = search.all(clips, limits, tell);
        if (control.stopped()) return false;
        bool again = false;
        RangeSet claimed;
        std::vector<Standing> before(clips.size());
        std::vector<std::vector<ByteRange>> owns(clips.size());
        for (std::size_t i = 0; i < clips.size(); ++i) {
            if (!found[i]) continue;
            const auto pieces = piecesOf(*found[i], running.card);
            const auto& own = owns[i] = ownOf(pieces).ranges();
            const bool taken = std::any_of(own.begin(), own.end(),
                                           [&](const ByteRange& range) { return claimed.intersects(range); });
            if (taken) {
                std::fill(clips[i].tried.begin(), clips[i].tried.end(), 0);
                found[i].reset();
                again = true;
                continue;
            }
            for (const auto& range : own) claimed.add(range);
            const auto candidate = clips[i].candidate();
            if (rebuild::goesOnWithFragments(running.card, found[i]->places.back().end(), pool)) {
                cutShort.insert(candidate.offset);
            } else {
                cutShort.erase(candidate.offset);
            }
            before[i] = standing(candidate);
            running.joins[candidate.offset] = joinsOf(*found[i], kClipConfidence);
            if (found[i]->missing.empty()) {
                running.examiner.add(candidate, found[i]->places);
            } else {
                running.examiner.addRebuilt(candidate, pieces);
            }
        }
        if (auto done = examined(); !done) return done.error();
        std::vector<Clip> rest;
        for (std::size_t i = 0; i < clips.size(); ++i) {
            bool believed = false;
            if (found[i]) {
                const auto after = standing(clips[i].candidate());
                // Read straight on, a decoder may find pictures of the same clip that are out of their place.
                const auto outOfPlace = found[i]->missing.empty() ? 0 : kOutOfPlace * after.length;
                const bool better = after.decoded + outOfPlace > before[i].decoded;
                believed = after.whole || (limits.withGaps && better);
                if (!believed) {
                    // Back to what it was in one piece.
                    running.joins.erase(clips[i].head.start);
                    // Another index may be its.
                    again = again || clips[i].indexes.size() > 1;
                    running.examiner.add(clips[i].candidate(), {});
                }
            }
            if (believed) {
                pool.take(owns[i]);
                ++running.joining->joined;
                again = true;
            } else {
                rest.push_back(std::move(clips[i]));
            }
        }
        clips = std::move(rest);
        if (auto done = examined(); !done) return done.error();
        return again;
    };
    // What is put together is out of the others' way; pieces in which nothing tells whose they are come last.
    for (const auto& each : kClipRounds) {
        limits.strayPieces = each.strayPieces;
        limits.withGaps = each.evenInPart;
        // The same once more helps only when others have got out of the way.
        for (int times = 0; times < kMostTimes && !clips.empty(); ++times) {
            const auto again = round();
            if (!again) return again.error();
            if (control.stopped()) return Done{};
            if (!again.value()) break;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
