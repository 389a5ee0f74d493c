#include "rebuild/photo_splice.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdlib>
#include <set>

#include "formats/jpeg/continuity.h"
#include "formats/jpeg/dc_picture.h"

namespace dreskel::rebuild {
namespace {

using jpeg::Seam;
using jpeg::StreamDecoder;
using Clock = std::chrono::steady_clock;

constexpr std::uint64_t kBetweenPoints = 512 << 10;
constexpr std::size_t kPortion = 64 << 10;
constexpr std::uint64_t kFirstLook = 64 << 10, kSecondLook = 8 << 20;  // bytes of a candidate
constexpr std::size_t kSecondRound = 12;
constexpr std::chrono::milliseconds kPatience(3000);
// Where the piece before may end instead, in clusters from where it was said to.
constexpr std::array<std::int64_t, 11> kEnds{0, 1, -1, 2, -2, 3, -3, 4, -4, -5, -6};
// What a candidate's score is made of.
constexpr double kForEdges = 0.4, kForLength = 0.3, kForTheEnd = 0.3;
// And what the thumbnail leaves of it, or of what is missing of it.
constexpr double kLeftOfDoubt = 0.4;
constexpr std::size_t kHead = 96 << 10;  // bytes in which a thumbnail is

// How many bytes two ways have in common at the front.
std::uint64_t inCommon(const std::vector<ByteRange>& a, const std::vector<ByteRange>& b) {
    std::uint64_t length = 0;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
        if (a[i].offset != b[i].offset) break;
        length += std::min(a[i].length, b[i].length);
        if (a[i].length != b[i].length) break;
    }
    return length;
}

}  // namespace

void PhotoSplice::decode(const std::vector<ByteRange>& places, const std::function<void()>& onTheWay) {
    const auto common = inCommon(places_, places);
    places_ = places;
    while (!points_.empty() && points_.back().at > common) points_.pop_back();
    if (points_.empty()) points_.push_back({StreamDecoder(&planes_), 0, {}});
    decoder_ = points_.back().decoder;
    planes_.goBackTo(points_.back().place);
    auto at = points_.back().at;
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    }
    PieceReader reader(card_, std::move(pieces));
    std::vector<std::uint8_t> buffer(kPortion);
    while (decoder_.state() == StreamDecoder::State::Hungry) {
        const auto got = reader.read(at, buffer);
        if (got == 0) break;
        decoder_.feed(Bytes(buffer).first(got), false);
        at += got;
        if (onTheWay) onTheWay();
        const bool whole = got == kPortion && decoder_.state() == StreamDecoder::State::Hungry;
        if (whole && at - points_.back().at >= kBetweenPoints)
            points_.push_back({decoder_, at, planes_.place()});
    }
}

// An earlier try may have left more behind the last block than this way has.
void PhotoSplice::clearBehind(const StreamDecoder& decoder) {
    const auto& frame = decoder.frame();
    if (!decoder.hasFrame() || decoder.scans() > 1 || planes_.planes.size() != frame.components.size())
        return;
    const auto all = std::uint64_t{frame.mcusWide} * frame.mcusHigh;
    const auto done = decoder.state() == StreamDecoder::State::Broken
                          ? decoder.breakPoint().mcu
                          : static_cast<std::uint64_t>(decoder.decodedShare() * static_cast<double>(all));
    const bool one = frame.components.size() == 1;
    for (std::size_t i = 0; i < planes_.planes.size(); ++i) {
        auto& plane = planes_.planes[i];
        const std::uint32_t h = one ? 1 : frame.components[i].h;
        const std::uint32_t v = one ? 1 : frame.components[i].v;
        const std::uint64_t wide = one ? frame.components[i].blocksWide : frame.mcusWide;
        if (wide == 0 || plane.width == 0) continue;
        const auto rows = plane.dc.size() / plane.width;
        for (std::uint64_t y = done / wide * v; y < rows; ++y) {
            for (std::uint32_t x = 0; x < plane.width; ++x) {
                if (y / v * wide + x / h >= done) plane.dc[static_cast<std::size_t>(y * plane.width + x)] = 0;
            }
        }
    }
}

Picture PhotoSplice::picture(const StreamDecoder& decoder, std::uint32_t side) {
    clearBehind(decoder);
    auto made = decoder.hasFrame() ? jpeg::pictureOf(decoder.frame(), planes_, side, false) : std::nullopt;
    return made ? std::move(*made) : Picture();
}

std::uint32_t PhotoSplice::rowOf(std::uint64_t byte) const {
    const auto& frame = decoder_.frame();
    if (!decoder_.hasFrame() || frame.mcusWide == 0 || planes_.marks.empty()) return 0;
    const auto first = decoder_.codedDataAt() / jpeg::DcPlanes::kMarkStep + 1;
    const auto number = byte / jpeg::DcPlanes::kMarkStep;
    if (number < first) return 0;
    const auto mark = std::min<std::uint64_t>(number - first, planes_.marks.size() - 1);
    const auto row = planes_.marks[static_cast<std::size_t>(mark)] / frame.mcusWide;
    return static_cast<std::uint32_t>(
        std::min<std::uint64_t>(row * frame.height / std::max(1U, frame.mcusHigh), frame.height));
}

