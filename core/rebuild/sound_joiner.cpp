#include "rebuild/sound_joiner.h"

#include <algorithm>

#include "base/patience.h"
#include "formats/riff/waveform.h"

namespace dreskel::rebuild {
namespace {

// How badly samples may be foretold over a join, and over the border of two clusters of a piece (Seam).
constexpr double kJoins = 2.4, kGoesOn = 2.3, kGoesOnAtOnce = 4;
constexpr std::uint64_t kLooked = 4096;  // bytes on each side of a border
constexpr std::size_t kMostSoundPieces = 64, kMostTried = 24;
constexpr std::size_t kMostClusters = 1U << 18;

class SoundJoiner {
  public:
    SoundJoiner(CardView& card, const Recording& recording, const ClipPool& pool,
                std::chrono::milliseconds time, const Control& control)
        : card_(card),
          recording_(recording),
          pool_(pool),
          control_(control),
          patience_(time),
          cluster_(pool.cluster()),
          frame_(std::size_t{recording.layout.bytesPerSample} * recording.layout.channels) {}

    std::optional<std::vector<ByteRange>> join();

  private:
    bool over() const { return control_.stopped() || patience_.over(); }
    std::vector<std::uint8_t> read(std::uint64_t at, std::uint64_t count) {
        std::vector<std::uint8_t> bytes(static_cast<std::size_t>(count));
        bytes.resize(card_.read(at, bytes));
        return bytes;
    }
    // Of the border between two clusters, the second of which would lie at `position` in the file.
    std::optional<riff::Seam> seam(std::uint64_t before, std::uint64_t behind, std::uint64_t position) {
        const auto looked = std::min<std::uint64_t>(kLooked, cluster_);
        return riff::seamOf(read(before + cluster_ - looked, looked), read(behind, looked), recording_.layout,
                            static_cast<std::size_t>((position - recording_.dataAt) % frame_));
    }
    // How many clusters from `at` on are one run, of at most `most`, the first lying at `position` in the
    // file.
    std::uint64_t runFrom(std::uint64_t at, std::uint64_t position, std::uint64_t most);
    void findBeginnings();
    bool follow(std::uint64_t last, std::uint64_t position);

    CardView& card_;
    const Recording& recording_;
    const ClipPool& pool_;
    const Control& control_;
    Patience patience_;
    std::uint64_t cluster_;
    std::size_t frame_;
    std::vector<std::uint64_t> beginnings_;  // free clusters that do not go on from the one before them
    std::vector<ByteRange> places_;
    int steps_ = 4000;
};

std::uint64_t SoundJoiner::runFrom(std::uint64_t at, std::uint64_t position, std::uint64_t most) {
    std::uint64_t count = 1;
    while (count < most && pool_.free(at + count * cluster_)) {
        const auto here = at + count * cluster_, there = position + count * cluster_;
        // What stands before the first sample does not tell; recorders keep much there.
        const auto off = there <= recording_.dataAt ? std::nullopt : seam(here - cluster_, here, there);
        if (off && off->jump > kGoesOn) break;
        ++count;
    }
    return count;
}

void SoundJoiner::findBeginnings() {
    std::size_t seen = 0;
    for (const auto& stretch : pool_.stretches()) {
        for (auto at = stretch.offset; at + cluster_ <= stretch.end(); at += cluster_) {
            if (++seen > kMostClusters || over()) return;
            if (!pool_.free(at)) continue;
            if (at == stretch.offset || !pool_.free(at - cluster_)) {
                beginnings_.push_back(at);
                continue;
            }
            // Where in a frame the cluster begins is not known, unless it is the same for all: as what the
            // bytes are smoothest.
            std::optional<riff::Seam> smoothest;
            const auto aligned = cluster_ % frame_ == 0;
            const auto border = (recording_.dataAt / cluster_ + 1) * cluster_;
            for (std::uint64_t phase = 0; phase < (aligned ? 1 : frame_); ++phase) {
                const auto found = seam(at - cluster_, at, border + phase);
                if (found && (!smoothest || found->roughness < smoothest->roughness)) smoothest = found;
            }
            if (smoothest && smoothest->jump > kGoesOn) beginnings_.push_back(at);
        }
    }
}

bool SoundJoiner::follow(std::uint64_t last, std::uint64_t position) {
    if (position >= recording_.length) return true;
    if (places_.size() == kMostSoundPieces || --steps_ < 0 || over()) return false;
    std::vector<std::uint64_t> ways;
    for (const auto at : beginnings_) {
        const bool used = at == recording_.start ||
                          std::any_of(places_.begin(), places_.end(), [at](const ByteRange& place) {
                              return place.offset <= at && at < place.end();
                          });
        if (used) continue;
        const auto off = seam(last, at, position);
        // What lies at once behind may be rougher.
        const bool goesOn = at == last + cluster_ && off && off->jump <= kGoesOnAtOnce;
        if (goesOn || (off && off->mismatch <= kJoins)) ways.push_back(at);
    }
    // The nearest in front first: that is where a recorder goes on.
    std::sort(ways.begin(), ways.end(), [last](std::uint64_t a, std::uint64_t b) {
        return std::pair(a < last, a) < std::pair(b < last, b);
    });
    if (ways.size() > kMostTried) ways.resize(kMostTried);
    for (const auto at : ways) {
        const auto left = (recording_.length - position + cluster_ - 1) / cluster_;
        const auto count = runFrom(at, position, left);
        const auto bytes = std::min(count * cluster_, recording_.length - position);
        places_.push_back({at, bytes});
        if (follow(at + (count - 1) * cluster_, position + count * cluster_)) return true;
        places_.pop_back();
    }
    return false;
}

std::optional<std::vector<ByteRange>> SoundJoiner::join() {
    if (frame_ == 0 || recording_.start % cluster_ != pool_.origin() || recording_.length <= cluster_)
        return std::nullopt;
    const auto all = (recording_.length + cluster_ - 1) / cluster_;
    const auto first = runFrom(recording_.start, 0, all);
    if (first >= all) return std::nullopt;
    findBeginnings();
    places_.push_back({recording_.start, first * cluster_});
    if (!follow(recording_.start + (first - 1) * cluster_, first * cluster_)) return std::nullopt;
    return places_;
}

}  // namespace

std::optional<std::vector<ByteRange>> joinSound(CardView& card, const Recording& recording,
                                                const ClipPool& pool, std::chrono::milliseconds time,
                                                const Control& control) {
    return SoundJoiner(card, recording, pool, time, control).join();
}

}  // namespace dreskel::rebuild
