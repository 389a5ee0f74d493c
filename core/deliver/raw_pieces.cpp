#include "deliver/raw_pieces.h"

#include <algorithm>

#include "job/ledger.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kLeast = 4096;
constexpr const char* kFolder = "Unexplained";

// Of one width, so that folders sort them by place.
std::string padded(std::uint64_t number, std::size_t digits) {
    auto text = std::to_string(number);
    return std::string(digits - std::min(digits, text.size()), '0') + text;
}

}  // namespace

std::vector<Finding> rawPiecesOf(const Job& job) {
    std::int64_t number = 0;
    for (const auto& finding : job.findings()) number = std::max(number, finding.id);
    const auto facts = job.source();
    const auto digits = std::to_string(facts ? facts->size : 0).size();
    std::vector<Finding> pieces;
    for (const auto& range : ledgerOf(job).unexplainedAt) {
        if (range.length < kLeast) continue;
        Finding piece;
        piece.id = ++number;
        piece.kind = Kind::Other;
        piece.format = "raw";
        piece.pieces = {{PieceFrom::Card, range.offset, range.length, {}}};
        piece.condition = Condition::Unchecked;
        piece.name = "from byte " + padded(range.offset, digits) + ".bin";
        piece.folder = kFolder;
        piece.notes = {"no file, no part of a filesystem, and not blank: as it lies on the card"};
        piece.evidence.range = range;
        pieces.push_back(std::move(piece));
    }
    return pieces;
}

}  // namespace dreskel
