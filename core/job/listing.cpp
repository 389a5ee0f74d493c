#include "job/listing.h"

#include <nlohmann/json.hpp>

#include "job/finding_json.h"

namespace dreskel {

nlohmann::ordered_json listingHead(const Job& job) {
    nlohmann::ordered_json list;
    list["schema"] = 1;
    const auto source = job.source().value_or(SourceFacts{});
    list["source"] = {{"path", source.path}, {"size", source.size}, {"sector_size", source.sectorSize}};
    const auto scan = job.scan();
    auto unreadable = nlohmann::ordered_json::array();
    for (const auto& range : job.unreadable()) unreadable.push_back({range.offset, range.length});
    list["scan"] = {{"state", toWord(scan.state)},
                    {"bytes_read", scan.position > scan.span.offset ? scan.position - scan.span.offset : 0},
                    {"unreadable", unreadable}};
    if (scan.namedOnly) list["scan"]["named_only"] = true;
    return list;
}

nlohmann::ordered_json ledgerJson(const Ledger& ledger) {
    return {{"files", ledger.files},
            {"filesystem", ledger.structures},
            {"blank", ledger.blank},
            {"unreadable", ledger.unreadable},
            {"unexplained", ledger.unexplained},
            {"not_looked_at", ledger.notLookedAt},
            {"claimed_twice", ledger.claimedTwice}};
}

nlohmann::ordered_json listing(const Job& job, bool embedded) {
    auto list = listingHead(job);
    list["ledger"] = ledgerJson(ledgerOf(job));
    list["files"] = nlohmann::ordered_json::array();
    for (const auto& finding : job.findings()) {
        if (finding.listed() || (embedded && finding.wanted)) list["files"].push_back(entryOf(finding));
    }
    return list;
}

}  // namespace dreskel
