// Where a copy of a card goes and how hard is tried: a line on the card's sheet, shown when a copy is asked
// for.
#pragma once

#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QWidget>

#include "session/copying.h"
#include "source/device_list.h"

class QLabel;

namespace dreskel {

class CopyRow : public QWidget {
    Q_OBJECT
  public:
    explicit CopyRow(const Device& device, QWidget* parent = nullptr);

    // A name is offered when there is none yet.
    void offerName();
    CopyRequest request() const;

    QLineEdit* imagePath() { return image_; }
    QPushButton* startButton() { return start_; }
    QSpinBox* laterTries() { return tries_; }
    QSpinBox* minutesOver() { return minutes_; }
    QDoubleSpinBox* spanFrom() { return from_; }
    QDoubleSpinBox* spanTo() { return to_; }

  Q_SIGNALS:
    void startAsked();

  private:
    QWidget* buildOptions();
    void checkRoom();
    ByteRange span() const;

    Device device_;
    QLineEdit* image_;
    QPushButton* start_;
    QLabel* room_;
    QSpinBox* tries_ = nullptr;
    QSpinBox* minutes_ = nullptr;
    QDoubleSpinBox* from_ = nullptr;  // megabytes, of 10^6 bytes as sizes are told everywhere
    QDoubleSpinBox* to_ = nullptr;
};

}  // namespace dreskel
