#include "scan/free_space.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "formats/registry.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kSmallestCluster = 2048, kUsualCluster = 4096, kLargestCluster = 128 * 1024;
constexpr double kNoChance = 0.001;             // that files lie on a coarser grid than the card's
constexpr std::size_t kNearlyAll = 4, kOf = 5;  // four of five

// The grid that files lie on: the coarsest on which nearly all of them begin, and go on. What begins off it
// lies inside of others.
struct Grid {
    std::uint32_t cluster = kUsualCluster;
    std::uint64_t origin = 0;
};

// An upper bound of the probability that so many of all fall on one of `places`, all as likely.
double chance(std::size_t all, std::size_t alike, std::uint64_t places) {
    const auto n = static_cast<double>(all), k = static_cast<double>(alike);
    const auto ways = std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1);
    return std::exp(ways - (k - 1) * std::log(static_cast<double>(places)));
}

Grid gridOf(const Claims& claims) {
    std::vector<std::uint64_t> starts;
    for (const auto& [id, finding] : claims.all()) {
        // Any frame of a stream may look like its beginning, at any sector.
        const auto* format = familyNamed(finding.evidence.family);
        const bool stream = format != nullptr && format->runsOn();
        if (finding.inside) continue;
        if (!(stream && finding.start() % kUsualCluster != 0)) starts.push_back(finding.start());
        // A piece keeps its place within a cluster: where the file would begin if all of it lay like that.
        if (finding.condition != Condition::Whole) continue;
        std::uint64_t ahead = 0;  // bytes of the file
        for (const auto& piece : finding.pieces) {
            if (ahead > 0 && piece.from == PieceFrom::Card) starts.push_back(piece.offset - ahead);
            ahead += piece.length;
        }
    }
    if (starts.empty()) return {};
    // How many lie alike within clusters of a size, and where.
    const auto alike = [&](std::uint64_t cluster) {
        std::map<std::uint64_t, std::size_t> origins;
        for (const auto start : starts) ++origins[start % cluster];
        return *std::max_element(origins.begin(), origins.end(),
                                 [](const auto& a, const auto& b) { return a.second < b.second; });
    };
    for (auto cluster = kLargestCluster; cluster >= kSmallestCluster; cluster /= 2) {
        const auto [origin, count] = alike(cluster);
        const bool nearlyAll = count * kOf >= starts.size() * kNearlyAll;
        // That the card has smaller ones must be improbable; what lies alike on a still coarser grid says
        // more.
        bool told = cluster <= kUsualCluster;
        for (auto grid = cluster; nearlyAll && !told && grid <= kLargestCluster; grid *= 2)
            told = chance(starts.size(), alike(grid).second, grid / (cluster / 2)) < kNoChance;
        if ((nearlyAll && told) || cluster == kSmallestCluster)
            return {static_cast<std::uint32_t>(cluster), origin};
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
        // itself, and notes are its metadata.
        const bool mayBeInside = finding.kind == Kind::Photo || finding.kind == Kind::Sidecar;
        if (mayBeInside && finding.start() % grid.cluster != grid.origin) continue;
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
