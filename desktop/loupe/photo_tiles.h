// A photo in tiles: those in view, as fine as the screen shows them, so that every pixel of a photo of any
// size can be looked at and only what is looked at takes memory.
#pragma once

#include <compare>
#include <map>
#include <optional>
#include <QImage>
#include <QRectF>

#include "media/decoder_process.h"

class QPainter;

namespace dreskel {

struct PhotoTile {
    int level = 0;  // one of its pixels is the mean of 2^level by 2^level of the photo's
    int column = 0, row = 0;
    auto operator<=>(const PhotoTile&) const = default;
};

// All places are in pixels of the photo as it is stored, not turned.
class PhotoTiles {
  public:
    static constexpr int kSide = 1024;  // pixels of a tile

    // Forgets all of them. `photo`: its full size.
    void begin(QSize photo);
    QSize photo() const { return photo_; }
    // The coarsest level that is fine enough where the photo is shown at `scale` pixels of the screen a
    // pixel.
    static int levelFor(double scale);
    static media::DecoderProcess::PhotoPart partOf(const PhotoTile& tile);
    static PhotoTile tileOf(const media::DecoderProcess::PhotoPart& part);
    // Of the tiles that `seen` touches the one nearest to its middle that is not there.
    std::optional<PhotoTile> missing(const QRectF& seen, int level) const;
    // A null picture is a tile that cannot be had.
    void put(const PhotoTile& tile, const QImage& picture, const QRectF& seen);
    void paint(QPainter& painter, const QRectF& seen, int level) const;

  private:
    struct Span {
        int firstColumn = 0, lastColumn = -1, firstRow = 0, lastRow = -1;
        bool has(const PhotoTile& tile) const {
            return tile.column >= firstColumn && tile.column <= lastColumn && tile.row >= firstRow &&
                   tile.row <= lastRow;
        }
    };
    QRectF placeOf(const PhotoTile& tile) const;
    Span touched(const QRectF& seen, int level) const;

    QSize photo_;
    std::map<PhotoTile, QImage> tiles_;
};

}  // namespace dreskel
