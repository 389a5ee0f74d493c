#include "tests/support/loop_device.h"

#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <unistd.h>

#include <QFile>

#include "tests/support/support.h"

namespace dreskel::test {
namespace {

constexpr unsigned kLoopMajor = 7;

}  // namespace

bool LoopDevice::possible() {
    return ::geteuid() == 0 && QFile::exists(QStringLiteral("/dev/loop-control"));
}

LoopDevice::LoopDevice(const QString& image, bool writable, int number) {
    // High numbers, so that nothing else's are taken; by process, so that tests may run side by side.
    if (number == 0) number = 40 + static_cast<int>(::getpid() % 400) * 2;
    for (int attempt = 0; attempt < 8 && !attached_; ++attempt, ++number) {
        path_ = QStringLiteral("/dev/loop%1").arg(number);
        ::mknod(path_.toLocal8Bit().constData(), S_IFBLK | 0600,
                makedev(kLoopMajor, static_cast<unsigned>(number)));
        QStringList arguments{path_, image};
        if (!writable) arguments.prepend(QStringLiteral("-r"));
        attached_ = command(QStringLiteral("losetup"), arguments).exitCode == 0;
    }
}

LoopDevice::~LoopDevice() {
    detach();
}

void LoopDevice::detach() {
    if (attached_) command(QStringLiteral("losetup"), {QStringLiteral("-d"), path_});
    attached_ = false;
}

}  // namespace dreskel::test
