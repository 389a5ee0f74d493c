#include "udisks/udisks.h"

#include <fcntl.h>

#include <QDBusArgument>
#include <QDBusConnection>
#include <QDBusConnectionInterface>
#include <QDBusMessage>
#include <QDBusObjectPath>
#include <QDBusReply>
#include <QDBusUnixFileDescriptor>
#include <QMap>
#include <QTimer>
#include <QVariantMap>

namespace dreskel {
namespace {

const QString kService = QStringLiteral("org.freedesktop.UDisks2");
const QString kRoot = QStringLiteral("/org/freedesktop/UDisks2");
const QString kBlock = QStringLiteral("org.freedesktop.UDisks2.Block");
const QString kDrive = QStringLiteral("org.freedesktop.UDisks2.Drive");
const QString kFilesystem = QStringLiteral("org.freedesktop.UDisks2.Filesystem");
const QString kManager = QStringLiteral("org.freedesktop.UDisks2.Manager");
const QString kProperties = QStringLiteral("org.freedesktop.DBus.Properties");
const QString kObjects = QStringLiteral("org.freedesktop.DBus.ObjectManager");
constexpr int kAnswerMilliseconds = 5000;
constexpr int kActMilliseconds = 60000;  // unmounting may have to write what others left in the cache

QDBusMessage call(const QString& path, const QString& interface, const QString& method,
                  const QVariantList& arguments, int milliseconds = kAnswerMilliseconds) {
    auto message = QDBusMessage::createMethodCall(kService, path, interface, method);
    message.setArguments(arguments);
    return QDBusConnection::systemBus().call(message, QDBus::Block, milliseconds);
}

// The object of a device node; empty when UDisks2 does not know it.
QString objectOf(const QString& devicePath) {
    const auto reply = call(kRoot + QStringLiteral("/Manager"), kManager, QStringLiteral("ResolveDevice"),
                            {QVariantMap{{QStringLiteral("path"), devicePath}}, QVariantMap{}});
    const auto arguments = reply.arguments();
    if (reply.type() != QDBusMessage::ReplyMessage || arguments.isEmpty()) return {};
    const auto paths = qdbus_cast<QList<QDBusObjectPath>>(arguments.first());
    return paths.isEmpty() ? QString() : paths.first().path();
}

QVariantMap propertiesOf(const QString& object, const QString& interface) {
    if (object.isEmpty()) return {};
    const auto reply = call(object, kProperties, QStringLiteral("GetAll"), {interface});
    const auto arguments = reply.arguments();
    if (reply.type() != QDBusMessage::ReplyMessage || arguments.isEmpty()) return {};
    return qdbus_cast<QVariantMap>(arguments.first());
}

QString driveOf(const QString& devicePath) {
    const auto block = propertiesOf(objectOf(devicePath), kBlock);
    const auto path = block.value(QStringLiteral("Drive")).value<QDBusObjectPath>().path();
    return path == QLatin1String("/") ? QString() : path;
}

Error errorFrom(const QDBusMessage& reply, const std::string& what, const std::string& where) {
    const auto name = reply.errorName();
    std::string advice = reply.errorMessage().toStdString();
    if (name.contains(QLatin1String("NotAuthorized"))) {
        advice =
            "The rules of this computer do not allow it. Log in at the machine itself, or ask its "
            "administrator to allow it for your user in polkit";
    } else if (name.contains(QLatin1String("DeviceBusy"))) {
        advice = "Something else still uses it. Close the windows and programs that show its files";
    }
    return {Fault::Failed, what, where, advice};
}

Status act(const QString& object, const QString& interface, const QString& method, const std::string& what,
           const std::string& where) {
    const auto reply = call(object, interface, method, {QVariantMap{}}, kActMilliseconds);
    if (reply.type() == QDBusMessage::ReplyMessage) return Done{};
    return errorFrom(reply, what, where);
}

std::string text(const QVariantMap& properties, const char* name) {
    return properties.value(QString::fromLatin1(name)).toString().trimmed().toStdString();
}

}  // namespace

Udisks::Udisks(QObject* parent) : QObject(parent) {
    auto bus = QDBusConnection::systemBus();
    for (const auto& signal : {QStringLiteral("InterfacesAdded"), QStringLiteral("InterfacesRemoved")})
        bus.connect(kService, {}, kObjects, signal, this, SLOT(onChange()));
    bus.connect(kService, {}, kProperties, QStringLiteral("PropertiesChanged"), this, SLOT(onChange()));
}

void Udisks::onChange() {
    Q_EMIT changed();
}

bool Udisks::available() {
    const auto bus = QDBusConnection::systemBus();
    if (!bus.isConnected()) return false;
    if (bus.interface()->isServiceRegistered(kService)) return true;
    return !propertiesOf(kRoot + QStringLiteral("/Manager"), kManager).isEmpty();
}

void Udisks::complete(std::vector<Device>& devices) {
    for (auto& device : devices) {
        if (device.filesOnly) continue;
        const auto path = driveOf(QString::fromStdString(device.path));
        if (path.isEmpty()) continue;
        const auto drive = propertiesOf(path, kDrive);
        const auto take = [&](std::string& into, const char* name) {
            if (auto told = text(drive, name); !told.empty()) into = std::move(told);
        };
        take(device.maker, "Vendor");
        take(device.model, "Model");
        take(device.serial, "Serial");
        const auto bus = text(drive, "ConnectionBus");
        if (bus == "usb") device.bus = "USB";
        if (bus == "sdio") device.bus = "SD slot";
        const auto flag = [&](const char* name) { return drive.value(QString::fromLatin1(name)).toBool(); };
        device.canEject = flag("Ejectable");
        device.canPowerOff = flag("CanPowerOff");
        const bool flash = text(drive, "Media").rfind("flash", 0) == 0;
        device.removable = device.removable || flag("MediaRemovable") || flag("Removable") || flash;
    }
}

Result<std::shared_ptr<Source>> Udisks::open(const QString& devicePath) {
    const auto where = devicePath.toStdString();
    const auto object = objectOf(devicePath);
    if (object.isEmpty()) {
        return Error{Fault::SourceUnusable, "UDisks2 does not know this device", where,
                     "Take the card out and put it in again"};
    }
    const auto reply = call(object, kBlock, QStringLiteral("OpenDevice"),
                            {QStringLiteral("r"), QVariantMap{}}, kActMilliseconds);
    const auto arguments = reply.arguments();
    if (reply.type() != QDBusMessage::ReplyMessage || arguments.isEmpty()) {
        auto error = errorFrom(reply, "The device could not be opened for reading", where);
        error.fault = Fault::SourceUnusable;
        return error;
    }
    const auto descriptor = arguments.first().value<QDBusUnixFileDescriptor>();
    const int flags = ::fcntl(descriptor.fileDescriptor(), F_GETFL);
    if (flags < 0 || (flags & O_ACCMODE) != O_RDONLY)
        return Error{Fault::SourceUnusable, "What UDisks2 opened could be written to, and is not used", where,
                     ""};
    return sourceFromDescriptor(descriptor.fileDescriptor(), where);
}

Status Udisks::unmount(const std::vector<Mount>& mounts) {
    for (const auto& mount : mounts) {
        const auto object = objectOf(QString::fromStdString(mount.device));
        if (object.isEmpty())
            return Error{Fault::Failed, "UDisks2 does not know this device", mount.device,
                         "Unmount it by hand"};
        auto done =
            act(object, kFilesystem, QStringLiteral("Unmount"), "It could not be unmounted", mount.folder);
        if (!done) return done;
    }
    return Done{};
}

Status Udisks::eject(const QString& devicePath) {
    return act(driveOf(devicePath), kDrive, QStringLiteral("Eject"), "The card could not be ejected",
               devicePath.toStdString());
}

Status Udisks::powerOff(const QString& devicePath) {
    return act(driveOf(devicePath), kDrive, QStringLiteral("PowerOff"),
               "The reader could not be switched off", devicePath.toStdString());
}

Status letGoOf(const Device& device) {
    const auto path = QString::fromStdString(device.path);
    if (auto done = Udisks::unmount(mountsOf(device.path, device.parts)); !done) return done;
    if (device.canEject) return Udisks::eject(path);
    if (device.canPowerOff) return Udisks::powerOff(path);
    return Done{};
}

Result<std::shared_ptr<Source>> openReadOnly(const QString& path) {
    const bool device = path.startsWith(QLatin1String("/dev/"));
    if (!device || !Udisks::available()) return openSource(path.toStdString());
    auto opened = Udisks::open(path);
    if (opened) return opened;
    // One who may read the node needs no service for it.
    auto direct = openSource(path.toStdString());
    return direct ? direct : opened;
}

}  // namespace dreskel
