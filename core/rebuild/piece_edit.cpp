#include "rebuild/piece_edit.h"

#include <algorithm>

namespace dreskel::rebuild {
namespace {

// A part of a piece, by bytes from its beginning.
Piece partOf(const Piece& piece, std::uint64_t from, std::uint64_t to) {
    auto part = piece;
    part.length = to - from;
    if (piece.from == PieceFrom::Card) part.offset += from;
    if (piece.made) {
        const auto first = piece.made->begin() + static_cast<std::ptrdiff_t>(from);
        part = madePiece({first, first + static_cast<std::ptrdiff_t>(part.length)}, piece.why);
    }
    return part;
}

}  // namespace

void replaceBytes(std::vector<Piece>& pieces, std::uint64_t at, std::vector<std::uint8_t> bytes,
                  const std::string& why) {
    std::vector<Piece> result;
    const auto end = at + bytes.size();
    std::uint64_t begin = 0;
    bool done = false;
    for (const auto& piece : pieces) {
        const auto pieceEnd = begin + piece.length;
        if (begin < at) result.push_back(partOf(piece, 0, std::min(pieceEnd, at) - begin));
        if (!done && pieceEnd > at) {
            result.push_back(madePiece(bytes, why));
            done = true;
        }
        if (pieceEnd > end) result.push_back(partOf(piece, std::max(begin, end) - begin, piece.length));
        begin = pieceEnd;
    }
    pieces = std::move(result);
}

void cutAt(std::vector<Piece>& pieces, std::uint64_t length) {
    std::uint64_t begin = 0;
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        if (begin + pieces[i].length < length) {
            begin += pieces[i].length;
            continue;
        }
        if (length > begin) pieces[i] = partOf(pieces[i], 0, length - begin);
        pieces.resize(length > begin ? i + 1 : i);
        return;
    }
}

}  // namespace dreskel::rebuild
