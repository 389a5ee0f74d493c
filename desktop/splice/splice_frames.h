// The clip on the splice bench: the last picture before the join in hand and the first behind it, large;
// below them frames along its time, and a bar of it: where pictures are right, where they break, where
// nothing is known yet, and a line for each join. A click on the bar or on a frame says where it goes wrong,
// a drag across them that what lies there is not its own.
#pragma once

#include <QImage>
#include <QWidget>

#include "desktop/splice/pointing.h"
#include "rebuild/splice.h"

namespace dreskel {

class SpliceFrames : public QWidget {
    Q_OBJECT
  public:
    explicit SpliceFrames(QWidget* parent = nullptr);

    // `at`: where the join in hand lies, milliseconds.
    void show(const rebuild::SpliceLook& look, std::uint32_t at);
    // As SpliceWork::timesOf orders them.
    void setFrames(const std::vector<rebuild::SpliceFrame>& frames);
    std::uint32_t at() const { return at_; }
    std::size_t framesShown() const;
    // Where on the widget a moment of the clip is on the bar.
    QPoint placeOf(std::uint32_t at) const;
    QSize sizeHint() const override { return {760, 520}; }

  Q_SIGNALS:
    void pointed(const dreskel::rebuild::SpliceLook::Stretch& moments);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    bool isWrong(std::uint32_t at) const;
    QRectF barBox() const;
    double xOf(std::uint32_t at) const;
    std::uint32_t momentAt(double x) const;
    void paintLarge(QPainter& painter, const QRectF& box, std::size_t number, const QString& caption) const;
    void paintAlong(QPainter& painter) const;
    void paintBar(QPainter& painter) const;
    void paintFlag(QPainter& painter, double x, const QString& text) const;

    struct Frame {
        std::uint32_t at = 0;
        QImage image;
    };
    rebuild::SpliceLook look_;
    std::vector<Frame> frames_;
    std::uint32_t at_ = 0;
    Pointing pointing_;
};

}  // namespace dreskel
