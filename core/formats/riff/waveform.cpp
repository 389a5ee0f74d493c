#include "formats/riff/waveform.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <span>

#include "base/words.h"

namespace dreskel::riff {
namespace {

constexpr std::size_t kFrames = 400;  // looked at on each side
constexpr std::size_t kLeastWaveformFrames = 64;
constexpr std::size_t kOrder = 16;
constexpr double kAlike = 4;             // how many times rougher one side may be than the other
constexpr std::size_t kAtTheBorder = 3;  // frames that a jump shows in when the next is foretold from two

// A sample of `width` bytes, of full scale.
template <unsigned width, bool bigEndian>
double wholeNumber(const std::uint8_t* at) {
    std::uint32_t value = 0;
    for (unsigned i = 0; i < width; ++i)
        value |= static_cast<std::uint32_t>(at[bigEndian ? width - 1 - i : i]) << (8 * (i + 4 - width));
    return static_cast<double>(static_cast<std::int32_t>(value)) / 2147483648.0;
}

template <bool bigEndian>
double floating(const std::uint8_t* at) {
    std::uint32_t bits = 0;
    for (unsigned i = 0; i < 4; ++i) bits |= static_cast<std::uint32_t>(at[bigEndian ? 3 - i : i]) << (8 * i);
    const auto value = std::bit_cast<float>(bits);
    return std::isfinite(value) && std::abs(value) < 1000 ? static_cast<double>(value) : 1000.0;
}

template <bool bigEndian, class Use>
auto withWordsOf(const PcmCheck::Layout& layout, const Use& use) {
    switch (layout.bytesPerSample) {
        case 2: return use(wholeNumber<2, bigEndian>);
        case 3: return use(wholeNumber<3, bigEndian>);
        default: return layout.floating ? use(floating<bigEndian>) : use(wholeNumber<4, bigEndian>);
    }
}

// What `use` gives for the function that reads a sample of this layout: chosen once, not for each sample.
template <class Use>
auto withSamplesOf(const PcmCheck::Layout& layout, const Use& use) {
    if (layout.bytesPerSample == 1 && layout.signedBytes)
        return use([](const std::uint8_t* at) { return static_cast<double>((*at ^ 0x80) - 128) / 128; });
    if (layout.bytesPerSample == 1)
        return use([](const std::uint8_t* at) { return (static_cast<double>(*at) - 128) / 128; });
    return layout.bigEndian ? withWordsOf<true>(layout, use) : withWordsOf<false>(layout, use);
}

std::vector<double> channelOf(Bytes bytes, unsigned number, const PcmCheck::Layout& layout) {
    const auto frame = std::size_t{layout.bytesPerSample} * layout.channels;
    std::vector<double> values(bytes.size() / frame);
    withSamplesOf(layout, [&](auto sampleAt) {
        for (std::size_t i = 0; i < values.size(); ++i)
            values[i] = sampleAt(&bytes[i * frame + number * layout.bytesPerSample]);
    });
    return values;
}

// The frames round the border, and which of them is the first that is not wholly before it.
struct Neighbourhood {
    std::vector<std::uint8_t> bytes;
    std::size_t frame = 0, frames = 0, border = 0;

