// The photo on the splice bench: as far as it decodes, the rest plainly hatched; a line for each join, a
// yellow one for the join in hand. A click says where the picture goes wrong.
#pragma once

#include <QImage>
#include <QWidget>

#include "rebuild/splice.h"

namespace dreskel {

class SplicePicture : public QWidget {
    Q_OBJECT
  public:
    explicit SplicePicture(QWidget* parent = nullptr);

    // `row`: of the photo, where the join in hand lies.
    void show(const rebuild::SpliceLook& look, std::uint32_t row);
    std::uint32_t row() const { return row_; }
    QSize sizeHint() const override { return {760, 520}; }

  Q_SIGNALS:
    void pointed(std::uint32_t row);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    QRectF box() const;
    std::uint32_t rowAt(double y) const;

    rebuild::SpliceLook look_;
    QImage image_;
    std::uint32_t row_ = 0;
    std::optional<std::uint32_t> dragged_;
};

}  // namespace dreskel