std::uint64_t PhotoSplice::byteBefore(std::uint32_t row) const {
    const auto first = (decoder_.codedDataAt() / jpeg::DcPlanes::kMarkStep + 1) * jpeg::DcPlanes::kMarkStep;
    std::uint64_t byte = first;
    for (std::size_t i = 0; i < planes_.marks.size(); ++i) {
        const auto here = first + i * jpeg::DcPlanes::kMarkStep;
        if (rowOf(here) >= row) break;
        byte = here;
    }
    return byte;
}

// The blocks of a photo follow one another: what is behind moves up.
Cut PhotoSplice::without(const SpliceLook::Stretch& rows) const {
    const auto from = byteBefore(rows.from);
    const auto to = rows.to == SpliceLook::Stretch::kToTheEnd ? from : byteBefore(rows.to);
    if (to > from) return takeOut(places_, {from, to - from}, cluster_, LeftBehind::Nothing);
    auto cut = cutBefore(places_, from, cluster_);
    const auto before = cut.size();
    return {std::move(cut), before};
}

SpliceLook PhotoSplice::look(const std::vector<ByteRange>& places, std::uint32_t side,
                             const Glimpses& glimpses) {
    auto last = Clock::now();
    decode(places, [&] {
        if (!glimpses.show || !decoder_.hasFrame() || Clock::now() < last + glimpses.every) return;
        auto soFar = lookOf(places);
        soFar.soFar = true;
        if (auto made = jpeg::pictureOf(decoder_.frame(), planes_, side, false))
            soFar.picture = std::move(*made);
        glimpses.show(soFar);
        last = Clock::now();
    });
    auto look = lookOf(places);
    look.picture = picture(decoder_, side);
    return look;
}

SpliceLook PhotoSplice::lookOf(const std::vector<ByteRange>& places) const {
    SpliceLook look;
    look.share = decoder_.decodedShare();
    look.extent = decoder_.hasFrame() ? decoder_.frame().height : 0;
    look.reached = static_cast<std::uint32_t>(look.share * look.extent);
    look.complete = decoder_.state() == StreamDecoder::State::Ended && look.share > 0.99999;
    look.length = decoder_.state() == StreamDecoder::State::Hungry ? total(places) : decoder_.offset();
    if (decoder_.state() == StreamDecoder::State::Broken) look.why = decoder_.breakPoint().why;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places.size(); ++i) {
        at += places[i].length;
        look.joinsAt.push_back(rowOf(at));
    }
    return look;
}

Follower PhotoSplice::follow(StreamDecoder decoder, std::uint64_t at, std::uint64_t joinAt,
                             std::uint64_t most, StreamDecoder& into) {
    Follower found;
    found.place = {at, 0};
    std::vector<std::uint8_t> buffer(cluster_);
    auto seam = Seam::NotYetDecoded;
    const auto before = decoder.decodedShare();
    bool foreign = false;
    while (found.place.length < most && decoder.state() == StreamDecoder::State::Hungry) {
        const auto here = at + found.place.length;
        foreign = found.place.length > 0 && !pool_.free(here);
        const auto got = foreign ? 0 : card_.read(here, buffer);
        if (got == 0) break;
        decoder.feed(Bytes(buffer).first(got), false);
        found.place.length += got;
        if (seam == Seam::NotYetDecoded)
            seam = jpeg::seamAt(decoder.frame(), planes_, decoder.codedDataAt(), joinAt,
                                decoder.state() == StreamDecoder::State::Ended);
    }
    const bool ended = decoder.state() == StreamDecoder::State::Ended;
    found.complete = ended && decoder.decodedShare() > 0.99999;
    if (ended) found.place.length = decoder.offset() - joinAt;
    // The cluster in which it stumbled is not the photo's any more.
    const bool stumbled = decoder.state() == StreamDecoder::State::Broken;
    if (stumbled)
        found.place.length = (decoder.offset() - std::min(decoder.offset(), joinAt)) / cluster_ * cluster_;
    const auto gained = decoder.decodedShare() - before;
    const auto left = std::max(1e-6, 1.0 - before);
    const double edges = seam == Seam::Fits ? 1.0 : seam == Seam::DoesNotFit ? 0.0 : 0.4;
    found.score =
        kForEdges * edges + kForLength * std::min(1.0, gained / left) + (found.complete ? kForTheEnd : 0);
    found.why = seam == Seam::Fits         ? "the rows above and below fit"
                : seam == Seam::DoesNotFit ? "the rows above and below do not fit"
                                           : "whether the rows fit cannot be told";
    if (found.complete) {
        found.why += "; it ends with exactly the last block";
    } else if (ended) {
        found.why += "; it ends before the picture is complete";
    } else if (stumbled) {
        found.why += "; then " + decoder.breakPoint().why;
    } else if (foreign) {
        found.why += "; then comes what belongs to another file";
    }
    into = std::move(decoder);
    return found;
}

