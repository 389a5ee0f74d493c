// A device from its first byte to its last, with the volumes on it, to scale.
#pragma once

#include <QWidget>

#include "volume/survey.h"

namespace dreskel {

class VolumeStrip : public QWidget {
  public:
    VolumeStrip();
    void show(std::uint64_t size, const Survey& survey);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::uint64_t size_ = 0;
    Survey survey_;
};

}  // namespace dreskel
