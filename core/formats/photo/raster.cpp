#include "formats/photo/raster.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "base/words.h"
#include "formats/apart.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kShortestRow = 256, kLongestRow = 256 << 10;  // bytes
constexpr std::size_t kMostLooked = 8192;                             // bytes behind a border
constexpr std::size_t kToTellPhase = 2048;                            // bytes
constexpr std::size_t kLeastLooked = 4 * Apart::kTogether;
// Of all values that samples can have, so far apart from one to the next are only those of coded data.
constexpr double kNoiseAlong = 0.1;
// For files that seem whole: how badly samples must follow to contradict that, what makes it worth a look,
// the least noise that there must be, and what is left out at the edges.
constexpr double kContradicts = 8, kSudden = 5, kLeastNoise = 1;
constexpr std::uint64_t kEdgeRows = 64, kEdgeOfRow = 16;
constexpr double kNotAtAll = 1000;  // how badly such go together with others

struct Unit {
    std::size_t bytes, samples;
    unsigned bits;  // of a sample
};

Unit unitOf(Raster::Packing packing) {
    switch (packing) {
        case Raster::Packing::OneByte: break;
        case Raster::Packing::LittleWords:
        case Raster::Packing::BigWords: return {2, 1, 16};
        case Raster::Packing::Tens: return {5, 4, 10};
        case Raster::Packing::Twelves: return {3, 2, 12};
        case Raster::Packing::Fourteens: return {7, 4, 14};
        case Raster::Packing::Sixteens: return {16, 16, 11};
    }
    return {1, 1, 8};
}

// From the highest bit of the first byte on.
void unpack(Bytes unit, unsigned bits, std::vector<std::int32_t>& into) {
    std::uint64_t all = 0;
    for (const auto byte : unit) all = all << 8 | byte;
    for (auto left = static_cast<unsigned>(unit.size() * 8); left >= bits; left -= bits)
        into.push_back(static_cast<std::int32_t>(all >> (left - bits) & ((1U << bits) - 1)));
}

// Sony's: the largest and the smallest, 11 bits each, where they are, and what the others are above the
// smallest, 7 bits each and shifted as far as it takes (as LibRaw reads them).
void unpackSixteen(Bytes unit, std::vector<std::int32_t>& into) {
    const auto word = ByteReader(unit, Endian::Little).u32();
    const auto most = static_cast<std::int32_t>(word & 0x7ff),
               least = static_cast<std::int32_t>(word >> 11 & 0x7ff);
    const auto mostAt = word >> 22 & 15, leastAt = word >> 26 & 15;
    int shift = 0;
    while (shift < 4 && 0x80 << shift <= most - least) ++shift;
    for (std::uint32_t i = 0, bit = 30; i < 16; ++i) {
        if (i == mostAt || i == leastAt) {
            into.push_back(i == mostAt ? most : least);
            continue;
        }
        const auto two =
            static_cast<unsigned>(unit[bit / 8] | (bit / 8 + 1 < unit.size() ? unit[bit / 8 + 1] << 8 : 0));
        into.push_back(std::min(0x7ff, static_cast<int>(two >> bit % 8 & 0x7f) << shift) + least);
        bit += 7;
    }
}

std::vector<std::int32_t> samplesIn(Bytes bytes, Raster::Packing packing) {
    const auto unit = unitOf(packing);
    std::vector<std::int32_t> into;
    into.reserve(bytes.size() / unit.bytes * unit.samples);
    for (; bytes.size() >= unit.bytes; bytes = bytes.subspan(unit.bytes)) {
        const auto one = bytes.first(unit.bytes);
        switch (packing) {
            case Raster::Packing::OneByte: into.push_back(one[0]); break;
            case Raster::Packing::LittleWords: into.push_back(one[0] | one[1] << 8); break;
            case Raster::Packing::BigWords: into.push_back(one[0] << 8 | one[1]); break;
            case Raster::Packing::Tens: unpack(one, 10, into); break;
            case Raster::Packing::Twelves: unpack(one, 12, into); break;
            case Raster::Packing::Fourteens: unpack(one, 14, into); break;
            case Raster::Packing::Sixteens: unpackSixteen(one, into); break;
        }
    }
    return into;
}

using Samples = std::span<const std::int32_t>;

Apart apart(Samples a, Samples b) {
    std::vector<std::int32_t> differences(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) differences[i] = a[i] - b[i];
    return Apart::of(differences);
}

class RasterSamples : public PlainSamples {
  public:
    RasterSamples(const Raster& raster, std::uint64_t fileLength)
        : PlainSamples(raster.range, fileLength, {2.6, 3, 8}),
          raster_(raster),
          unit_(unitOf(raster.packing)),
          down_(static_cast<std::size_t>(raster.rowBytes) * raster.alike / unit_.bytes * unit_.samples),
          looked_(static_cast<std::size_t>(std::min<std::uint64_t>(raster.rowBytes, kMostLooked)) /
                  unit_.bytes * unit_.samples) {}

