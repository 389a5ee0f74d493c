// What is attached, kept true as it comes and goes. Listing happens in a thread; `changed` arrives in the
// interface's.
#pragma once

#include <atomic>
#include <memory>
#include <QObject>
#include <QTimer>
#include <vector>

#include "source/device_list.h"

namespace dreskel {

class Udisks;

class DeviceWatch : public QObject {
    Q_OBJECT
  public:
    explicit DeviceWatch(QObject* parent = nullptr);
    ~DeviceWatch() override;

    const std::vector<Device>& devices() const { return devices_; }
    // Null when there is none at the path.
    const Device* at(const QString& path) const;
    // Without UDisks2: opening needs rights, and nothing can be unmounted or let go of from here.
    bool hasService() const { return service_; }

    void refresh();

  Q_SIGNALS:
    void changed();

  private:
    struct Listed {
        std::vector<Device> devices;
        bool service = false;
    };
    void take(const Listed& listed);

    QTimer poll_;
    QTimer soon_;
    std::unique_ptr<Udisks> udisks_;
    std::vector<Device> devices_;
    bool service_ = false;
    bool listing_ = false;
    bool again_ = false;
};

}  // namespace dreskel
