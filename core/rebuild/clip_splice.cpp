#include "rebuild/clip_splice.h"
#include "rebuild/witness.h"

#include <algorithm>
#include <array>
#include <set>

namespace dreskel::rebuild {
namespace {

using isobmff::Looks;
using Coding = isobmff::SampleTrack::Coding;

constexpr std::size_t kSoughtAfter = 12;  // samples behind a join by which what follows is found
constexpr std::size_t kMostCandidates = 400;
constexpr double kUsualRate = 25;  // pictures a second
constexpr double kMany = 12;       // samples that follow; more make nothing surer
// Where the piece before may end instead, in clusters from where it was said to.
constexpr std::array<std::int64_t, 6> kEndsOfClip{0, -1, 1, -2, -3, 2};
// What a candidate's score is made of.
constexpr double kForAcross = 0.5, kForSamples = 0.4, kForNeighbour = 0.1, kForIndex = 0.4;

// The parts of a way that hold some bytes of the file.
std::vector<std::pair<std::uint64_t, std::uint64_t>> partsOf(const std::vector<ByteRange>& places,
                                                             std::uint64_t from, std::uint64_t to) {
    std::vector<std::pair<std::uint64_t, std::uint64_t>> parts;
    std::uint64_t at = 0;
    for (const auto& place : places) {
        const auto begin = std::clamp(from, at, at + place.length);
        const auto end = std::clamp(to, at, at + place.length);
        if (end > begin)
            parts.emplace_back(isNowhere(place) ? kNowhere : place.offset + (begin - at), end - begin);
        at += place.length;
    }
    return parts;
}

}  // namespace

ClipSplice::ClipSplice(CardView& card, const ClipPool& pool, const ClipHead& head,
                       std::shared_ptr<const LooseIndex> index, std::optional<double> seconds,
                       DecodeFrames decode, const Control& control)
    : card_(card),
      pool_(pool),
      head_(head),
      index_(std::move(index)),
      cluster_(pool.cluster()),
      length_(lengthOf(head, *index_)),
      decode_(std::move(decode)),
      samples_(card, pool, {index_}, control),
      judge_(card, *index_) {
    const isobmff::SampleTrack* seen = nullptr;
    for (const auto& track : index_->tracks) {
        const bool more = seen == nullptr || track.samples.size() > seen->samples.size();
        if (track.kind == isobmff::TrackKind::Video && track.coding != Coding::Other && more) seen = &track;
    }
    for (const auto& track : index_->tracks) {
        if (track.coding == Coding::Other) continue;
        for (const auto& sample : track.samples) {
            if (sample.size <= kTellsNothing) continue;
            all_.push_back({&track, &sample});
            if (&track == seen) pictures_.push_back(all_.back());
        }
    }
    const auto inOrder = [](const Sample& a, const Sample& b) { return a.sample->offset < b.sample->offset; };
    std::sort(all_.begin(), all_.end(), inOrder);
    std::sort(pictures_.begin(), pictures_.end(), inOrder);
    seen_.resize(pictures_.size());
    seconds_ = seconds.value_or(static_cast<double>(pictures_.size()) / kUsualRate);
}

std::optional<std::uint64_t> ClipSplice::placeOf(const std::vector<ByteRange>& places, std::uint64_t byte) {
    for (const auto& place : places) {
        if (byte < place.length) return isNowhere(place) ? std::nullopt : std::optional(place.offset + byte);
        byte -= place.length;
    }
    return std::nullopt;
}

std::size_t ClipSplice::firstBehind(std::uint64_t byte) const {
    const auto found = std::partition_point(pictures_.begin(), pictures_.end(),
                                            [&](const Sample& each) { return each.end() <= byte; });
    return static_cast<std::size_t>(found - pictures_.begin());
}

std::uint32_t ClipSplice::timeOf(std::uint64_t byte) const {
    if (pictures_.empty()) return 0;
    const auto share = static_cast<double>(firstBehind(byte)) / static_cast<double>(pictures_.size());
    return static_cast<std::uint32_t>(share * seconds_ * 1000);
}

ClipSplice::State ClipSplice::stateOf(const Sample& sample, const std::vector<ByteRange>& places,
                                      PieceReader& reader) {
    for (const auto& [at, length] : partsOf(places, sample.sample->offset, sample.end())) {
        if (at == kNowhere) return State::NotThere;
    }
    const auto looks =
        isobmff::looksLikeSample(*sample.track, *sample.sample, [&](std::uint64_t p, std::size_t count) {
            buffer_.resize(count);
            return Bytes(buffer_).first(reader.read(sample.sample->offset + p, buffer_));
        });
    return looks == Looks::Exact ? State::Right : State::Wrong;
}

SampleJudge::Verdict ClipSplice::across(const std::vector<ByteRange>& places, std::uint64_t join) {
    const auto i = firstBehind(join - 1);
    if (i == pictures_.size() || pictures_[i].sample->offset >= join) return {};
    const auto& picture = pictures_[i];
    auto parts = partsOf(places, picture.sample->offset, picture.end());
    const auto known = across_.find(parts);
    if (known != across_.end()) return known->second;
    if (std::any_of(parts.begin(), parts.end(), [](const auto& part) { return part.first == kNowhere; }))
        return {true, picture.sample->offset, false};
    const auto verdict = judge_.judge(places, join - 1, join + 1);
    across_.emplace(std::move(parts), verdict);
    return verdict;
}

SpliceLook ClipSplice::look(const std::vector<ByteRange>& places, std::uint32_t, const Glimpses&) {
    places_ = places;
    SpliceLook look;
    look.extent = static_cast<std::uint32_t>(seconds_ * 1000);
    const auto all = total(places);
    PieceReader reader(card_, file(places));
    std::vector<State> states(pictures_.size(), State::NotThere);
    for (std::size_t i = 0; i < pictures_.size() && pictures_[i].end() <= all; ++i) {
        const auto from = placeOf(places, pictures_[i].sample->offset);
        const auto to = placeOf(places, pictures_[i].end() - 1);
        auto& seen = seen_[i];
        if (from && to && seen.state != State::NotThere && seen.from == *from && seen.to == *to) {
            states[i] = seen.state;
            continue;
        }
        states[i] = stateOf(pictures_[i], places, reader);
        seen = {from.value_or(0), to.value_or(0), from && to ? states[i] : State::NotThere};
    }
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places.size(); ++i) {
        at += places[i].length;
        look.joinsAt.push_back(timeOf(at));
        const auto crossing = firstBehind(at - 1);
        if (crossing < states.size() && states[crossing] == State::Right && across(places, at).wrong)
            states[crossing] = State::Wrong;
    }
    const auto right = static_cast<std::size_t>(std::count(states.begin(), states.end(), State::Right));
    const auto timeAt = [&](std::size_t i) {
        return static_cast<std::uint32_t>(static_cast<double>(i) * seconds_ * 1000 /
                                          static_cast<double>(std::max<std::size_t>(1, states.size())));
    };
    std::size_t reached = 0;
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (states[i] == State::Right) reached = i + 1;
        if (states[i] == State::Right || pictures_[i].sample->offset >= all) continue;
        if (look.wrong.empty() || look.wrong.back().to < timeAt(i)) {
            look.wrong.push_back({timeAt(i), timeAt(i + 1)});
        } else {
            look.wrong.back().to = timeAt(i + 1);
        }
    }
    look.share = states.empty() ? 0 : static_cast<double>(right) / static_cast<double>(states.size());
    look.reached = timeAt(reached);
    look.complete = right == states.size() && all >= length_;
    // What is wrong to the end of the way is no part of it: it goes as far as the first picture of that, as
    // far as that can be followed.
    look.length = std::min(all, length_);
    if (reached < states.size() && pictures_[reached].sample->offset < all) {
        const auto& first = pictures_[reached];
        const auto verdict = judge_.judge(places, first.sample->offset, first.sample->offset + 1);
        look.length = verdict.wrong ? verdict.reached : first.sample->offset;
        look.why = "from here on the pictures are not where its index says";
    }
    return look;
}

