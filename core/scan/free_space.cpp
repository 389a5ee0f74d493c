#include "scan/free_space.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "formats/registry.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kSmallestCluster = 2048, kUsualCluster = 4096, kLargestCluster = 64 * 1024;
constexpr std::size_t kEnoughFiles = 12;
constexpr double kNoChance =
    1000;  // to one, against a few files lying on a coarser grid than the card's by chance
constexpr std::size_t kNearlyAll = 4, kOf = 5;  // four of five

// The grid that files lie on: the coarsest on which nearly all of them begin. What begins off it lies inside
// of others.
struct Grid {
    std::uint32_t cluster = kUsualCluster;
    std::uint64_t origin = 0;
};

Grid gridOf(const Claims& claims) {
    std::vector<std::uint64_t> starts;
    for (const auto& [id, finding] : claims.all()) {
        // Any frame of a stream may look like its beginning, at any sector.
        const auto* format = familyNamed(finding.evidence.family);
        const bool stream = format != nullptr && format->runsOn();
        if (!finding.inside && !(stream && finding.start() % kUsualCluster != 0))
            starts.push_back(finding.start());
    }
    const bool few = starts.size() < kEnoughFiles;
    for (auto cluster = kLargestCluster; cluster >= kSmallestCluster; cluster /= 2) {
        std::map<std::uint64_t, std::size_t> origins;
        for (const auto start : starts) ++origins[start % cluster];
        const auto most = std::max_element(origins.begin(), origins.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (most == origins.end()) break;
        if (few && cluster > kUsualCluster) {
            const auto ratio = static_cast<double>(cluster) / static_cast<double>(kUsualCluster);
            const auto odds = std::pow(ratio, static_cast<double>(starts.size()) - 1);
            if (most->second < starts.size() || odds < kNoChance) continue;
        }
        const bool nearlyAll = most->second * kOf >= starts.size() * kNearlyAll;
        if (nearlyAll || cluster == kSmallestCluster)
            return {static_cast<std::uint32_t>(cluster), most->first};
    }
    return {};
}

// The clusters that lie in a stretch as a whole; the last one of the card may be cut short.
ByteRange wholeClustersOf(ByteRange stretch, const Grid& grid, ByteRange span) {
    const auto ahead = (grid.cluster + grid.origin - stretch.offset % grid.cluster) % grid.cluster;
    if (stretch.length <= ahead) return {stretch.offset, 0};
    const auto rest = stretch.length - ahead;
    const bool last = stretch.end() == span.end();
    return {stretch.offset + ahead, last ? rest : rest / grid.cluster * grid.cluster};
}

}  // namespace

RangeSet wholeClusters(const FreeSpace& space, ByteRange span) {
    RangeSet free;
    for (const auto& stretch : space.stretches)
        free.add(wholeClustersOf(stretch, {space.cluster, space.origin}, span));
    return free;
}

bool looksWholeOver(const Finding& finding, const RangeSet& present) {
    const auto& evidence = finding.evidence;
    return evidence.notices != Notices::ForeignBytes && finding.fate != Fate::Present &&
           evidence.places.empty() && present.intersects(evidence.range);
}

FreeSpace freeSpaceOf(const Claims& claims, ByteRange span, const std::vector<std::vector<ByteRange>>& others,
                      const std::vector<ByteRange>& blank,
                      const std::function<bool(const Finding&)>& inDoubt) {
    const auto grid = gridOf(claims);
    RangeSet free;
    free.add(span);
    for (const auto& ranges : others) {
        for (const auto& range : ranges) free.remove(range);
    }
    for (const auto& range : blank) free.remove(wholeClustersOf(range, grid, span));
    for (const auto& [id, finding] : claims.all()) {
        const bool sure = finding.condition == Condition::Whole || finding.evidence.decided;
        if (finding.inside || !sure || inDoubt(finding)) continue;
        // A whole picture off the grid is a frame of a clip, or a preview of a photo, that is in pieces
        // itself.
        if (finding.kind == Kind::Photo && finding.start() % grid.cluster != grid.origin) continue;
        for (const auto& piece : finding.pieces) {
            if (piece.from != PieceFrom::Card) continue;
            // With the rest of its last cluster; a stream may begin within one.
            const auto into =
                (piece.offset + piece.length + grid.cluster - grid.origin % grid.cluster) % grid.cluster;
            const auto rest = into == 0 ? 0 : grid.cluster - into;
            free.remove({piece.offset, piece.length + rest});
        }
    }
    return {free.ranges(), grid.cluster, grid.origin};
}

}  // namespace dreskel
