#include "rebuild/photo_offers.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace dreskel::rebuild {
namespace {

using jpeg::Seam;
using jpeg::StreamDecoder;
using Says = ThumbnailWitness::Says;

// How far a place is tried before it is compared with others, in clusters.
constexpr std::uint64_t kTrial = 6;
// Between two looks at a seam whose row is not all there yet, in bytes.
constexpr std::size_t kLook = 1024;
// Where nothing goes up and down.
constexpr double kSmooth = 0.25;
// Places that go on so far, and fit so well, make further looking unnecessary.
constexpr std::uint64_t kConvincing = 3;
constexpr double kConvincingStrain = 0.7;
// And so well that no other is asked, unless it has led nowhere.
constexpr double kCertainStrain = 0.3;
// So many places are compared with each other before it is asked whether one convinces: nearer ones come
// first.
constexpr std::size_t kAtOnce = 256;
// A filesystem that looks for room goes forwards, and not far. What that is worth against a smoother seam,
// and how much of it is lost with each doubling of the way.
constexpr double kNear = 3.0, kFarther = 0.25;
// What it is worth that nothing of a photo lies in front of a place.
constexpr double kBeginning = 2.0;
// And what it is worth that the thumbnail shows it.
constexpr double kAlike = 8.0;
// Offers that are kept of a place: no more are ever followed.
constexpr std::size_t kKept = kSecondBests.back() + 2;

// How much rougher than a join another place may be and still count as one that fits as well, and how many of
// these are borne with. Of two pieces one other must also end with the very last block; of more, there are so
// many ways that one comes out even by chance: measured on cards full of photos of one camera, every wrong
// way had rivals at two of its joins or more, and of 70 right ones of large photos three had any.
struct Rivals {
    double asWell;  // strain
    std::size_t borne;
};
constexpr Rivals kOfTwoPieces{0.1, 3}, kOfMore{0.3, 0};
// By how much further rows may smooth a seam.
constexpr double kSmoothed = 0.3;
// And by how much the rest of the row.
constexpr double kInPart = 2.5;
// No more places than about that are held against a join, from all over the card: what is wrong has its like
// among them, and of more of them one or another is like what is right. Measured: docs/measures.md,
// "Thousands of broken photos".
constexpr std::size_t kHeldAgainst = 4096;

}  // namespace

std::uint64_t Offer::reach() const {
    return allThere ? std::max(clusters, kConvincing) : clusters;
}

bool Offer::convinces() const {
    const bool fits =
        seam == Seam::Fits ? alike || strain < kConvincingStrain : later && seam == Seam::CannotTell;
    return ended || (clusters >= kConvincing && fits);
}

bool Offer::certain() const {
    return clusters >= kConvincing && seam == Seam::Fits && strain < kCertainStrain;
}

// A seam says more than how far it goes on: coded data of another photo, once the codes are in step, go on
// for long.
double Offer::worth() const {
    const auto far = static_cast<double>(reach());
    // In a picture without ups and downs little differences are chance.
    auto rough = seam != Seam::Fits && !later ? std::max(strain, kSmooth) : strain;
    if (ownEdge) rough = std::min(rough, 1.0);
    if (alike) rough -= kAlike / 12.0;
    return (ended ? 100.0 : 0.0) + (seam == Seam::Fits ? 10.0 : 0.0) + 3.0 * std::min(far, 2.0) + 0.5 * far -
           12.0 * rough + likely;
}

bool takenBy(const std::vector<ByteRange>& places, std::uint64_t at) {
    return std::any_of(places.begin(), places.end(),
                       [at](const ByteRange& place) { return place.contains(at); });
}

