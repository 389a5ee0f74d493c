#include "rebuild/photo_joiner.h"

#include <algorithm>
#include <bit>
#include <deque>
#include <set>
#include <utility>

#include "base/limits.h"
#include "base/patience.h"
#include "formats/jpeg/continuity.h"
#include "formats/jpeg/stream_decoder.h"
#include "formats/registry.h"
#include "rebuild/header_joins.h"
#include "rebuild/photo_offers.h"

namespace dreskel::rebuild {
namespace {

using jpeg::Seam;
using jpeg::StreamDecoder;
using Says = ThumbnailWitness::Says;

// Saved states of a piece: where it may really have ended. Those of progressive photos are large.
constexpr std::size_t kStates = 512, kStatesOfProgressive = 192;
// So far back from where the data went wrong the end of a piece is looked for in any case. Coded data of
// another photo may decode for a while before they stumble.
constexpr std::size_t kBack = 24;
// Further pieces of a photo that cannot be completed are offered when they have so many clusters.
constexpr std::uint64_t kLeastOfAPart = 4;
// A seam rougher than that within a piece is taken for its end.
constexpr double kTorn = 2.0;
// Clusters that the header may have been left before it showed.
constexpr std::size_t kBackInHeader = 48;
// Segments hold less than 64 KB, and little stands in front of the one with the thumbnail.
constexpr std::size_t kHeadWithThumbnail = 96 << 10;
// Bytes behind a picture that may be the same file's.
constexpr std::uint64_t kMostBehind = 256 << 20;

class Joiner {
  public:
    Joiner(CardView& card, std::uint64_t start, const Pool& pool, const Control& control,
           const PhotoJoinLimits& limits, PhotoTrials& trials)
        : card_(card),
          pool_(pool),
          control_(control),
          limits_(limits),
          patience_(limits.time),
          patienceForScans_(limits.time + limits.forScans),
          buffer_(pool.cluster()),
          start_(start),
          offers_(
              card, pool, planes_, trials, [this] { return tired(); }, control, limits) {}

    bool run() {
        for (const auto allowance : kSecondBests) {
            if (allowance > limits_.secondBests) break;
            places_.assign(1, {start_, 0});
            planes_.goBackTo({});
            if (follow(StreamDecoder(&planes_), start_, ThumbnailWitness(), true, allowance)) return true;
            // Beyond a way that is complete, and only not told, others would be as far-fetched.
            if (tired() || !choseAny_ || !untold_.empty()) break;
        }
        return false;
    }
    const std::vector<ByteRange>& places() const { return places_; }
    // Of each join, whether the thumbnail shows what is behind it.
    std::vector<bool> shown() const {
        std::vector<bool> shown;
        for (const auto each : says_) shown.push_back(each == Says::Alike);
        return shown;
    }
    // Whether each join in the header could be nowhere else.
    bool sure() const;
    // The simplest way that is complete but for the proof; empty when there was none.
    const std::vector<ByteRange>& untold() const { return untold_; }
    // How far it could be followed when it could not be completed.
    const std::vector<ByteRange>& furthest() const { return furthest_; }

  private:
    using State = PhotoState;
    // Decodes from a cluster on as far as it goes; the last of places_ grows with it. `witness` has learnt
    // from what is before it. True when the photo is complete, here or on the way through further pieces.
    bool follow(StreamDecoder decoder, std::uint64_t at, const ThumbnailWitness& witness, bool first,
                int allowance);
    bool goOnFrom(const State& state, std::uint64_t pieceStart, int allowance);
    // The same where the header is not over yet: what follows holds the marker that the segment in hand leads
    // to.
    bool goOnInHeader(const std::deque<State>& states, std::uint64_t pieceStart, int allowance);
    // The file as far as it is known, and what stands behind it.
    PieceReader soFar(const ByteRange& behind = {}) const;
    // What was tried from an earlier state has written over the planes: between these two states they are
    // decoded once more, or the seams there would be judged by another's rows.
    void showAgain(const std::deque<State>& states, std::size_t from, std::size_t to);
    // The states with which a piece may have ended, the likeliest first.
    std::vector<std::size_t> ends(const std::deque<State>& states, std::uint64_t pieceStart,
                                  std::uint64_t joinAt);
    bool mine(std::uint64_t at) const { return takenBy(places_, at); }
    std::uint64_t lengthSoFar() const {
        std::uint64_t length = 0;
        for (const auto& place : places_) length += place.length;
        return length;
    }
    Seam seams(const StreamDecoder& decoder);
    void askThumbnail(const StreamDecoder& decoder);
    const std::shared_ptr<const jpeg::OwnThumbnail>& thumbnail(const jpeg::Frame& frame);
    bool refused(const jpeg::SeamLook& look) const { return refuses(look.seam, look.strain, limits_.rough); }
    enum class Judged { Wrong, Picture, Whole };  // Picture: what should stand behind it does not
    Judged judge();
    void remember(const StreamDecoder& decoder, std::uint64_t lastLength);
    bool tired() const { return control_.stopped() || (inScans_ ? patienceForScans_ : patience_).over(); }

