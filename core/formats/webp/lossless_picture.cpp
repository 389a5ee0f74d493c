#include <algorithm>
#include <array>
#include <vector>

#include "formats/webp/coded_picture.h"
#include "formats/webp/lossless_codes.h"

namespace dreskel::webp {
namespace {

constexpr std::size_t kLiterals = 256, kLengths = 24, kDistances = 40;

// Section 4.2.2 of the specification: near places that are named by a small number, four bits of rows above
// and eight minus columns to the left each.
constexpr std::array<std::uint8_t, 120> kNear{
    0x18, 0x07, 0x17, 0x19, 0x28, 0x06, 0x27, 0x29, 0x16, 0x1a, 0x26, 0x2a, 0x38, 0x05, 0x37,
    0x39, 0x15, 0x1b, 0x36, 0x3a, 0x25, 0x2b, 0x48, 0x04, 0x47, 0x49, 0x14, 0x1c, 0x35, 0x3b,
    0x46, 0x4a, 0x24, 0x2c, 0x58, 0x45, 0x4b, 0x34, 0x3c, 0x03, 0x57, 0x59, 0x13, 0x1d, 0x56,
    0x5a, 0x23, 0x2d, 0x44, 0x4c, 0x55, 0x5b, 0x33, 0x3d, 0x68, 0x02, 0x67, 0x69, 0x12, 0x1e,
    0x66, 0x6a, 0x22, 0x2e, 0x54, 0x5c, 0x43, 0x4d, 0x65, 0x6b, 0x32, 0x3e, 0x78, 0x01, 0x77,
    0x79, 0x53, 0x5d, 0x11, 0x1f, 0x64, 0x6c, 0x42, 0x4e, 0x76, 0x7a, 0x21, 0x2f, 0x75, 0x7b,
    0x31, 0x3f, 0x63, 0x6d, 0x52, 0x5e, 0x00, 0x74, 0x7c, 0x41, 0x4f, 0x10, 0x20, 0x62, 0x6e,
    0x30, 0x73, 0x7d, 0x51, 0x5f, 0x40, 0x72, 0x7e, 0x61, 0x6f, 0x50, 0x71, 0x7f, 0x60, 0x70};

std::uint32_t partsOf(std::uint32_t size, int bits) {
    return (size + (1U << bits) - 1) >> bits;
}

// One picture with the pictures that describe it in front. Only those in front that say which codes hold
// where are kept; of the others nothing but their bits matters.
class Lossless {
  public:
    explicit Lossless(Bytes bytes) : bits_(bytes) {}

    LowBits& bits() { return bits_; }
    bool ofAPalette() const { return palette_; }
    std::string follow(std::uint32_t width, std::uint32_t height);

  private:
    using Group = std::array<PrefixCode, 5>;  // green and lengths, red, blue, opacity, distances
    enum class Role { Main, InFront };
    // False: its codes are impossible, or it ends too early. Fills `into`, green and red of each pixel, when
    // given.
    bool image(std::uint32_t width, std::uint32_t height, Role role, std::vector<std::uint16_t>* into);
    bool groups(std::size_t count, int cacheBits, std::vector<Group>& into);
    // A length or a distance (section 4.2.2).
    std::uint32_t extended(std::uint32_t symbol) {
        if (symbol < 4) return symbol + 1;
        const auto extra = static_cast<int>((symbol - 2) >> 1);
        return ((2 + (symbol & 1U)) << extra) + bits_.number(extra) + 1;
    }

