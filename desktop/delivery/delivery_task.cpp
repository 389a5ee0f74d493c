#include "desktop/delivery/delivery_task.h"

namespace dreskel {

DeliveryTask::DeliveryTask(std::shared_ptr<Session> session, DeliveryRequest request, QObject* parent)
    : QObject(parent), thread_([this, session = std::move(session), request = std::move(request)] {
          auto outcome = session->save(request, control_, [this](const DeliveryProgress& progress) {
              const std::lock_guard lock(mutex_);
              progress_ = progress;
          });
          Q_EMIT finished(std::make_shared<Result<DeliverySum>>(std::move(outcome)));
      }) {}

DeliveryTask::~DeliveryTask() {
    control_.stop();
    thread_.join();
}

DeliveryProgress DeliveryTask::progress() const {
    const std::lock_guard lock(mutex_);
    return progress_;
}

}  // namespace dreskel