    CardView& card_;
    const Pool& pool_;
    const Control& control_;
    const PhotoJoinLimits& limits_;
    Patience patience_, patienceForScans_;
    bool inScans_ = false;  // it is a progressive photo
    std::vector<std::uint8_t> buffer_;
    std::uint64_t start_;
    bool choseAny_ = false;  // something was left out that may be tried with a larger allowance
    std::vector<ByteRange> places_, untold_, furthest_;
    // Of each join of the way that was finished last: what the thumbnail says of the piece behind it, and
    // whether that piece begins with an edge that the thumbnail has, too.
    std::vector<Says> says_;
    std::vector<bool> edges_;
    std::set<std::uint64_t> unsure_;  // joins that nothing tells, bytes of the file
    std::uint64_t furthestBytes_ = 0;
    jpeg::DcPlanes planes_;  // of the way in hand; what lies behind a state is overwritten by the next try
    Offers offers_;
    std::optional<std::shared_ptr<const jpeg::OwnThumbnail>> thumbnail_;  // once it was looked for
};

// Of a finished way: whether the picture refutes it. Left where it went on by itself, and found again, are
// clusters in another order, which no filesystem writes; and a last piece of less than a row proves nothing:
// there are as many ends as photos, and of many ways one comes out even. Later scans of progressive photos
// tell little by a seam, but do not decode to the end with anything else.
Seam Joiner::seams(const StreamDecoder& decoder) {
    std::uint64_t at = 0;
    bool comesBack = false, hardlyEnds = false, rough = false;
    const auto comesBackTo = [&](std::size_t piece) {
        return std::any_of(places_.begin(), places_.begin() + static_cast<std::ptrdiff_t>(piece) - 1,
                           [&](const ByteRange& before) { return before.end() == places_[piece].offset; });
    };
    askThumbnail(decoder);
    for (std::size_t i = 0; i + 1 < places_.size(); ++i) {
        at += places_[i].length;
        const auto look = jpeg::lookAtSeam(decoder.frame(), planes_, decoder.codedDataAt(), at, true);
        if (says_[i] == Says::Otherwise) return Seam::DoesNotFit;
        if (refused(look) && !edges_[i]) return Seam::DoesNotFit;
        // One of a way may be rough.
        if (look.seam == Seam::DoesNotFit && !edges_[i] && std::exchange(rough, true))
            return Seam::DoesNotFit;
        comesBack = comesBack || (i > 0 && comesBackTo(i + 1));
        hardlyEnds = at > decoder.codedDataAt() && decoder.scans() == 1 && look.rows < 1;
    }
    return comesBack || hardlyEnds || rough ? Seam::CannotTell : Seam::Fits;
}

void Joiner::askThumbnail(const StreamDecoder& decoder) {
    says_.assign(places_.size() - 1, Says::Nothing);
    edges_.assign(places_.size() - 1, false);
    const auto& frame = decoder.frame();
    ThumbnailWitness witness(thumbnail(frame));
    const auto mcus = std::uint64_t{frame.mcusWide} * frame.mcusHigh;
    std::uint64_t end = 0;
    for (std::size_t i = 0; i + 1 < places_.size(); ++i) {
        end += places_[i].length;
        const auto from = planes_.mcuAt(decoder.codedDataAt(), end);
        if (!from) continue;
        const auto to = planes_.mcuAt(decoder.codedDataAt(), end + places_[i + 1].length);
        witness.learn(planes_, *from);
        says_[i] = witness.of(planes_, *from, to.value_or(mcus));
        edges_[i] = says_[i] == Says::Alike && witness.showsEdge(*from);
    }
}

const std::shared_ptr<const jpeg::OwnThumbnail>& Joiner::thumbnail(const jpeg::Frame& frame) {
    if (!thumbnail_) {
        std::vector<std::uint8_t> head(kHeadWithThumbnail);
        // Of a first piece it is not known yet how long it is.
        head.resize(places_.size() == 1 ? card_.read(start_, head) : soFar().read(0, head));
        thumbnail_ = jpeg::OwnThumbnail::in(head, frame);
    }
    return *thumbnail_;
}

// The same judgement as of any other file. Behind the picture others of the same shot may stand, or a clip:
// the last place grows to the end of what the file says of itself.
Joiner::Judged Joiner::judge() {
    const auto cluster = pool_.cluster();
    auto& last = places_.back();
    const auto all = (last.length + cluster - 1) / cluster * cluster;
    ByteRange behind{last.end(), all - last.length};
    while (behind.length < kMostBehind && pool_.free(behind.end()) && !mine(behind.end()))
        behind.length += cluster;
    auto reader = soFar(behind);
    const auto measure = familyNamed("jpeg")->measure();
    std::vector<std::uint8_t> bytes;
    while (const auto want = measure->want()) {
        bytes.resize(want->length);
        measure->give(Bytes(bytes).first(reader.read(want->offset, bytes)));
    }
    const auto measured = measure->finish();
    if (!measured.accepted) return Judged::Wrong;
    const auto before = lengthSoFar();
    if (measured.condition == Condition::Whole && measured.length > before)
        last.length += measured.length - before;
    return measured.condition == Condition::Whole ? Judged::Whole
           : measured.decoded >= 1.0              ? Judged::Picture
                                                  : Judged::Wrong;
}

// Remembers the way in hand when it reaches further than any before it, and fits at every join.
void Joiner::remember(const StreamDecoder& decoder, std::uint64_t lastLength) {
    const auto least = kLeastOfAPart * pool_.cluster();
    if (places_.size() < 2 || lastLength < least) return;
    // By clusters here and there one comes to anywhere.
    if (std::any_of(places_.begin() + 1, places_.end() - 1,
                    [least](const ByteRange& place) { return place.length < least; }))
        return;
    std::uint64_t bytes = lastLength;
    for (std::size_t i = 0; i + 1 < places_.size(); ++i) bytes += places_[i].length;
    if (bytes <= furthestBytes_ || decoder.scans() != 1) return;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places_.size(); ++i) {
        at += places_[i].length;
        if (jpeg::seamAt(decoder.frame(), planes_, decoder.codedDataAt(), at) != Seam::Fits) return;
    }
    furthest_ = places_;
    furthest_.back().length = lastLength;
    furthestBytes_ = bytes;
}

bool Joiner::follow(StreamDecoder decoder, std::uint64_t at, const ThumbnailWitness& witness, bool first,
                    int allowance) {
    const auto pieceStart = at;
    const bool inFirstScan = decoder.scans() == 1;
    const auto joinedBehind = decoder.mcu();
    const auto says = [&](const StreamDecoder& now) {
        const bool here = inFirstScan && now.scans() == 1;
        return here ? witness.of(planes_, joinedBehind, now.mcu()) : Says::Nothing;
    };
    const bool edge = inFirstScan && witness.showsEdge(joinedBehind);
    const auto hopeless = limits_.rough && edge ? kHopelessByItself : kHopeless;
    const auto cluster = pool_.cluster();
    const auto joinAt = lengthSoFar();  // in the file
    bool fits = first;                  // with what is above; told as soon as a row is there
    std::deque<State> states;
    const auto most =
        limits_.bytes == 0 ? limits::kLargestPhoto : limits_.bytes - std::min(joinAt, limits_.bytes);
    for (std::uint64_t length = 0; length < most; length += cluster, at += cluster) {
        // The photo's own first cluster counts as a matter of course; what another has is in the way.
        const bool coded = decoder.codedDataAt() != 0;
        const bool inTheWay =
            !(first && length == 0) && (!pool_.free(at) || mine(at) || (coded && !pool_.fits(at)));
        const auto got = inTheWay ? 0 : card_.read(at, buffer_);
        states.push_back({decoder, at, planes_.place()});
        if (got == 0) break;
        if (states.size() > (decoder.scans() > 1 ? kStatesOfProgressive : kStates)) states.pop_front();
        const auto state = decoder.feed(Bytes(buffer_).first(got), false);
        inScans_ = decoder.hasFrame() && decoder.frame().progressive;
        if (!fits && state != StreamDecoder::State::Broken && decoder.codedDataAt() != 0) {
            const auto look = jpeg::lookAtSeam(decoder.frame(), planes_, decoder.codedDataAt(), joinAt);
            if (look.strain > hopeless) return false;
            fits = look.seam == Seam::Fits;
        }
        // Ever more seldom: the further it goes the more rows tell.
        const auto clusters = length / cluster + 1;
        if (std::has_single_bit(clusters) && says(decoder) == Says::Otherwise) return false;
        if (state == StreamDecoder::State::Ended) {
            places_.back().length = decoder.offset() - joinAt;
            const auto look = seams(decoder);
            const bool wanted = look == Seam::Fits || (look == Seam::CannotTell &&
                                                       (untold_.empty() || places_.size() < untold_.size()));
            const auto judged = wanted ? judge() : Judged::Wrong;
            if (look == Seam::Fits && judged == Judged::Whole) return true;
            if (look == Seam::CannotTell && judged == Judged::Whole) untold_ = places_;
            if (look == Seam::Fits && judged == Judged::Picture) {
                furthest_ = places_;
                furthestBytes_ = UINT64_MAX;
            }
            places_.back().length = 0;
            break;
        }
        if (state == StreamDecoder::State::Broken) break;
        if (tired()) return false;
    }
    // By now the rows behind tell, too.
    const auto& lastly = states.back().decoder;
    const bool inHeader = lastly.codedDataAt() == 0;
    if (!fits && !inHeader) {
        const auto look = jpeg::lookAtSeam(lastly.frame(), planes_, lastly.codedDataAt(), joinAt);
        if (refused(look) && !(edge && says(lastly) == Says::Alike)) return false;
    }
    const auto length = at - pieceStart;
    // The cluster in which it broke is not its own any more, and the one before may not be.
    if (!first && !inHeader && length > cluster) remember(decoder, length - cluster);
    if (!first && length == 0) return false;
    if (static_cast<int>(places_.size()) >= limits_.pieces) return false;
    if (inHeader) return goOnInHeader(states, pieceStart, allowance);
    int rank = 0;
    auto shown = states.size() - 1;  // up to this state the planes are this piece's
    for (const auto end : ends(states, pieceStart, joinAt)) {
        if (tired()) return false;
        // The further ends are looked at when less far-fetched ways have led nowhere.
        if (rank++ / 3 > allowance) {
            choseAny_ = true;
            break;
        }
        if (end > shown) showAgain(states, shown, end);
        shown = end;
        if (goOnFrom(states[end], pieceStart, allowance)) return true;
    }
    return false;
}

void Joiner::showAgain(const std::deque<State>& states, std::size_t from, std::size_t to) {
    planes_.goBackTo(states[from].place);
    auto decoder = states[from].decoder;
    for (auto i = from; i < to; ++i) {
        const auto got = card_.read(states[i].at, buffer_);
        decoder.feed(Bytes(buffer_).first(got), false);
    }
}

PieceReader Joiner::soFar(const ByteRange& behind) const {
    std::vector<Piece> pieces;
    const auto add = [&](const ByteRange& place) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    };
    for (const auto& place : places_) add(place);
    if (behind.length > 0) add(behind);
    return {card_, std::move(pieces)};
}

