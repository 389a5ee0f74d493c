// A clip on the splice bench, by what its index lists (ISO/IEC 14496-12, 8.7; AVI, idx1): each of its
// pictures must begin where the index says, and the one that lies across a join is followed by its syntax.
#pragma once

#include <functional>
#include <map>
#include <memory>

#include "rebuild/clip_index.h"
#include "rebuild/clip_pool.h"
#include "rebuild/sample_judge.h"
#include "rebuild/sample_places.h"
#include "rebuild/splice.h"

namespace dreskel::rebuild {

// A picture of a file near each of these times, in seconds, at most so many pixels, empty where there is
// none; decoded by a library elsewhere.
using DecodeFrames = std::function<std::vector<SpliceFrame>(const std::vector<Piece>& file,
                                                            const std::vector<double>& times, int side)>;

class ClipSplice : public Splicer {
  public:
    // Reads what the pool holds once. The pool must outlive it. `seconds`: how long the clip is, where known.
    ClipSplice(CardView& card, const ClipPool& pool, const ClipHead& head,
               std::shared_ptr<const LooseIndex> index, std::optional<double> seconds, DecodeFrames decode,
               const Control& control);

    Measure measure() const override { return Measure::Milliseconds; }
    using Splicer::look;
    SpliceLook look(const std::vector<ByteRange>& places, std::uint32_t side,
                    const Glimpses& glimpses) override;
    Followers followers(const std::vector<ByteRange>& places, std::size_t most, std::uint32_t side,
                        const Control& control) override;
    Cut without(const SpliceLook::Stretch& moments) const override;
    std::vector<SpliceFrame> frames(const std::vector<ByteRange>& places,
                                    const std::vector<std::uint32_t>& times, std::uint32_t side) override;

  private:
    struct Sample {
        const isobmff::SampleTrack* track = nullptr;
        const isobmff::Sample* sample = nullptr;
        std::uint64_t end() const { return sample->offset + sample->size; }
    };
    enum class State { Right, Wrong, NotThere };

    // Where a byte of the file lies with this way; nothing in a hole and behind it.
    static std::optional<std::uint64_t> placeOf(const std::vector<ByteRange>& places, std::uint64_t byte);
    State stateOf(const Sample& sample, const std::vector<ByteRange>& places, PieceReader& reader);
    isobmff::Looks looksAt(const Sample& sample, std::uint64_t place);
    // The first of the samples, by their place in the file, that ends behind a byte.
    std::size_t firstBehind(std::uint64_t byte) const;
    std::uint32_t timeOf(std::uint64_t byte) const;
    // The picture across a join is right, as far as it can be followed.
    SampleJudge::Verdict across(const std::vector<ByteRange>& places, std::uint64_t join);
    // How far a piece that begins here with a byte of the file goes on agreeing with the index.
    Follower follow(const std::vector<ByteRange>& before, std::uint64_t at,
                    const std::function<bool(std::uint64_t)>& open);
    std::optional<Follower> gapBehind(const std::vector<ByteRange>& places) const;
    std::vector<std::uint64_t> candidates(std::uint64_t byte, std::uint64_t behind) const;
    std::vector<Piece> file(const std::vector<ByteRange>& places) const;

    CardView& card_;
    const ClipPool& pool_;
    ClipHead head_;
    std::shared_ptr<const LooseIndex> index_;
    std::uint64_t cluster_, length_;
    double seconds_ = 0;
    DecodeFrames decode_;
    SamplePlaces samples_;
    SampleJudge judge_;
    std::vector<Sample> pictures_;  // of the track that is seen, by their place in the file
    std::vector<Sample> all_;       // that can be told, of all tracks, the same
    std::vector<ByteRange> places_;
    // What was seen of each picture, as long as it lies where it did.
    struct Seen {
        std::uint64_t from = 0, to = 0;
        State state = State::NotThere;
    };
    std::vector<Seen> seen_;
    // Pictures that lie across joins, by where their parts lie.
    std::map<std::vector<std::pair<std::uint64_t, std::uint64_t>>, SampleJudge::Verdict> across_;
    std::vector<std::uint8_t> buffer_;
};

}  // namespace dreskel::rebuild
