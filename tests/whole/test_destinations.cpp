// Deliveries to real filesystems that fill up, are read-only, vanish, or whose saver is killed: nothing is
// lost, nothing half stands under a final name, and what the sum says is true.
#include <fcntl.h>
#include <signal.h>
#include <sys/ioctl.h>
#include <unistd.h>
#include <QDir>
#include <QDirIterator>
#include <QElapsedTimer>
#include <QFile>
#include <QJsonDocument>
#include <QProcess>
#include <QRandomGenerator>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "tests/support/loop_device.h"
#include "tests/support/support.h"

using namespace dreskel::test;

namespace {

constexpr int kSeconds = 1000;

// A filesystem of its own, mounted: ext4 by the kernel, exFAT by a driver in a process that can be killed.
class Drive {
  public:
    Drive(const QString& folder, bool ex, qint64 size)
        : ex_(ex), image_(folder + "/drive.img"), folder_(folder + "/drive") {
        QDir().mkpath(folder_);
        QFile file(image_);
        if (!file.open(QIODevice::WriteOnly) || !file.resize(size)) qFatal("no room");
        file.close();
        const auto made = ex ? command(QStringLiteral("mkfs.exfat"), {image_})
                             : command(QStringLiteral("mkfs.ext4"), {"-q", "-m", "0", image_});
        if (made.exitCode != 0) qFatal("mkfs failed: %s", made.err.constData());
        attach();
    }
    ~Drive() { detach(); }

    void attach(bool readOnly = false) {
        loop_ = std::make_unique<LoopDevice>(image_, true);
        const QStringList options = readOnly ? QStringList{"-o", "ro"} : QStringList{};
        const auto mounted =
            ex_ ? command(QStringLiteral("mount.exfat-fuse"), options + QStringList{loop_->path(), folder_})
                : command(QStringLiteral("mount"),
                          options + QStringList{"-t", "ext4", loop_->path(), folder_});
        if (mounted.exitCode != 0) qFatal("mount failed: %s", mounted.err.constData());
    }
    void detach() {
        if (!loop_) return;
        command(QStringLiteral("umount"), {folder_});
        command(QStringLiteral("umount"), {"-l", folder_});
        loop_.reset();
    }
    // As if it were pulled out.
    void pull() {
        if (ex_) {
            command(QStringLiteral("pkill"), {"-9", "-f", "mount.exfat-fuse.*" + folder_});
        } else {
            // What ext4 does when its disk is gone: EXT4_IOC_SHUTDOWN without flushing its log.
            constexpr unsigned long kShutdown = _IOR('X', 125, std::uint32_t);
            std::uint32_t withoutLog = 2;
            const int fd = ::open(folder_.toUtf8().constData(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
            if (fd < 0 || ::ioctl(fd, kShutdown, &withoutLog) != 0) qFatal("ext4 cannot be shut down");
            ::close(fd);
        }
    }
    const QString& folder() const { return folder_; }

  private:
    bool ex_;
    QString image_, folder_;
    std::unique_ptr<LoopDevice> loop_;
};

}  // namespace

class TestDestinations : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString job_;
    std::set<QString> truth_;  // hashes of the files on the card
    qint64 bytes_ = 0;

    QString fresh(const char* name) {
        const auto folder = dir_.filePath(QString::fromLatin1(name) +
                                          QString::number(QRandomGenerator::global()->generate()));
        QDir().mkpath(folder);
        return folder;
    }
    static void onBoth() {
        QTest::addColumn<bool>("ex");
        QTest::newRow("ext4") << false;
        QTest::newRow("exFAT") << true;
    }
    // Every file with a final name is one of the card's, to the byte.
    int finished(const QString& folder) const {
        int count = 0;
        QDirIterator files(folder, QDir::Files | QDir::Hidden, QDirIterator::Subdirectories);
        while (files.hasNext()) {
            const auto path = files.next();
            const auto name = files.fileName();
            if (name.startsWith(QLatin1String(".dreskel-")) || name.startsWith(QLatin1String("manifest")))
                continue;
            if (name == QLatin1String("filler")) continue;
            if (truth_.count(sha256(readFile(path))) != 1) qFatal("half a file: %s", qPrintable(path));
            ++count;
        }
        return count;
    }
    static bool halves(const QString& folder) {
        QDirIterator files(folder, {".dreskel-writing-*"}, QDir::Files | QDir::Hidden,
                           QDirIterator::Subdirectories);
        return files.hasNext();
    }
    std::unique_ptr<QProcess> saving(const QString& to) const {
        auto process = std::make_unique<QProcess>();
        process->start(QStringLiteral(DRESKEL_BIN "/dreskel-cli"), {"save", "--job", job_, "--to", to});
        return process;
    }
    // Until so many files have their final names.
    bool await(const QString& to, int count) const {
        QElapsedTimer clock;
        clock.start();
        while (clock.elapsed() < 60 * kSeconds) {
            QDirIterator files(to, QDir::Files, QDirIterator::Subdirectories);
            int seen = 0;
            while (files.hasNext()) {
                files.next();
                ++seen;
            }
            if (seen >= count) return true;
            QTest::qWait(20);
        }
        return false;
    }
    // Saved once more, with nothing in the way, everything is there.
    void goesOn(const QString& to) {
        const auto again = cli({"save", "--job", job_, "--to", to});
        QVERIFY2(again.exitCode == 0, again.err.constData());
        QCOMPARE(finished(to), static_cast<int>(truth_.size()));
        QVERIFY(!halves(to));
        QProcess sums;
        sums.setWorkingDirectory(to);
        // Where there was no room for all lists, the first is not complete.
        const auto lists = QDir(to).entryList({QStringLiteral("manifest*.sha256")}, QDir::Files, QDir::Time);
        QVERIFY(!lists.isEmpty());
        sums.start(QStringLiteral("sha256sum"), {"-c", "--quiet", lists.first()});
        QVERIFY(sums.waitForFinished(60 * kSeconds));
        QCOMPARE(sums.exitCode(), 0);
    }

