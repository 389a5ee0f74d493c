#include "rebuild/photo_joiner.h"

#include <algorithm>
#include <deque>

#include "base/limits.h"
#include "formats/jpeg/continuity.h"
#include "formats/jpeg/stream_decoder.h"
#include "formats/registry.h"

namespace dreskel::rebuild {
namespace {

using jpeg::StreamDecoder;
using Clock = std::chrono::steady_clock;

// Saved states before the cluster in which the data went wrong: so far back a join is looked for. Coded data
// of another photo may decode for a while before they stumble.
constexpr std::size_t kStates = 24;
// A piece that ends at an obstacle is only followed from there when it held at least so many clusters.
constexpr std::uint64_t kLeastClusters = 2;
// A further piece of a photo that cannot be completed is offered from so many clusters on.
constexpr std::uint64_t kLeastOfAPart = 4;

// Whether a cluster can hold coded data of a JPEG, up to an end marker: no other markers but restarts.
bool mayGoOn(Bytes block) {
    if (block.empty() ||
        std::all_of(block.begin(), block.end(), [&](std::uint8_t byte) { return byte == block[0]; }))
        return false;
    for (std::size_t at = 0; at + 1 < block.size(); ++at) {
        if (block[at] != 0xff) continue;
        const auto next = block[at + 1];
        if (next == 0xd9) return true;
        const bool restart = next >= 0xd0 && next <= 0xd7;
        const bool betweenScans = next == 0xc4 || next == 0xda || next == 0xdd;  // of progressive photos
        if (next != 0x00 && next != 0xff && !restart && !betweenScans) return false;
    }
    return true;
}

class Joiner {
  public:
    Joiner(CardView& card, std::uint64_t start, const Pool& pool, const Control& control,
           const PhotoJoinLimits& limits)
        : card_(card),
          pool_(pool),
          control_(control),
          limits_(limits),
          until_(Clock::now() + limits.time),
          buffer_(pool.cluster()) {
        places_.push_back({start, 0});
    }

    bool run() { return follow(StreamDecoder(&planes_), places_.back().offset, true); }
    const std::vector<ByteRange>& places() const { return places_; }
    // How far it could be followed when it could not be completed.
    const std::vector<ByteRange>& furthest() const { return furthest_; }

