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

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::vector<std::int8_t> peaks_;
    std::vector<std::uint8_t> decodedMap_;
    Condition condition_ = Condition::Unchecked;
    double duration_ = 0;
};

}  // namespace dreskel