    std::vector<double> channel(unsigned number, const PcmCheck::Layout& layout) const {
        return channelOf(bytes, number, layout);
    }
};

std::optional<Neighbourhood> neighbourhoodOf(Bytes before, Bytes behind, const PcmCheck::Layout& layout,
                                             std::size_t phase) {
    Neighbourhood around;
    const auto frame = around.frame = std::size_t{layout.bytesPerSample} * layout.channels;
    if (frame == 0 || phase >= frame || before.size() < phase) return std::nullopt;
    before = before.last(std::min(before.size(), kFrames * frame + phase));
    behind = behind.first(std::min(behind.size(), kFrames * frame + (frame - phase) % frame));
    const auto odd = (before.size() - phase) % frame;
    around.bytes.assign(before.begin() + static_cast<std::ptrdiff_t>(odd), before.end());
    around.border = around.bytes.size() / frame;
    around.bytes.insert(around.bytes.end(), behind.begin(), behind.end());
    around.frames = around.bytes.size() / frame;
    if (around.border < kLeastWaveformFrames || around.frames < around.border + kLeastWaveformFrames)
        return std::nullopt;
    return around;
}

// How far a sample is from where the two before it lead.
double bend(double first, double second, double sample) {
    return std::abs(sample - 2 * second + first);
}

// What quantising does, and dither, of full scale.
double leastOf(const PcmCheck::Layout& layout) {
    return layout.bytesPerSample == 1 ? 4.0 / 128 : 2.0 / 32768;
}

// Burg, J. P.: "Maximum Entropy Spectral Analysis" (1975): how each sample is foretold from kOrder before it.
std::vector<double> predictorOf(std::span<const double> values) {
    std::vector<double> forward(values.begin(), values.end()), backward = forward;
    std::vector<double> predictor{1};
    for (std::size_t order = 1; order <= kOrder; ++order) {
        double cross = 0, power = 1e-18;
        for (std::size_t i = order; i < values.size(); ++i) {
            cross += forward[i] * backward[i - 1];
            power += forward[i] * forward[i] + backward[i - 1] * backward[i - 1];
        }
        const double reflection = -2 * cross / power;
        predictor.push_back(0);
        auto turned = predictor;
        std::reverse(turned.begin(), turned.end());
        for (std::size_t i = 0; i < predictor.size(); ++i) predictor[i] += reflection * turned[i];
        for (std::size_t i = values.size() - 1; i >= order; --i) {
            const double ahead = forward[i], behind = backward[i - 1];
            forward[i] = ahead + reflection * behind;
            backward[i] = behind + reflection * ahead;
        }
    }
    return predictor;
}

// Mean square of what was not foretold of these samples.
double missed(std::span<const double> values, const std::vector<double>& predictor, std::size_t from,
              std::size_t to) {
    double sum = 0;
    for (auto i = from; i < to; ++i) {
        double off = 0;
        for (std::size_t k = 0; k < predictor.size(); ++k) off += predictor[k] * values[i - k];
        sum += off * off;
    }
    return sum / static_cast<double>(to - from);
}

class SoundCheck : public SamplesCheck {
  public:
    SoundCheck(const PcmCheck::Layout& layout, std::uint64_t at) : check_(layout, at) {}
    void feed(Bytes bytes) override { check_.feed(bytes); }
    std::string finish() override {
        check_.finish();
        if (const auto at = check_.foreignAt())
            return "from byte " + grouped(*at) + " on there are data that cannot be this recording";
        if (const auto at = check_.jumpsAt())
            return "at byte " + grouped(*at) +
                   " the sound jumps: what is there may belong to another recording";
        return {};
    }

  private:
    PcmCheck check_;
};

class SoundSamples : public PlainSamples {
  public:
    SoundSamples(const PcmCheck::Layout& layout, ByteRange range, std::uint64_t fileLength, bool looked)
        : PlainSamples(range, fileLength, {2.4, 2.3, 4}), layout_(layout), looked_(looked) {}
    std::unique_ptr<SamplesCheck> check() const override {
        return looked_ ? nullptr : std::make_unique<SoundCheck>(layout_, range().offset);
    }
    std::size_t before() const override { return kLooked; }
    std::size_t behind() const override { return kLooked; }
    std::size_t unit() const override { return std::size_t{layout_.bytesPerSample} * layout_.channels; }
    std::optional<Seam> seam(Bytes before, Bytes behind, std::size_t phase) const override {
        return seamOf(before, behind, layout_, phase);
    }
    std::optional<Seam> smoothestSeam(Bytes before, Bytes behind) const override {
        std::optional<Seam> smoothest;
        for (std::size_t phase = 0; phase < unit(); ++phase) {
            const auto found = seam(before, behind, phase);
            if (found && (!smoothest || found->roughness < smoothest->roughness)) smoothest = found;
        }
        return smoothest;
    }
    const char* goesOn() const override {
        return "the waveform goes on over the border, and the pieces are as long as the recording is "
               "together";
    }
    const char* unproven() const override {
        return "put together by its waveform; nothing in its coding proves that";
    }

