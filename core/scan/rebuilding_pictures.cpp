// HEICs that lie in pieces, put together by what their index demands of every tile; see
// rebuild/picture_index.h.

#include "rebuild/clip_joiner.h"
#include "rebuild/picture_index.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kPictureConfidence = 0.99;  // every tile decodes to its last bit

bool pictureInPieces(const Finding& finding) {
    const auto& evidence = finding.evidence;
    return evidence.family == "isopicture" && finding.format == "heic" && !finding.inside &&
           evidence.condition != Condition::Whole && evidence.places.empty();
}

constexpr const char* kUnshown = "its pieces meet where nothing shows that they belong together";

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

}  // namespace

Status Scanner::rebuildPictures(Running& running, Control& control) {
    // First what is certain; then, with what that leaves free, pieces in which no tile begins.
    for (const bool strayPieces : {false, true}) {
        const auto broken = candidatesOf(running.claims.all(), pictureInPieces);
        if (broken.empty()) break;
        const auto space = freeSpace(running);
        rebuild::ClipPool pool(space.stretches, space.cluster, space.origin);
        running.joining = Running::Joining{broken.size(), 0};
        std::vector<std::shared_ptr<const rebuild::PictureIndex>> pictures;
        std::vector<std::shared_ptr<const rebuild::LooseIndex>> indexes;
        for (const auto& candidate : broken) {
            auto picture = rebuild::readPictureIndex(running.card, candidate.offset);
            if (!picture) continue;
            pictures.push_back(std::make_shared<const rebuild::PictureIndex>(std::move(*picture)));
            indexes.emplace_back(pictures.back(), &pictures.back()->index);
        }
        const rebuild::SamplePlaces samples(running.card, pool, indexes, control);
        rebuild::ClipJoinLimits limits;
        limits.strayPieces = strayPieces;
        for (const auto& picture : pictures) {
            if (control.stopped()) return Done{};
            tell(running);
            --running.joining->left;
            const Candidate candidate{picture->head.start, "isopicture"};
            const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from,
                                    std::uint64_t to) {
                return rebuild::Trial{rebuild::damagedItems(running.card, places, picture->items, from, to),
                                      0};
            };
            std::size_t tried = 0;
            const auto joined = rebuild::joinClip(running.card, picture->head, picture->index, pool, samples,
                                                  decode, control, limits, tried);
            if (!joined || joined->places.size() < 2) continue;
            auto whole = wholeIn(running, candidate, joined->places);
            if (!whole) continue;
            if (!joinsShow(joined->places, *picture, pool.cluster()))
                leaveUnproven(whole->measured, kUnshown);
            running.joins[candidate.offset] = joinsOf(*joined, kPictureConfidence);
            running.examiner.giveBack(std::move(*whole));
            pool.take(joined->places);
            ++running.joining->joined;
            if (auto stored = store(running, false); !stored) return stored;
        }
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