// Most wrong places show within a row of the picture: a cluster is looked at in small portions.
std::optional<Offer> Offers::tried(const PhotoState& state, const ThumbnailWitness& witness,
                                   const std::vector<ByteRange>& places, const Pool::Spot& spot,
                                   jpeg::SeamWatch& seam, double hopeless) {
    const auto& before = state.decoder;
    if (before.betweenBytes()) {
        const bool numbered = spot.restart != Pool::Spot::kNone;
        if (numbered && (!before.restarts() || spot.restart != before.nextRestart())) return std::nullopt;
    }
    planes_.goBackTo(state.place);
    auto trial = before;
    Offer found;
    found.at = spot.at;
    const auto cluster = pool_.cluster();
    const bool mayBeEdge = rough_ && witness.showsEdge(before.mcu());
    const auto look = [&] {
        const auto seen = seam.look(trial);
        found.seam = seen.seam;
        found.strain = seen.strain;
    };
    const auto judged = [&]() -> std::optional<Offer> {
        found.later = trial.scans() > 1;
        const auto says = found.later ? Says::Nothing : witness.of(planes_, before.mcu(), trial.mcu());
        found.alike = says == Says::Alike;
        found.ownEdge = found.alike && witness.showsEdge(before.mcu());
        const bool hopelessByItself = found.strain > kHopeless && !found.ownEdge;
        if (says == Says::Otherwise || hopelessByItself || refused(found)) return std::nullopt;
        return found;
    };
    if (spot.at > state.at) {
        const auto way = static_cast<double>(spot.at - state.at) / cluster;
        found.likely = std::max(0.0, kNear - kFarther * std::log2(way));
    }
    for (auto at = spot.at; found.clusters < kTrial; at += cluster) {
        found.allThere = at != spot.at && (!pool_.fits(at) || takenBy(places, at));
        if (found.allThere) break;
        for (std::uint64_t from = 0; from < cluster;) {
            auto portion = at == spot.at && from == 0 ? pool_.head(spot) : Bytes();
            if (portion.empty()) portion = readOn(at, from);
            from += portion.size();
            while (!portion.empty()) {
                const bool looking = found.seam == Seam::NotYetDecoded;
                const auto part = portion.first(looking ? std::min(portion.size(), kLook) : portion.size());
                portion = portion.subspan(part.size());
                const auto outcome = trial.feed(part, false);
                if (outcome == StreamDecoder::State::Broken)
                    return found.clusters == 0 ? std::nullopt : judged();
                if (outcome == StreamDecoder::State::Ended) {
                    found.ended = true;
                    look();
                    return judged();
                }
                if (!looking) continue;
                look();
                if (found.strain > hopeless) return std::nullopt;
            }
        }
        ++found.clusters;
        // With the rows that follow it is known better; soon in later scans, which take few bytes a row.
        if (found.strain > 1 && found.clusters >= (trial.scans() > 1 ? 1 : 2)) {
            look();
            if (refused(found) && !mayBeEdge) return std::nullopt;
        }
    }
    look();
    return judged();
}

// Up to the next mark; zeros where the card ends.
Bytes Offers::readOn(std::uint64_t cluster, std::uint64_t from) {
    const auto length =
        std::min(jpeg::DcPlanes::kMarkStep - from % jpeg::DcPlanes::kMarkStep, pool_.cluster() - from);
    const auto into = MutableBytes(buffer_).first(length);
    std::fill(into.begin() + static_cast<std::ptrdiff_t>(card_.read(cluster + from, into)), into.end(),
              std::uint8_t{0});
    return into;
}

