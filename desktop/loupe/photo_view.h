// A photo to look at closely: fits, zooms to the pointer, pans, turns. What did not decode is hatched, not
// grey.
#pragma once

#include <QImage>
#include <QWidget>

#include "job/finding.h"

namespace dreskel {

// Made ready to be looked at: what did not decode hatched, turned as the file says, in the screen's own pixel
// format. Takes its time over a large photo; any thread.
QImage presented(const QImage& photo, const Finding& finding);

class PhotoView : public QWidget {
    Q_OBJECT
  public:
    explicit PhotoView(QWidget* parent = nullptr);

    // `image` as presented() made it. Zoom and place are kept when it is the same file's, in another size.
    void show(const QImage& image, const Finding& finding);
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

    QImage image_;
    QString message_;
    std::int64_t id_ = 0;
    QSizeF photoSize_;
    int quarters_ = 0;
    bool fitted_ = true;
    double zoom_ = 1;
    QPointF middle_;  // of the view, in pixels of the photo
    QPoint pressed_;
};

}  // namespace dreskel
