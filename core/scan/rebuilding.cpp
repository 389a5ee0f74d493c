#include <algorithm>
#include <array>
#include <bit>
#include <thread>

#include "rebuild/photo_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kSmallestCluster = 2048, kUsualCluster = 4096, kLargestCluster = 64 * 1024;
// How far each round goes for one photo: the simplest answers first, and then again with what those leave
// free.
struct Round {
    int pieces;
    std::chrono::milliseconds time;
};
constexpr std::array kRounds{
    Round{2, std::chrono::milliseconds(700)}, Round{2, std::chrono::milliseconds(700)},
    Round{3, std::chrono::milliseconds(1500)}, Round{3, std::chrono::milliseconds(1500)},
    Round{6, std::chrono::milliseconds(3000)}};
constexpr int kEnoughFiles = 12;
constexpr double kConfidence = 0.98;

// The grid that files lie on: the largest power of two by which all of them begin at multiples from one
// another.
struct Grid {
    std::uint32_t cluster = kUsualCluster;
    std::uint64_t origin = 0;
};

Grid gridOf(const Claims& claims) {
    std::uint64_t bits = 0;
    std::optional<std::uint64_t> first;
    int files = 0;
    for (const auto& [id, finding] : claims.all()) {
        if (finding.inside) continue;
        if (!first) first = finding.start();
        ++files;
        bits |= finding.start() ^ *first;
    }
    Grid grid;
    const auto step = bits == 0 ? kUsualCluster : std::uint64_t{1} << std::countr_zero(bits);
    // A few files may all happen to lie on a coarser grid than the card's.
    const auto most = files < kEnoughFiles ? kUsualCluster : kLargestCluster;
    if (step >= kSmallestCluster) grid.cluster = static_cast<std::uint32_t>(std::min(step, most));
    grid.origin = first.value_or(0) % grid.cluster;
    return grid;
}

bool inPieces(const Finding& finding) {
    return finding.evidence.family == "jpeg" && finding.evidence.condition != Condition::Whole &&
           !finding.inside && finding.evidence.places.empty();
}

std::vector<Join> joinsOf(const std::vector<ByteRange>& places) {
    std::vector<Join> joins;
    std::uint64_t at = 0;
    for (std::size_t i = 0; i + 1 < places.size(); ++i) {
        at += places[i].length;
        joins.push_back(
            {at, kConfidence,
             "the coded data go on here, to the end marker at the last block, and the picture continues"});
    }
    return joins;
}

}  // namespace

Status Scanner::rebuildPhotos(Running& running, Control& control) {
    const auto grid = gridOf(running.claims);
    RangeSet free;
    free.add(running.record.span);
    for (const auto& range : running.book.structures().ranges()) free.remove(range);
    for (const auto& range : running.book.present().ranges()) free.remove(range);
    for (const auto& range : job_->ranges(RangeKind::Blank)) free.remove(range);
    std::vector<std::uint64_t> broken;
    for (const auto& [id, finding] : running.claims.all()) {
        if (inPieces(finding)) broken.push_back(finding.start());
        if (finding.inside || finding.condition != Condition::Whole) continue;
        for (const auto& piece : finding.pieces) {
            // With the rest of its last cluster.
            const auto clusters = (piece.length + grid.cluster - 1) / grid.cluster * grid.cluster;
            if (piece.from == PieceFrom::Card) free.remove({piece.offset, clusters});
        }
    }
    if (broken.empty()) return Done{};
    std::sort(broken.begin(), broken.end());
    rebuild::Pool pool(running.card, free.ranges(), grid.cluster, grid.origin, control);
    // What is put together is out of the way of the others, which are tried again then.
    int before = 0;
    bool better = true;
    for (const auto& round : kRounds) {
        // The same once more helps only when others have got out of the way.
        if (round.pieces == before && !better) continue;
        before = round.pieces;
        better = false;
        for (auto start = broken.begin(); start != broken.end();) {
            if (control.stopped()) return Done{};
            const rebuild::PhotoJoinLimits limits{round.time, round.pieces};
            const auto places = rebuild::joinPhoto(running.card, *start, pool, control, limits);
            if (!places) {
                ++start;
                continue;
            }
            running.joins[*start] = joinsOf(*places);
            running.examiner.add({*start, "jpeg"}, *places);
            while (!running.examiner.idle() && !control.stopped())
                std::this_thread::sleep_for(std::chrono::milliseconds(2));
            if (auto stored = store(running, false); !stored) return stored;
            pool.take(*places);
            better = true;
            start = broken.erase(start);
        }
    }
    return Done{};
}

}  // namespace dreskel
