// What the technician decided on the splice bench outweighs what was found without help: such a file is
// examined with the pieces that were set, and has a right to them; the files that had them are tried again.

#include <algorithm>

#include "rebuild/splice.h"
#include "scan/running.h"

namespace dreskel {
namespace {

// Without what is to stay empty.
std::vector<ByteRange> onCard(const std::vector<ByteRange>& places) {
    std::vector<ByteRange> there;
    for (const auto& place : places) {
        if (!rebuild::isNowhere(place)) there.push_back(place);
    }
    return there;
}

std::vector<Piece> piecesOf(const std::vector<ByteRange>& places, const CardView& card) {
    std::vector<Piece> pieces;
    for (const auto& place : places) {
        if (rebuild::isNowhere(place)) {
            pieces.push_back({PieceFrom::Fill, 0, place.length, "left empty by the technician"});
            continue;
        }
        for (auto& piece : card.pieces(place)) pieces.push_back(std::move(piece));
    }
    return pieces;
}

}  // namespace

Status Scanner::carryOutSplices(Running& running, Control& control) {
    std::map<std::uint64_t, Splice> splices;
    for (auto& splice : job_->splices()) {
        const auto start = splice.start;
        splices.emplace(start, std::move(splice));
    }
    running.decided.clear();
    bool undone = false;
    for (const auto& [id, finding] : running.claims.all()) {
        const auto& evidence = finding.evidence;
        const Candidate candidate{finding.start(), evidence.family};
        const auto splice = splices.find(finding.start());
        const bool wanted = splice != splices.end() && splice->second.family == evidence.family;
        if (!wanted) {
            if (!evidence.decided) continue;
            // It was decided once and is not any more: back to what the walk or a directory says.
            running.examiner.add(candidate, running.book.placesAt(finding.start()));
            undone = true;
            continue;
        }
        running.decided.insert(finding.start());
        const auto& places = splice->second.places;
        const bool withGaps = onCard(places).size() < places.size();
        auto pieces = withGaps ? piecesOf(places, running.card) : std::vector<Piece>();
        const bool same = withGaps ? evidence.rebuilt == pieces : evidence.places == places;
        if (evidence.decided && same) continue;
        running.joins[finding.start()] = joinsBetween(places, 1.0, "set by the technician");
        if (withGaps) {
            running.examiner.addRebuilt(candidate, std::move(pieces));
        } else {
            running.examiner.add(candidate, places);
        }
    }
    if (running.decided.empty() && !undone) return Done{};
    running.examiner.finish();
    if (control.stopped()) return Done{};
    if (auto stored = store(running, false); !stored) return stored;
    // What others had put together with these pieces is not believed any more. Asked each time: a stop may
    // have come between the two.
    RangeSet decided;
    for (const auto& [start, splice] : splices) {
        for (const auto& place : onCard(splice.places)) decided.add(place);
    }
    for (const auto& [id, finding] : running.claims.all()) {
        const auto& evidence = finding.evidence;
        if (evidence.decided || evidence.places.empty() || finding.fate == Fate::Present) continue;
        const auto known = running.book.placesAt(finding.start());
        const bool taken = std::any_of(evidence.places.begin(), evidence.places.end(),
                                       [&](const ByteRange& place) { return decided.intersects(place); });
        if (!taken || evidence.places == known) continue;
        running.joins.erase(finding.start());
        running.examiner.add({finding.start(), evidence.family}, known);
    }
    running.examiner.finish();
    return control.stopped() ? Status(Done{}) : store(running, false);
}

}  // namespace dreskel
