// Pictures for the sheet: read from the job and drawn in background threads, kept as long as there is room,
// and asked for only when they are about to be seen.
#pragma once

#include <QCache>
#include <QImage>
#include <QObject>
#include <QSet>
#include <QThreadPool>

#include "desktop/feed.h"

namespace dreskel {

class Thumbnails : public QObject {
    Q_OBJECT
  public:
    explicit Thumbnails(Feed& feed, QObject* parent = nullptr);
    ~Thumbnails() override;

    // The picture at the size of a cell, or null while it is being made; then arrived() follows.
    const QImage* get(const Finding& finding, const QSize& size);

  Q_SIGNALS:
    void arrived(std::int64_t id);

  private:
    Feed& feed_;
    QThreadPool pool_;
    QCache<std::int64_t, QImage> cache_;  // cost in KiB
    QSet<std::int64_t> underWay_;
    QSize size_;
};

// A cell's picture: a photo or frame as far as it decoded, with what is missing hatched; a recording's
// waveform. Pure; any thread.
QImage drawThumbnail(const Finding& finding, const Preview& preview, const QSize& size);

// A waveform: the lowest and highest of each stretch. Stretches that did not decode are dimmed.
void paintWave(QPainter& painter, const QRectF& box, const std::vector<std::int8_t>& peaks,
               const std::vector<std::uint8_t>& decodedMap, const QColor& colour);

// A photo with its missing rows hatched, in RGB32; before turning.
QImage hatched(const QImage& photo, const Finding& finding);

// The pixels of a small picture, turned as it is to be looked at; none where there is no picture.
Picture uprightPreview(const Preview& preview, int orientation);

// Turned as the file says it is to be looked at (Exif's orientation, 1 to 8).
QImage turned(const QImage& image, int orientation);
// The same as a transformation of the pixels of a picture of that size.
QTransform turning(int orientation, QSize picture);

}  // namespace dreskel