// The index says where the bytes of each picture are: what is behind stays where it is.
Cut ClipSplice::without(const SpliceLook::Stretch& moments) const {
    if (pictures_.empty() || seconds_ <= 0) return {places_, places_.size()};
    const auto byteOf = [&](std::uint32_t at) {
        const auto share = at / (seconds_ * 1000);
        const auto number = static_cast<std::size_t>(share * static_cast<double>(pictures_.size()));
        return pictures_[std::min(number, pictures_.size() - 1)].sample->offset;
    };
    const auto from = byteOf(moments.from);
    if (moments.to != SpliceLook::Stretch::kToTheEnd) {
        const auto to = byteOf(moments.to);
        return takeOut(places_, {from, to - std::min(from, to)}, cluster_, LeftBehind::Gap);
    }
    auto cut = cutBefore(places_, from, cluster_);
    const auto before = cut.size();
    return {std::move(cut), before};
}

std::vector<Piece> ClipSplice::file(const std::vector<ByteRange>& places) const {
    std::vector<Piece> pieces;
    std::uint64_t length = 0;
    const auto card = [&](const ByteRange& place) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    };
    const auto nothing = [&](std::uint64_t bytes) {
        if (bytes > 0) pieces.push_back({PieceFrom::Fill, 0, bytes, {}});
    };
    for (const auto& place : places) {
        const auto rest = std::min(place.length, length_ - std::min(length_, length));
        isNowhere(place) ? nothing(rest) : card({place.offset, rest});
        length += rest;
    }
    // Without its index nothing can open it.
    if (head_.indexInFront || length > head_.indexAt) return pieces;
    nothing(head_.indexAt - length);
    for (const auto& place : index_->places) card(place);
    return pieces;
}