bool Joiner::goOnInHeader(const std::deque<State>& states, std::uint64_t pieceStart, int allowance) {
    HeaderJoins header(card_, pool_, [this](std::uint64_t at) { return mine(at); });
    const auto kept = places_.back().length;
    std::vector<const State*> order;
    for (auto state = states.rbegin(); state != states.rend() && order.size() < kBackInHeader; ++state) {
        if (state->at != pieceStart) order.push_back(&*state);
    }
    // Within a segment nothing tells where it was left, but that something of another kind begins there.
    std::stable_partition(order.begin(), order.end(),
                          [&](const State* state) { return header.otherBegins(state->at); });
    bool joined = false;
    for (const auto* state : order) {
        places_.back().length = state->at - pieceStart;
        const auto joinAt = lengthSoFar();
        header.visit(state->decoder, state->at, joinAt, [&](std::uint64_t at) {
            planes_.goBackTo(state->place);
            places_.push_back({at, 0});
            if (!header.told(state->decoder, joinAt)) unsure_.insert(joinAt);
            joined = follow(state->decoder, at, ThumbnailWitness(), false, allowance);
            if (!joined) places_.pop_back();
            return joined || tired();
        });
        if (joined || tired()) break;
    }
    if (!joined) places_.back().length = kept;
    return joined;
}

