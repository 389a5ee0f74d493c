#include "rebuild/plain_joiner.h"

#include <algorithm>

#include "base/patience.h"

namespace dreskel::rebuild {
namespace {

constexpr std::size_t kMostPlainPieces = 64, kMostTried = 24;
constexpr std::size_t kMostClusters = 1U << 18;
// Up to here nothing tells one join from another.
constexpr double kFitsAsWell = 1.5;

class PlainJoiner {
  public:
    PlainJoiner(CardView& card, std::vector<ByteRange> front, const PlainSamples& samples,
                const ClipPool& pool, std::chrono::milliseconds time, const Control& control)
        : card_(card),
          samples_(samples),
          pool_(pool),
          control_(control),
          patience_(time),
          cluster_(pool.cluster()),
          places_(std::move(front)) {}

    std::optional<std::vector<ByteRange>> join();

  private:
    bool over() const { return control_.stopped() || patience_.over(); }
    std::uint64_t length() const { return samples_.fileLength(); }
    std::size_t phaseAt(std::uint64_t position) const {
        return static_cast<std::size_t>((position - samples_.range().offset) % samples_.unit());
    }
    Bytes read(std::vector<std::uint8_t>& into, std::uint64_t at, std::size_t count) {
        into.resize(count);
        into.resize(card_.read(at, into));
        return into;
    }
    Bytes behind(std::uint64_t at, std::uint64_t most) {
        return read(behind_, at,
                    static_cast<std::size_t>(std::min<std::uint64_t>({samples_.behind(), cluster_, most})));
    }
    // Of the file as far as it is put together, in front of this place in it.
    Bytes before(std::uint64_t position);
    // Of the border at this place in the file, between `front` and what lies at `at`.
    std::optional<Seam> seam(Bytes front, std::uint64_t at, std::uint64_t position) {
        // What stands beside the samples does not tell; recorders keep much there.
        if (position <= samples_.range().offset || position >= samples_.range().end()) return std::nullopt;
        return samples_.seam(front, behind(at, samples_.range().end() - position), phaseAt(position));
    }
    // The last piece grows as far as it goes on, the first of its clusters lying at `position` in the file.
    std::uint64_t grow(std::uint64_t position);
    void findBeginnings();
    bool isBeginning(std::uint64_t at, std::uint64_t stretch);
    bool taken(std::uint64_t at) const {
        return std::any_of(places_.begin(), places_.end(),
                           [at](const ByteRange& place) { return place.contains(at); });
    }
    bool follow(std::uint64_t position);

    CardView& card_;
    const PlainSamples& samples_;
    const ClipPool& pool_;
    const Control& control_;
    Patience patience_;
    std::uint64_t cluster_;
    std::vector<std::uint64_t> beginnings_;  // free clusters that do not go on from the one before them
    std::vector<ByteRange> places_;          // in whole clusters
    std::vector<std::uint8_t> before_, behind_;
    int steps_ = 4000;
};

Bytes PlainJoiner::before(std::uint64_t position) {
    const auto wanted = samples_.before() + samples_.unit();
    if (position <= samples_.range().offset) return {};
    const auto at = std::max(samples_.range().offset, position - std::min<std::uint64_t>(position, wanted));
    before_.resize(static_cast<std::size_t>(position - at));
    before_.resize(PieceReader(card_, places_).read(at, before_));
    return before_;
}

std::uint64_t PlainJoiner::grow(std::uint64_t position) {
    auto& last = places_.back();
    for (position += cluster_; position < length(); position += cluster_) {
        const auto next = last.end();
        if (!pool_.free(next) || taken(next)) break;
        const auto off = seam(before(position), next, position);
        if (off && off->jump > samples_.bounds().goesOn) break;
        last.length += cluster_;
    }
    return position;
}

void PlainJoiner::findBeginnings() {
    std::size_t seen = 0;
    for (const auto& stretch : pool_.stretches()) {
        for (auto at = stretch.offset; at + cluster_ <= stretch.end(); at += cluster_) {
            if (++seen > kMostClusters || over()) return;
            if (pool_.free(at) && isBeginning(at, stretch.offset)) beginnings_.push_back(at);
        }
    }
}

bool PlainJoiner::isBeginning(std::uint64_t at, std::uint64_t stretch) {
    const auto wanted = samples_.before() + samples_.unit();
    if (at < stretch + std::max<std::uint64_t>(wanted, cluster_) || !pool_.free(at - cluster_)) return true;
    const auto front = read(before_, at - wanted, wanted);
    const auto back = behind(at, cluster_);
    const auto border = (samples_.range().offset / cluster_ + 1) * cluster_;
    const bool aligned = cluster_ % samples_.unit() == 0;
    const auto off =
        aligned ? samples_.seam(front, back, phaseAt(border)) : samples_.smoothestSeam(front, back);
    return off && off->jump > samples_.bounds().goesOn;
}

bool PlainJoiner::follow(std::uint64_t position) {
    if (position >= length()) return true;
    if (places_.size() == kMostPlainPieces || --steps_ < 0 || over()) return false;
    struct Way {
        double fits;
        bool back;
        std::uint64_t at;
        auto operator<=>(const Way&) const = default;
    };
    std::vector<Way> ways;
    const auto front = before(position);
    const auto end = places_.back().end();
    const auto consider = [&](std::uint64_t at) {
        if (taken(at)) return;
        const auto off = seam(front, at, position);
        const auto& bounds = samples_.bounds();
        // What lies at once behind may be rougher, or too little to tell.
        const bool goesOn = at == end && (!off || off->jump <= bounds.goesOnAtOnce);
        if (!goesOn && (!off || off->mismatch > bounds.joins)) return;
        // The nearest in front first, of those that fit as well: that is where a recorder goes on.
        ways.push_back({off ? std::max(kFitsAsWell, off->mismatch) : bounds.joins, at < end, at});
    };
    for (const auto at : beginnings_) consider(at);
    if (pool_.free(end) && !std::binary_search(beginnings_.begin(), beginnings_.end(), end)) consider(end);
    std::sort(ways.begin(), ways.end());
    if (ways.size() > kMostTried) ways.resize(kMostTried);
    const auto kept = places_.size();
    for (const auto& way : ways) {
        places_.push_back({way.at, cluster_});
        if (follow(grow(position))) return true;
        places_.resize(kept);
    }
    return false;
}

std::optional<std::vector<ByteRange>> PlainJoiner::join() {
    if (places_.empty() || places_.front().offset % cluster_ != pool_.origin() % cluster_)
        return std::nullopt;
    if (lengthOf(places_) >= length()) return std::nullopt;
    if (const auto position = grow(lengthOf(places_) - cluster_); position < length()) {
        findBeginnings();
        if (!follow(position)) return std::nullopt;
    }
    cutTo(places_, length());
    return places_.size() > 1 ? std::optional(places_) : std::nullopt;
}

}  // namespace

std::optional<std::vector<ByteRange>> joinPlain(CardView& card, std::vector<ByteRange> front,
                                                const PlainSamples& samples, const ClipPool& pool,
                                                std::chrono::milliseconds time, const Control& control) {
    return PlainJoiner(card, std::move(front), samples, pool, time, control).join();
}

}  // namespace dreskel::rebuild
