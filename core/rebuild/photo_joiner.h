// Puts photos together again that lie in pieces (JPEG, ITU-T T.81). Where a photo stops being itself is where
// its coded data stop making sense, or where another file, a blank stretch or another photo's beginning
// stands in its way. Where it goes on is found by going on with the decoder from the cluster before: in a
// wrong place it stumbles within a cluster, or does not reach the end marker with the last block of the
// picture.
//
// A way is believed when the file that comes of it is whole by the same measure as any other file, and its
// joins are seen to fit. Where a picture does not show that for certain, too even or rough just there, a way
// that decodes to the very end is offered all the same, as what it is.
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "base/bytes.h"
#include "base/control.h"
#include "base/range.h"
#include "source/card_view.h"

namespace dreskel::rebuild {

// The clusters of a card that may hold the further pieces of photos. Copies share what they have in common:
// each thread may keep the one it began with while others are taken from.
class Pool {
  public:
    // One of them; `restart`: the number of the first restart marker in it, 0 to 7.
    struct Spot {
        static constexpr std::uint8_t kNone = 255;
        std::uint64_t at = 0;
        std::uint32_t head = kNoHead;  // among those that are kept
        std::uint8_t restart = kNone;
        static constexpr std::uint32_t kNoHead = UINT32_MAX;
    };
    // `cluster`: bytes; `origin`: where on the source one of them begins. Looks at every cluster of `free`
    // once.
    Pool(CardView& card, const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin,
         const Control& control);

    std::uint32_t cluster() const { return cluster_; }
    std::size_t size() const { return known_->spots.size(); }  // clusters that may hold coded data
    bool free(std::uint64_t at) const { return known_->free.contains(at) && !taken_.contains(at); }
    // Whether it may hold coded data of a photo.
    bool fits(std::uint64_t at) const { return known_->fit.contains(at) && !taken_.contains(at); }
    // What a cluster begins with, kept from the one look at it: of most wrong places more is not wanted.
    // Empty for those of a large card that there was no room for.
    Bytes head(const Spot& spot) const;
    // Whether nothing of these places has been taken.
    bool allFree(const std::vector<ByteRange>& places) const;
    // Taken by a photo that has been put together.
    void take(const std::vector<ByteRange>& places);
    // Shows where a photo that stops before `at` may go on, until `visit` gives true: the beginnings of free
    // stretches, or everything else, from `at` on forwards and round. Whether it did.
    enum class Which { Beginnings, Others };
    bool visit(Which which, std::uint64_t at, const std::function<bool(const Spot&)>& visit) const;
    // All free clusters, whatever they hold, from `at` on forwards.
    bool visitFree(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const;

  private:
    static constexpr std::size_t kHead = 1024, kMostHeads = 98304;  // bytes; clusters
    // What copies share is made anew once so much of it has been taken.
    static constexpr std::uint64_t kTakenAtMost = 64;  // one cluster in so many

    struct Known {
        RangeSet free, fit;
        std::vector<Spot> spots;  // of fit, in order of place
    };
    bool begins(const Spot& spot) const;  // a stretch
    void listBeginnings();

    std::uint32_t cluster_;
    std::uint64_t origin_;
    std::shared_ptr<const Known> known_;
    RangeSet taken_;                // since then
    std::vector<Spot> beginnings_;  // of stretches, in order of place
    std::shared_ptr<const std::vector<std::uint8_t>> heads_;
};

struct PhotoJoinLimits {
    std::chrono::milliseconds time{4000};  // of processor time, for one photo
    std::chrono::milliseconds forScans{
        0};  // and so much more for one in several scans, each place of which takes longer
    std::chrono::nanoseconds forRivals =
        std::chrono::seconds(15);  // and for holding others against its joins
    int pieces = 48;
    int secondBests = 5;      // how often on one way something else than the best may be taken
    std::uint64_t bytes = 0;  // it is no longer than this; 0: not known
    bool rough = false;       // one join may be rougher than true ones are; such a way is untold
    // Only so many beginnings of stretches that lie ahead are tried at each join: where files were written
    // into holes, that is where they go on.
    std::optional<std::size_t> ahead = {};
};

struct JoinedPhoto {
    enum class Told {
        Part,  // the photo goes no further than these places: they fit at every join, the rest was not found
        Untold,  // all of it by its coding, but the picture does not show for certain that its joins are
                 // right
        Whole,
    };
    std::vector<ByteRange> places;
    Told told = Told::Part;
    std::vector<bool> shown = {};  // with Whole, of each join: the thumbnail shows what is behind it
};

// What was tried of one photo; a further call for it on the same card goes on from there.
struct PhotoTrials;
std::shared_ptr<PhotoTrials> newPhotoTrials();
// Processor time that holding others against its joins took.
std::chrono::nanoseconds tookForRivals(const PhotoTrials& trials);

// Where the photo that begins at `start` lies, piece by piece; nothing when it could not be followed beyond
// its first piece. The pool may be shared by several threads while nothing is taken from it.
std::optional<JoinedPhoto> joinPhoto(CardView& card, std::uint64_t start, const Pool& pool,
                                     const Control& control, const PhotoJoinLimits& limits = {},
                                     std::shared_ptr<PhotoTrials> trials = nullptr);

}  // namespace dreskel::rebuild