bool Joiner::sure() const {
    std::uint64_t at = 0;
    return std::none_of(places_.begin(), places_.end(), [&](const ByteRange& place) {
        return unsure_.contains(std::exchange(at, at + place.length));
    });
}

std::vector<std::size_t> Joiner::ends(const std::deque<State>& states, std::uint64_t pieceStart,
                                      std::uint64_t joinAt) {
    std::vector<std::size_t> order;
    const auto add = [&](std::size_t index) {
        const bool within = index < states.size() && states[index].at != pieceStart;
        if (within && std::find(order.begin(), order.end(), index) == order.end()) order.push_back(index);
    };
    // Where the picture is torn within the piece, other data of the same kind follow.
    const auto& decoder = states.back().decoder;
    std::vector<std::pair<double, std::size_t>> torn;
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (states[i].at == pieceStart) continue;
        const auto look = jpeg::lookAtSeam(decoder.frame(), planes_, decoder.codedDataAt(),
                                           joinAt + states[i].at - pieceStart);
        if (look.seam == Seam::DoesNotFit) torn.emplace_back(look.strain, i);
    }
    // Otherwise it is noticed in its own cluster more often than not. Neither waits for all of the other: a
    // picture may have edges of its own.
    const auto last = states.size() - 1;
    std::size_t back = 0;
    const auto addLast = [&] {
        if (back < 3 && back <= last) add(last - back);
        ++back;
    };
    // What the thumbnail shows behind such an edge, too, is the photo's.
    const auto ownEdge = [&](std::size_t index) {
        const auto& there = states[index].decoder;
        if (decoder.scans() != 1) return false;
        ThumbnailWitness witness(thumbnail(decoder.frame()));
        witness.learn(planes_, there.mcu());
        // Not up to where the data went wrong: they were another's before that showed.
        const auto upTo = decoder.mcu() - (decoder.mcu() - std::min(there.mcu(), decoder.mcu())) / 4;
        return witness.showsEdge(there.mcu()) && witness.of(planes_, there.mcu(), upTo) == Says::Alike;
    };
    for (const auto& [strain, index] : torn) {
        if (strain <= kTorn || ownEdge(index)) continue;
        add(index);
        addLast();
    }
    while (back < 3) addLast();
    for (const auto& [strain, index] : torn) add(index);
    for (back = 3; back < kBack && back <= last; ++back) add(last - back);
    return order;
}

