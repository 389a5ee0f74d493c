#include "desktop/band/lanes.h"

#include <algorithm>
#include <cmath>

#include "scan/surface.h"

namespace dreskel {
namespace {

// Less than this of a cell is slack behind the ends of files.
constexpr double kLeastShare = 0.04;

std::size_t laneOf(Kind kind) {
    switch (kind) {
        case Kind::Photo: return 0;
        case Kind::Video: return 1;
        case Kind::Audio: return 2;
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return 3;
}

// Bytes of each cell that files take; files do not overlap, or it would be more than there is.
std::vector<double> takenOf(const std::array<std::vector<LaneSpan>, 4>& spans, std::size_t cells) {
    std::vector<double> taken(cells);
    for (const auto& lane : spans) {
        for (const auto& span : lane) {
            for (auto at = span.range.offset; at < span.range.end() && at / kSurfaceCell < cells;) {
                const auto cell = at / kSurfaceCell;
                const auto end = std::min(span.range.end(), (cell + 1) * kSurfaceCell);
                taken[cell] += static_cast<double>(end - at);
                at = end;
            }
        }
    }
    return taken;
}

}  // namespace

Lanes::Lanes(const LanesRequest& request) {
    for (const auto& finding : *request.files) {
        if (!finding->listed()) continue;
        auto& lane = spans_[laneOf(finding->kind)];
        for (const auto& piece : finding->pieces) {
            if (piece.from == PieceFrom::Card) lane.push_back({piece.onCard(), finding->id});
        }
    }
    for (auto& lane : spans_) std::sort(lane.begin(), lane.end());
    if (!request.surface) return;
    const auto& surface = *request.surface;
    const auto taken = takenOf(spans_, surface.size());
    sums_.reserve(surface.size() + 1);
    for (std::size_t cell = 0; cell < surface.size(); ++cell) {
        const auto from = cell * kSurfaceCell;
        if (from >= request.size) break;
        const auto length = static_cast<double>(std::min(kSurfaceCell, request.size - from));
        const auto filled = (255.0 - surface[cell]) / 255.0 * length;
        const double share = (filled - taken[cell]) / length;
        const bool read = static_cast<double>(from) + length <= static_cast<double>(request.position);
        sums_.push_back(sums_.back() + (read && share >= kLeastShare ? share : 0));
    }
}

const std::vector<LaneSpan>& Lanes::spansOf(Kind kind) const {
    return spans_[laneOf(kind)];
}

double Lanes::unexplained(double from, double to) const {
    const auto cell = static_cast<double>(kSurfaceCell);
    const auto last = static_cast<double>(sums_.size() - 1);
    const auto first = std::clamp(std::floor(from / cell), 0.0, last);
    const auto end = std::clamp(std::ceil(to / cell), first, last);
    if (end <= first) return 0;
    return (sums_[static_cast<std::size_t>(end)] - sums_[static_cast<std::size_t>(first)]) / (end - first);
}

}  // namespace dreskel
