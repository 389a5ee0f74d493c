#include "job/ledger.h"

namespace dreskel {

Ledger ledgerOf(const Job& job) {
    Ledger ledger;
    const auto size = job.source().value_or(SourceFacts{}).size;
    const auto scan = job.scan();
    RangeSet left;  // what no account has taken yet
    left.add({0, size});
    const auto take = [&](ByteRange range) {
        std::uint64_t taken = 0;
        for (const auto& part : left.within(range)) taken += part.length;
        left.remove(range);
        return taken;
    };
    if (scan.span.length == 0) {
        ledger.notLookedAt = size;
        return ledger;
    }
    const auto takeUnread = [&] {
        ledger.notLookedAt =
            take({0, scan.span.offset}) + take({scan.position, size - std::min(size, scan.position)});
    };
    // A search of the named files has looked at them wherever they lie.
    if (!scan.namedOnly) takeUnread();
    for (const auto& range : job.unreadable()) ledger.unreadable += take(range);
    for (const auto& finding : job.findings()) {
        if (!finding.listed()) continue;
        for (const auto& piece : finding.pieces) {
            if (piece.from != PieceFrom::Card) continue;
            const auto taken = take(piece.onCard());
            ledger.files += taken;
            if (scan.state == ScanState::Finished) ledger.claimedTwice += piece.length - taken;
        }
    }
    for (const auto& range : job.ranges(RangeKind::Structure)) ledger.structures += take(range);
    for (const auto& range : job.ranges(RangeKind::Blank)) ledger.blank += take(range);
    if (scan.namedOnly) takeUnread();
    ledger.unexplained = left.total();
    ledger.unexplainedAt = left.ranges();
    return ledger;
}

}  // namespace dreskel
