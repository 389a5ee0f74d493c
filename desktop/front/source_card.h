// One card, stick or disk on the front page: drawn to scale with its volumes, a plain sentence on what it is,
// and what can be done with it.
#pragma once

#include <QWidget>

#include "session/session.h"
#include "source/device_list.h"

class QLabel;

namespace dreskel {

class SourceCard : public QWidget {
    Q_OBJECT
  public:
    explicit SourceCard(const Device& device, QWidget* parent = nullptr);
    const Device& device() const { return device_; }

  Q_SIGNALS:
    void openAsked(const QString& path);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void inspect();
    void onInspected(const std::shared_ptr<Result<Inspection>>& outcome);

    Device device_;
    QWidget* strip_;
    QLabel* sentence_;
};

}  // namespace dreskel
