// One delivery in a thread of its own, with its progress brought to the interface's thread.
#pragma once

#include <mutex>
#include <QObject>
#include <thread>

#include "session/session.h"

namespace dreskel {

class DeliveryTask : public QObject {
    Q_OBJECT
  public:
    DeliveryTask(std::shared_ptr<Session> session, DeliveryRequest request, QObject* parent = nullptr);
    ~DeliveryTask() override;  // stops it and waits

    void stop() { control_.stop(); }
    DeliveryProgress progress() const;

  Q_SIGNALS:
    void finished(const std::shared_ptr<dreskel::Result<dreskel::DeliverySum>>& outcome);

  private:
    Control control_;
    mutable std::mutex mutex_;
    DeliveryProgress progress_;
    std::thread thread_;
};

}  // namespace dreskel
