// Where a photo may go on from a saved state of its decoder: every cluster of the pool is decoded on from
// there, and what fits is put in an order. And, when a way is finished, whether anything else on the card
// would have fitted at one of its joins as well.
#pragma once

#include <array>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "base/patience.h"
#include "formats/jpeg/continuity.h"
#include "formats/jpeg/stream_decoder.h"
#include "rebuild/photo_joiner.h"
#include "rebuild/thumbnail_witness.h"

namespace dreskel::rebuild {

// How often on one way something else than the best may be taken: less often first.
inline constexpr std::array kSecondBests{0, 1, 2, 5};
// A seam with a strain of more than that is not looked at further; but where the thumbnail may show that it
// is the picture's own edge, as what lies across a photo from side to side is.
inline constexpr double kHopeless = 2.0, kHopelessByItself = 20.0;

// Whether it speaks against a join. `rough`: what is rougher than true joins are is borne unless hopeless.
inline bool refuses(jpeg::Seam seam, double strain, bool rough) {
    return seam == jpeg::Seam::DoesNotFit && !(rough && strain <= kHopeless);
}

// A saved state of a photo that is followed.
struct PhotoState {
    jpeg::StreamDecoder decoder;
    std::uint64_t at = 0;         // the cluster that came next, bytes of the card
    jpeg::DcPlanes::Place place;  // what of the picture is this state's
};

// A place where the photo may go on.
struct Offer {
    std::uint64_t at = 0;        // bytes of the card
    std::uint64_t clusters = 0;  // that decoded, up to a few
    bool ended = false;          // with the end marker, and the picture complete
    bool allThere = false;       // the stretch ends before anything was wrong
    jpeg::Seam seam = jpeg::Seam::NotYetDecoded;
    double strain = 0;
    bool later = false;    // in a scan that may tell nothing by its seams
    bool alike = false;    // it is what the photo's thumbnail shows
    bool ownEdge = false;  // and that has an edge at the join, too
    double likely = 0;     // by where it lies

    // In clusters; a short stretch without a fault says as much as the beginning of a long one.
    std::uint64_t reach() const;
    // It makes further looking unnecessary; and so much that no other is asked unless it has led nowhere.
    bool convinces() const;
    bool certain() const;
    double worth() const;
};

// What was found of one photo, kept for all ways and calls.
struct PhotoTrials {
    enum class Tried { Ahead, UntilConvinced, All };
    struct Looked {
        std::vector<Offer> best;
        std::optional<Tried> tried;
    };
    // By whether rough ones are borne, and by the offsets and lengths of the way's places.
    std::map<std::pair<bool, std::vector<std::uint64_t>>, Looked> looked;
    Patience::Duration forRivals{};  // that holding others against its joins took
};

// Used by one thread. `planes` are those that the states' decoders write to: what lies behind a state is
// overwritten by each try.
class Offers {
  public:
    using Asks = std::function<bool()>;
    // Of the limits: how long others are held against joins, what is tried at each, and whether rough ones
    // are borne; see refuses().
    Offers(CardView& card, const Pool& pool, jpeg::DcPlanes& planes, PhotoTrials& trials, Asks tired,
           const Control& control, const PhotoJoinLimits& limits)
        : card_(card),
          pool_(pool),
          planes_(planes),
          trials_(trials),
          tired_(std::move(tired)),
          control_(control),
          forRivals_(limits.forRivals),
          rough_(limits.rough),
          ahead_(limits.ahead),
          buffer_(pool.cluster()) {}

    // The best first, of what the way that `places` are does not have, as far as the limits have it tried.
    // `quick`: others than the beginnings of stretches are left out where one of those convinces, and all
    // once one is certain. `leftOut` becomes true when anything was. The file's byte `joinAt` is the join.
    // `witness` has learnt from what is before it.
    const std::vector<Offer>& from(const PhotoState& state, const ThumbnailWitness& witness,
                                   const std::vector<ByteRange>& places, std::uint64_t joinAt, bool quick,
                                   bool& leftOut);
    // Whether at a join of the finished way `places` others would have fitted as well.
    bool rivalled(const PhotoState& state, const ThumbnailWitness& witness,
                  const std::vector<ByteRange>& places, const Offer& chosen, std::uint64_t joinAt);

  private:
    // Nothing where it does not go on, or its first rows strain by more than `hopeless`.
    std::optional<Offer> tried(const PhotoState& state, const ThumbnailWitness& witness,
                               const std::vector<ByteRange>& places, const Pool::Spot& spot,
                               jpeg::SeamWatch& seam, double hopeless);
    bool refused(const Offer& offer) const {
        return !offer.ownEdge && refuses(offer.seam, offer.strain, rough_);
    }
    Bytes readOn(std::uint64_t cluster, std::uint64_t from);
    // As far as `chosen` was tried.
    bool sameBytes(std::uint64_t at, const Offer& chosen);

    CardView& card_;
    const Pool& pool_;
    jpeg::DcPlanes& planes_;
    PhotoTrials& trials_;
    Asks tired_;
    const Control& control_;
    Patience::Duration forRivals_;  // left
    bool rough_;
    std::optional<std::size_t> ahead_;
    std::vector<std::uint8_t> buffer_;
};

// Whether a cluster is among them.
bool takenBy(const std::vector<ByteRange>& places, std::uint64_t at);

}  // namespace dreskel::rebuild