const std::vector<Offer>& Offers::from(const PhotoState& state, const ThumbnailWitness& witness,
                                       const std::vector<ByteRange>& places, std::uint64_t joinAt, bool quick,
                                       bool& leftOut) {
    using Tried = PhotoTrials::Tried;
    std::vector<std::uint64_t> way;
    for (const auto& place : places) way.insert(way.end(), {place.offset, place.length});
    auto& looked = trials_.looked[{rough_, std::move(way)}];
    auto& best = looked.best;
    // Others may have taken some of them meanwhile.
    std::erase_if(best, [&](const Offer& each) { return !pool_.fits(each.at); });
    const auto wanted = ahead_ ? Tried::Ahead : quick ? Tried::UntilConvinced : Tried::All;
    const bool emptied = best.empty() && looked.tried != Tried::All;
    if (!looked.tried || *looked.tried < wanted || (emptied && wanted != Tried::Ahead)) {
        best.clear();
        jpeg::SeamWatch seam(planes_, joinAt);
        const bool edge = rough_ && witness.showsEdge(state.decoder.mcu());
        const auto hopeless = edge ? kHopelessByItself : kHopeless;
        bool enough = false;
        const auto convinced = [&] {
            return std::any_of(best.begin(), best.end(), [](const Offer& each) { return each.convinces(); });
        };
        std::size_t visited = 0;
        for (const auto which : {Pool::Which::Beginnings, Pool::Which::Others}) {
            pool_.visit(which, state.at, [&](const Pool::Spot& spot) {
                if (tired_()) return true;
                if (ahead_ && visited >= *ahead_) return enough = true;
                if (++visited % kAtOnce == 0 && quick && convinced()) return enough = true;
                if (spot.at == state.at || takenBy(places, spot.at)) return false;
                auto each = tried(state, witness, places, spot, seam, hopeless);
                if (!each) return false;
                if (which == Pool::Which::Beginnings) each->likely += kBeginning;
                best.push_back(*each);
                enough = quick && each->certain();
                return enough;
            });
            enough = enough || ahead_ || (quick && which == Pool::Which::Beginnings && convinced());
            if (enough) break;
        }
        looked.tried = enough || tired_() ? std::min(wanted, Tried::UntilConvinced) : Tried::All;
        std::stable_sort(best.begin(), best.end(),
                         [](const Offer& a, const Offer& b) { return a.worth() > b.worth(); });
        if (best.size() > kKept) best.resize(kKept);
    }
    leftOut = leftOut || looked.tried != Tried::All;
    return best;
}

bool Offers::sameBytes(std::uint64_t at, const Offer& chosen) {
    const auto length = std::max<std::uint64_t>(chosen.clusters, 1) * pool_.cluster();
    std::vector<std::uint8_t> one(length), other(length);
    one.resize(card_.read(at, one));
    other.resize(card_.read(chosen.at, other));
    return one == other;
}

// In even pictures, and among many of one kind, others fit as well as what is right.
bool Offers::rivalled(const PhotoState& state, const ThumbnailWitness& witness,
                      const std::vector<ByteRange>& places, const Offer& chosen, std::uint64_t joinAt) {
    if (state.decoder.scans() > 1) return false;
    const auto& limits = places.size() > 2 ? kOfMore : kOfTwoPieces;
    // That it ends with the last block is one chance in some hundreds: among a thousand ends no proof.
    const bool shown = chosen.seam == Seam::Fits;
    const auto rivals = [&](const Offer& other) {
        if (chosen.alike && !other.alike) return false;
        if (other.ended) return true;
        if (shown) return other.seam == Seam::Fits && other.strain <= chosen.strain + limits.asWell;
        return other.reach() >= std::min(chosen.ended ? kConvincing : chosen.reach(), kConvincing);
    };
    const auto hopeless = shown ? std::min(kHopeless, chosen.strain + limits.asWell + kSmoothed) : kHopeless;
    // Of its own pieces one in the middle might change places with this one.
    const auto apart = [&](std::uint64_t at) {
        bool later = false;
        for (std::size_t i = 0; i + 1 < places.size(); ++i) {
            if (later && places[i].offset == at) return true;
            later = later || places[i].offset == chosen.at;
        }
        return !takenBy(places, at);
    };
    jpeg::SeamWatch seam(planes_, joinAt, kInPart * hopeless);
    const auto began = Patience::worked();
    const auto until = began + forRivals_;
    const auto stride = std::max<std::size_t>(1, pool_.size() / kHeldAgainst);
    std::size_t number = 0, count = 0;
    for (const auto which : {Pool::Which::Beginnings, Pool::Which::Others}) {
        pool_.visit(which, state.at, [&](const Pool::Spot& spot) {
            const bool passedOver = number++ % stride != 0 && !takenBy(places, spot.at);
            if (passedOver || !apart(spot.at)) return false;
            if (control_.stopped() || Patience::worked() > until) return true;
            const auto other = tried(state, witness, places, spot, seam, hopeless);
            // A copy of the photo, or what is left of one, says the same.
            if (other && rivals(*other) && !sameBytes(spot.at, chosen)) ++count;
            return count > limits.borne;
        });
    }
    // What could not be looked at may be one of them.
    const auto now = Patience::worked();
    forRivals_ = std::max(until - now, Patience::Duration());
    trials_.forRivals += now - began;
    return now > until || control_.stopped() || count > limits.borne;
}

}  // namespace dreskel::rebuild
