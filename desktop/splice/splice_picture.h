// The photo on the splice bench: as far as it decodes, the rest plainly hatched; a line for each join, a
// yellow one for the join in hand. A click says where the picture goes wrong, a drag across rows that they
// are not its own.
#pragma once

#include <QImage>
#include <QWidget>

#include "desktop/splice/pointing.h"
#include "rebuild/splice.h"

namespace dreskel {

class SplicePicture : public QWidget {
    Q_OBJECT
  public:
    explicit SplicePicture(QWidget* parent = nullptr);

    // `row`: of the photo, where the join in hand lies.
    void show(const rebuild::SpliceLook& look, std::uint32_t row);
    std::uint32_t row() const { return row_; }
    // Where on the widget a row of the photo is, in its middle.
    QPoint placeOf(std::uint32_t row) const;
    QSize sizeHint() const override { return {760, 520}; }

  Q_SIGNALS:
    void pointed(const dreskel::rebuild::SpliceLook::Stretch& rows);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    QRectF box() const;
    std::uint32_t rowAt(double y) const;
    void paintFlag(QPainter& painter, double y, const QString& text) const;

    rebuild::SpliceLook look_;
    QImage image_;
    std::uint32_t row_ = 0;
    Pointing pointing_;
};

}  // namespace dreskel
