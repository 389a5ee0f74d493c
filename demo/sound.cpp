#include <algorithm>
#include <array>
#include <cmath>

#include "demo/encode_clip.h"
#include "demo/noise.h"

namespace dreskel::demo {
namespace {

constexpr float kPi = 3.14159265F;

class Random {
  public:
    explicit Random(std::uint32_t seed) : state_(seed * 747796405U + 2891336453U) {}
    float next() {  // -1 to 1
        state_ = state_ * 1664525U + 1013904223U;
        return static_cast<float>(static_cast<std::int32_t>(state_)) / 2147483648.0F;
    }

  private:
    std::uint32_t state_;
};

// A resonance, as of the mouth.
class Resonator {
  public:
    void tune(float frequency, float width, float rate) {
        const float r = std::exp(-kPi * width / rate);
        a1_ = 2 * r * std::cos(2 * kPi * frequency / rate);
        a2_ = -r * r;
        gain_ = 1 - r;
    }
    float pass(float in) {
        const float out = gain_ * in + a1_ * last_ + a2_ * before_;
        before_ = last_;
        last_ = out;
        return out;
    }

  private:
    float a1_ = 0, a2_ = 0, gain_ = 1, last_ = 0, before_ = 0;
};

}  // namespace

std::vector<float> speech(std::uint32_t seed, double seconds, int rate) {
    const auto count = static_cast<std::size_t>(seconds * rate);
    std::vector<float> out(count);
    Random random(seed);
    std::array<Resonator, 3> mouth;
    constexpr std::array<std::array<float, 3>, 6> kVowels{{{730, 1090, 2440},
                                                           {530, 1840, 2480},
                                                           {270, 2290, 3010},
                                                           {570, 840, 2410},
                                                           {300, 870, 2240},
                                                           {490, 1350, 1690}}};
    std::size_t at = 0;
    float phase = 0;
    while (at < count) {
        // A phrase of syllables, then a breath.
        const int syllables = 4 + static_cast<int>((random.next() + 1) * 6);
        for (int s = 0; s < syllables && at < count; ++s) {
            const auto& vowel = kVowels[static_cast<std::size_t>((random.next() + 1) * 2.999F)];
            for (std::size_t i = 0; i < 3; ++i)
                mouth[i].tune(vowel[i], 60 + 40 * static_cast<float>(i), static_cast<float>(rate));
            const auto length =
                static_cast<std::size_t>((0.10F + 0.07F * (random.next() + 1)) * static_cast<float>(rate));
            const float loud = 0.55F + 0.3F * random.next();
            const float pitch =
                105 + 14 * random.next() - 10 * static_cast<float>(s) / static_cast<float>(syllables);
            const bool hiss = random.next() > 0.3F;
            for (std::size_t i = 0; i < length && at < count; ++i, ++at) {
                const float t = static_cast<float>(i) / static_cast<float>(length);
                const float rise = std::min(1.0F, std::min(t * 7, (1 - t) * 4));
                phase += pitch / static_cast<float>(rate);
                if (phase > 1) phase -= 1;
                const float voice = phase < 0.1F ? 1.0F - phase * 10 : -0.11F;
                const float breath = random.next() * (hiss && t < 0.25F ? 0.5F : 0.03F);
                float sum = 0;
                for (auto& part : mouth) sum += part.pass(voice + breath);
                out[at] = sum * rise * loud;
            }
        }
        at += static_cast<std::size_t>((0.25F + 0.25F * (random.next() + 1)) * static_cast<float>(rate));
    }
    float loudest = 0.01F;
    for (const float sample : out) loudest = std::max(loudest, std::abs(sample));
    for (auto& sample : out) sample *= 0.62F / loudest;
    // The room, and the water outside it.
    float low = 0;
    for (auto& sample : out) {
        low = 0.97F * low + 0.03F * random.next();
        sample = std::clamp(sample + low * 0.05F + random.next() * 0.0015F, -0.98F, 0.98F);
    }
    return out;
}

std::vector<float> waterAndWheel(std::uint32_t seed, double seconds, int rate) {
    std::vector<float> out(static_cast<std::size_t>(seconds * rate));
    Random random(seed);
    Resonator rush;
    Resonator creak;
    rush.tune(620, 500, static_cast<float>(rate));
    creak.tune(210, 12, static_cast<float>(rate));
    for (std::size_t i = 0; i < out.size(); ++i) {
        const float t = static_cast<float>(i) / static_cast<float>(rate);
        const float swell = 0.7F + 0.3F * std::sin(t * 2.1F);
        const bool knock = i % static_cast<std::size_t>(rate * 4 / 5) < 30;
        out[i] = std::clamp(rush.pass(random.next()) * 0.5F * swell + creak.pass(knock ? 1.0F : 0.0F) * 3.0F +
                                random.next() * 0.01F,
                            -0.98F, 0.98F);
    }
    return out;
}

std::vector<std::uint8_t> encodeNote(const NotePlan& plan) {
    constexpr int kRate = 48000;
    const auto samples = speech(plan.seed, plan.seconds, kRate);
    std::vector<std::uint8_t> bytes;
    const auto text = [&](const std::string& value, std::size_t length) {
        for (std::size_t i = 0; i < length; ++i)
            bytes.push_back(i < value.size() ? static_cast<std::uint8_t>(value[i]) : 0);
    };
    const auto number = [&](std::uint64_t value, int count) {
        for (int i = 0; i < count; ++i) bytes.push_back(static_cast<std::uint8_t>(value >> (8 * i)));
    };
    constexpr std::uint32_t kBext = 602;
    const auto data = samples.size() * 2;
    text("RIFF", 4);
    number(4 + 8 + kBext + 8 + 16 + 8 + data, 4);
    text("WAVEbext", 8);
    number(kBext, 4);
    text("Site note, tidal mill", 256);
    text(plan.recorder, 32);
    text("", 32);
    text(plan.date, 10);
    text(plan.time, 8);
    number(0, 8);
    number(1, 2);
    text("", kBext - 348);
    text("fmt ", 4);
    number(16, 4);
    number(1, 2);
    number(1, 2);
    number(kRate, 4);
    number(kRate * 2, 4);
    number(2, 2);
    number(16, 2);
    text("data", 4);
    number(data, 4);
    for (const float sample : samples) {
        number(static_cast<std::uint16_t>(static_cast<std::int16_t>(std::lround(sample * 32000))), 2);
    }
    return bytes;
}

}  // namespace dreskel::demo
