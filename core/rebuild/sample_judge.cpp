#include "rebuild/sample_judge.h"

#include <algorithm>

#include "formats/clip/last_bytes.h"
#include "formats/jpeg/continuity.h"

namespace dreskel::rebuild {
namespace {

using Coding = isobmff::SampleTrack::Coding;

constexpr std::uint64_t kLargestPicture = 64 << 20;
constexpr std::size_t kMostTrails = 8;

// Bytes of the file between two others at which it goes on elsewhere.
std::vector<std::uint64_t> joinsBetween(const std::vector<ByteRange>& places, std::uint64_t from,
                                        std::uint64_t to) {
    std::vector<std::uint64_t> joins;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places.size() && at < to; ++i) {
        at += places[i].length;
        if (at > from && at < to && places[i].end() != places[i + 1].offset) joins.push_back(at);
    }
    return joins;
}

class JpegTrail : public PictureTrail {
  public:
    // `at`: byte of the file that it begins at.
    explicit JpegTrail(std::uint64_t at) { planes_.phase = at % jpeg::DcPlanes::kMarkStep; }

    Outcome follow(Bytes sample) override {
        const auto same = last_.replace(sample);
        if (states_.empty()) states_.push_back({jpeg::StreamDecoder(&planes_), {}});
        states_.resize(std::min(states_.size(), same / kStep + 1), states_.front());
        decoder_ = states_.back().decoder;
        planes_.goBackTo(states_.back().place);
        using State = jpeg::StreamDecoder::State;
        for (auto at = (states_.size() - 1) * kStep; decoder_.state() == State::Hungry; at += kStep) {
            const auto portion = slice(sample, at, std::min(kStep, sample.size() - at));
            decoder_.feed(portion, at + portion.size() == sample.size());
            if (decoder_.state() == State::Hungry) states_.push_back({decoder_, planes_.place()});
        }
        if (decoder_.state() == State::Ended) return {std::nullopt, 1};
        // Tables that are left out, as some cameras do, are not known here.
        if (decoder_.scans() == 0) return {};
        // The code in which it shows may reach into the bytes behind.
        const auto shows =
            std::min(sample.size(), static_cast<std::size_t>(decoder_.offset()) + kLongestCode);
        return {PictureFault{shows, "coded data that cannot be"}, 0};
    }
    double strainAt(std::size_t byte) const override {
        const bool ended = decoder_.state() == jpeg::StreamDecoder::State::Ended;
        return jpeg::lookAtSeam(decoder_.frame(), planes_, decoder_.codedDataAt(), byte, ended).strain;
    }

  private:
    static constexpr std::size_t kStep = 4096, kLongestCode = 2;
    struct Stop {
        jpeg::StreamDecoder decoder;
        jpeg::DcPlanes::Place place;
    };
    jpeg::DcPlanes planes_;
    jpeg::StreamDecoder decoder_;
    LastBytes last_;
    std::vector<Stop> states_;  // at each step
};

}  // namespace

SampleJudge::SampleJudge(CardView& card, const LooseIndex& index) : card_(card) {
    for (const auto& track : index.tracks) {
        const bool nal =
            (track.coding == Coding::Avc || track.coding == Coding::Hevc) && !track.settings.empty();
        if (!nal && track.coding != Coding::MotionJpeg && track.coding != Coding::RiffChunk) continue;
        for (const auto& sample : track.samples) pictures_.push_back({&track, sample});
    }
    std::sort(pictures_.begin(), pictures_.end(),
              [](const Picture& a, const Picture& b) { return a.sample.offset < b.sample.offset; });
}

std::optional<std::size_t> SampleJudge::headOf(const Picture& picture, Bytes sample) {
    if (picture.track->coding != Coding::RiffChunk) return 0;
    constexpr std::size_t head = 8;
    const bool jpeg = sample.size() > head + 2 && sample[head] == 0xff && sample[head + 1] == 0xd8;
    return jpeg ? std::optional(head) : std::nullopt;
}

PictureTrail& SampleJudge::trailOf(const Picture& picture, std::size_t ahead) {
    auto found = trails_.find(picture.sample.offset);
    if (found == trails_.end()) {
        if (trails_.size() >= kMostTrails)
            trails_.erase(
                std::ranges::min_element(trails_, {}, [](const auto& each) { return each.second.used; }));
        const auto& track = *picture.track;
        const bool jpeg = track.coding == Coding::MotionJpeg || track.coding == Coding::RiffChunk;
        const auto coding = track.coding == Coding::Avc ? PictureCoding::Avc : PictureCoding::Hevc;
        std::unique_ptr<PictureTrail> trail;
        if (jpeg) {
            trail = std::make_unique<JpegTrail>(picture.sample.offset + ahead);
        } else {
            trail = pictureTrail(coding, track.settings, track.lengthBytes);
        }
        found = trails_.emplace(picture.sample.offset, Trail{std::move(trail), 0}).first;
    }
    found->second.used = ++uses_;
    return *found->second.trail;
}

SampleJudge::Verdict SampleJudge::judge(const std::vector<ByteRange>& places, std::uint64_t from,
                                        std::uint64_t to) {
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    }
    PieceReader reader(card_, std::move(pieces));
    Verdict verdict;
    auto unseen = joinsBetween(places, from, to);
    const auto first = unseen.empty() ? UINT64_MAX : unseen.front();
    bool followed = false;
    auto picture = std::partition_point(pictures_.begin(), pictures_.end(),
                                        [&](const Picture& each) { return each.end() <= from; });
    for (; picture != pictures_.end() && picture->sample.offset < to && !verdict.wrong; ++picture) {
        if (picture->sample.size > kLargestPicture) return {};
        buffer_.resize(picture->sample.size);
        auto coded = Bytes(buffer_).first(reader.read(picture->sample.offset, buffer_));
        const auto ahead = headOf(*picture, coded);
        if (!ahead) continue;
        coded = coded.subspan(*ahead);
        auto& trail = trailOf(*picture, *ahead);
        const auto outcome = trail.follow(coded);
        const auto within = [&](std::uint64_t join) {
            return join > picture->sample.offset && join < picture->end();
        };
        if (within(first)) verdict.strain = trail.strainAt(first - picture->sample.offset - *ahead);
        if (outcome.fault) {
            verdict.wrong = true;
            verdict.reached = picture->sample.offset + *ahead + outcome.fault->byte;
        } else if (outcome.pictures > 0) {
            followed = true;
            std::erase_if(unseen, within);
        }
    }
    verdict.certain = !verdict.wrong && followed && unseen.empty();
    return verdict;
}

}  // namespace dreskel::rebuild
