// The vocabulary shared by every part: kinds, conditions, pieces, joins. See docs/architecture.md, "Words".
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/range.h"

namespace dreskel {

enum class Kind { Photo, Video, Audio, Sidecar, Other };
enum class Condition { Unchecked, Whole, Partial, Broken };
enum class PieceFrom { Card, Fill, Made };

std::string_view toWord(Kind kind);
std::string_view toWord(Condition condition);
std::string_view toWord(PieceFrom from);
std::optional<Kind> kindFromWord(std::string_view word);
std::optional<Condition> conditionFromWord(std::string_view word);
std::optional<PieceFrom> pieceFromWord(std::string_view word);

// A run of bytes of a file. The pieces of a file, in order, are the whole of it.
struct Piece {
    PieceFrom from = PieceFrom::Card;
    std::uint64_t offset = 0;  // bytes on the source; 0 unless from the card
    std::uint64_t length = 0;  // bytes
    std::string why;           // for what is filled or made: the reason
    // Of what is made, the bytes themselves: `length` of them; shared, never changed.
    std::shared_ptr<const std::vector<std::uint8_t>> made{};

    ByteRange onCard() const { return {offset, length}; }
    bool operator==(const Piece& other) const {
        const bool sameMade = made == other.made || (made && other.made && *made == *other.made);
        return from == other.from && offset == other.offset && length == other.length && why == other.why &&
               sameMade;
    }
};
Piece madePiece(std::vector<std::uint8_t> bytes, std::string why);

// Where one piece ends and the next begins.
struct Join {
    std::uint64_t at = 0;  // bytes from the start of the file
    double confidence = 0;
    std::string why;
};

std::uint64_t totalLength(const std::vector<Piece>& pieces);

// The range of the source as pieces: what is in `unreadable` becomes fill.
std::vector<Piece> piecesOf(ByteRange range, const RangeSet& unreadable);

// "1.4 GB" style, with powers of 1000 as card makers print them.
std::string humanSize(std::uint64_t bytes);
// "1 234 567": digits in groups of three.
std::string grouped(std::uint64_t number);

}  // namespace dreskel
