// What the technician decided on the splice bench outweighs what was found without help: such a file is
// examined with the pieces that were set, and has a right to them; the files that had them are tried again.
#include <thread>

#include "scan/running.h"

namespace dreskel {

Status Scanner::carryOutSplices(Running& running, Control& control) {
    std::map<std::uint64_t, Splice> splices;
    for (auto& splice : job_->splices()) {
        const auto start = splice.start;
        splices.emplace(start, std::move(splice));
    }
    running.decided.clear();
    bool any = false;
    const auto examine = [&](const Candidate& candidate, const std::vector<ByteRange>& places) {
        running.examiner.add(candidate, places);
        any = true;
    };
    for (const auto& [id, finding] : running.claims.all()) {
        const auto& evidence = finding.evidence;
        const Candidate candidate{finding.start(), evidence.family};
        const auto splice = splices.find(finding.start());
        const bool wanted = splice != splices.end() && splice->second.family == evidence.family;
        if (!wanted) {
            // It was decided once and is not any more: back to what the walk or a directory says.
            if (evidence.decided) examine(candidate, running.book.placesAt(finding.start()));
            continue;
        }
        running.decided.insert(finding.start());
        if (evidence.decided && evidence.places == splice->second.places) continue;
        std::vector<Join> joins;
        std::uint64_t at = 0;
        for (std::size_t i = 0; i + 1 < splice->second.places.size(); ++i) {
            at += splice->second.places[i].length;
            joins.push_back({at, 1.0, "set by the technician"});
        }
        running.joins[finding.start()] = std::move(joins);
        examine(candidate, splice->second.places);
    }
    if (!any) return Done{};
    while (!running.examiner.idle() && !control.stopped())
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    if (control.stopped()) return Done{};
    // What others had put together with these pieces is not believed any more.
    RangeSet decided;
    for (const auto& [start, splice] : splices) {
        for (const auto& place : splice.places) decided.add(place);
    }
    if (auto stored = store(running, false); !stored) return stored;
    for (const auto& [id, finding] : running.claims.all()) {
        const auto& evidence = finding.evidence;
        if (evidence.decided || evidence.places.empty() || finding.joins.empty() ||
            finding.fate == Fate::Present)
            continue;
        const bool taken = std::any_of(evidence.places.begin(), evidence.places.end(),
                                       [&](const ByteRange& place) { return decided.intersects(place); });
        if (!taken) continue;
        running.joins.erase(finding.start());
        running.examiner.add({finding.start(), evidence.family}, running.book.placesAt(finding.start()));
    }
    while (!running.examiner.idle() && !control.stopped())
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    return control.stopped() ? Status(Done{}) : store(running, false);
}

}  // namespace dreskel
