// How often each brightness comes in a photo, by colour: whether it is under- or overexposed. What did not
// decode is not counted.
#pragma once

#include <array>
#include <QImage>
#include <QWidget>

#include "job/finding.h"

namespace dreskel {

struct Histogram {
    std::array<std::array<std::uint32_t, 256>, 3> counts{};  // of red, green and blue
    std::uint64_t pixels = 0;

    // Of the rows that are there; looks at some of the pixels of a large photo. As stored, before it is
    // turned.
    static Histogram of(const QImage& photo, const Finding& finding);
};

class HistogramView : public QWidget {
    Q_OBJECT
  public:
    explicit HistogramView(QWidget* parent = nullptr);

    void show(const Histogram& histogram);
    using QWidget::show;
    const Histogram& histogram() const { return histogram_; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Histogram histogram_;
};

}  // namespace dreskel
