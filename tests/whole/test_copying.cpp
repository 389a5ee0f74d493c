// Copies by the command line program: killed in the middle, and from a real block device that fails.
#include <signal.h>
#include <QJsonDocument>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include "source/map_file.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestCopying : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Buffer bytes_;
    RangeSet bad_;

    QString path(const char* name) { return dir_.filePath(QString::fromLatin1(name)); }

    // A reader with 30 unreadable places, as slow as a card, that keeps a record of what is asked of it.
    QString recipe(qint64 bytesPerSecond) {
        QJsonArray faults;
        for (const auto& range : bad_.ranges()) {
            faults << QJsonObject{{"at", static_cast<qint64>(range.offset)},
                                  {"length", static_cast<qint64>(range.length)},
                                  {"does", "fail"}};
        }
        const QJsonObject reader{{"image", "card.img"},
                                 {"record", "reads.txt"},
                                 {"bytes_per_second", bytesPerSecond},
                                 {"faults", faults}};
        const auto text = QJsonDocument(QJsonObject{{"simulated_reader", reader}}).toJson();
        const auto to = path("card.reader.json");
        writeFile(to, Buffer(text.begin(), text.end()));
        return to;
    }
    // Each readable sector: how often it was read.
    std::vector<int> reads() {
        std::vector<int> counts(bytes_.size() / 512);
        const auto record = readFile(path("reads.txt"));
        const QByteArray text(reinterpret_cast<const char*>(record.data()),
                              static_cast<qsizetype>(record.size()));
        for (const auto& line : text.split('\n')) {
            const auto fields = line.split(' ');
            if (fields.size() < 3 || fields[2] != "ok") continue;
            for (auto at = fields[0].toULongLong() / 512;
                 at < (fields[0].toULongLong() + fields[1].toULongLong()) / 512; ++at)
                ++counts[static_cast<std::size_t>(at)];
        }
        return counts;
    }
    static std::uint64_t bytesRead(const QString& copy) {
        const auto known = readMap(copy.toStdString() + ".map");
        return known && known.value().map ? known.value().map->total(Tried::Read) : 0;
    }
    void compare(const QString& copy) {
        const auto map = readMap(copy.toStdString() + ".map");
        QVERIFY(map.ok());
        RangeSet unread;
        for (const auto& range : map.value().map->unread({0, bytes_.size()})) unread.add(range);
        QVERIFY(unread.ranges() == bad_.ranges());
        auto expected = bytes_;
        for (const auto& range : bad_.ranges())
            std::fill_n(expected.begin() + static_cast<std::ptrdiff_t>(range.offset), range.length,
                        std::uint8_t{0});
        QVERIFY(readFile(copy) == expected);
    }

  private Q_SLOTS:
    void initTestCase() {
        bytes_ = randomBytes(64 << 20, 21);
        writeFile(path("card.img"), bytes_);
        std::mt19937 random(4);
        for (int i = 0; i < 30; ++i) bad_.add({random() % (bytes_.size() / 4096) * 4096, 4096});
    }
    void losesNothingToThreeKills() {
        const auto reader = recipe(30000000);
        const auto copy = path("copy.img");
        for (int kill = 0; kill < 3; ++kill) {
            QProcess process;
            process.start(QStringLiteral(DRESKEL_BIN "/dreskel-cli"), {"copy", "--quiet", reader, copy});
            QVERIFY(process.waitForStarted());
            // Well under way, however long the program takes to start: this much more has been read each
            // time.
            QTRY_VERIFY(bytesRead(copy) > static_cast<std::uint64_t>(kill + 1) * (bytes_.size() / 8));
            QVERIFY2(process.state() == QProcess::Running, "killed too late to mean anything");
            QVERIFY(process.processId() > 0);
            ::kill(static_cast<pid_t>(process.processId()), SIGKILL);
            process.waitForFinished();
        }
        const auto run = cli({"copy", reader, copy});
        QCOMPARE(run.exitCode, 5);
        QVERIFY(run.err.contains("Going on with the copy"));
        compare(copy);
        // Read once, but for what was under way at a kill (two portions each) and the few sectors that tell
        // whether it is the same card and still there.
        const auto counts = reads();
        std::size_t twice = 0;
        for (std::size_t sector = 0; sector < counts.size(); ++sector) {
            if (bad_.contains(sector * 512)) continue;
            QVERIFY(counts[sector] >= 1);
            twice += counts[sector] > 1 ? 1 : 0;
        }
        QVERIFY2(twice <= 3 * 2 * 8192 + 60, qPrintable(QString::number(twice)));
        qInfo("sectors read more than once: %zu of %zu", twice, counts.size());
    }
    void beginsAnewWhereAKillLeftAnEmptyMap() {
        const auto healthy = path("card.img");
        const auto copy = path("early.img");
        writeFile(copy + ".map", Buffer());
        QCOMPARE(cli({"copy", "--quiet", healthy, copy}).exitCode, 0);
        QVERIFY(readFile(copy) == bytes_);
        // But an empty map makes no copy of a file that was there.
        const auto taken = path("beside-empty-map.img");
        writeFile(taken, Buffer(100, 7));
        writeFile(taken + ".map", Buffer());
        QCOMPARE(cli({"copy", "--quiet", healthy, taken}).exitCode, 4);
        QVERIFY(readFile(taken) == Buffer(100, 7));
    }
    void tellsAndTakesUpWhatItIsToldTo() {
        const auto healthy = path("card.img");
        const auto copy = path("healthy.img");
        const auto run = cli({"copy", healthy, copy, "--progress", "json"});
        QCOMPARE(run.exitCode, 0);
        QVERIFY(readFile(copy) == bytes_);
        const auto lines = run.err.trimmed().split('\n');
        QVERIFY(QJsonDocument::fromJson(lines.first()).object().contains("bytes_per_second"));
        QVERIFY(run.err.contains(sha256(bytes_).toUtf8()));
        QCOMPARE(cli({"copy", "--verify", copy}).exitCode, 0);
        QCOMPARE(cli({"copy", healthy}).exitCode, 2);
        QCOMPARE(cli({"copy", path("nowhere"), path("x.img")}).exitCode, 3);
        QCOMPARE(cli({"copy", healthy, path("card.img.txt") + "/x"}).exitCode, 4);
        const auto taken = path("taken.img");
        writeFile(taken, Buffer(100, 7));
        QCOMPARE(cli({"copy", healthy, taken}).exitCode, 4);
        QCOMPARE(readFile(taken).size(), std::size_t{100});
    }
    void copiesARealDeviceThatFails() {
        if (!LoopDevice::possible() || !QFile::exists(QStringLiteral("/dev/fuse")))
            QSKIP("needs root, loop devices and FUSE");
        QStringList ranges;
        for (const auto& range : bad_.ranges())
            ranges << QStringLiteral("%1+%2").arg(range.offset).arg(range.length);
        const auto socket = path("nbd.sock");
        const auto mount = path("nbd");
        writeFile(mount, {});
        // What they say of every bad sector would fill a pipe that nobody reads.
        QProcess server;
        server.setStandardErrorFile(QProcess::nullDevice());
        server.start(
            QStringLiteral("nbdkit"),
            {"-f", "-r", "-U", socket, "python", QStringLiteral(DRESKEL_SOURCE "/tests/rigs/failing_disk.py"),
             "image=" + path("card.img"), "bad=" + ranges.join(QLatin1Char(','))});
        QVERIFY(server.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(socket), 10000);
        QProcess fuse;
        fuse.setStandardErrorFile(QProcess::nullDevice());
        fuse.start(QStringLiteral("nbdfuse"), {"-r", mount, "nbd+unix://?socket=" + socket});
        QTRY_COMPARE_WITH_TIMEOUT(QFile(mount).size(), static_cast<qint64>(bytes_.size()), 10000);
        {
            LoopDevice loop(mount);
            QVERIFY(loop.attached());
            command(QStringLiteral("losetup"), {"--direct-io=on", loop.path()});
            const auto copy = path("device.img");
            const auto run = cli({"copy", loop.path(), copy});
            QVERIFY2(run.exitCode == 5, run.err.constData());
            compare(copy);
        }
        command(QStringLiteral("fusermount3"), {"-u", mount});
        fuse.terminate();
        server.terminate();
        fuse.waitForFinished(5000);
        server.waitForFinished(5000);
    }
    void namesCamerasThatOfferFilesOnly() {
        // A made-up device, shown to libudev by umockdev.
        const auto text = QByteArray(
            "P: /devices/pci0000:00/0000:00:14.0/usb1/1-4\nN: bus/usb/001/009\nE: "
            "DEVNAME=/dev/bus/usb/001/009\n"
            "E: DEVTYPE=usb_device\nE: SUBSYSTEM=usb\nE: ID_VENDOR=Orrery\nE: ID_MODEL=K2\n"
            "E: ID_SERIAL_SHORT=0041\nE: ID_GPHOTO2=1\nE: ID_MTP_DEVICE=1\nA: busnum=1\nA: devnum=9\n\n");
        const auto description = path("camera.umockdev");
        writeFile(description, Buffer(text.begin(), text.end()));
        const auto run = command(
            QStringLiteral("umockdev-run"),
            {"-d", description, "--", QStringLiteral(DRESKEL_BIN "/dreskel-cli"), "devices", "--json"});
        const auto devices = QJsonDocument::fromJson(run.out).object()["devices"].toArray();
        QVERIFY2(devices.size() == 1, run.err + run.out);
        const auto camera = devices[0].toObject();
        QVERIFY(camera["files_only"].toBool());
        QCOMPARE(camera["model"].toString(), QStringLiteral("K2"));
    }
};

QTEST_GUILESS_MAIN(TestCopying)
#include "test_copying.moc"