void PhotoSplice::hear(const ThumbnailWitness& witness, const StreamDecoder& after,
                       Follower& follower) const {
    using Says = ThumbnailWitness::Says;
    const auto all = std::uint64_t{after.frame().mcusWide} * after.frame().mcusHigh;
    const auto says = witness.of(planes_, decoder_.mcu(), after.scans() > 1 ? all : after.mcu());
    if (says == Says::Nothing) return;
    const bool alike = says == Says::Alike;
    follower.score = alike ? 1 - (1 - follower.score) * kLeftOfDoubt : follower.score * kLeftOfDoubt;
    follower.why +=
        alike ? "; it is what the photo's thumbnail shows" : "; it is not what the photo's thumbnail shows";
}

Followers PhotoSplice::followers(const std::vector<ByteRange>& places, std::size_t most, std::uint32_t side,
                                 const Control& control) {
    Followers found;
    if (places.empty()) return found;
    const auto own = [&](std::uint64_t at) {
        return std::any_of(places.begin(), places.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    };
    // The same way, ended earlier or later.
    const auto moved = [&](std::int64_t bytes) {
        auto way = places;
        const auto length = static_cast<std::int64_t>(way.back().length) + bytes;
        way.back().length = length > 0 ? static_cast<std::uint64_t>(length) : 0;
        if (bytes > 0 && !pool_.free(places.back().end() + static_cast<std::uint64_t>(bytes) - cluster_))
            way.back().length = 0;
        return way;
    };
    const auto until = Clock::now() + kPatience;
    std::vector<Follower> first;
    StreamDecoder after;
    const auto better = [](const Follower& a, const Follower& b) { return a.score > b.score; };
    decode(places);
    const auto asGiven = planes_;
    if (decoder_.state() == StreamDecoder::State::Ended) return found;
    for (const auto clusters : kEnds) {
        const auto bytes = clusters * std::int64_t{cluster_};
        const auto way = moved(bytes);
        if (way.back().length == 0) continue;
        decode(way);
        if (decoder_.state() != StreamDecoder::State::Hungry || decoder_.codedDataAt() == 0) continue;
        const auto before = planes_.place();
        const auto joinAt = total(way);
        const auto offered = [&](const Pool::Spot& spot) {
            const auto at = spot.at;
            if (control.stopped() || Clock::now() > until) return true;
            if (own(at) || (clusters != 0 && at == way.back().end())) return false;
            ++found.tried;
            planes_.goBackTo(before);
            auto follower = follow(decoder_, at, joinAt, kFirstLook, after);
            if (follower.place.length == 0) return false;
            follower.moved = bytes;
            first.push_back(std::move(follower));
            if (first.size() < 4 * kSecondRound) return false;
            std::nth_element(first.begin(), first.begin() + kSecondRound, first.end(), better);
            first.resize(kSecondRound);
            return false;
        };
        for (const auto which : {Pool::Which::Beginnings, Pool::Which::Others})
            pool_.visit(which, way.back().end(), offered);
    }
    std::sort(first.begin(), first.end(), better);
    // One place once, with the end that fits it best.
    std::set<std::uint64_t> seen;
    std::erase_if(first, [&](const Follower& each) { return !seen.insert(each.place.offset).second; });
    if (first.size() > kSecondRound) first.resize(kSecondRound);
    std::vector<std::uint8_t> head(kHead);
    head.resize(PieceReader(card_, places).read(0, head));
    ThumbnailWitness witness(jpeg::OwnThumbnail::in(head, decoder_.frame()));
    for (const auto& candidate : first) {
        if (control.stopped()) break;
        const auto way = moved(candidate.moved);
        decode(way);
        const auto joinAt = total(way);
        witness.learn(planes_, decoder_.mcu());
        auto follower = follow(decoder_, candidate.place.offset, joinAt, kSecondLook, after);
        if (follower.place.length == 0) continue;
        follower.moved = candidate.moved;
        if (decoder_.scans() == 1) hear(witness, after, follower);
        if (follower.moved != 0) {
            const auto clusters = std::abs(follower.moved) / std::int64_t{cluster_};
            follower.why += "; the piece before ends " + std::to_string(clusters) +
                            (clusters == 1 ? " cluster " : " clusters ") +
                            (follower.moved > 0 ? "later" : "earlier");
        }
        follower.picture = picture(after, side);
        follower.at = rowOf(joinAt);
        follower.reached =
            static_cast<std::uint32_t>(after.decodedShare() * static_cast<double>(after.frame().height));
        found.best.push_back(std::move(follower));
    }
    decode(places);
    planes_ = asGiven;
    std::sort(found.best.begin(), found.best.end(), better);
    if (found.best.size() > most) found.best.resize(most);
    return found;
}

}  // namespace dreskel::rebuild
