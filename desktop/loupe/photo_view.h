// A photo to look at closely: fits, zooms to the pointer, pans, turns. What did not decode is hatched, not
// grey. Where its draft is too coarse it asks for tiles of the full size and shows them as they come.
#pragma once

#include <QImage>
#include <QWidget>

#include "desktop/loupe/photo_tiles.h"
#include "job/finding.h"
#include "job/rows.h"

namespace dreskel {

// Made ready to be looked at: what did not decode hatched, turned as the file says, in the screen's own pixel
// format. Takes its time over a large photo; any thread.
QImage presented(const QImage& photo, const Finding& finding);

class PhotoView : public QWidget {
    Q_OBJECT
  public:
    explicit PhotoView(QWidget* parent = nullptr);

    // `image`, a draft, as presented() made it. Zoom and place are kept when it is the same file's, in
    // another size.
    void show(const QImage& image, const Finding& finding);
    // What was asked for by partWanted(). `full`: the photo's own size as it decodes.
    void showPart(const media::DecoderProcess::PhotoPart& part, const QImage& picture, QSize full);
    std::int64_t id() const { return id_; }
    void clear(const QString& message);
    void turn(int quarters);
    void fit();
    void actualSize();
    void zoomBy(double factor, QPointF around);
    double zoom() const;  // pixels of the screen a pixel of the photo
    // As close as another view, to the same part of the picture.
    void follow(const PhotoView& other);

  Q_SIGNALS:
    void moved();  // closer, farther, or to another part, by the technician
    void pressed();
    void partWanted(const dreskel::media::DecoderProcess::PhotoPart& part);

  protected:
    void paintEvent(QPaintEvent*) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    QSizeF full() const;  // the photo's own size, turned
    double fitZoom() const;
    void keepInView();
    QRectF target() const;  // of the whole photo, in the view
    // From pixels of the photo as it is stored to the view.
    QTransform fromStored() const;
    // What is in view of the photo as it is stored, and how fine; nothing when the draft is fine enough.
    struct Seen {
        QRectF part;
        int level = 0;
    };
    std::optional<Seen> seenInTiles() const;
    void look();  // paints anew and asks for what is missing

    QImage image_;
    QString message_;
    std::int64_t id_ = 0;
    QSizeF photoSize_;
    int quarters_ = 0;
    bool fitted_ = true;
    double zoom_ = 1;
    QPointF middle_;  // of the view, in pixels of the photo
    int orientation_ = 1;
    Rows rows_;
    PhotoTiles tiles_;
    std::optional<PhotoTile> asked_;
    QPoint pressed_;
};

}  // namespace dreskel
