#include "desktop/loupe/photo_tiles.h"

#include <algorithm>
#include <cmath>
#include <QPainter>

namespace dreskel {
namespace {

constexpr std::size_t kMost = 64;  // tiles that are held, 256 MB; more when more are in view
constexpr int kLevels = 6;
static_assert((1U << kLevels) == media::DecoderProcess::kMostShrunk);
static_assert(PhotoTiles::kSide <= media::DecoderProcess::kLargestPart);

}  // namespace

void PhotoTiles::begin(QSize photo) {
    photo_ = photo;
    tiles_.clear();
}

int PhotoTiles::levelFor(double scale) {
    return scale >= 1 ? 0 : std::clamp(static_cast<int>(std::floor(-std::log2(scale))), 0, kLevels);
}

media::DecoderProcess::PhotoPart PhotoTiles::partOf(const PhotoTile& tile) {
    const auto side = static_cast<std::uint32_t>(kSide) << tile.level;
    return {static_cast<std::uint32_t>(tile.column) * side, static_cast<std::uint32_t>(tile.row) * side, side,
            side, std::uint32_t{1} << tile.level};
}

PhotoTile PhotoTiles::tileOf(const media::DecoderProcess::PhotoPart& part) {
    return {static_cast<int>(std::lround(std::log2(part.shrink))), static_cast<int>(part.left / part.wide),
            static_cast<int>(part.top / part.high)};
}

QRectF PhotoTiles::placeOf(const PhotoTile& tile) const {
    const double side = std::ldexp(kSide, tile.level);
    return {tile.column * side, tile.row * side, side, side};
}

PhotoTiles::Span PhotoTiles::touched(const QRectF& seen, int level) const {
    const auto part = seen.intersected(QRectF(QPointF(), photo_));
    if (part.isEmpty()) return {};
    const double side = std::ldexp(kSide, level);
    return {static_cast<int>(part.left() / side), static_cast<int>(std::ceil(part.right() / side)) - 1,
            static_cast<int>(part.top() / side), static_cast<int>(std::ceil(part.bottom() / side)) - 1};
}

std::optional<PhotoTile> PhotoTiles::missing(const QRectF& seen, int level) const {
    const auto span = touched(seen, level);
    std::optional<PhotoTile> nearest;
    double distance = 0;
    for (int row = span.firstRow; row <= span.lastRow; ++row) {
        for (int column = span.firstColumn; column <= span.lastColumn; ++column) {
            const PhotoTile tile{level, column, row};
            if (tiles_.contains(tile)) continue;
            const auto from = placeOf(tile).center() - seen.center();
            const double far = std::hypot(from.x(), from.y());
            if (nearest && far >= distance) continue;
            nearest = tile;
            distance = far;
        }
    }
    return nearest;
}

void PhotoTiles::put(const PhotoTile& tile, const QImage& picture, const QRectF& seen) {
    tiles_.insert_or_assign(tile, picture);
    if (tiles_.size() <= kMost) return;
    // What is in view stays.
    const auto span = touched(seen, tile.level);
    std::erase_if(tiles_, [&](const auto& entry) {
        return tiles_.size() > kMost && (entry.first.level != tile.level || !span.has(entry.first));
    });
}

void PhotoTiles::paint(QPainter& painter, const QRectF& seen, int level) const {
    const auto span = touched(seen, level);
    for (int row = span.firstRow; row <= span.lastRow; ++row) {
        for (int column = span.firstColumn; column <= span.lastColumn; ++column) {
            const PhotoTile tile{level, column, row};
            const auto found = tiles_.find(tile);
            if (found == tiles_.end() || found->second.isNull()) continue;
            const auto size = QSizeF(found->second.size()) * std::ldexp(1, level);
            painter.drawImage(QRectF(placeOf(tile).topLeft(), size), found->second);
        }
    }
}

}  // namespace dreskel