std::vector<SpliceFrame> ClipSplice::frames(const std::vector<ByteRange>& places,
                                            const std::vector<std::uint32_t>& times, std::uint32_t side) {
    std::vector<double> seconds;
    for (const auto time : times) seconds.push_back(time / 1000.0);
    return decode_(file(places), seconds, static_cast<int>(side));
}

isobmff::Looks ClipSplice::looksAt(const Sample& sample, std::uint64_t place) {
    return rebuild::looksAt(card_, {sample.track, sample.sample}, place, buffer_);
}

// Where the cluster that follows `byte` of the file may lie: where one of the next samples says.
std::vector<std::uint64_t> ClipSplice::candidates(std::uint64_t byte, std::uint64_t behind) const {
    const auto cluster = byte / cluster_;
    std::vector<std::uint64_t> found;
    std::set<std::uint64_t> once;
    const auto add = [&](std::uint64_t at) {
        if (found.size() < kMostCandidates && once.insert(at).second) found.push_back(at);
    };
    if (!head_.indexInFront && head_.indexAt / cluster_ <= cluster)
        add(index_->box.offset - head_.indexAt % cluster_ + (cluster - head_.indexAt / cluster_) * cluster_);
    add(behind);
    auto next = std::partition_point(all_.begin(), all_.end(),
                                     [&](const Sample& each) { return each.sample->offset < byte; });
    for (std::size_t i = 0; i < kSoughtAfter && next != all_.end(); ++i, ++next) {
        const auto ahead = (next->sample->offset / cluster_ - cluster) * cluster_;
        for (const auto at : samples_.of(*next->sample)) {
            if (at >= ahead) add(at - ahead);
        }
    }
    return found;
}

Follower ClipSplice::follow(const std::vector<ByteRange>& before, std::uint64_t at,
                            const std::function<bool(std::uint64_t)>& open) {
    const auto byte = total(before);
    Follower found;
    found.place = {at, 0};
    found.at = timeOf(byte);
    auto next = std::partition_point(all_.begin(), all_.end(),
                                     [&](const Sample& each) { return each.sample->offset < byte; });
    auto length = cluster_;  // as far as nothing contradicts
    std::size_t agree = 0;
    bool contradicted = false;
    const auto reach = [&](std::uint64_t upTo) {
        while (length < upTo && open(at + length)) length += cluster_;
        return length >= upTo;
    };
    for (; next != all_.end() && !contradicted; ++next) {
        const auto from = next->sample->offset - byte;
        // The clusters up to the one it begins in, which is not taken before it agrees.
        if (!reach(from / cluster_ * cluster_) || !open(at + from / cluster_ * cluster_)) break;
        contradicted = looksAt(*next, at + from) == Looks::Foreign;
        if (contradicted) break;
        length = std::max(length, (from / cluster_ + 1) * cluster_);
        ++agree;
    }
    if (next == all_.end()) reach((length_ - byte + cluster_ - 1) / cluster_ * cluster_);
    found.place.length = std::min(length, length_ - byte);
    found.reached = timeOf(byte + found.place.length);
    auto way = before;
    way.push_back(found.place);
    const bool crosses = firstBehind(byte - 1) < pictures_.size() &&
                         pictures_[firstBehind(byte - 1)].sample->offset < byte &&
                         pictures_[firstBehind(byte - 1)].end() > byte;
    const auto verdict = crosses ? across(way, byte) : SampleJudge::Verdict{};
    const auto end = byte + found.place.length;
    // What is wrong behind this piece is another join's.
    const bool carries = crosses && (!verdict.wrong || verdict.reached >= end);
    const bool holdsIndex = !head_.indexInFront && head_.indexAt >= byte && head_.indexAt < end &&
                            at + (head_.indexAt - byte) == index_->box.offset;
    found.score =
        (carries || (!crosses && agree > 0) ? kForAcross : 0) +
        kForSamples * std::min(1.0, static_cast<double>(agree) / kMany) +
        (!before.empty() && !isNowhere(before.back()) && before.back().end() == at ? kForNeighbour : 0);
    if (holdsIndex) found.score = std::min(1.0, found.score + kForIndex);
    found.why = carries   ? "the picture that lies across goes on to its last bit"
                : crosses ? "the picture that lies across does not decode with it"
                          : "a picture ends just here";
    if (carries && verdict.wrong)
        found.why = "the picture that lies across goes on as long as this piece does";
    found.why += agree == 0   ? "; no other begins in it"
                 : agree == 1 ? "; one begins where the index says"
                              : "; " + std::to_string(agree) + " begin where the index says";
    if (holdsIndex) found.why += "; its index lies here";
    found.complete = end >= length_;
    return found;
}

