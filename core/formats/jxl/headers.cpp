#include "formats/jxl/headers.h"

#include <algorithm>
#include <bit>

#include "formats/jxl/entropy.h"

namespace dreskel::jxl {
namespace {

constexpr std::array<Way, 4> kEnumerated{{{0, 0}, {1, 0}, {2, 4}, {18, 6}}};
constexpr int kHalfFloat = 16;
constexpr std::uint64_t kLargestProfile = 4U << 20;

struct Size {
    std::uint32_t width = 0, height = 0;
};

std::uint32_t byRatio(std::uint32_t height, std::uint32_t ratio) {
    constexpr std::array<std::array<std::uint32_t, 2>, 8> ratios{
        {{0, 1}, {1, 1}, {12, 10}, {4, 3}, {3, 2}, {16, 9}, {5, 4}, {2, 1}}};
    return static_cast<std::uint32_t>(std::uint64_t{height} * ratios[ratio][0] / ratios[ratio][1]);
}

Size readSize(LowBits& bits, std::uint32_t (*side)(LowBits&, bool)) {
    const bool eighths = bits.flag();
    Size size;
    size.height = side(bits, eighths);
    const auto ratio = bits.number(3);
    size.width = ratio == 0 ? side(bits, eighths) : byRatio(size.height, ratio);
    return size;
}

std::uint32_t side(LowBits& bits, bool eighths) {
    if (eighths) return (bits.number(5) + 1) * 8;
    return number(bits, {{{1, 9}, {1, 13}, {1, 18}, {1, 30}}});
}

std::uint32_t previewSide(LowBits& bits, bool eighths) {
    if (eighths) return number(bits, {{{16, 0}, {32, 0}, {1, 5}, {33, 9}}}) * 8;
    return number(bits, {{{1, 6}, {65, 8}, {321, 10}, {1345, 12}}});
}

// False for a depth that no picture has.
bool passDepth(LowBits& bits) {
    const bool floating = bits.flag();
    const auto depth = floating ? number(bits, {{{32, 0}, {16, 0}, {24, 0}, {1, 6}}})
                                : number(bits, {{{8, 0}, {10, 0}, {12, 0}, {1, 6}}});
    if (floating) pass(bits, 4);
    return depth <= 32;
}

bool passExtraChannel(LowBits& bits) {
    if (bits.flag()) return true;
    const auto kind = number(bits, kEnumerated);
    if (!passDepth(bits)) return false;
    number(bits, {{{0, 0}, {3, 0}, {4, 0}, {1, 3}}});
    passName(bits);
    constexpr std::uint32_t opacity = 0, spot = 2, filter = 5;
    if (kind == opacity) bits.flag();
    if (kind == spot) pass(bits, 4 * kHalfFloat);
    if (kind == filter) number(bits, {{{1, 0}, {0, 2}, {3, 4}, {19, 8}}});
    return kind <= 16;
}

void passPoint(LowBits& bits) {
    for (int i = 0; i < 2; ++i) number(bits, {{{0, 19}, {524288, 19}, {1048576, 20}, {2097152, 21}}});
}

struct Colours {
    bool possible = true, profile = false;
};

Colours readColours(LowBits& bits) {
    if (bits.flag()) return {};
    Colours colours;
    colours.profile = bits.flag();
    const auto space = number(bits, kEnumerated);
    constexpr std::uint32_t grey = 1, perceptual = 2, custom = 2;
    colours.possible = space <= 3;
    if (colours.profile) return colours;
    const auto within = [&](std::uint32_t value, std::initializer_list<std::uint32_t> known) {
        for (const auto one : known) {
            if (value == one) return;
        }
        colours.possible = false;
    };
    if (space != perceptual) {
        const auto white = number(bits, kEnumerated);
        within(white, {1, 2, 10, 11});
        if (white == custom) passPoint(bits);
    }
    if (space != perceptual && space != grey) {
        const auto primaries = number(bits, kEnumerated);
        within(primaries, {1, 2, 9, 11});
        for (int i = 0; primaries == custom && i < 3; ++i) passPoint(bits);
    }
    if (space != perceptual) {
        if (bits.flag()) {
            pass(bits, 24);
        } else {
            within(number(bits, kEnumerated), {1, 2, 8, 13, 16, 17, 18});
        }
    }
    within(number(bits, kEnumerated), {0, 1, 2, 3});
    return colours;
}

// A colour profile (annex E.4): only so far that its end is known.
bool passProfile(LowBits& bits) {
    const auto length = largeNumber(bits);
    if (length == 0 || length > kLargestProfile) return false;
    const auto codes = Codes::read(bits, 41);
    if (!codes) return false;
    Numbers numbers(*codes, bits);
    const auto letter = [](std::uint32_t byte) { return (byte | 32U) >= 'a' && (byte | 32U) <= 'z'; };
    const auto digit = [](std::uint32_t byte) {
        return (byte >= '0' && byte <= '9') || byte == '.' || byte == ',';
    };
    const auto kindOfLast = [&](std::uint32_t byte) -> std::size_t {
        if (letter(byte)) return 0;
        if (digit(byte)) return 1;
        if (byte < 16) return byte < 2 ? 2 + byte : 4;
        return byte == 255 ? 6 : byte > 240 ? 5 : 7;
    };
    const auto kindBefore = [&](std::uint32_t byte) -> std::size_t {
        if (letter(byte)) return 0;
        if (digit(byte)) return 1;
        return byte < 16 ? 2 : byte > 240 ? 3 : 4;
    };
    std::uint32_t last = 0, before = 0;
    for (std::uint64_t i = 0; i < length; ++i) {
        const auto next = numbers.next(i <= 128 ? 0 : 1 + kindOfLast(last) + kindBefore(before) * 8);
        if (next > 255 || !bits.ok()) return false;
        before = last;
        last = next;
    }
    return numbers.endsRight();
}

// How colours and larger sizes are computed (A.8): tables of half floats.
void passTransforms(LowBits& bits, bool perceptual) {
    if (bits.flag()) return;
    if (perceptual && !bits.flag()) pass(bits, 16 * kHalfFloat);
    const auto tables = bits.number(3);
    constexpr std::array<std::uint64_t, 3> weights{15, 55, 210};
    for (std::size_t i = 0; i < weights.size(); ++i) {
        if ((tables >> i & 1U) != 0) pass(bits, weights[i] * kHalfFloat);
    }
}

bool possible(std::uint32_t width, std::uint32_t height) {
    return width > 0 && height > 0 && std::uint64_t{width} * height <= kMostPixels;
}

// A.6; what follows from it for the rest is left in `into`.
bool readMetadata(LowBits& bits, Header& into, bool& profile) {
    if (bits.flag()) return true;
    const bool more = bits.flag();
    if (more) {
        into.orientation = static_cast<int>(bits.number(3)) + 1;
        if (bits.flag()) readSize(bits, side);
        if (bits.flag()) {
            const auto preview = readSize(bits, previewSide);
            into.previewWidth = preview.width;
            into.previewHeight = preview.height;
            if (!possible(preview.width, preview.height)) return false;
        }
        into.animated = bits.flag();
        if (into.animated) {
            number(bits, {{{100, 0}, {1000, 0}, {1, 10}, {1, 30}}});
            number(bits, {{{1, 0}, {1001, 0}, {1, 8}, {1, 10}}});
            number(bits, {{{0, 0}, {0, 3}, {0, 16}, {0, 32}}});
            into.timecodes = bits.flag();
        }
    }
    if (!passDepth(bits)) return false;
    bits.flag();
    into.extraChannels = number(bits, {{{0, 0}, {1, 0}, {2, 4}, {1, 12}}});
    for (std::uint32_t i = 0; i < into.extraChannels; ++i) {
        if (!passExtraChannel(bits) || !bits.ok()) return false;
    }
    into.perceptual = bits.flag();
    const auto colours = readColours(bits);
    profile = colours.profile;
    if (!colours.possible) return false;
    if (more && !bits.flag()) {
        pass(bits, 2 * kHalfFloat);
        bits.flag();
        pass(bits, kHalfFloat);
    }
    return passExtensions(bits);
}

}  // namespace

std::uint32_t number(LowBits& bits, const std::array<Way, 4>& ways) {
    const auto way = ways[bits.number(2)];
    const auto first = bits.number(std::min(way.bits, 16));
    const auto second = way.bits > 16 ? bits.number(way.bits - 16) : 0;
    return way.offset + (second << 16 | first);
}

void pass(LowBits& bits, std::uint64_t count) {
    for (; count > 16 && bits.ok(); count -= 16) bits.number(16);
    bits.number(static_cast<int>(std::min<std::uint64_t>(count, 16)));
}

bool toByte(LowBits& bits) {
    return bits.number(static_cast<int>(-bits.used() & 7U)) == 0;
}

void passName(LowBits& bits) {
    pass(bits, std::uint64_t{8} * number(bits, {{{0, 0}, {0, 4}, {16, 5}, {48, 10}}}));
}

std::uint64_t largeNumber(LowBits& bits) {
    const auto way = bits.number(2);
    if (way == 0) return 0;
    if (way == 1) return 1 + bits.number(4);
    if (way == 2) return 17 + bits.number(8);
    std::uint64_t found = bits.number(12);
    for (int shift = 12; bits.flag(); shift += 8) {
        if (shift == 60) return found | std::uint64_t{bits.number(4)} << shift;
        found |= std::uint64_t{bits.number(8)} << shift;
    }
    return found;
}

bool passExtensions(LowBits& bits) {
    const auto which = largeNumber(bits);
    std::uint64_t sum = 0;
    for (int i = 0; i < std::popcount(which); ++i) {
        const auto length = largeNumber(bits);
        if (length > 1U << 20) return false;
        sum += length;
    }
    pass(bits, sum);
    return true;
}

std::optional<Header> readHeader(LowBits& bits) {
    if (bits.number(16) != 0x0aff) return std::nullopt;
    Header header;
    const auto size = readSize(bits, side);
    header.width = size.width;
    header.height = size.height;
    bool profile = false;
    if (!possible(size.width, size.height) || !readMetadata(bits, header, profile)) return std::nullopt;
    passTransforms(bits, header.perceptual);
    if (profile && !passProfile(bits)) return std::nullopt;
    header.proven = profile;
    return toByte(bits) && bits.ok() ? std::optional(header) : std::nullopt;
}

}  // namespace dreskel::jxl
