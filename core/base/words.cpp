#include "base/words.h"

#include <array>
#include <cstdio>

namespace dreskel {
namespace {

template <typename T, std::size_t N>
std::string_view wordFor(const std::array<std::pair<T, std::string_view>, N>& table, T value) {
    for (const auto& [key, word] : table) {
        if (key == value) return word;
    }
    return "unknown";
}
template <typename T, std::size_t N>
std::optional<T> valueFor(const std::array<std::pair<T, std::string_view>, N>& table, std::string_view text) {
    for (const auto& [key, word] : table) {
        if (word == text) return key;
    }
    return std::nullopt;
}

constexpr std::array<std::pair<Kind, std::string_view>, 5> kKinds{{{Kind::Photo, "photo"},
                                                                   {Kind::Video, "video"},
                                                                   {Kind::Audio, "audio"},
                                                                   {Kind::Sidecar, "sidecar"},
                                                                   {Kind::Other, "other"}}};
constexpr std::array<std::pair<Condition, std::string_view>, 4> kConditions{
    {{Condition::Unchecked, "unchecked"},
     {Condition::Whole, "whole"},
     {Condition::Partial, "partial"},
     {Condition::Broken, "broken"}}};
constexpr std::array<std::pair<PieceFrom, std::string_view>, 3> kPieces{
    {{PieceFrom::Card, "card"}, {PieceFrom::Fill, "fill"}, {PieceFrom::Made, "made"}}};

}  // namespace

std::string_view toWord(Kind kind) {
    return wordFor(kKinds, kind);
}
std::string_view toWord(Condition condition) {
    return wordFor(kConditions, condition);
}
std::string_view toWord(PieceFrom from) {
    return wordFor(kPieces, from);
}
std::optional<Kind> kindFromWord(std::string_view word) {
    return valueFor(kKinds, word);
}
std::optional<Condition> conditionFromWord(std::string_view word) {
    return valueFor(kConditions, word);
}
std::optional<PieceFrom> pieceFromWord(std::string_view word) {
    return valueFor(kPieces, word);
}

Piece madePiece(std::vector<std::uint8_t> bytes, std::string why) {
    const auto length = bytes.size();
    return {PieceFrom::Made, 0, length, std::move(why),
            std::make_shared<const std::vector<std::uint8_t>>(std::move(bytes))};
}

std::uint64_t totalLength(const std::vector<Piece>& pieces) {
    std::uint64_t sum = 0;
    for (const auto& piece : pieces) sum += piece.length;
    return sum;
}

std::vector<Piece> piecesOf(ByteRange range, const RangeSet& unreadable) {
    std::vector<Piece> pieces;
    auto at = range.offset;
    for (const auto& bad : unreadable.within(range)) {
        if (bad.offset > at) pieces.push_back({PieceFrom::Card, at, bad.offset - at, {}});
        pieces.push_back({PieceFrom::Fill, 0, bad.length, "the card could not be read here"});
        at = bad.end();
    }
    if (at < range.end()) pieces.push_back({PieceFrom::Card, at, range.end() - at, {}});
    return pieces;
}

std::string humanSize(std::uint64_t bytes) {
    constexpr std::array<const char*, 5> units{"bytes", "kB", "MB", "GB", "TB"};
    auto value = static_cast<double>(bytes);
    std::size_t unit = 0;
    while (value >= 999.5 && unit + 1 < units.size()) {
        value /= 1000.0;
        ++unit;
    }
    std::array<char, 48> text{};
    const int decimals = unit == 0 || value >= 99.95 ? 0 : value >= 9.995 ? 1 : 2;
    std::snprintf(text.data(), text.size(), "%.*f %s", decimals, value, units[unit]);
    return text.data();
}

std::string grouped(std::uint64_t number) {
    auto digits = std::to_string(number);
    for (auto at = static_cast<int>(digits.size()) - 3; at > 0; at -= 3) {
        digits.insert(static_cast<std::size_t>(at), "\u202f");
    }
    return digits;
}

}  // namespace dreskel
