#include "formats/sound/flac_frame.h"

#include <array>
#include <bit>

namespace dreskel::sound {
namespace {

class BitReader {
  public:
    explicit BitReader(Bytes bytes) : bytes_(bytes) {}

    bool ok() const { return at_ <= bytes_.size() * 8; }
    std::size_t byte() const { return (at_ + 7) / 8; }
    void skip(std::uint64_t bits) { at_ = ok() ? at_ + static_cast<std::size_t>(bits) : at_; }
    std::uint32_t take(unsigned bits) {
        std::uint32_t value = 0;
        for (unsigned i = 0; i < bits; ++i, ++at_) {
            const auto byte = at_ / 8 < bytes_.size() ? bytes_[at_ / 8] : 0;
            value = value << 1 | (byte >> (7 - at_ % 8) & 1U);
        }
        return value;
    }
    // Zeros up to the next one, which is taken too.
    void unary() {
        while (at_ / 8 < bytes_.size()) {
            const auto rest = static_cast<std::uint8_t>(bytes_[at_ / 8] << at_ % 8);
            if (rest != 0) {
                at_ += static_cast<std::size_t>(std::countl_zero(rest)) + 1;
                return;
            }
            at_ = (at_ / 8 + 1) * 8;
        }
        at_ = bytes_.size() * 8 + 1;
    }

  private:
    Bytes bytes_;
    std::size_t at_ = 0;  // bits
};

std::uint8_t sum8(Bytes bytes) {
    std::uint8_t sum = 0;
    for (const auto byte : bytes) {
        sum = static_cast<std::uint8_t>(sum ^ byte);
        for (int bit = 0; bit < 8; ++bit)
            sum = static_cast<std::uint8_t>(sum << 1 ^ ((sum & 0x80U) != 0 ? 0x07 : 0));
    }
    return sum;
}

std::uint16_t sum16(Bytes bytes) {
    static const auto table = [] {
        std::array<std::uint16_t, 256> made{};
        for (unsigned i = 0; i < 256; ++i) {
            auto sum = static_cast<std::uint16_t>(i << 8);
            for (int bit = 0; bit < 8; ++bit)
                sum = static_cast<std::uint16_t>(sum << 1 ^ ((sum & 0x8000U) != 0 ? 0x8005 : 0));
            made[i] = sum;
        }
        return made;
    }();
    std::uint16_t sum = 0;
    for (const auto byte : bytes) sum = static_cast<std::uint16_t>(sum << 8 ^ table[sum >> 8 ^ byte]);
    return sum;
}

struct Header {
    std::uint32_t samples = 0, channels = 0, bits = 0;
    bool side = false;         // one of two channels is a difference, with a bit more
    unsigned sideChannel = 0;  // which one
};

// Section 9.1. Nothing when there is none; `bits` is left behind it.
std::optional<Header> readHeader(Bytes bytes, BitReader& bits, const FlacStream& stream) {
    if (bits.take(15) != 0x7ffc) return std::nullopt;
    bits.skip(1);
    const auto blocks = bits.take(4);
    const auto rate = bits.take(4);
    const auto layout = bits.take(4);
    const auto depth = bits.take(3);
    if (bits.take(1) != 0 || blocks == 0 || rate == 15 || layout > 10 || depth == 3) return std::nullopt;
    const auto lead = bits.take(8);
    const auto more = std::countl_one(static_cast<std::uint8_t>(lead));
    if (more == 1 || more == 8) return std::nullopt;
    for (int i = 1; i < more; ++i) {
        if (bits.take(8) >> 6 != 2) return std::nullopt;
    }
    Header header;
    if (blocks == 1) {
        header.samples = 192;
    } else if (blocks <= 5) {
        header.samples = 144U << blocks;
    } else if (blocks == 6) {
        header.samples = bits.take(8) + 1;
    } else if (blocks == 7) {
        header.samples = bits.take(16) + 1;
    } else {
        header.samples = 1U << blocks;
    }
    if (rate == 12) bits.skip(8);
    if (rate > 12) bits.skip(16);
    constexpr std::array<std::uint32_t, 8> depths{0, 8, 12, 0, 16, 20, 24, 32};
    header.channels = layout < 8 ? layout + 1 : 2;
    header.side = layout >= 8;
    header.sideChannel = layout == 9 ? 0 : 1;
    header.bits = depth == 0 ? stream.bits : depths[depth];
    const auto end = bits.byte();
    if (end >= bytes.size() || sum8(bytes.first(end)) != bits.take(8)) return std::nullopt;
    if (header.channels != stream.channels || header.bits != stream.bits) return std::nullopt;
    return header;
}

// Section 9.2.7.
bool skipResidual(BitReader& bits, std::uint32_t samples, std::uint32_t order) {
    const auto method = bits.take(2);
    const auto partitions = 1U << bits.take(4);
    if (method > 1 || samples % partitions != 0 || samples / partitions < order) return false;
    const unsigned width = method == 0 ? 4 : 5;
    for (std::uint32_t part = 0; part < partitions && bits.ok(); ++part) {
        const auto count = samples / partitions - (part == 0 ? order : 0);
        const auto parameter = bits.take(width);
        if (parameter == (1U << width) - 1) {
            bits.skip(std::uint64_t{bits.take(5)} * count);
            continue;
        }
        for (std::uint32_t i = 0; i < count && bits.ok(); ++i) {
            bits.unary();
            bits.skip(parameter);
        }
    }
    return true;
}

// Section 9.2.
bool skipSubframe(BitReader& bits, std::uint32_t samples, std::uint32_t depth) {
    if (bits.take(1) != 0) return false;
    const auto type = bits.take(6);
    if (bits.take(1) != 0) {
        std::uint32_t wasted = 1;
        while (bits.ok() && wasted < depth && bits.take(1) == 0) ++wasted;
        if (wasted >= depth) return false;
        depth -= wasted;
    }
    if (type == 0) {
        bits.skip(depth);
    } else if (type == 1) {
        bits.skip(std::uint64_t{depth} * samples);
    } else if (type >= 8 && type <= 12) {
        bits.skip(std::uint64_t{depth} * (type - 8));
        return skipResidual(bits, samples, type - 8);
    } else if (type >= 32) {
        const auto order = type - 31;
        bits.skip(std::uint64_t{depth} * order);
        const auto precision = bits.take(4);
        if (precision == 15) return false;
        bits.skip(5 + std::uint64_t{order} * (precision + 1));
        return skipResidual(bits, samples, order);
    } else {
        return false;
    }
    return true;
}

}  // namespace

FlacFrame readFlacFrame(Bytes bytes, const FlacStream& stream) {
    FlacFrame frame;
    BitReader bits(bytes);
    const auto header = readHeader(bytes, bits, stream);
    if (!header) {
        frame.outcome = bytes.size() < 18 ? FlacOutcome::TooShort : FlacOutcome::NotHere;
        return frame;
    }
    frame.samples = header->samples;
    for (std::uint32_t channel = 0; channel < header->channels; ++channel) {
        const auto depth = header->bits + (header->side && channel == header->sideChannel ? 1 : 0);
        if (!skipSubframe(bits, header->samples, depth) && bits.ok()) {
            frame.outcome = FlacOutcome::BadSum;
            return frame;
        }
    }
    frame.length = bits.byte() + 2;
    if (!bits.ok() || frame.length > bytes.size()) {
        frame.outcome = FlacOutcome::TooShort;
        return frame;
    }
    frame.outcome = sum16(bytes.first(frame.length)) == 0 ? FlacOutcome::Good : FlacOutcome::BadSum;
    return frame;
}

}  // namespace dreskel::sound
