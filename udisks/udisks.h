// UDisks2 over the system bus: opening a device for reading without being root, unmounting, letting go. What
// it says of drives completes what udev tells. Every call but `watch` may block; call those from a thread.
#pragma once

#include <QObject>
#include <QString>
#include <vector>

#include "source/device_list.h"
#include "source/source.h"

namespace dreskel {

class Udisks : public QObject {
    Q_OBJECT
  public:
    explicit Udisks(QObject* parent = nullptr);

    // Whether the service answers; it may be started by the question.
    static bool available();

    // Facts on drives and media put into the devices that udev listed.
    static void complete(std::vector<Device>& devices);

    // Read-only, by OpenDevice; the descriptor is checked to be. The error says what to do when policy
    // refuses.
    static Result<std::shared_ptr<Source>> open(const QString& devicePath);
    static Status unmount(const std::vector<Mount>& mounts);
    // Ejects the medium, or powers the reader off.
    static Status eject(const QString& devicePath);
    static Status powerOff(const QString& devicePath);

  Q_SIGNALS:
    // Something came, went or changed; many at once are told once.
    void changed();

  private Q_SLOTS:
    void onChange();
};

// Unmounts a card, then ejects it or switches its reader off, whichever it can.
Status letGoOf(const Device& device);

// Read-only by the best way there is: an image directly, a device by UDisks2 or, without it, directly.
Result<std::shared_ptr<Source>> openReadOnly(const QString& path);

}  // namespace dreskel
