#include "desktop/devices/device_watch.h"

#include <QApplication>
#include <QPointer>
#include <QThreadPool>

#include "udisks/udisks.h"

namespace dreskel {
namespace {

// udev and sysfs tell a card at once; UDisks2 may need to look at it first, and its signals come on top.
constexpr int kDevicePollMilliseconds = 500;
constexpr int kSoonMilliseconds = 30;

bool sameDevices(const std::vector<Device>& a, const std::vector<Device>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                      [](const Device& x, const Device& y) { return x.same(y); });
}

}  // namespace

DeviceWatch::DeviceWatch(QObject* parent) : QObject(parent), udisks_(std::make_unique<Udisks>()) {
    connect(&poll_, &QTimer::timeout, this, &DeviceWatch::refresh);
    poll_.start(kDevicePollMilliseconds);
    soon_.setSingleShot(true);
    soon_.setInterval(kSoonMilliseconds);
    connect(&soon_, &QTimer::timeout, this, &DeviceWatch::refresh);
    connect(udisks_.get(), &Udisks::changed, &soon_, qOverload<>(&QTimer::start));
    refresh();
}

DeviceWatch::~DeviceWatch() = default;

const Device* DeviceWatch::at(const QString& path) const {
    for (const auto& device : devices_) {
        if (QString::fromStdString(device.path) == path) return &device;
    }
    return nullptr;
}

void DeviceWatch::refresh() {
    if (listing_) {
        again_ = true;
        return;
    }
    listing_ = true;
    QThreadPool::globalInstance()->start(
        [self = QPointer<DeviceWatch>(this), known = devices_, hadService = service_] {
            auto listed = std::make_shared<Listed>();
            listed->devices = listDevices();
            listed->service = Udisks::available();
            // Asking UDisks2 about each drive is slow beside reading sysfs; what has not changed keeps its
            // facts.
            const bool same = listed->service == hadService && sameDevices(listed->devices, known);
            if (same) {
                listed->devices = known;
            } else if (listed->service) {
                Udisks::complete(listed->devices);
            }
            QMetaObject::invokeMethod(qApp, [self, listed] {
                if (self) self->take(*listed);
            });
        });
}

void DeviceWatch::take(const Listed& listed) {
    listing_ = false;
    const bool same = sameDevices(listed.devices, devices_) && listed.service == service_;
    devices_ = listed.devices;
    service_ = listed.service;
    if (!same) Q_EMIT changed();
    if (std::exchange(again_, false)) refresh();
}

}  // namespace dreskel
