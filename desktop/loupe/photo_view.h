// A photo to look at closely: fits, zooms to the pointer, pans, turns. What did not decode is hatched, not
// grey.
#pragma once

#include <QImage>
#include <QWidget>

#include "job/finding.h"

namespace dreskel {

class PhotoView : public QWidget {
    Q_OBJECT
  public:
    explicit PhotoView(QWidget* parent = nullptr);

    // `draft` says that a larger one follows; zoom and place are then kept when it comes.
    void show(const QImage& image, const Finding& finding, bool draft);
    void clear(const QString& message);
    void turn(int quarters);
    void fit();
    void actualSize();
    void zoomBy(double factor, QPointF around);
    double zoom() const;  // pixels of the screen a pixel of the photo

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
    double missingFrom_ = 1;  // share of the rows, before turning
    int orientation_ = 1;
    int quarters_ = 0;
    bool fitted_ = true;
    double zoom_ = 1;
    QPointF middle_;  // of the view, in pixels of the photo
    QPoint pressed_;
};

}  // namespace dreskel
