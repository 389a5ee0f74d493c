#include "formats/jxl/frame.h"

#include <algorithm>

#include "formats/jxl/entropy.h"

namespace dreskel::jxl {
namespace {

constexpr int kHalfFloatBits = 16;
constexpr std::uint64_t kMostSections = 1U << 16;
constexpr std::uint64_t kNear = 64 * 1024;  // bytes

enum class Type { Regular, LowFrequencies, ReferenceOnly, SkipProgressive };

struct Head {
    Type type = Type::Regular;
    bool modular = false;
    std::uint64_t flags = 0;
    std::uint32_t chroma = 0;  // three times two bits
    std::uint32_t upsampling = 1;
    std::uint32_t groupShift = 1;
    std::uint32_t passes = 1;
    std::uint32_t level = 0;  // of a frame of low frequencies
    std::int64_t x = 0, y = 0;
    std::uint32_t width = 0, height = 0;
    bool partial = false;
    bool last = true;

    bool shown() const { return type == Type::Regular || type == Type::SkipProgressive; }
};
constexpr std::uint64_t kNoise = 1, kPatches = 2, kSplines = 16, kUsesLowFrequencyFrame = 32,
                        kUnsmoothed = 128;

std::uint32_t enlarged(LowBits& bits) {
    return 1U << bits.number(2);
}

void readPasses(LowBits& bits, Head& head) {
    head.passes = number(bits, {{{1, 0}, {2, 0}, {3, 0}, {4, 3}}});
    if (head.passes == 1) return;
    const auto smaller = number(bits, {{{0, 0}, {1, 0}, {2, 0}, {3, 1}}});
    pass(bits, std::uint64_t{2} * (head.passes - 1));
    pass(bits, std::uint64_t{2} * smaller);
    for (std::uint32_t i = 0; i < smaller; ++i) number(bits, {{{0, 0}, {1, 0}, {2, 0}, {0, 3}}});
}

void readCrop(LowBits& bits, Head& head, std::uint32_t width, std::uint32_t height) {
    if (!bits.flag()) return;
    constexpr std::array<Way, 4> ways{{{0, 8}, {256, 11}, {2304, 14}, {18688, 30}}};
    const auto place = [&] {
        const auto packed = number(bits, ways);
        const auto half = static_cast<std::int64_t>(packed >> 1);
        return (packed & 1U) != 0 ? -half - 1 : half;
    };
    if (head.type != Type::ReferenceOnly) {
        head.x = place();
        head.y = place();
    }
    head.width = number(bits, ways);
    head.height = number(bits, ways);
    head.partial = head.shown() &&
                   (head.x > 0 || head.y > 0 || head.width + head.x < width || head.height + head.y < height);
}

// Whether it takes the place of what it is blended with.
bool readBlending(LowBits& bits, const Header& header, bool partial) {
    constexpr std::uint32_t replace = 0, blend = 2, weighted = 3, multiply = 4;
    const auto mode = number(bits, {{{0, 0}, {1, 0}, {2, 0}, {3, 2}}});
    const bool byOpacity = header.extraChannels > 0 && (mode == blend || mode == weighted);
    if (byOpacity) number(bits, {{{0, 0}, {1, 0}, {2, 0}, {3, 3}}});
    if (byOpacity || mode == multiply) bits.flag();
    if (mode != replace || partial) bits.number(2);
    return mode == replace;
}

// F.2.3 to F.2.5: whether the frame is kept for later ones, and how.
void readBlendingAndUse(LowBits& bits, const Header& header, Head& head) {
    bool replaces = true;
    std::uint32_t duration = 0, kept = 0;
    if (head.shown()) {
        replaces = readBlending(bits, header, head.partial);
        for (std::uint32_t i = 0; i < header.extraChannels && bits.ok(); ++i)
            readBlending(bits, header, head.partial);
        if (header.animated) duration = number(bits, {{{0, 0}, {1, 0}, {0, 8}, {0, 32}}});
        if (header.animated && header.timecodes) pass(bits, 32);
        head.last = bits.flag();
    } else {
        head.last = false;
    }
    if (head.type == Type::LowFrequencies) return;
    if (!head.last) kept = bits.number(2);
    const bool referable = !head.last && (duration == 0 || kept != 0);
    if ((referable && replaces && !head.partial && head.shown()) || head.type == Type::ReferenceOnly)
        bits.flag();
}

// F.3
bool passFilters(LowBits& bits, bool modular) {
    if (bits.flag()) return true;
    if (bits.flag() && bits.flag()) pass(bits, 6 * kHalfFloatBits);
    if (bits.number(2) > 0) {
        if (!modular && bits.flag()) pass(bits, 8 * kHalfFloatBits);
        if (bits.flag()) pass(bits, 5 * kHalfFloatBits);
        if (bits.flag()) pass(bits, (modular ? 3 : 4) * kHalfFloatBits);
        if (modular) pass(bits, kHalfFloatBits);
    }
    return passExtensions(bits);
}

// F.2
bool readHead(LowBits& bits, const Header& header, bool preview, Head& head) {
    const auto width = preview ? header.previewWidth : header.width;
    const auto height = preview ? header.previewHeight : header.height;
    head.width = width;
    head.height = height;
    if (bits.flag()) return true;
    head.type = static_cast<Type>(bits.number(2));
    head.modular = bits.flag();
    head.flags = largeNumber(bits);
    const bool converted = !header.perceptual && bits.flag();
    const bool lowElsewhere = (head.flags & kUsesLowFrequencyFrame) != 0;
    if (converted && !lowElsewhere) head.chroma = bits.number(6);
    if (!lowElsewhere) {
        head.upsampling = enlarged(bits);
        for (std::uint32_t i = 0; i < header.extraChannels && bits.ok(); ++i) enlarged(bits);
    }
    if (head.modular) head.groupShift = bits.number(2);
    if (!head.modular && header.perceptual) bits.number(6);
    if (head.type != Type::ReferenceOnly) readPasses(bits, head);
    if (head.type == Type::LowFrequencies) {
        head.level = bits.number(2) + 1;
    } else {
        readCrop(bits, head, width, height);
    }
    readBlendingAndUse(bits, header, head);
    passName(bits);
    constexpr auto known = kNoise | kPatches | kSplines | kUsesLowFrequencyFrame | kUnsmoothed;
    return (head.flags & ~known) == 0 && passFilters(bits, head.modular) && passExtensions(bits);
}

std::uint64_t times(std::uint64_t whole, std::uint64_t part) {
    return (whole + part - 1) / part;
}

// How many sections it has (F.3.1); 0 when it can be none.
std::uint64_t sectionsOf(const Head& head) {
    const auto reduced = [&](std::uint32_t side) {
        return times(times(side, head.upsampling), std::uint64_t{1} << (3 * head.level));
    };
    const auto width = reduced(head.width), height = reduced(head.height);
    if (width == 0 || height == 0 || width * height > kMostPixels) return 0;
    // In blocks of 8 pixels, of the coarsest channel (chroma: 1 halves both sides, 2 the width, 3 the
    // height).
    bool halvesWidth = false, halvesHeight = false;
    for (int i = 0; i < 3; ++i) {
        const auto way = head.chroma >> (2 * i) & 3U;
        halvesWidth = halvesWidth || way == 1 || way == 2;
        halvesHeight = halvesHeight || way == 1 || way == 3;
    }
    const auto blocks = [](std::uint64_t side, bool halved) {
        return halved ? times(side, 16) * 2 : times(side, 8);
    };
    const auto group = std::uint64_t{128} << head.groupShift;
    const auto groups = times(width, group) * times(height, group);
    if (groups == 1 && head.passes == 1) return 1;
    const auto coarse = times(blocks(width, halvesWidth), group) * times(blocks(height, halvesHeight), group);
    return 2 + coarse + groups * head.passes;
}

// In what order the sections are stored (F.3.2): at which place the first of them stands. Nothing when it is
// no order.
std::optional<std::uint64_t> placeOfFirst(LowBits& bits, std::uint64_t sections, bool& proven) {
    constexpr std::size_t contexts = 8;
    const auto codes = Codes::read(bits, contexts);
    if (!codes) return std::nullopt;
    Numbers numbers(*codes, bits);
    const auto contextOf = [](std::uint64_t value) {
        std::size_t width = 0;
        for (; value > 0; value >>= 1) ++width;
        return std::min<std::size_t>(width, contexts - 1);
    };
    const auto stated = numbers.next(contextOf(sections));
    if (stated > sections) return std::nullopt;
    // Each number is which of those that are left comes next: the first section comes with the first zero.
    std::uint64_t first = stated;
    std::uint32_t last = 0;
    for (std::uint64_t i = 0; i < stated; ++i) {
        last = numbers.next(contextOf(last));
        if (last >= sections - i || !bits.ok()) return std::nullopt;
        if (last == 0 && first == stated) first = i;
    }
    proven = proven || numbers.proves();
    return numbers.endsRight() ? std::optional(first) : std::nullopt;
}

// The tree by which a modular picture's contexts are chosen (H.4.1), which stands near the beginning of the
// first section. Whether it is one; `proven` when it ended as only a tree does.
bool passTree(LowBits& bits, bool& proven) {
    constexpr std::size_t contexts = 6, mostNodes = 1U << 22;
    const auto codes = Codes::read(bits, contexts);
    if (!codes) return false;
    Numbers numbers(*codes, bits);
    std::size_t open = 1, leaves = 0;
    for (std::size_t nodes = 0; open > 0; ++nodes, --open) {
        constexpr std::size_t split = 0, property = 1, predictor = 2, offset = 3, power = 4, factor = 5;
        if (nodes > mostNodes || !bits.ok()) return false;
        const auto which = numbers.next(property);
        if (which > 256) return false;
        if (which > 0) {
            numbers.next(split);
            open += 2;
            continue;
        }
        ++leaves;
        if (numbers.next(predictor) > 13) return false;
        numbers.next(offset);
        const auto shift = numbers.next(power);
        if (shift >= 31 || numbers.next(factor) >= 1U << (31 - shift)) return false;
    }
    if (!numbers.endsRight()) return false;
    proven = proven || (numbers.proves() && leaves > 0);
    return Codes::read(bits, leaves).has_value();
}

// By what the contexts of blocks are chosen (I.2.2).
bool passBlockContexts(LowBits& bits) {
    if (bits.flag()) return true;
    constexpr std::size_t orders = 13, most = 64;
    std::size_t many = 1;
    for (int channel = 0; channel < 3; ++channel) {
        const auto thresholds = bits.number(4);
        many *= thresholds + 1;
        for (std::uint32_t i = 0; i < thresholds; ++i)
            number(bits, {{{0, 4}, {16, 8}, {272, 16}, {65808, 32}}});
    }
    const auto thresholds = bits.number(4);
    many *= thresholds + 1;
    for (std::uint32_t i = 0; i < thresholds; ++i) number(bits, {{{0, 2}, {4, 3}, {12, 5}, {44, 8}}});
    return many <= most && Codes::passClusters(bits, 3 * orders * many);
}

// The first section, to the codes of its numbers. False when it cannot be one.
bool beginsRight(LowBits& bits, const Head& head, bool& proven) {
    // Patches and splines come in front, and are not followed.
    if ((head.flags & (kPatches | kSplines)) != 0) return true;
    if ((head.flags & kNoise) != 0) pass(bits, std::uint64_t{8} * 10);
    if (!bits.flag()) pass(bits, 3 * kHalfFloatBits);
    if (!head.modular) {
        number(bits, {{{1, 11}, {2049, 11}, {4097, 12}, {8193, 16}}});
        number(bits, {{{16, 0}, {1, 5}, {1, 8}, {1, 16}}});
        if (!passBlockContexts(bits)) return false;
        if (!bits.flag()) {  // how colours go together (I.2.3)
            number(bits, {{{84, 0}, {256, 0}, {2, 8}, {258, 16}}});
            pass(bits, 2 * kHalfFloatBits + 16);
        }
    }
    return !bits.flag() || passTree(bits, proven);
}

}  // namespace

Found readFrame(Bytes bytes, const Header& header, bool preview, Frame& into) {
    LowBits bits(bytes);
    const auto failed = [&] { return bits.ok() ? Found::None : Found::MoreBytesNeeded; };
    Head head;
    if (!readHead(bits, header, preview, head) || !bits.ok()) return failed();
    const auto sections = sectionsOf(head);
    if (sections == 0 || sections > kMostSections) return Found::None;
    Frame frame;
    frame.last = head.last;
    const auto first =
        bits.flag() ? placeOfFirst(bits, sections, frame.proven) : std::optional<std::uint64_t>(0);
    if (!first || !toByte(bits)) return failed();
    std::uint64_t firstAt = 0, firstLength = 0;
    for (std::uint64_t i = 0; i < sections; ++i) {
        const auto length = number(bits, {{{0, 10}, {1024, 14}, {17408, 22}, {4211712, 30}}});
        if (i == *first) {
            firstAt = frame.sectionsLength;
            firstLength = length;
        }
        frame.sectionsLength += length;
    }
    if (!toByte(bits) || !bits.ok()) return failed();
    frame.headLength = bits.bytesUsed();
    firstAt += frame.headLength;
    // Stored far behind, it is not waited for.
    if (firstAt < kNear) {
        const bool all = firstAt + firstLength <= bytes.size();
        LowBits section(slice(bytes, firstAt, firstLength));
        if (!beginsRight(section, head, frame.proven))
            return !section.ok() && !all ? Found::MoreBytesNeeded : Found::None;
    }
    into = frame;
    return Found::Frame;
}

}  // namespace dreskel::jxl
