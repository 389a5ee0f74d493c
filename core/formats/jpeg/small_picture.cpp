#include "formats/jpeg/small_picture.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <numbers>
#include <span>

#include "formats/jpeg/bit_reader.h"
#include "formats/jpeg/huffman.h"
#include "formats/jpeg/sequential.h"

namespace dreskel::jpeg {
namespace {

// T.81, figure A.6: where in a block the coefficients stand, in the order in which they are coded.
constexpr std::array<std::uint8_t, 64> kOrder{0,  1,  8,  16, 9,  2,  3,  10, 17, 24, 32, 25, 18, 11, 4,  5,
                                              12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6,  7,  14, 21, 28,
                                              35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51,
                                              58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47, 55, 62, 63};

using Block = std::array<float, 64>;

// T.81, A.3.3: cos((2x + 1) u pi / 16) and its factor, for sample x and coefficient u.
std::array<std::array<float, 8>, 8> cosines() {
    std::array<std::array<float, 8>, 8> table{};
    for (std::size_t x = 0; x < 8; ++x) {
        for (std::size_t u = 0; u < 8; ++u) {
            const auto angle = static_cast<double>((2 * x + 1) * u) * std::numbers::pi / 16;
            table[x][u] = static_cast<float>(std::cos(angle) * (u == 0 ? std::sqrt(0.125) : 0.5));
        }
    }
    return table;
}

Block samplesOf(const Block& coefficients) {
    static const auto table = cosines();
    Block half{}, samples{};
    for (std::size_t v = 0; v < 8; ++v) {
        for (std::size_t x = 0; x < 8; ++x) {
            for (std::size_t u = 0; u < 8; ++u) half[v * 8 + x] += table[x][u] * coefficients[v * 8 + u];
        }
    }
    for (std::size_t y = 0; y < 8; ++y) {
        for (std::size_t x = 0; x < 8; ++x) {
            for (std::size_t v = 0; v < 8; ++v) samples[y * 8 + x] += table[y][v] * half[v * 8 + x];
        }
    }
    return samples;
}

class SmallDecoder {
  public:
    std::optional<Grey> run(Bytes jpeg) {
        if (!startsWith(jpeg, "\xff\xd8")) return std::nullopt;
        std::size_t at = 2;
        while (at + 4 <= jpeg.size() && jpeg[at] == 0xff) {
            const auto code = jpeg[at + 1];
            if (code == 0xff) {
                ++at;
                continue;
            }
            const std::size_t length = static_cast<std::size_t>(jpeg[at + 2]) << 8 | jpeg[at + 3];
            const auto body = slice(jpeg, at + 4, length - std::min<std::size_t>(length, 2));
            at += 2 + length;
            if (length < 2 || !segment(code, body)) return std::nullopt;
            if (code == 0xda) return scan(jpeg.subspan(std::min(at, jpeg.size())));
        }
        return std::nullopt;
    }

  private:
    struct Part {
        std::uint8_t id = 0;
        std::uint32_t h = 1, v = 1;
        std::size_t quant = 0;
        const HuffmanTable* dc = nullptr;
        const HuffmanTable* ac = nullptr;
        int level = 0;
    };

    bool segment(std::uint8_t code, Bytes body) {
        switch (code) {
            case 0xdb: return quantisation(body);
            case 0xc4:
                return eachHuffmanTable(body,
                                        [this](bool ac, std::size_t number, Bytes counts, Bytes symbols) {
                                            auto& table = (ac ? ac_ : dc_)[number];
                                            table = HuffmanTable::make(counts, symbols);
                                            return table.has_value();
                                        });
            case 0xdd: restartInterval_ = ByteReader(body).u16(); return true;
            case 0xc0:
            case 0xc1: return frame(body);
            case 0xda: return scanHeader(body);
            default: return code >= 0xe0 || code == 0xfe;
        }
    }

    bool quantisation(Bytes body) {
        ByteReader reader(body);
        while (reader.left() > 0) {
            const auto head = reader.u8();
            if ((head & 15) > 3) return false;
            auto& table = quant_[head & 15U];
            for (auto& value : table) value = (head >> 4) != 0 ? reader.u16() : reader.u8();
        }
        return reader.ok();
    }

    bool frame(Bytes body) {
        ByteReader reader(body);
        const auto precision = reader.u8();
        picture_.height = reader.u16();
        picture_.width = reader.u16();
        count_ = reader.u8();
        const auto fits = [](std::uint32_t side) { return side > 0 && side <= kSmallSide; };
        if (precision != 8 || !fits(picture_.width) || !fits(picture_.height)) return false;
        if (count_ != 1 && count_ != 3) return false;
        for (auto& part : all()) {
            part.id = reader.u8();
            const auto sampling = reader.u8();
            part.h = sampling >> 4;
            part.v = sampling & 15U;
            part.quant = reader.u8();
            if (part.h < 1 || part.h > 4 || part.v < 1 || part.v > 4 || part.quant > 3) return false;
        }
        if (count_ == 1) parts_[0].h = parts_[0].v = 1;
        // The brightness has as many samples as the picture.
        for (const auto& part : all()) {
            if (part.h > parts_[0].h || part.v > parts_[0].v) return false;
        }
        return reader.ok();
    }

