#include "formats/jxl/entropy.h"

#include <algorithm>
#include <bit>
#include <numeric>

namespace dreskel::jxl {
namespace {

constexpr std::uint32_t kRange = 1U << Distribution::kBits;
constexpr std::uint32_t kFirstState = 0x130000;
constexpr int kLongestPrefix = 15;

int bitsFor(int values) {
    return std::bit_width(static_cast<unsigned>(values));
}

std::uint32_t upTo255(LowBits& bits) {
    if (!bits.flag()) return 0;
    const auto width = static_cast<int>(bits.number(3));
    return (1U << width) + bits.number(width);
}

std::uint32_t upTo65535(LowBits& bits) {
    if (!bits.flag()) return 0;
    const auto width = static_cast<int>(bits.number(4));
    return (1U << width) + bits.number(width);
}

// The lengths of a prefix code of more than one symbol (C.2.4, as RFC 7932, 3.4 and 3.5, has them).
std::optional<std::vector<std::uint8_t>> simpleLengths(LowBits& bits, std::size_t symbols) {
    const auto many = bits.number(2) + 1;
    const auto width = std::bit_width(symbols - 1);
    std::array<std::uint32_t, 4> found{};
    std::vector<std::uint8_t> lengths(symbols);
    constexpr std::uint8_t usual[4][4] = {{1}, {1, 1}, {1, 2, 2}, {2, 2, 2, 2}};
    for (std::uint32_t i = 0; i < many; ++i) found[i] = bits.number(static_cast<int>(width));
    constexpr std::array<std::uint8_t, 4> skewed{1, 2, 3, 3};
    const bool skew = many == 4 && bits.flag();
    for (std::uint32_t i = 0; i < many; ++i) {
        if (found[i] >= symbols || lengths[found[i]] != 0) return std::nullopt;
        lengths[found[i]] = skew ? skewed[i] : usual[many - 1][i];
    }
    return lengths;
}

std::optional<std::vector<std::uint8_t>> codedLengths(LowBits& bits, std::size_t symbols, std::size_t skip) {
    constexpr std::array<std::uint8_t, 18> order{1, 2, 3, 4,  0,  5,  17, 6,  16,
                                                 7, 8, 9, 10, 11, 12, 13, 14, 15};
    struct Short {
        std::uint8_t bits, value;
    };
    constexpr std::array<Short, 16> shorts{{{2, 0},
                                            {2, 4},
                                            {2, 3},
                                            {3, 2},
                                            {2, 0},
                                            {2, 4},
                                            {2, 3},
                                            {4, 1},
                                            {2, 0},
                                            {2, 4},
                                            {2, 3},
                                            {3, 2},
                                            {2, 0},
                                            {2, 4},
                                            {2, 3},
                                            {4, 5}}};
    std::vector<std::uint8_t> lengthsOfLengths(order.size());
    int space = 32, used = 0;
    for (auto i = skip; i < order.size() && space > 0; ++i) {
        const auto found = shorts[bits.peek() & 15U];
        bits.skip(found.bits);
        lengthsOfLengths[order[i]] = found.value;
        if (found.value == 0) continue;
        space -= 32 >> found.value;
        ++used;
    }
    if (used != 1 && space != 0) return std::nullopt;
    const auto code = PrefixCode::make(lengthsOfLengths);
    if (!code) return std::nullopt;
    std::vector<std::uint8_t> lengths(symbols);
    std::uint8_t before = 8, repeated = 0;
    std::uint64_t repeats = 0;
    std::int64_t left = 1 << kLongestPrefix;
    for (std::size_t at = 0; at < symbols && left > 0;) {
        const auto symbol = code->read(bits);
        if (!bits.ok()) return std::nullopt;
        if (symbol < 16) {
            repeats = 0;
            lengths[at++] = static_cast<std::uint8_t>(symbol);
            if (symbol == 0) continue;
            before = static_cast<std::uint8_t>(symbol);
            left -= (1 << kLongestPrefix) >> symbol;
            continue;
        }
        const int extra = symbol == 16 ? 2 : 3;
        const std::uint8_t length = symbol == 16 ? before : std::uint8_t{0};
        if (repeated != length) repeats = 0;
        repeated = length;
        const auto old = repeats;
        if (repeats > 0) repeats = (repeats - 2) << extra;
        repeats += bits.number(extra) + 3;
        const auto more = repeats - old;
        if (more > symbols - at) return std::nullopt;
        std::fill_n(lengths.begin() + static_cast<std::ptrdiff_t>(at), more, length);
        at += more;
        if (length > 0) left -= static_cast<std::int64_t>(more) << (kLongestPrefix - length);
    }
    return left == 0 ? std::optional(lengths) : std::nullopt;
}

std::optional<PrefixCode> readPrefix(LowBits& bits, std::size_t symbols) {
    if (symbols == 1) return PrefixCode::make({1});
    const auto way = bits.number(2);
    const auto lengths = way == 1 ? simpleLengths(bits, symbols) : codedLengths(bits, symbols, way);
    return lengths && bits.ok() ? PrefixCode::make(*lengths) : std::nullopt;
}

// How many bits the count of a symbol has, by a fixed prefix code.
int countBits(LowBits& bits) {
    struct Code {
        std::uint8_t bits, code, value;
    };
    constexpr std::array<Code, 14> codes{{{3, 0, 10},
                                          {3, 2, 7},
                                          {3, 4, 6},
                                          {3, 5, 8},
                                          {3, 6, 9},
                                          {4, 3, 3},
                                          {4, 7, 5},
                                          {4, 9, 4},
                                          {4, 11, 1},
                                          {4, 15, 2},
                                          {5, 17, 0},
                                          {6, 33, 11},
                                          {7, 1, 12},
                                          {7, 65, 13}}};
    const auto next = bits.peek();
    for (const auto& code : codes) {
        if ((next & ((1U << code.bits) - 1)) != code.code) continue;
        bits.skip(code.bits);
        return code.value;
    }
    return 0;  // not reached: the code is complete
}

constexpr int kRepeatCount = Distribution::kBits + 1;

std::optional<std::vector<std::uint32_t>> simpleCounts(LowBits& bits) {
    const bool two = bits.flag();
    const auto first = upTo255(bits);
    const auto second = two ? upTo255(bits) : first;
    std::vector<std::uint32_t> counts(std::max(first, second) + 1);
    if (two && first == second) return std::nullopt;
    counts[first] = two ? bits.number(Distribution::kBits) : kRange;
    if (two) counts[second] = kRange - counts[first];
    return counts;
}

std::vector<std::uint32_t> flatCounts(std::uint32_t symbols) {
    std::vector<std::uint32_t> counts(symbols, kRange / symbols);
    for (std::uint32_t i = 0; i < kRange % symbols; ++i) ++counts[i];
    return counts;
}

// C.2.5
std::optional<std::vector<std::uint32_t>> readCounts(LowBits& bits) {
    if (bits.flag()) return simpleCounts(bits);
    if (bits.flag()) return flatCounts(upTo255(bits) + 1);
    int width = 0;
    while (width < 3 && bits.flag()) ++width;
    const auto shift = static_cast<int>(bits.number(width) | 1U << width) - 1;
    if (shift > kRepeatCount) return std::nullopt;
    const std::size_t symbols = upTo255(bits) + 3;
    std::vector<int> widths(symbols);
    std::vector<std::size_t> same(symbols);
    std::size_t left = symbols;  // the symbol whose count is what the others leave
    for (std::size_t i = 0; i < symbols; ++i) {
        widths[i] = countBits(bits);
        if (widths[i] == kRepeatCount) {
            const auto more = upTo255(bits);
            same[i] = more + 5;
            i += more + 3;
        } else if (left == symbols || widths[i] > widths[left]) {
            left = i;
        }
    }
    if (!bits.ok() || left == symbols || (left + 1 < symbols && widths[left + 1] == kRepeatCount))
        return std::nullopt;
    std::vector<std::uint32_t> counts(symbols);
    std::size_t repeats = 0;
    std::uint32_t repeated = 0;
    std::uint64_t sum = 0;
    for (std::size_t i = 0; i < symbols; ++i) {
        if (same[i] > 0) {
            repeats = same[i] - 1;
            repeated = i > 0 ? counts[i - 1] : 0;
        }
        if (repeats > 0) {
            --repeats;
            counts[i] = repeated;
        } else if (i == left || widths[i] == 0) {
            continue;
        } else {
            const int high = widths[i] - 1;
            const int precision =
                high == 0 ? 0 : std::max(0, std::min(high, shift - ((Distribution::kBits - high) >> 1)));
            counts[i] = (1U << high) + (bits.number(precision) << (high - precision));
        }
        sum += counts[i];
    }
    if (sum >= kRange) return std::nullopt;
    counts[left] = kRange - static_cast<std::uint32_t>(sum);
    return counts;
}

void moveToFrontBack(std::vector<std::uint8_t>& values) {
    std::array<std::uint8_t, 256> order{};
    std::iota(order.begin(), order.end(), std::uint8_t{0});
    for (auto& value : values) {
        const std::size_t at = value;
        value = order[at];
        std::rotate(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(at),
                    order.begin() + static_cast<std::ptrdiff_t>(at) + 1);
    }
}

}  // namespace

bool NumberSplit::read(LowBits& bits, int largestExponent) {
    exponent = static_cast<int>(bits.number(bitsFor(largestExponent)));
    if (exponent == largestExponent) return true;
    high = static_cast<int>(bits.number(bitsFor(exponent)));
    if (high > exponent) return false;
    low = static_cast<int>(bits.number(bitsFor(exponent - high)));
    return high + low <= exponent;
}

std::uint32_t NumberSplit::number(std::uint32_t token, LowBits& bits) const {
    const auto split = 1U << exponent;
    if (token < split) return token;
    const auto width = static_cast<std::uint32_t>(exponent - high - low) + ((token - split) >> (high + low));
    const auto lowest = token & ((1U << low) - 1);
    const auto highest = (token >> low & ((1U << high) - 1)) | 1U << high;
    // 32 bits at most; a larger number has lost its beginning and is caught by what it is used for.
    const auto first = bits.number(static_cast<int>(std::min(width, 16U)));
    const auto second = width > 16 ? bits.number(static_cast<int>(std::min(width - 16, 16U))) : 0;
    const auto between = std::uint64_t{second} << 16 | first;
    return static_cast<std::uint32_t>(((std::uint64_t{highest} << std::min(width, 32U) | between) << low) |
                                      lowest);
}

Distribution::Distribution(const std::vector<std::uint32_t>& counts, int tableBits)
    : slotBits_(kBits - tableBits), table_(std::size_t{1} << tableBits) {
    const auto slot = 1U << slotBits_;
    const auto countOf = [&](std::size_t symbol) { return symbol < counts.size() ? counts[symbol] : 0; };
    const auto only = std::find(counts.begin(), counts.end(), kRange);
    std::vector<std::size_t> over, under;
    for (std::size_t i = 0; i < table_.size(); ++i) {
        auto& entry = table_[i];
        entry.frequency = countOf(i);
        if (only != counts.end()) {
            entry.symbol = static_cast<std::uint32_t>(only - counts.begin());
            entry.offset = slot * static_cast<std::uint32_t>(i);
        } else {
            entry.cutoff = countOf(i);
            if (entry.cutoff > slot) over.push_back(i);
            if (entry.cutoff < slot) under.push_back(i);
        }
    }
    while (!over.empty() && !under.empty()) {
        const auto from = over.back(), to = under.back();
        over.pop_back();
        under.pop_back();
        table_[from].cutoff -= slot - table_[to].cutoff;
        table_[to].symbol = static_cast<std::uint32_t>(from);
        table_[to].offset = table_[from].cutoff;
        if (table_[from].cutoff < slot) under.push_back(from);
        if (table_[from].cutoff > slot) over.push_back(from);
    }
    for (std::size_t i = 0; i < table_.size(); ++i) {
        auto& entry = table_[i];
        if (only == counts.end() && entry.cutoff == slot) {
            entry = {0, 0, static_cast<std::uint32_t>(i), entry.frequency, 0};
        } else if (only == counts.end()) {
            entry.offset -= entry.cutoff;
        }
        entry.otherFrequency = countOf(entry.symbol);
    }
}

std::uint32_t Distribution::step(std::uint32_t& state) const {
    const auto place = state & (kRange - 1);
    const auto at = place >> slotBits_;
    const auto within = place & ((1U << slotBits_) - 1);
    const auto& entry = table_[at];
    const bool other = within >= entry.cutoff;
    const auto frequency = other ? entry.otherFrequency : entry.frequency;
    state = frequency * (state >> kBits) + within + (other ? entry.offset : 0);
    return other ? entry.symbol : at;
}

bool Codes::readClusters(LowBits& bits, std::size_t contexts) {
    clusters_.assign(contexts, 0);
    if (contexts == 1) return true;
    if (bits.flag()) {
        const auto width = static_cast<int>(bits.number(2));
        for (auto& cluster : clusters_) cluster = static_cast<std::uint8_t>(bits.number(width));
    } else {
        const bool moved = bits.flag();
        const auto codes = Codes::read(bits, 1, contexts > 2);
        if (!codes) return false;
        Numbers numbers(*codes, bits);
        for (auto& cluster : clusters_) {
            const auto number = numbers.next(0);
            if (number > 255 || !bits.ok()) return false;
            cluster = static_cast<std::uint8_t>(number);
        }
        if (!numbers.endsRight()) return false;
        if (moved) moveToFrontBack(clusters_);
    }
    many_ = std::size_t{*std::max_element(clusters_.begin(), clusters_.end())} + 1;
    std::vector<bool> used(many_);
    for (const auto cluster : clusters_) used[cluster] = true;
    return bits.ok() && std::find(used.begin(), used.end(), false) == used.end();
}

bool Codes::passClusters(LowBits& bits, std::size_t contexts) {
    return Codes().readClusters(bits, contexts);
}

bool Codes::readPrefixCodes(LowBits& bits) {
    std::vector<std::size_t> symbols(many_);
    for (auto& count : symbols) {
        count = upTo65535(bits) + 1;
        if (count > 1U << kLongestPrefix) return false;
    }
    for (const auto count : symbols) {
        auto code = readPrefix(bits, count);
        if (!code) return false;
        prefixes_.push_back(std::move(*code));
    }
    return bits.ok();
}

bool Codes::readDistributions(LowBits& bits, int tableBits) {
    for (std::size_t i = 0; i < many_; ++i) {
        const auto counts = readCounts(bits);
        if (!counts || !bits.ok()) return false;
        const auto largest =
            std::find_if(counts->rbegin(), counts->rend(), [](auto count) { return count > 0; });
        if (counts->rend() - largest > 1 << tableBits) return false;
        distributions_.emplace_back(*counts, tableBits);
    }
    return true;
}

std::optional<Codes> Codes::read(LowBits& bits, std::size_t contexts, bool mayRepeat) {
    Codes codes;
    codes.repeats_.used = bits.flag();
    if (codes.repeats_.used && !mayRepeat) return std::nullopt;
    if (codes.repeats_.used) {
        constexpr std::array<std::uint32_t, 3> from{224, 512, 4096};
        const auto which = bits.number(2);
        codes.repeats_.from = which < 3 ? from[which] : 8 + bits.number(15);
        const auto least = bits.number(2);
        codes.repeats_.least = least < 2 ? 3 + least : least == 2 ? 5 + bits.number(2) : 9 + bits.number(8);
        ++contexts;
        if (!codes.repeats_.split.read(bits, 8)) return std::nullopt;
    }
    if (!codes.readClusters(bits, contexts)) return std::nullopt;
    const bool prefix = bits.flag();
    const int tableBits = prefix ? kLongestPrefix : static_cast<int>(bits.number(2)) + 5;
    codes.splits_.resize(codes.many_);
    for (auto& split : codes.splits_) {
        if (!split.read(bits, tableBits)) return std::nullopt;
    }
    if (!bits.ok()) return std::nullopt;
    const bool fine = prefix ? codes.readPrefixCodes(bits) : codes.readDistributions(bits, tableBits);
    return fine ? std::optional(std::move(codes)) : std::nullopt;
}

Numbers::Numbers(const Codes& codes, LowBits& bits) : codes_(codes), bits_(bits) {
    if (!proves()) return;
    state_ = bits.number(16);
    state_ |= bits.number(16) << 16;
}

std::uint32_t Numbers::token(std::size_t cluster) {
    if (!proves()) return codes_.prefixes_[cluster].read(bits_);
    const auto symbol = codes_.distributions_[cluster].step(state_);
    if (state_ < 1U << 16) state_ = state_ << 16 | bits_.number(16);
    return symbol;
}

std::uint32_t Numbers::next(std::size_t context) {
    constexpr std::uint64_t window = 1U << 20;
    const auto& repeats = codes_.repeats_;
    std::uint32_t number = 0;
    if (copies_ == 0) {
        const auto cluster = codes_.clusters_[context];
        const auto found = token(cluster);
        if (!repeats.used || found < repeats.from) {
            number = codes_.splits_[cluster].number(found, bits_);
            if (repeats.used) said_.push_back(number);
            return number;
        }
        copies_ = std::uint64_t{repeats.split.number(found - repeats.from, bits_)} + repeats.least;
        const auto distances = codes_.clusters_.back();
        const auto distance = std::uint64_t{codes_.splits_[distances].number(token(distances), bits_)} + 1;
        copyFrom_ = said_.size() - std::min<std::uint64_t>({distance, said_.size(), window});
    }
    --copies_;
    number = copyFrom_ < said_.size() ? said_[static_cast<std::size_t>(copyFrom_)] : 0;
    ++copyFrom_;
    said_.push_back(number);
    return number;
}

bool Numbers::endsRight() const {
    return bits_.ok() && (!proves() || state_ == kFirstState);
}

}  // namespace dreskel::jxl
