// The band: the whole card as a strip, first sector to last, with a lane each for what was read and for
// photos, clips, sound and what is unexplained. Fills as the scan goes; zooms with the wheel, pans by
// dragging; the pieces of the current file are outlined and joined by arcs.
#pragma once

#include <array>
#include <QPixmap>
#include <QWidget>
#include <vector>

#include "base/range.h"
#include "desktop/band/lanes.h"
#include "desktop/behind.h"
#include "desktop/feed.h"

namespace dreskel {

class Band : public QWidget {
    Q_OBJECT
  public:
    explicit Band(Feed& feed, QWidget* parent = nullptr);

    void setCurrent(std::int64_t id);
    void mark(std::optional<ByteRange> span);
    QSize sizeHint() const override { return {1280, 148}; }
    QSize minimumSizeHint() const override { return {400, 148}; }

  Q_SIGNALS:
    void picked(std::int64_t id);                             // a file was clicked
    void spanMarked(std::optional<dreskel::ByteRange> span);  // by dragging with Shift; nothing: no longer

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { stale_ = true; }
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

  private:
    static constexpr int kReading = 0, kDirectories = 1, kPhotos = 2, kClips = 3, kSound = 4,
                         kUnexplained = 5, kLanes = 6;

    void rebuild();
    void drawLanes();
    void drawCopy(QPainter& painter, const std::vector<MapCell>& cells);
    void drawUnexplained(QPainter& painter);
    QRectF laneBox(int lane) const;
    double xOf(std::uint64_t offset) const;
    std::uint64_t offsetAt(double x) const;
    std::int64_t fileAt(const QPoint& place) const;
    void showRange(double from, double length);

    Feed& feed_;
    std::shared_ptr<const Lanes> lanes_ = std::make_shared<const Lanes>();
    std::vector<ByteRange> structures_;
    ScanState structuresAt_ = ScanState::NotStarted;  // the stage they were asked for in
    std::int64_t current_ = 0;
    double from_ = 0, length_ = 0;  // bytes in view
    bool stale_ = true;             // the picture of the lanes is to be drawn again
    bool rebuild_ = true;           // the spans are to be collected again
    QPixmap picture_;               // of the lanes
    std::uint64_t drawnPosition_ = ~std::uint64_t{0};
    QPoint pressed_;
    double pressedFrom_ = 0;
    bool dragging_ = false;
    bool wasCopying_ = false;
    bool marking_ = false;  // what is dragged is a span
    std::optional<ByteRange> marked_;
    std::uint64_t gatheredTo_ = 0;  // how far the card had been read when the lanes were gathered
    Behind<LanesRequest, std::shared_ptr<const Lanes>> gather_;
};

}  // namespace dreskel
