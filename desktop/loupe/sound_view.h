// A recording's waveform over its whole length, with what did not decode dimmed.
#pragma once

#include <QWidget>
#include <vector>

#include "job/finding.h"
#include "job/job.h"

namespace dreskel {

class SoundView : public QWidget {
    Q_OBJECT
  public:
    explicit SoundView(QWidget* parent = nullptr);
    void show(const Preview& preview, const Finding& finding);
    // Where it plays, in seconds; negative: nowhere.
    void setPosition(double at);

  Q_SIGNALS:
    // The pointer chose a place, in seconds.
    void placeAsked(double at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    QRectF waveBox() const;

    std::vector<std::int8_t> peaks_;
    std::vector<std::uint8_t> decodedMap_;
    Condition condition_ = Condition::Unchecked;
    double duration_ = 0;
    double position_ = -1;
};

}  // namespace dreskel