    std::size_t before() const override { return bytesOf(2 * down_ + looked_) + 2 * unit_.bytes; }
    std::size_t behind() const override { return bytesOf(down_ + looked_) + 2 * unit_.bytes; }
    std::size_t unit() const override { return unit_.bytes; }
    std::optional<Seam> seam(Bytes before, Bytes behind, std::size_t phase) const override;
    std::optional<Seam> smoothestSeam(Bytes before, Bytes behind) const override;
    // Whether what stands behind the border at this place in the file is certainly none of it; and, for next
    // to nothing, whether that is worth asking.
    bool contradicts(Bytes before, Bytes behind, std::uint64_t position) const;
    bool isSuspect(Bytes before, Bytes behind, std::uint64_t position) const;
    std::unique_ptr<SamplesCheck> check() const override;
    // What others lie in has two ends mostly; something drawn may look so once.
    int contradictionsNeeded() const { return raster_.alike > 1 ? 1 : 2; }
    const char* goesOn() const override {
        return "the rows go on over the border, and the pieces are as long as the picture is together";
    }
    const char* unproven() const override {
        return "put together by its rows; nothing in its coding proves that";
    }

  private:
    std::size_t bytesOf(std::size_t samples) const { return samples / unit_.samples * unit_.bytes; }
    double along(Samples samples) const {
        const auto step = raster_.besides;
        return samples.size() <= step
                   ? 1
                   : apart(samples.subspan(step), samples.first(samples.size() - step)).single;
    }

    struct Compared {
        Seam seam;
        double noise = 0;  // how far samples are from those above them, one by one, where nothing ends
    };
    std::optional<Compared> compare(Bytes before, Bytes behind, std::size_t phase) const;
    bool looksSudden(Bytes before, Bytes behind, std::size_t phase) const;
    std::size_t phaseAt(std::uint64_t position) const {
        return static_cast<std::size_t>((position - range().offset) % unit_.bytes);
    }
    bool isNoise(double along) const { return along > kNoiseAlong * (1U << unit_.bits); }

    Raster raster_;
    Unit unit_;
    std::size_t down_, looked_;  // samples: to the one below of the same colour; looked at
};

std::optional<Seam> RasterSamples::seam(Bytes before, Bytes behind, std::size_t phase) const {
    const auto compared = compare(before, behind, phase);
    return compared ? std::optional(compared->seam) : std::nullopt;
}

// Edges of things begin anywhere, but not all of a sudden both along a row and down. What is drawn has no
// noise, and sensors have rows at their edges that see no light.
bool RasterSamples::contradicts(Bytes before, Bytes behind, std::uint64_t position) const {
    const auto compared = compare(before, behind, phaseAt(position));
    return compared && compared->noise > kLeastNoise && compared->seam.jump > kContradicts;
}

bool RasterSamples::isSuspect(Bytes before, Bytes behind, std::uint64_t position) const {
    const auto in = position - range().offset, column = in % raster_.rowBytes;
    const auto aside = kEdgeRows * raster_.rowBytes, edge = raster_.rowBytes / kEdgeOfRow;
    return in >= aside && range().end() - position >= aside && column >= edge &&
           column <= raster_.rowBytes - edge && looksSudden(before, behind, phaseAt(position));
}

// By a few samples on each side.
bool RasterSamples::looksSudden(Bytes before, Bytes behind, std::size_t phase) const {
    const auto few = 4 * Apart::kTogether / unit_.samples * unit_.bytes, down = bytesOf(down_);
    const auto cut = phase == 0 ? 0 : unit_.bytes - phase;
    if (before.size() < phase + down + few || behind.size() < cut + few) return false;
    const auto wholeBefore = before.first(before.size() - phase);
    const auto samples = [&](Bytes bytes) { return samplesIn(bytes.first(few), raster_.packing); };
    const auto at = apart(samples(behind.subspan(cut)), samples(before.subspan(before.size() + cut - down)));
    const auto beside =
        apart(samples(wholeBefore.last(few)), samples(wholeBefore.subspan(wholeBefore.size() - down - few)));
    return at / beside > kSudden;
}