  private Q_SLOTS:
    void initTestCase() {
        if (!LoopDevice::possible() || !QFile::exists(QStringLiteral("/dev/fuse")))
            QSKIP("needs root, loop devices and FUSE");
        // Different files, each of a megabyte, from a reader that is slow enough to be interrupted.
        ImageBuilder image(32768);
        const auto sound = mediaFile(QStringLiteral("stereo.wav"));
        for (unsigned i = 0; i < 16; ++i) {
            auto one = sound;
            one[44 + 4000 + i] ^= 1;
            truth_.insert(sha256(one));
            bytes_ += static_cast<qint64>(one.size());
            image.add(one);
        }
        image.write(dir_.filePath(QStringLiteral("card.img")));
        const auto reader = dir_.filePath(QStringLiteral("card.reader.json"));
        const auto describe = [&](const QByteArray& recipe) {
            writeFile(reader, Buffer(recipe.begin(), recipe.end()));
        };
        describe(R"({"simulated_reader": {"image": "card.img"}})");
        job_ = dir_.filePath(QStringLiteral("job"));
        QCOMPARE(cli({"scan", reader, "--job", job_, "--quiet"}).exitCode, 0);
        QCOMPARE(listOf(job_)["files"].toArray().size(), qsizetype{16});
        describe(R"({"simulated_reader": {"image": "card.img", "bytes_per_second": 2500000}})");
    }
    void aReadOnlyDriveIsRefused_data() { onBoth(); }
    void aReadOnlyDriveIsRefused() {
        QFETCH(bool, ex);
        Drive drive(fresh("readonly"), ex, 64 << 20);
        drive.detach();
        drive.attach(true);
        const auto run = cli({"save", "--job", job_, "--to", drive.folder() + "/out"});
        QCOMPARE(run.exitCode, 4);
        QVERIFY2(run.err.contains("read-only"), run.err.constData());
    }
    void aDriveThatIsTooSmallIsRefusedBeforehand_data() { onBoth(); }
    void aDriveThatIsTooSmallIsRefusedBeforehand() {
        QFETCH(bool, ex);
        Drive drive(fresh("small"), ex, 14 << 20);
        const auto run = cli({"save", "--job", job_, "--to", drive.folder() + "/out"});
        QCOMPARE(run.exitCode, 4);
        QVERIFY(!QFile::exists(drive.folder() + "/out"));
    }
    void aDriveThatFillsUpMeanwhile_data() { onBoth(); }
    void aDriveThatFillsUpMeanwhile() {
        QFETCH(bool, ex);
        Drive drive(fresh("full"), ex, 40 << 20);
        const auto to = drive.folder() + "/out";
        const auto process = saving(to);
        QVERIFY(await(to, 3));
        command(QStringLiteral("dd"), {"if=/dev/zero", "of=" + drive.folder() + "/filler", "bs=64k"});
        QVERIFY(process->waitForFinished(60 * kSeconds));
        const auto said = process->readAllStandardError() + process->readAllStandardOutput();
        QVERIFY2(process->exitCode() == 5 || process->exitCode() == 1, said.constData());
        QVERIFY2(said.contains("No space left"), said.constData());
        QVERIFY(finished(to) >= 3 && finished(to) < 16);
        QVERIFY(!halves(to));
        QFile::remove(drive.folder() + "/filler");
        goesOn(to);
    }
    void aDriveThatIsPulledOut_data() { onBoth(); }
    void aDriveThatIsPulledOut() {
        QFETCH(bool, ex);
        Drive drive(fresh("pulled"), ex, 64 << 20);
        const auto to = drive.folder() + "/out";
        const auto process = saving(to);
        QVERIFY(await(to, 3));
        drive.pull();
        QVERIFY2(process->waitForFinished(60 * kSeconds), "it hangs");
        const auto said = process->readAllStandardError();
        QVERIFY2(process->exitStatus() == QProcess::NormalExit, said.constData());
        QVERIFY2(process->exitCode() == 5 || process->exitCode() == 1, said.constData());
        QVERIFY2(!said.isEmpty(), "nothing was said");
        drive.detach();
        drive.attach();
        finished(to);
        goesOn(to);
    }
    void aKillInTheMiddle_data() { onBoth(); }
    void aKillInTheMiddle() {
        QFETCH(bool, ex);
        Drive drive(fresh("killed"), ex, 64 << 20);
        const auto to = drive.folder() + "/out";
        for (const int files : {3, 7}) {
            const auto process = saving(to);
            QVERIFY(await(to, files));
            ::kill(static_cast<pid_t>(process->processId()), SIGKILL);
            QVERIFY(process->waitForFinished(10 * kSeconds));
            QVERIFY(finished(to) >= 2);
        }
        goesOn(to);
    }
};

QTEST_GUILESS_MAIN(TestDestinations)
#include "test_destinations.moc"
