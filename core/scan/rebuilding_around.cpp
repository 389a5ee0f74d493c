// Files that go on behind what lies in their way. A recorder that meets clusters in use writes on behind
// them: where a whole file, a present one or a filesystem's structure cuts into a file that is not whole, the
// file is tried once more without them. Its own measure and check tell whether that is it; the length that a
// directory left, where its chain was cleared, ends it exactly.
#include <algorithm>
#include <thread>

#include "scan/running.h"

namespace dreskel {
namespace {

constexpr double kConfidenceAround = 0.98, kConfidenceWithLength = 0.99, kConfidenceOfKind = 0.7;
constexpr std::size_t kMostPieces = 64;
constexpr std::uint64_t kMostBytes = 64ULL << 30;
constexpr int kMostRounds = 4;
// An obstacle shows so far before it at most: a record that it cuts is missed from its beginning on.
constexpr std::uint64_t kBeforeTheBreak = 256 << 10;

bool interrupted(const Finding& finding, const RangeSet& present) {
    const auto& evidence = finding.evidence;
    return !finding.inside && !evidence.family.empty() && evidence.places.empty() &&
           (evidence.condition != Condition::Whole || looksWholeOver(finding, present));
}

// One way in which a file may lie.
struct Way {
    Candidate candidate;
    std::vector<ByteRange> places;
    std::optional<std::uint64_t> length;  // as a directory has it
};

// The free stretches from `start` on; nothing when no obstacle lies within the file's first `reach` bytes.
std::vector<ByteRange> behind(const RangeSet& free, std::uint64_t start, std::uint64_t reach,
                              std::uint64_t most, std::uint64_t end) {
    std::vector<ByteRange> places;
    for (const auto& stretch : free.within({start, end - start})) {
        if (places.empty() && (stretch.offset != start || stretch.length > reach)) return {};
        if (most == 0 || places.size() == kMostPieces) break;
        places.push_back({stretch.offset, std::min(stretch.length, most)});
        most -= places.back().length;
    }
    if (places.size() < 2) places.clear();
    return places;
}

std::vector<Join> joinsOf(const Way& way, const std::vector<ByteRange>& places, const Measured& measured) {
    const bool exact = way.length && *way.length == measured.length;
    auto confidence = exact ? kConfidenceWithLength : kConfidenceAround;
    std::string reason = "it goes on behind what lies in its way, and is whole then";
    if (measured.notices != Notices::ForeignBytes) {
        confidence = kConfidenceOfKind;
        reason = "it goes on behind what lies in its way; nothing in its coding proves that";
    }
    if (exact) reason += "; it has the length that the directory says";
    return joinsBetween(places, confidence, reason);
}

}  // namespace

Status Scanner::rebuildAround(Running& running, Control& control) {
    for (int round = 0; round < kMostRounds; ++round) {
        std::size_t joined = 0;
        // Blank stretches may be a file's own, or what was freed before it was written.
        for (const bool withBlanks : {true, false}) {
            const auto space = freeSpace(running, withBlanks);
            const auto free = wholeClusters(space, running.record.span);
            std::map<std::uint64_t, Way> ways;
            for (const auto& [id, finding] : running.claims.all()) {
                if (!interrupted(finding, running.book.present())) continue;
                const auto& evidence = finding.evidence;
                const auto length = running.book.lengthAt(finding.start(), evidence.family,
                                                          std::min(evidence.proven, evidence.range.length));
                auto places = behind(free, finding.start(), evidence.range.length + kBeforeTheBreak,
                                     length.value_or(kMostBytes), running.record.span.end());
                auto& tried = running.triedAround[finding.start()];
                if (places.empty() || std::find(tried.begin(), tried.end(), places) != tried.end()) continue;
                tried.push_back(places);
                ways.emplace(finding.start(),
                             Way{{finding.start(), evidence.family}, std::move(places), length});
            }
            if (ways.empty()) continue;
            running.joining = Running::Joining{ways.size(), 0};
            for (const auto& [start, way] : ways) running.examiner.add(way.candidate, way.places);
            std::vector<Examined> better;
            for (bool over = false; !over;) {
                std::this_thread::sleep_for(std::chrono::milliseconds(100));
                if (control.stopped()) return Done{};
                over = running.examiner.idle();
                running.joining->left = running.examiner.waiting();
                for (auto& examined : running.examiner.take()) {
                    if (examined.measured.accepted && examined.measured.condition == Condition::Whole &&
                        examined.places.size() > 1)
                        better.push_back(std::move(examined));
                }
                tell(running);
            }
            RangeSet taken;
            std::sort(better.begin(), better.end(), [](const Examined& a, const Examined& b) {
                return a.candidate.offset < b.candidate.offset;
            });
            for (auto& examined : better) {
                const bool used =
                    std::any_of(examined.places.begin(), examined.places.end(),
                                [&](const ByteRange& place) { return taken.intersects(place); });
                if (used) continue;
                for (const auto& place : examined.places) taken.add(place);
                const auto start = examined.candidate.offset;
                running.joins[start] = joinsOf(ways.at(start), examined.places, examined.measured);
                if (examined.measured.notices != Notices::ForeignBytes)
                    leaveUnproven(
                        examined.measured,
                        "put together around what lies in its way; nothing in its coding proves that");
                running.examiner.giveBack(std::move(examined));
                ++joined;
            }
            running.joining.reset();
            if (auto stored = store(running, false); !stored) return stored;
        }
        if (joined == 0) break;
    }
    return Done{};
}

}  // namespace dreskel