auto RasterSamples::compare(Bytes before, Bytes behind, std::size_t phase) const -> std::optional<Compared> {
    if (before.size() < phase) return std::nullopt;
    before = before.first(before.size() - phase);
    before = before.last(std::min(before.size(), this->before()) / unit_.bytes * unit_.bytes);
    const auto odd = phase == 0 ? 0 : unit_.bytes - phase;
    const auto above = samplesIn(before, raster_.packing);
    const auto all = samplesIn(slice(behind, odd, this->behind()), raster_.packing);
    // The unit that the border cuts through belongs to neither.
    const auto cut = phase == 0 ? 0 : unit_.samples;
    const auto looked = std::min({looked_, all.size(), down_ - cut});
    if (looked < kLeastLooked || above.size() < 2 * down_ + looked) return std::nullopt;
    const Samples front(above), back(all);
    const auto behindIt = back.first(looked), beforeIt = front.last(looked);
    const auto aboveIt = front.subspan(front.size() + cut - down_, looked);
    const auto at = apart(behindIt, aboveIt);
    // Beside the border, and above it, where the same things are.
    const auto beside = apart(beforeIt, front.subspan(front.size() - down_ - looked, looked));
    const auto over = apart(aboveIt, front.subspan(front.size() + cut - 2 * down_, looked));
    const auto usual = Apart::mostOf(beside, over);
    Compared compared;
    auto& seam = compared.seam;
    compared.noise = std::min(beside.single, over.single);
    seam.roughness = along(behindIt);
    seam.jump = seam.mismatch = at / usual;
    if (const auto further = back.size() - std::min(back.size(), down_); further >= kLeastLooked) {
        const auto count = std::min(looked, further);
        const auto usualBehind = apart(back.subspan(down_, count), back.first(count));
        seam.jump = std::sqrt(seam.jump * (at / usualBehind));
    }
    if (isNoise(along(beforeIt)) != isNoise(seam.roughness)) seam.jump = seam.mismatch = kNotAtAll;
    return compared;
}

// Only what is behind the border tells: what is before it may be anything.
std::optional<Seam> RasterSamples::smoothestSeam(Bytes before, Bytes behind) const {
    std::size_t smoothest = 0;
    double least = HUGE_VAL;
    for (std::size_t phase = 0; phase < unit_.bytes; ++phase) {
        const auto some =
            samplesIn(slice(behind, (unit_.bytes - phase) % unit_.bytes, kToTellPhase), raster_.packing);
        const auto rough = along(some);
        if (rough >= least) continue;
        least = rough;
        smoothest = phase;
    }
    return seam(before, behind, smoothest);
}

class RasterCheck : public SamplesCheck {
  public:
    explicit RasterCheck(const RasterSamples& samples)
        : samples_(samples), at_(samples.range().offset), next_((at_ / kBlock + 1) * kBlock) {}
    void feed(Bytes bytes) override {
        window_.insert(window_.end(), bytes.begin(), bytes.end());
        while (at_ + window_.size() >= next_ + samples_.behind()) look();
        if (const auto spare = spareBytes(); spare > kPortion) {
            window_.erase(window_.begin(), window_.begin() + static_cast<std::ptrdiff_t>(spare));
            at_ += spare;
        }
    }
    std::string finish() override {
        while (at_ + window_.size() > next_) look();
        if (contradictions_ < samples_.contradictionsNeeded()) return {};
        return "what is at byte " + grouped(*strange_) + " does not go on from what is above it";
    }

  private:
    static constexpr std::uint64_t kBlock = 4096;     // the smallest usual cluster
    static constexpr std::size_t kPortion = 1 << 20;  // let go at a time
    static constexpr int kMostLookedAt = 4096;        // borders that are suspect

    std::size_t front() const { return samples_.before() + samples_.unit(); }
    std::size_t spareBytes() const {
        const auto ahead = static_cast<std::size_t>(next_ - at_);
        return ahead - std::min(ahead, front());
    }
    void look() {
        const auto border = static_cast<std::size_t>(next_ - at_), some = std::min(border, front());
        const auto before = slice(window_, border - some, some),
                   behind = slice(window_, border, samples_.behind());
        const bool asks = contradictions_ < samples_.contradictionsNeeded() && looked_ < kMostLookedAt;
        if (asks && samples_.isSuspect(before, behind, next_)) {
            ++looked_;
            if (samples_.contradicts(before, behind, next_)) {
                if (!strange_) strange_ = next_;
                ++contradictions_;
            }
        }
        next_ += kBlock;
    }

    const RasterSamples& samples_;
    std::vector<std::uint8_t> window_;
    std::uint64_t at_, next_;  // in the file: of the window, and of the border that is looked at next
    std::optional<std::uint64_t> strange_;
    int contradictions_ = 0, looked_ = 0;
};

std::unique_ptr<SamplesCheck> RasterSamples::check() const {
    return std::make_unique<RasterCheck>(*this);
}

}  // namespace

std::shared_ptr<const PlainSamples> samplesOf(const Raster& raster, std::uint64_t fileLength) {
    const auto unit = unitOf(raster.packing);
    const bool fits = raster.rowBytes >= kShortestRow && raster.rowBytes <= kLongestRow &&
                      raster.rowBytes % unit.bytes == 0 && raster.alike > 0;
    return fits ? std::make_shared<RasterSamples>(raster, fileLength) : nullptr;
}

}  // namespace dreskel