// What follows is lost: the next sample that begins anywhere in free space, and what is missing up to it.
std::optional<Follower> ClipSplice::gapBehind(const std::vector<ByteRange>& places) const {
    const auto byte = total(places);
    const auto own = [&](std::uint64_t at) {
        return std::any_of(places.begin(), places.end(),
                           [&](const ByteRange& each) { return !isNowhere(each) && each.contains(at); });
    };
    auto next = std::partition_point(
        all_.begin(), all_.end(), [&](const Sample& each) { return each.sample->offset < byte + cluster_; });
    for (; next != all_.end(); ++next) {
        const auto& at = samples_.of(*next->sample);
        if (std::any_of(at.begin(), at.end(),
                        [&](std::uint64_t place) { return !own(place) && pool_.free(place); }))
            break;
    }
    if (next == all_.end()) return std::nullopt;
    Follower gap;
    gap.place = {kNowhere, next->sample->offset / cluster_ * cluster_ - byte / cluster_ * cluster_};
    if (gap.place.length == 0) return std::nullopt;
    gap.at = timeOf(byte);
    gap.reached = timeOf(byte + gap.place.length);
    gap.why = "what belongs here is lost; the next picture that is found begins behind it";
    return gap;
}

Followers ClipSplice::followers(const std::vector<ByteRange>& places, std::size_t most, std::uint32_t side,
                                const Control& control) {
    Followers found;
    if (places.empty() || total(places) >= length_) return found;
    const auto way = [&](std::int64_t bytes) {
        auto moved = places;
        const auto length = static_cast<std::int64_t>(moved.back().length) + bytes;
        moved.back().length = length > 0 ? static_cast<std::uint64_t>(length) : 0;
        return moved;
    };
    const auto better = [](const Follower& a, const Follower& b) { return a.score > b.score; };
    const auto offer = [&](std::int64_t bytes, std::uint64_t at) {
        const auto before = way(bytes);
        const auto open = [&](std::uint64_t place) {
            const bool own = std::any_of(before.begin(), before.end(), [&](const ByteRange& each) {
                return !isNowhere(each) && each.contains(place);
            });
            return !own && pool_.free(place);
        };
        if (!open(at)) return;
        ++found.tried;
        auto follower = follow(before, at, open);
        follower.moved = bytes;
        if (bytes != 0) {
            const auto clusters = std::abs(bytes) / static_cast<std::int64_t>(cluster_);
            follower.why += "; the piece before ends " + std::to_string(clusters) +
                            (clusters == 1 ? " cluster " : " clusters ") + (bytes > 0 ? "later" : "earlier");
        }
        found.best.push_back(std::move(follower));
    };
    for (const auto clusters : kEndsOfClip) {
        const auto bytes = clusters * static_cast<std::int64_t>(cluster_);
        const auto before = way(bytes);
        if (before.back().length == 0 || (bytes != 0 && isNowhere(places.back())) || control.stopped())
            continue;
        const auto byte = total(before);
        if (byte >= length_) continue;
        const auto behind = isNowhere(before.back()) ? 0 : before.back().end();
        for (const auto at : candidates(byte, behind)) {
            if (control.stopped()) return {};
            if (bytes != 0 && at == behind) continue;
            offer(bytes, at);
        }
    }
    std::erase_if(found.best, [](const Follower& each) { return each.score <= kForNeighbour; });
    std::stable_sort(found.best.begin(), found.best.end(), better);
    // One run of clusters once, with the end of the piece before that fits it best.
    std::set<std::uint64_t> seen;
    std::erase_if(found.best, [&](const Follower& each) {
        const auto run = each.place.offset - static_cast<std::uint64_t>(each.moved);
        return !seen.insert(run).second;
    });
    if (found.best.size() > most) found.best.resize(most);
    if (auto gap = gapBehind(places)) found.best.push_back(std::move(*gap));
    for (auto& follower : found.best) {
        if (control.stopped()) return {};
        if (isNowhere(follower.place)) continue;
        auto with = way(follower.moved);
        with.push_back(follower.place);
        auto frames = decode_(file(with), {(follower.at + 1) / 1000.0}, static_cast<int>(side));
        if (!frames.empty()) follower.picture = std::move(frames.front().picture);
    }
    return found;
}

}  // namespace dreskel::rebuild
