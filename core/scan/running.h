// Everything that one run of a scan holds, shared by the files that the scanner is written in.
#pragma once

#include <chrono>
#include <map>
#include <mutex>
#include <set>
#include <vector>

#include "rebuild/clip_joiner.h"
#include "scan/claims.h"
#include "scan/directory_book.h"
#include "scan/examiner.h"
#include "scan/scanner.h"
#include "scan/surface.h"

namespace dreskel {

inline constexpr const char* kUnshown = "its pieces meet where nothing shows that they belong together";

// The joins of a file that lies in these places, all for one reason.
inline std::vector<Join> joinsOf(const rebuild::JoinedClip& clip, double confidence) {
    std::vector<Join> joins;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i < clip.reasons.size(); ++i) {
        at += clip.places[i].length;
        joins.push_back({at, confidence, clip.reasons[i]});
    }
    return joins;
}
inline std::vector<Join> joinsBetween(const std::vector<ByteRange>& places, double confidence,
                                      const std::string& why) {
    std::vector<Join> joins;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places.size(); ++i) {
        at += places[i].length;
        joins.push_back({at, confidence, why});
    }
    return joins;
}

// Where files begin that a way of rebuilding is for.
template <class Wanted>
std::vector<Candidate> candidatesOf(const std::map<std::int64_t, Finding>& files, Wanted&& wanted) {
    std::vector<Candidate> found;
    for (const auto& [id, finding] : files) {
        if (wanted(finding)) found.push_back({finding.start(), finding.evidence.family});
    }
    return found;
}

struct Scanner::Running {
    Running(const std::shared_ptr<Source>& source, const ScanRecord& scan, Control& control)
        : record(scan),
          card(source),
          examiner(source, card, scan.span, scan.formats, control),
          claims(card),
          surface(source->size(), scan.surface) {}

    ScanRecord record;
    CardView card;
    Examiner examiner;
    Claims claims;
    DirectoryBook book;
    std::vector<std::uint64_t> folders;        // sectors
    std::map<std::int64_t, Finding> promised;  // known from directories only, so far
    std::int64_t lastId = 0;

    std::map<std::uint64_t, std::int64_t> promisedStarts;
    std::map<std::uint64_t, std::vector<Join>> joins;  // of files that were put together, by their beginning
    std::set<std::uint64_t> decided;                   // beginnings of files that the technician put together
    std::map<std::uint64_t, std::vector<std::vector<ByteRange>>> triedAround;  // by their beginning
    std::optional<std::vector<std::uint64_t>>
        movies;  // where moov boxes begin in free space, once looked for

    // While files in pieces are put together.
    struct Joining {
        std::size_t left = 0, joined = 0;  // files
    };
    std::optional<Joining> joining;

    void promise(Finding finding) {
        promisedStarts[finding.start()] = finding.id;
        promised[finding.id] = std::move(finding);
    }
    std::optional<std::int64_t> promisedAt(std::uint64_t start) const {
        const auto found = promisedStarts.find(start);
        return found == promisedStarts.end() ? std::nullopt : std::optional(found->second);
    }

    // Filled by the pass, drained at each tick.
    std::mutex mutex;
    Surface surface;
    std::vector<Candidate> candidates;
    std::vector<ByteRange> unreadable;
    std::uint64_t position = 0;

    std::uint64_t reached() {
        const std::lock_guard lock(mutex);
        return position;
    }

    double rate = 0;
    std::chrono::steady_clock::time_point rateAt = std::chrono::steady_clock::now();
    std::uint64_t ratePosition = 0;
};

}  // namespace dreskel