    LowBits bits_;
    bool palette_ = false;
};

bool Lossless::groups(std::size_t count, int cacheBits, std::vector<Group>& into) {
    const auto cached = cacheBits > 0 ? std::size_t{1} << cacheBits : 0;
    const std::array<std::size_t, 5> symbols{kLiterals + kLengths + cached, kLiterals, kLiterals, kLiterals,
                                             kDistances};
    for (std::size_t i = 0; i < count; ++i) {
        Group group;
        for (std::size_t part = 0; part < symbols.size(); ++part) {
            auto code = readPrefixCode(bits_, symbols[part]);
            if (!code) return false;
            group[part] = std::move(*code);
        }
        into.push_back(std::move(group));
    }
    return true;
}

bool Lossless::image(std::uint32_t width, std::uint32_t height, Role role, std::vector<std::uint16_t>* into) {
    int cacheBits = 0;
    if (bits_.flag()) {
        cacheBits = static_cast<int>(bits_.number(4));
        if (cacheBits < 1 || cacheBits > 11) return false;
    }
    std::vector<std::uint16_t> groupOf;
    int groupBits = 0;
    std::size_t count = 1;
    if (role == Role::Main && bits_.flag()) {
        groupBits = static_cast<int>(bits_.number(3)) + 2;
        if (!image(partsOf(width, groupBits), partsOf(height, groupBits), Role::InFront, &groupOf))
            return false;
        count = std::size_t{*std::max_element(groupOf.begin(), groupOf.end())} + 1;
    }
    std::vector<Group> codes;
    if (!groups(count, cacheBits, codes)) return false;

    const auto pixels = std::uint64_t{width} * height;
    const auto groupColumns = partsOf(width, groupBits);
    std::vector<std::uint32_t> kept(into != nullptr ? static_cast<std::size_t>(pixels) : 0);
    std::vector<std::uint32_t> cache(into != nullptr && cacheBits > 0 ? std::size_t{1} << cacheBits : 0);
    const auto keep = [&](std::uint64_t at, std::uint32_t pixel) {
        kept[static_cast<std::size_t>(at)] = pixel;
        if (cacheBits > 0) cache[(0x1e35a7bdU * pixel) >> (32 - cacheBits)] = pixel;
    };
    std::uint32_t column = 0, row = 0;
    for (std::uint64_t at = 0; at < pixels;) {
        if (column == 0 && !bits_.ok()) return false;
        const auto group =
            groupOf.empty()
                ? std::size_t{0}
                : std::size_t{groupOf[std::size_t{row >> groupBits} * groupColumns + (column >> groupBits)]};
        const auto& code = codes[group];
        const auto symbol = code[0].read(bits_);
        std::uint32_t passed = 1;
        if (symbol < kLiterals) {
            const auto red = code[1].read(bits_);
            const auto blue = code[2].read(bits_);
            const auto opacity = code[3].read(bits_);
            if (into != nullptr) keep(at, opacity << 24 | red << 16 | symbol << 8 | blue);
        } else if (symbol < kLiterals + kLengths) {
            passed = extended(symbol - static_cast<std::uint32_t>(kLiterals));
            const auto named = extended(code[4].read(bits_));
            std::int64_t back = std::int64_t{named} - static_cast<std::int64_t>(kNear.size());
            if (named <= kNear.size()) {
                const auto near = kNear[named - 1];
                back = std::max<std::int64_t>(1, std::int64_t{near >> 4} * width + 8 - (near & 15));
            }
            if (static_cast<std::uint64_t>(back) > at || passed > pixels - at) return false;
            if (into != nullptr) {
                for (std::uint64_t i = at; i < at + passed; ++i)
                    keep(i, kept[static_cast<std::size_t>(i - static_cast<std::uint64_t>(back))]);
            }
        } else if (into != nullptr) {
            keep(at, cache[symbol - kLiterals - kLengths]);
        }
        at += passed;
        column += passed;
        row += column / width;
        column %= width;
    }
    if (into != nullptr) {
        into->clear();
        for (const auto pixel : kept) into->push_back(static_cast<std::uint16_t>(pixel >> 8));
    }
    return bits_.ok();
}

std::string Lossless::follow(std::uint32_t width, std::uint32_t height) {
    constexpr auto kImpossible = "its coded data are none, or end before the picture does";
    enum { Predictor, Colour, Green, Palette };
    unsigned seen = 0;
    while (bits_.flag()) {
        const auto kind = bits_.number(2);
        if ((seen >> kind & 1U) != 0) return kImpossible;
        seen |= 1U << kind;
        if (kind == Predictor || kind == Colour) {
            const auto bits = static_cast<int>(bits_.number(3)) + 2;
            if (!image(partsOf(width, bits), partsOf(height, bits), Role::InFront, nullptr))
                return kImpossible;
        } else if (kind == Palette) {
            palette_ = true;
            const auto colours = bits_.number(8) + 1;
            if (!image(colours, 1, Role::InFront, nullptr)) return kImpossible;
            width = partsOf(width, colours > 16 ? 0 : colours > 4 ? 1 : colours > 2 ? 2 : 3);
        }
    }
    return image(width, height, Role::Main, nullptr) ? std::string{} : kImpossible;
}

// Behind the last bit the byte is filled up with zeros; an encoder may make the length even with one more.
std::string endsThere(Lossless& picture, std::uint64_t length, std::string wrong) {
    if (!wrong.empty()) return wrong;
    auto& bits = picture.bits();
    const auto left = length * 8 - bits.used();
    const bool even = left >= 8 && left < 16 && length % 2 == 0;
    if ((left < 8 || even) && bits.number(static_cast<int>(left)) == 0) return {};
    return "its picture ends before the coded data do";
}

}  // namespace

Followed followLossless(Bytes bytes, std::uint64_t most) {
    Followed found;
    Lossless picture(bytes);
    auto& bits = picture.bits();
    if (bits.number(8) != 0x2f) {
        found.wrong = "it holds no lossless picture";
        return found;
    }
    const auto width = bits.number(14) + 1;
    const auto height = bits.number(14) + 1;
    bits.flag();  // whether opacity is used
    if (bits.number(3) != 0 || !bits.ok()) {
        found.wrong = "it holds no lossless picture";
        return found;
    }
    found.width = width;
    found.height = height;
    if (std::uint64_t{width} * height > most) {
        found.tooLarge = true;
        return found;
    }
    const auto wrong = picture.follow(width, height);
    found.wrong = endsThere(picture, bytes.size(), wrong);
    found.loose = picture.ofAPalette();
    return found;
}

std::string followOpacity(Bytes chunk, std::uint32_t width, std::uint32_t height, std::uint64_t most) {
    if (chunk.empty()) return "its opacity is missing";
    if (std::uint64_t{width} * height > most) return {};
    const auto coding = chunk[0] & 3U;
    const auto data = chunk.subspan(1);
    if (coding == 0) {
        return data.size() == std::uint64_t{width} * height ? std::string{}
                                                            : "its opacity is not as long as it should be";
    }
    if (coding != 1) return "its opacity is coded in no known way";
    Lossless picture(data);
    const auto wrong = picture.follow(width, height);
    return endsThere(picture, data.size(), wrong);
}

}  // namespace dreskel::webp