    bool scanHeader(Bytes body) {
        ByteReader reader(body);
        if (count_ == 0 || reader.u8() != count_) return false;
        for (auto& part : all()) {
            if (reader.u8() != part.id) return false;
            const auto tables = reader.u8();
            if ((tables >> 4) > 3 || (tables & 15) > 3) return false;
            const auto& dc = dc_[tables >> 4];
            const auto& ac = ac_[tables & 15U];
            if (!dc || !ac) return false;
            part.dc = &*dc;
            part.ac = &*ac;
        }
        return reader.ok();
    }

    std::optional<Grey> scan(Bytes coded) {
        const auto wide = (picture_.width + 8 * parts_[0].h - 1) / (8 * parts_[0].h);
        const auto high = (picture_.height + 8 * parts_[0].v - 1) / (8 * parts_[0].v);
        picture_.samples.assign(std::size_t{picture_.width} * picture_.height, 0);
        CodedSegment segment;
        segment.load(coded);
        BitReader bits(segment.clean());
        for (std::uint32_t mcu = 0; mcu < wide * high; ++mcu) {
            if (restartInterval_ > 0 && mcu > 0 && mcu % restartInterval_ == 0) {
                const auto end = segment.inWindow(segment.clean().size());
                if (!segment.endsAtMarker() || end + 2 > coded.size()) return std::nullopt;
                coded = coded.subspan(end + 2);
                segment.load(coded);
                bits = BitReader(segment.clean());
                for (auto& part : all()) part.level = 0;
            }
            for (auto& part : all()) {
                for (std::uint32_t block = 0; block < part.h * part.v; ++block) {
                    const auto coefficients = next(bits, part);
                    if (!coefficients) return std::nullopt;
                    if (&part != parts_.data()) continue;
                    put(samplesOf(*coefficients), mcu % wide * part.h + block % part.h,
                        mcu / wide * part.v + block / part.h);
                }
            }
        }
        return std::move(picture_);
    }

    // F.2.2.1 and F.2.2.2.
    std::optional<Block> next(BitReader& bits, Part& part) const {
        const auto& quant = quant_[part.quant];
        Block block{};
        bits.fill();
        const auto further = longDifference(bits, *part.dc);
        if (!further) return std::nullopt;
        part.level += *further;
        if (std::abs(part.level) > 1 << 15) return std::nullopt;
        block[0] = static_cast<float>(part.level) * static_cast<float>(quant[0]);
        for (std::size_t k = 1; k < 64; ++k) {
            bits.fill();
            auto code = part.ac->look(bits.top());
            if (code.length == 0) code = part.ac->slow(bits.top());
            if (code.length == 0) return std::nullopt;
            bits.drop(code.length);
            if (code.symbol == 0) break;
            k += code.symbol >> 4;
            const int size = code.symbol & 15;
            if (k > 63) return std::nullopt;
            if (size == 0) continue;
            const auto value = difference(static_cast<int>(bits.take(size)), size);
            block[kOrder[k]] = static_cast<float>(value) * static_cast<float>(quant[k]);
        }
        return bits.overrun() ? std::nullopt : std::optional(block);
    }

    void put(const Block& samples, std::uint32_t column, std::uint32_t row) {
        const auto wide = std::min(8U, picture_.width - std::min(picture_.width, column * 8));
        const auto high = std::min(8U, picture_.height - std::min(picture_.height, row * 8));
        if (wide == 0) return;
        for (std::uint32_t y = 0; y < high; ++y) {
            auto* line = picture_.samples.data() + std::size_t{row * 8 + y} * picture_.width + column * 8;
            for (std::uint32_t x = 0; x < wide; ++x)
                line[x] = static_cast<std::uint8_t>(std::clamp(samples[y * 8 + x] + 128.5F, 0.0F, 255.0F));
        }
    }

    std::span<Part> all() { return std::span(parts_).first(count_); }

    Grey picture_;
    std::array<std::array<std::uint16_t, 64>, 4> quant_{};
    std::array<std::optional<HuffmanTable>, 4> dc_, ac_;
    std::array<Part, 3> parts_;
    std::size_t count_ = 0;
    std::uint32_t restartInterval_ = 0;  // MCUs
};

}  // namespace

std::optional<Grey> decodeSmall(Bytes jpeg) {
    // Its tables are large for a stack.
    const auto decoder = std::make_unique<SmallDecoder>();
    return decoder->run(jpeg);
}

}  // namespace dreskel::jpeg