  private:
    struct State {
        StreamDecoder decoder;
        std::uint64_t at = 0;   // the cluster that came next
        std::size_t marks = 0;  // of the planes
    };
    // Decodes from a cluster on as far as it goes; the last of places_ grows with it. True when the photo is
    // complete, here or on the way through further pieces.
    bool follow(StreamDecoder decoder, std::uint64_t at, bool first);
    bool goOnFrom(const State& state, std::uint64_t pieceStart);
    // Whether the photo may go on with a cluster, as far as that alone tells.
    bool begins(const State& state, std::uint64_t at, std::uint64_t joinAt);
    bool mine(std::uint64_t at) const {
        return std::any_of(places_.begin(), places_.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    }
    // Of a finished way. In a picture in three pieces and more every join has to be seen to fit; with two
    // pieces there is so little choice that the right number of blocks tells enough where nothing else can.
    bool seamsFit(const StreamDecoder& decoder) const {
        std::uint64_t at = 0;
        for (std::size_t i = 0; i + 1 < places_.size(); ++i) {
            at += places_[i].length;
            const auto seam = jpeg::seamAt(decoder.frame(), planes_, decoder.codedDataAt(), at, true);
            const bool header = at <= decoder.codedDataAt();
            if (seam == jpeg::Seam::DoesNotFit) return false;
            if (seam != jpeg::Seam::Fits && !header && places_.size() > 2) return false;
        }
        return true;
    }
    // The same judgement as of any other file.
    bool whole() {
        std::vector<Piece> pieces;
        for (const auto& place : places_) {
            for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
        }
        PieceReader reader(card_, std::move(pieces));
        const auto measure = familyNamed("jpeg")->measure();
        std::vector<std::uint8_t> bytes;
        while (const auto want = measure->want()) {
            bytes.resize(want->length);
            measure->give(Bytes(bytes).first(reader.read(want->offset, bytes)));
        }
        const auto measured = measure->finish();
        return measured.accepted && measured.condition == Condition::Whole;
    }
    // Remembers the way in hand when it reaches further than any before it, and fits at every join.
    void remember(const StreamDecoder& decoder, std::uint64_t lastLength) {
        if (places_.size() < 2 || lastLength < kLeastOfAPart * pool_.cluster()) return;
        std::uint64_t bytes = lastLength;
        for (std::size_t i = 0; i + 1 < places_.size(); ++i) bytes += places_[i].length;
        if (bytes <= furthestBytes_ || decoder.scans() != 1) return;
        std::uint64_t at = 0;
        for (std::size_t i = 0; i + 1 < places_.size(); ++i) {
            at += places_[i].length;
            if (jpeg::seamAt(decoder.frame(), planes_, decoder.codedDataAt(), at) != jpeg::Seam::Fits) return;
        }
        furthest_ = places_;
        furthest_.back().length = lastLength;
        furthestBytes_ = bytes;
    }
    bool tired() const { return control_.stopped() || Clock::now() > until_; }

    CardView& card_;
    const Pool& pool_;
    const Control& control_;
    const PhotoJoinLimits& limits_;
    Clock::time_point until_;
    std::vector<std::uint8_t> buffer_;
    std::vector<ByteRange> places_, furthest_;
    std::uint64_t furthestBytes_ = 0;
    jpeg::DcPlanes planes_;  // of the way in hand; what lies behind a state is overwritten by the next try
};

bool Joiner::follow(StreamDecoder decoder, std::uint64_t at, bool first) {
    const auto pieceStart = at;
    const auto cluster = pool_.cluster();
    std::uint64_t joinAt = 0;  // in the file
    for (const auto& place : places_) joinAt += place.length;
    bool fits = first;  // with what is above; told as soon as a row is there
    std::deque<State> states;
    const auto most =
        limits_.bytes == 0 ? limits::kLargestPhoto : limits_.bytes - std::min(joinAt, limits_.bytes);
    for (std::uint64_t length = 0; length < most; length += cluster, at += cluster) {
        // The photo's own first cluster counts as a matter of course; what another has is in the way.
        const bool coded = decoder.codedDataAt() != 0;
        const bool inTheWay =
            !(first && length == 0) && (!pool_.free(at) || mine(at) || (coded && !pool_.fits(at)));
        const auto got = inTheWay ? 0 : card_.read(at, buffer_);
        if (got == 0) {
            states.push_back({decoder, at, planes_.marks.size()});
            break;
        }
        states.push_back({decoder, at, planes_.marks.size()});
        if (states.size() > kStates) states.pop_front();
        const auto state = decoder.feed(Bytes(buffer_).first(got), false);
        if (!fits && state != StreamDecoder::State::Broken) {
            const auto seam = jpeg::seamAt(decoder.frame(), planes_, decoder.codedDataAt(), joinAt);
            if (seam == jpeg::Seam::DoesNotFit) return false;
            fits = seam != jpeg::Seam::NotYetDecoded;
        }
        if (state == StreamDecoder::State::Ended) {
            std::uint64_t before = 0;
            for (const auto& place : places_) before += place.length;
            places_.back().length = decoder.offset() - before;
            if (seamsFit(decoder) && whole()) return true;
            places_.back().length = 0;
            break;
        }
        if (state == StreamDecoder::State::Broken) break;
        if (tired()) return false;
    }
    const auto length = at - pieceStart;
    // The cluster in which it broke is not its own any more, and the one before may not be.
    if (!first && length > pool_.cluster()) remember(decoder, length - pool_.cluster());
    if (!first && length < kLeastClusters * cluster) return false;
    if (static_cast<int>(places_.size()) >= limits_.pieces) return false;
    // The latest place first: a join is noticed in its own cluster more often than not.
    for (auto state = states.rbegin(); state != states.rend() && !tired(); ++state) {
        if (state->at == pieceStart) continue;
        if (goOnFrom(*state, pieceStart)) return true;
    }
    return false;
}

// Most wrong places show within a row of the picture: the cluster is looked at in small portions.
bool Joiner::begins(const State& state, std::uint64_t at, std::uint64_t joinAt) {
    const auto got = card_.read(at, buffer_);
    auto trial = state.decoder;
    for (std::size_t from = 0; from < got; from += jpeg::DcPlanes::kMarkStep) {
        const auto portion = slice(Bytes(buffer_).first(got), from, jpeg::DcPlanes::kMarkStep);
        const auto outcome = trial.feed(portion, false);
        if (outcome == StreamDecoder::State::Broken) return false;
        if (outcome == StreamDecoder::State::Ended) return true;
        const auto seam = jpeg::seamAt(trial.frame(), planes_, trial.codedDataAt(), joinAt);
        if (seam == jpeg::Seam::DoesNotFit) return false;
        if (seam == jpeg::Seam::Fits) return true;
    }
    return true;
}

bool Joiner::goOnFrom(const State& state, std::uint64_t pieceStart) {
    const auto kept = places_.back().length;
    places_.back().length = state.at - pieceStart;
    std::uint64_t joinAt = 0;  // in the file
    for (const auto& place : places_) joinAt += place.length;
    bool found = false;
    pool_.visitCandidates(state.at, [&](std::uint64_t at) {
        if (tired()) return true;
        planes_.marks.resize(std::min(planes_.marks.size(), state.marks));
        if (at == state.at || mine(at) || !begins(state, at, joinAt)) return false;
        planes_.marks.resize(std::min(planes_.marks.size(), state.marks));
        places_.push_back({at, 0});
        found = follow(state.decoder, at, false);
        if (found) return true;
        places_.pop_back();
        places_.back().length = state.at - pieceStart;
        return false;
    });
    if (!found) places_.back().length = kept;
    return found;
}

}  // namespace

Pool::Pool(CardView& card, const std::vector<ByteRange>& free, std::uint32_t cluster, std::uint64_t origin,
           const Control& control)
    : cluster_(cluster) {
    std::vector<std::uint8_t> block(cluster);
    for (const auto& range : free) {
        free_.add(range);
        const auto behind =
            (range.offset + cluster - origin % cluster) % cluster;  // the last cluster's beginning
        auto at = range.offset + (behind == 0 ? 0 : cluster - behind);
        for (; at + 512 <= range.end() && !control.stopped(); at += cluster) {
            const auto got = card.read(at, block);
            if (mayGoOn(Bytes(block).first(got))) fit_.add({at, cluster});
        }
    }
    list();
}

bool Pool::allFree(const std::vector<ByteRange>& places) const {
    return std::all_of(places.begin(), places.end(), [&](const ByteRange& place) {
        std::uint64_t free = 0;
        for (const auto& part : free_.within(place)) free += part.length;
        return free == place.length;
    });
}

void Pool::take(const std::vector<ByteRange>& places) {
    for (const auto& place : places) {
        const ByteRange clusters{place.offset, (place.length + cluster_ - 1) / cluster_ * cluster_};
        free_.remove(clusters);
        fit_.remove(clusters);
    }
    list();
}

void Pool::list() {
    beginnings_.clear();
    others_.clear();
    for (const auto& range : fit_.ranges()) {
        beginnings_.push_back(range.offset);
        for (auto next = range.offset + cluster_; next < range.end(); next += cluster_)
            others_.push_back(next);
    }
}

bool Pool::visitCandidates(std::uint64_t at, const std::function<bool(std::uint64_t)>& visit) const {
    for (const auto* list : {&beginnings_, &others_}) {
        const auto from = std::lower_bound(list->begin(), list->end(), at);
        if (std::any_of(from, list->end(), visit) || std::any_of(list->begin(), from, visit)) return true;
    }
    return false;
}

std::optional<JoinedPhoto> joinPhoto(CardView& card, std::uint64_t start, const Pool& pool,
                                     const Control& control, const PhotoJoinLimits& limits) {
    Joiner joiner(card, start, pool, control, limits);
    if (joiner.run() && joiner.places().size() > 1) return JoinedPhoto{joiner.places(), true};
    if (!joiner.furthest().empty()) return JoinedPhoto{joiner.furthest(), false};
    return std::nullopt;
}

}  // namespace dreskel::rebuild
