#include "formats/sound/alac.h"

#include <algorithm>
#include <array>
#include <bit>

#include "formats/clip/nal_bits.h"

namespace dreskel::alac {
namespace {

constexpr const char* kImpossible = "its coded sound is none";
constexpr const char* kEndsEarly = "its coded sound ends before the packet does";

enum Element : std::uint32_t { kOne = 0, kPair = 1, kLow = 3, kData = 4, kFill = 6, kEnd = 7 };

// A channel's adaptive Golomb codes.
class Residuals {
  public:
    Residuals(NalBits& bits, const Settings& settings, unsigned factor)
        : bits_(bits), settings_(settings), speed_(std::uint32_t{settings.history} * factor / 4) {}

    bool pass(std::uint32_t count, unsigned sampleBits) {
        std::uint32_t mean = settings_.initialHistory;
        bool behindZeros = false;
        for (std::uint32_t done = 0; done < count;) {
            if (!bits_.ok()) return false;
            const auto k = std::min<unsigned>(width((mean >> 9) + 3) - 1, settings_.limit);
            const auto value = large(k, sampleBits);
            ++done;
            mean += speed_ * (value + (behindZeros ? 1U : 0U)) - (speed_ * mean >> 9);
            if (value > 0xffff) mean = 0xffff;
            behindZeros = false;
            if (mean << 2 >= 512 || done >= count) continue;
            const auto zerosWidth = 8 - width(mean) + ((mean + 16) >> 6);
            const auto zeros = small(zerosWidth, ((1U << zerosWidth) - 1) & ((1U << settings_.limit) - 1));
            if (zeros > count - done) return false;
            done += zeros;
            behindZeros = zeros < 0xffff;
            mean = 0;
        }
        return bits_.ok();
    }

  private:
    static constexpr unsigned kLongestPrefix = 9;

    // Bits up to the highest one.
    static unsigned width(std::uint32_t value) { return static_cast<unsigned>(std::bit_width(value)); }
    unsigned prefix() {
        unsigned ones = 0;
        while (ones < kLongestPrefix && bits_.flag()) ++ones;
        return ones;
    }
    std::uint32_t large(unsigned k, unsigned sampleBits) {
        const auto ones = prefix();
        if (ones == kLongestPrefix) return bits_.u(sampleBits);
        return behind(ones, k, (1U << k) - 1);
    }
    std::uint32_t small(unsigned k, std::uint32_t step) {
        const auto ones = prefix();
        return ones == kLongestPrefix ? bits_.u(16) : behind(ones, k, step);
    }
    // Of what is behind the prefix none and one have a bit less than others.
    std::uint32_t behind(unsigned ones, unsigned k, std::uint32_t step) {
        if (k <= 1) return ones * step;
        const auto high = bits_.u(k - 1);
        if (high == 0) return ones * step;
        return ones * step + (high << 1 | (bits_.flag() ? 1U : 0U)) - 1;
    }

    NalBits& bits_;
    const Settings& settings_;
    std::uint32_t speed_;
};

class Packet {
  public:
    Packet(Bytes packet, const Settings& settings)
        : bits_(packet), length_(packet.size()), settings_(settings) {}
    const char* follow();

  private:
    bool passSound(unsigned channels);
    bool passData(bool aligned);

    NalBits bits_;
    std::size_t length_;
    const Settings& settings_;
};

bool Packet::passSound(unsigned channels) {
    bits_.u(4);
    if (bits_.u(12) != 0) return false;
    const bool shorter = bits_.flag();
    const auto shifted = bits_.u(2) * 8;
    const bool plain = bits_.flag();
    const auto count = shorter ? bits_.u(32) : settings_.frames;
    if (count > settings_.frames || shifted >= settings_.bits) return false;
    if (plain) {
        bits_.skip(std::size_t{count} * channels * settings_.bits);
        return bits_.ok();
    }
    bits_.u(16);  // how the two are mixed
    std::array<unsigned, 2> factors{};
    for (unsigned channel = 0; channel < channels; ++channel) {
        bits_.u(8);
        factors[channel] = bits_.u(3);
        bits_.skip(std::size_t{bits_.u(5)} * 16);
    }
    bits_.skip(std::size_t{count} * channels * shifted);
    const auto sampleBits = settings_.bits - shifted + (channels == 2 ? 1 : 0);
    for (unsigned channel = 0; channel < channels; ++channel) {
        if (!Residuals(bits_, settings_, factors[channel]).pass(count, sampleBits)) return false;
    }
    return true;
}

bool Packet::passData(bool aligned) {
    auto count = aligned ? bits_.u(8) : bits_.u(4);
    if (aligned && count == 255) count += bits_.u(8);
    if (!aligned && count == 15) count += bits_.u(8) - 1;
    if (aligned) bits_.skip((8 - bits_.position() % 8) % 8);
    bits_.skip(std::size_t{count} * 8);
    return bits_.ok();
}

const char* Packet::follow() {
    for (;;) {
        const auto element = bits_.u(3);
        if (!bits_.ok()) return kImpossible;
        if (element == kEnd) break;
        bool fine = false;
        switch (element) {
            case kOne:
            case kLow: fine = passSound(1); break;
            case kPair: fine = passSound(2); break;
            case kData:
                bits_.u(4);
                fine = passData(bits_.flag());
                break;
            case kFill: fine = passData(false); break;
            default: break;
        }
        if (!fine) return kImpossible;
    }
    const auto filling = static_cast<unsigned>((8 - bits_.position() % 8) % 8);
    if (bits_.u(filling) != 0 || bits_.position() != length_ * 8) return kEndsEarly;
    return nullptr;
}

}  // namespace

std::optional<Settings> readSettings(Bytes bytes) {
    constexpr std::size_t kAtom = 12, kLength = 24;
    if (startsWith(slice(bytes, 4, 4), "alac")) bytes = bytes.subspan(std::min(bytes.size(), kAtom));
    ByteReader reader(slice(bytes, 0, kLength));
    Settings settings;
    settings.frames = reader.u32();
    reader.skip(1);
    settings.bits = reader.u8();
    settings.history = reader.u8();
    settings.initialHistory = reader.u8();
    settings.limit = reader.u8();
    settings.channels = reader.u8();
    const bool fine = reader.ok() && settings.frames > 0 && settings.frames <= 1U << 16 &&
                      settings.bits >= 16 && settings.bits <= 32 && settings.limit <= 24 &&
                      settings.channels <= 8;
    return fine ? std::optional(settings) : std::nullopt;
}

const char* followPacket(Bytes packet, const Settings& settings) {
    return Packet(packet, settings).follow();
}

}  // namespace dreskel::alac
