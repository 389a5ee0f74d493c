// HEICs that lie in pieces, put together by what their index demands of every picture or tile; see
// rebuild/picture_index.h.
#include <atomic>

#include "base/every_core.h"
#include "base/patience.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/picture_index.h"
#include "rebuild/sample_judge.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kPictureConfidence = 0.99;  // every tile decodes to its last bit
// Of processor time, for searches for pieces in which no picture begins: for one piece (a picture may be many
// times larger than one of a clip), of one photo, and of all.
constexpr std::chrono::milliseconds kForOnePiece(16000), kForOnePhoto(48000), kForAllPhotos(480000);

bool pictureInPieces(const Finding& finding) {
    const auto& evidence = finding.evidence;
    return evidence.family == "isopicture" && finding.format == "heic" && !finding.inside &&
           evidence.condition != Condition::Whole && evidence.places.empty();
}

// Whether each cluster beside each join holds something of an item that was followed, or of the index.
bool joinsShow(const std::vector<ByteRange>& places, const rebuild::PictureIndex& picture,
               std::uint32_t cluster) {
    RangeSet followed;
    followed.add({0, picture.head.media.offset});
    for (const auto& item : picture.items) {
        const bool all = item.coded() || item.coding == isobmff::Item::Coding::Jpeg;
        for (const auto& extent : item.extents) {
            if (all) followed.add(extent);
        }
    }
    std::uint64_t at = 0;
    for (const auto& place : places) {
        const bool shows =
            at == 0 || (followed.intersects({at - cluster, cluster}) && followed.intersects({at, cluster}));
        if (!shows) return false;
        at += place.length;
    }
    return true;
}

// Its first piece lies where it was found; others were free when they were looked for.
bool isTaken(const std::vector<ByteRange>& places, const rebuild::ClipPool& pool) {
    const auto cluster = pool.cluster();
    return std::any_of(places.begin() + 1, places.end(), [&](const ByteRange& place) {
        for (auto at = place.offset; at < place.end(); at += cluster) {
            if (!pool.free(at)) return true;
        }
        return false;
    });
}

// A photo, and what there was to go by the last time; see joinClip.
struct Sought {
    std::shared_ptr<const rebuild::PictureIndex> picture;
    std::size_t tried = 0;
};

// Looks for the pieces of photos, on every core; what one finds does not depend on the others.
class PictureSearch {
  public:
    PictureSearch(CardView& card, Control& control) : card_(card), control_(control) {}

    using Found = std::vector<std::optional<rebuild::JoinedClip>>;
    // One for each; `tell` is called now and then with how many are done.
    Found all(std::vector<Sought>& photos, const rebuild::ClipPool& pool, bool strayPieces,
              const std::function<void(std::size_t)>& tell) {
        std::vector<std::shared_ptr<const rebuild::LooseIndex>> indexes;
        for (const auto& photo : photos) indexes.emplace_back(photo.picture, &photo.picture->index);
        const rebuild::SamplePlaces samples(card_, pool, indexes, control_);
        Found found(photos.size());
        const auto search = [&](std::size_t i, std::size_t) {
            if (control_.proceed()) found[i] = one(photos[i], pool, samples, strayPieces);
        };
        onEveryCore(photos.size(), search, tell);
        return found;
    }

  private:
    std::optional<rebuild::JoinedClip> one(Sought& photo, const rebuild::ClipPool& pool,
                                           const rebuild::SamplePlaces& samples, bool strayPieces) {
        const auto& picture = *photo.picture;
        rebuild::SampleJudge judge(card_, picture.index);
        const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from, std::uint64_t to) {
            const auto verdict = judge.judge(places, from, to);
            if (verdict.wrong) return rebuild::Trial{1, verdict.strain, verdict.reached};
            return rebuild::Trial{rebuild::damagedFacts(card_, places, picture.items, from, to),
                                  verdict.strain, 0};
        };
        rebuild::ClipJoinLimits limits;
        limits.strayPieces = strayPieces;
        limits.unknown = kForOnePiece;
        limits.stray = std::min(kForOnePhoto, kForAllPhotos - std::chrono::milliseconds(searching_));
        const auto before = Patience::worked();
        auto joined = rebuild::joinClip(card_, picture.head, picture.index, pool, samples, decode, control_,
                                        limits, photo.tried);
        const auto took = Patience::worked() - before;
        searching_ += std::chrono::duration_cast<std::chrono::milliseconds>(took).count();
        if (joined && joined->places.size() < 2) return std::nullopt;
        return joined;
    }

    CardView& card_;
    Control& control_;
    std::atomic<std::int64_t> searching_ = 0;  // milliseconds of processor time
};

}  // namespace

Status Scanner::rebuildPictures(Running& running, Control& control) {
    std::vector<Sought> photos;
    for (const auto& candidate : candidatesOf(running.claims.all(), pictureInPieces)) {
        auto picture = rebuild::readPictureIndex(running.card, candidate.offset);
        if (picture)
            photos.push_back({std::make_shared<const rebuild::PictureIndex>(std::move(*picture)), 0});
    }
    PictureSearch search(running.card, control);
    // First what is certain; then, with what that leaves free, pieces in which no picture begins. Once more
    // as long as some stood in each other's way.
    for (const bool strayPieces : {false, true}) {
        for (bool again = true; again && !photos.empty();) {
            const auto space = freeSpace(running);
            rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
            running.joining = Running::Joining{photos.size(), 0};
            const auto found = search.all(photos, pool, strayPieces, [&](std::size_t done) {
                running.joining->left = photos.size() - done;
                tell(running);
            });
            if (control.stopped()) return Done{};
            again = false;
            bool inTheWay = false;
            std::vector<Sought> left;
            for (std::size_t i = 0; i < photos.size(); ++i) {
                const auto& picture = *photos[i].picture;
                const Candidate candidate{picture.head.start, "isopicture"};
                const bool taken = found[i] && isTaken(found[i]->places, pool);
                inTheWay = inTheWay || taken;
                auto whole =
                    found[i] && !taken ? wholeIn(running, candidate, found[i]->places) : std::nullopt;
                if (!whole) {
                    left.push_back(photos[i]);
                    if (taken) left.back().tried = 0;
                    continue;
                }
                if (!joinsShow(found[i]->places, picture, pool.cluster()))
                    leaveUnproven(whole->measured, kUnshown);
                running.joins[candidate.offset] = joinsOf(*found[i], kPictureConfidence);
                running.examiner.giveBack(std::move(*whole));
                pool.take(found[i]->places);
                ++running.joining->joined;
                again = true;
                if (auto stored = store(running, false); !stored) return stored;
            }
            again = again && inTheWay;
            photos = std::move(left);
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