bool Joiner::goOnFrom(const State& state, std::uint64_t pieceStart, int allowance) {
    const auto kept = places_.back().length;
    places_.back().length = state.at - pieceStart;
    const auto joinAt = lengthSoFar();
    ThumbnailWitness witness(thumbnail(state.decoder.frame()));
    if (state.decoder.scans() == 1) witness.learn(planes_, state.decoder.mcu());
    const auto& found = offers_.from(state, witness, places_, joinAt, allowance == 0, choseAny_);
    const auto depth = places_.size();
    for (std::size_t rank = 0; rank < found.size() && !tired(); ++rank) {
        const auto cost = static_cast<int>(rank);
        if (cost > allowance) {
            choseAny_ = true;
            break;
        }
        planes_.goBackTo(state.place);
        places_.push_back({found[rank].at, 0});
        if (follow(state.decoder, found[rank].at, witness, false, allowance - cost)) {
            // A whole piece that is what the thumbnail shows needs no other proof, nor does what is before
            // it: with another number of blocks there, or other levels, it would not be that. Measured, with
            // bursts, too: docs/measures.md, "Thousands of broken photos".
            const bool shown = std::any_of(says_.begin() + static_cast<std::ptrdiff_t>(depth) - 1,
                                           says_.end(), [](Says says) { return says == Says::Alike; });
            if (shown || !offers_.rivalled(state, witness, places_, found[rank], joinAt)) {
                unsure_.erase(joinAt);
                return true;
            }
            unsure_.insert(joinAt);
            if (places_.size() == 2) return true;
            if (untold_.empty() || places_.size() < untold_.size()) untold_ = places_;
            places_.resize(depth + 1);
        }
        places_.pop_back();
    }
    places_.back().length = kept;
    return false;
}

}  // namespace

std::shared_ptr<PhotoTrials> newPhotoTrials() {
    return std::make_shared<PhotoTrials>();
}

std::chrono::nanoseconds tookForRivals(const PhotoTrials& trials) {
    return trials.forRivals;
}

std::optional<JoinedPhoto> joinPhoto(CardView& card, std::uint64_t start, const Pool& pool,
                                     const Control& control, const PhotoJoinLimits& limits,
                                     std::shared_ptr<PhotoTrials> trials) {
    if (!trials) trials = newPhotoTrials();
    Joiner joiner(card, start, pool, control, limits, *trials);
    using Told = JoinedPhoto::Told;
    if (joiner.run() && joiner.places().size() > 1)
        return JoinedPhoto{joiner.places(), joiner.sure() ? Told::Whole : Told::Untold, joiner.shown()};
    if (!joiner.untold().empty()) return JoinedPhoto{joiner.untold(), Told::Untold};
    if (!joiner.furthest().empty()) return JoinedPhoto{joiner.furthest(), Told::Part};
    return std::nullopt;
}

}  // namespace dreskel::rebuild