  private:
    static constexpr std::size_t kLooked = 4096;
    PcmCheck::Layout layout_;
    bool looked_;
};

struct Foretold {
    double off = 0, usual = 0;  // at the border; before it
};

Foretold foretell(std::span<const double> values, std::size_t border) {
    const auto predictor = predictorOf(values.first(border));
    return {std::sqrt(missed(values, predictor, border, border + kOrder)),
            std::sqrt(missed(values, predictor, kOrder, border))};
}

}  // namespace

std::optional<Seam> seamOf(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase) {
    const auto around = neighbourhoodOf(before, behind, layout, phase);
    if (!around) return std::nullopt;
    const double least = leastOf(layout);
    Seam seam;
    bool heard = false;
    for (unsigned channel = 0; channel < layout.channels; ++channel) {
        auto values = around->channel(channel, layout);
        heard = heard || std::any_of(values.begin(), values.end(),
                                     [&](double value) { return std::abs(value) > 4 * least; });
        const auto ahead = foretell(values, around->border);
        std::reverse(values.begin(), values.end());
        // The frame that the border cuts through belongs to neither side.
        const auto back = foretell(values, around->frames - around->border - (phase > 0 ? 1 : 0));
        const double one = ahead.off / std::max(ahead.usual, least),
                     other = back.off / std::max(back.usual, least);
        const double rougher = std::max(ahead.usual, least) / std::max(back.usual, least);
        // Noise foretells everything as well as itself.
        const bool alike = rougher < kAlike && rougher > 1 / kAlike;
        seam.jump = std::max(seam.jump, alike ? std::min(one, other) : std::max(one, other));
        seam.mismatch = std::max(seam.mismatch, std::max(one, other));
        seam.roughness = std::max(seam.roughness, back.usual);
    }
    return heard ? std::optional(seam) : std::nullopt;
}

double suddenness(Bytes before, Bytes behind, const PcmCheck::Layout& layout, std::size_t phase) {
    const auto around = neighbourhoodOf(before, behind, layout, phase);
    if (!around) return 0;
    const auto jumpEnds = std::min(around->frames, around->border + kAtTheBorder);
    return withSamplesOf(layout, [&](auto sampleAt) {
        double most = 0;
        for (unsigned channel = 0; channel < layout.channels; ++channel) {
            const auto bendAt = [&](std::size_t i) {
                const auto* at = &around->bytes[(i - 2) * around->frame + channel * layout.bytesPerSample];
                return bend(sampleAt(at), sampleAt(at + around->frame), sampleAt(at + 2 * around->frame));
            };
            double jump = 0, ahead = 0, after = 0;
            for (auto i = around->border; i < jumpEnds; ++i) jump = std::max(jump, bendAt(i));
            // The quieter side counts: noise would hide any jump. Mostly the first few samples of either side
            // say that it is none.
            for (auto i = around->border; i-- > 2 && ahead < jump;) ahead = std::max(ahead, bendAt(i));
            for (auto i = jumpEnds; i < around->frames && after < jump; ++i)
                after = std::max(after, bendAt(i));
            if (ahead >= jump && after >= jump) continue;
            most = std::max(most, jump / std::max(std::min(ahead, after), leastOf(layout) / 4));
        }
        return most;
    });
}

std::shared_ptr<const PlainSamples> samplesOf(const PcmCheck::Layout& layout, ByteRange range,
                                              std::uint64_t fileLength, bool looked) {
    if (layout.channels == 0 || layout.bytesPerSample < 1 || layout.bytesPerSample > 4) return nullptr;
    return std::make_shared<SoundSamples>(layout, range, fileLength, looked);
}

double suddennessWithin(Bytes samples, const PcmCheck::Layout& layout) {
    const auto frame = std::size_t{layout.bytesPerSample} * layout.channels;
    const auto frames = samples.size() / frame;
    constexpr std::size_t kAside = 2 * kLeastWaveformFrames;
    if (frames < 3 * kAside) return 0;
    std::size_t at = 0;
    double most = 0;
    for (unsigned channel = 0; channel < layout.channels; ++channel) {
        const auto values = channelOf(samples, channel, layout);
        for (std::size_t i = kAside; i + kAside < frames; ++i) {
            const double now = bend(values[i - 2], values[i - 1], values[i]);
            if (now <= most) continue;
            most = now;
            at = i;
        }
    }
    if (at == 0) return 0;
    const auto border = (at - 1) * frame;  // a place that it may lie behind by one
    return suddenness(samples.first(border), samples.subspan(border), layout, 0);
}

}  // namespace dreskel::riff
