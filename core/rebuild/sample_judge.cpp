#include "rebuild/sample_judge.h"

#include <algorithm>

#include "formats/jpeg/stream_decoder.h"

namespace dreskel::rebuild {
namespace {

using Coding = isobmff::SampleTrack::Coding;

constexpr std::uint64_t kLargestPicture = 64 << 20;

}  // namespace

SampleJudge::SampleJudge(CardView& card, const LooseIndex& index) : card_(card) {
    for (const auto& track : index.tracks) {
        const bool nal =
            (track.coding == Coding::Avc || track.coding == Coding::Hevc) && !track.settings.empty();
        if (!nal && track.coding != Coding::MotionJpeg) continue;
        for (const auto& sample : track.samples) pictures_.push_back({&track, sample});
    }
    std::sort(pictures_.begin(), pictures_.end(),
              [](const Picture& a, const Picture& b) { return a.sample.offset < b.sample.offset; });
}

SampleJudge::Outcome SampleJudge::follow(const Picture& picture, Bytes coded, std::uint64_t& fault) {
    const auto& track = *picture.track;
    if (track.coding == Coding::MotionJpeg) {
        jpeg::StreamDecoder decoder;
        if (decoder.feed(coded, true) == jpeg::StreamDecoder::State::Ended) return Outcome::Right;
        fault = decoder.offset();
        // Tables that are left out, as some cameras do, are not known here.
        return decoder.scans() == 0 ? Outcome::NotFollowed : Outcome::Wrong;
    }
    auto& check = checks_[&track];
    if (!check)
        check = pictureCheck(track.coding == Coding::Avc ? PictureCoding::Avc : PictureCoding::Hevc,
                             track.settings);
    const auto before = check->pictures();
    if (const auto found = check->sample(coded, track.lengthBytes)) {
        fault = found->byte;
        return Outcome::Wrong;
    }
    return check->pictures() > before ? Outcome::Right : Outcome::NotFollowed;
}

SampleJudge::Verdict SampleJudge::judge(const std::vector<ByteRange>& places, std::uint64_t from,
                                        std::uint64_t to, std::uint64_t cluster) {
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    }
    PieceReader reader(card_, std::move(pieces));
    Verdict verdict;
    auto border = (from / cluster + 1) * cluster;  // the next at which there may be a join
    bool allSeen = true;
    auto picture = std::partition_point(pictures_.begin(), pictures_.end(),
                                        [&](const Picture& each) { return each.end() <= from; });
    for (; picture != pictures_.end() && picture->sample.offset < to && !verdict.wrong; ++picture) {
        if (picture->sample.size > kLargestPicture) return {};
        buffer_.resize(picture->sample.size);
        const auto coded = Bytes(buffer_).first(reader.read(picture->sample.offset, buffer_));
        std::uint64_t fault = 0;
        const auto outcome = follow(*picture, coded, fault);
        if (outcome == Outcome::Wrong) {
            verdict.wrong = true;
            verdict.reached = picture->sample.offset + fault;
        } else if (outcome == Outcome::Right) {
            allSeen = allSeen && border > picture->sample.offset;
            while (border <= picture->sample.offset) border += cluster;
            while (border < picture->end()) border += cluster;
        }
    }
    verdict.certain = !verdict.wrong && allSeen && border >= to;
    return verdict;
}

}  // namespace dreskel::rebuild
