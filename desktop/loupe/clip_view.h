// A clip along its length: frames spread over the whole of it, one of them large. Left and right, or the
// pointer on the row of frames, choose which.
#pragma once

#include <QImage>
#include <QPixmap>
#include <QWidget>
#include <vector>

#include "job/finding.h"

namespace dreskel {

class ClipView : public QWidget {
    Q_OBJECT
  public:
    explicit ClipView(QWidget* parent = nullptr);

    void show(const std::vector<QImage>& frames, const std::vector<double>& times, const Finding& finding);
    void clear(const QString& message);
    void step(int by);
    int frameCount() const { return static_cast<int>(frames_.size()); }
    int currentFrame() const { return current_; }
    // While it plays: the picture of a moment, in place of the frame that is chosen.
    void showMoment(const QImage& picture, double at);
    // The larger side, in pixels of the screen, of a picture of that size as it is shown here: one that is as
    // large needs no scaling at each moment.
    int sideFor(const QSize& picture) const;
    bool showsMoment() const { return !moment_.isNull(); }
    double momentAt() const { return momentAt_; }
    // About when each piece of the clip ends and the next begins, in seconds: bytes are taken to be as long
    // everywhere.
    const std::vector<double>& joins() const { return joins_; }
    // The time of what is large now, in seconds.
    double shownAt() const;

  Q_SIGNALS:
    // The pointer chose a place on the row, in seconds.
    void placeAsked(double at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QRectF rowBox() const;
    QRectF placeOf(const QSize& picture) const;
    void paintRow(QPainter& painter) const;
    void choose(double x);
    void paintJoins(QPainter& painter, const QRectF& row) const;

    std::vector<QImage> frames_;
    std::vector<double> times_;
    std::vector<double> joins_;
    std::vector<std::uint8_t> decodedMap_;
    Condition condition_ = Condition::Unchecked;
    double duration_ = 0;
    QString message_;
    QImage moment_;
    double momentAt_ = 0;
    int current_ = 0;
    QPixmap row_;  // as painted; null when it must be painted anew
};

}  // namespace dreskel
