#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <thread>

#include "source/failing_source.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"
#include "volume/first_look.h"
#include "volume/tree.h"

using namespace dreskel;
using namespace dreskel::test;

// The first answer on cards made by the real formatting programs and damaged here.
class TestFirstLook : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    static constexpr qint64 kSize = 288 << 20;

    QString blankCard(const QString& name, qint64 size = kSize) {
        const auto path = dir_.filePath(name);
        QFile file(path);
        if (!file.open(QIODevice::WriteOnly) || !file.resize(size)) qFatal("no room");
        return path;
    }
    static void format(const QString& path, const QString& program, const QStringList& options = {}) {
        const auto run = command(program, options + QStringList{path});
        if (run.exitCode != 0) qFatal("%s failed: %s", qPrintable(program), run.err.constData());
    }
    static void put(const QString& path, qint64 at, const Buffer& bytes) {
        QFile file(path);
        if (!file.open(QIODevice::ReadWrite) || !file.seek(at) ||
            file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size())) < 0)
            qFatal("cannot write %s", qPrintable(path));
    }
    // Data of files that were there, in the middle and at the end.
    static void fill(const QString& path) {
        for (const qint64 at : {20 << 20, 90 << 20, 200 << 20}) put(path, at, randomBytes(24 << 20, 5));
    }
    static FirstLook look(const QString& path) {
        return lookAtFirst(openSource(path.toStdString()).value(), 4.5);
    }
    // mtools write into a FAT volume as another program would.
    static void copyIn(const QString& image, const QString& file, const QString& to) {
        const auto run = command(QStringLiteral("mcopy"), {"-i", image, "-D", "o", file, to});
        if (run.exitCode != 0) qFatal("mcopy failed: %s", run.err.constData());
    }

  private Q_SLOTS:
    void blank() {
        QVERIFY(look(blankCard(QStringLiteral("zeros.img"))).state == CardState::Blank);
        const auto ones = blankCard(QStringLiteral("ones.img"), 64 << 20);
        put(ones, 0, Buffer(64 << 20, 0xff));
        const auto seen = look(ones);
        QVERIFY(seen.state == CardState::Blank);
        QVERIFY(seen.sentence.find("ones") != std::string::npos);
    }
    void freshlyFormatted_data() {
        QTest::addColumn<QString>("program");
        QTest::addColumn<QStringList>("options");
        QTest::newRow("FAT32") << "mkfs.vfat" << QStringList{"-F", "32"};
        QTest::newRow("FAT16") << "mkfs.vfat" << QStringList{"-F", "16", "-s", "16"};
        QTest::newRow("exFAT") << "mkfs.exfat" << QStringList{};
    }
    void freshlyFormatted() {
        QFETCH(QString, program);
        QFETCH(QStringList, options);
        const auto path = blankCard(QStringLiteral("fresh.img"));
        format(path, program, options);
        const auto nothing = look(path);
        QVERIFY(nothing.state == CardState::FreshlyFormatted);
        QVERIFY(nothing.sentence.find("blank") != std::string::npos);
        fill(path);
        const auto behind = look(path);
        QVERIFY(behind.state == CardState::FreshlyFormatted);
        QVERIFY(behind.filledBehind > 0.15 && behind.filledBehind < 0.35);
    }
    void filesPresentAndDeleted() {
        const auto path = blankCard(QStringLiteral("files.img"));
        format(path, QStringLiteral("mkfs.vfat"), {"-F", "32"});
        const auto one = dir_.filePath(QStringLiteral("one.jpg"));
        writeFile(one, randomBytes(300000, 1));
        QCOMPARE(command(QStringLiteral("mmd"), {"-i", path, "::DCIM", "::DCIM/100MILLS"}).exitCode, 0);
        for (int i = 0; i < 7; ++i)
            copyIn(path, one, QStringLiteral("::DCIM/100MILLS/A long name of photo %1.jpg").arg(i));
        auto seen = look(path);
        QVERIFY(seen.state == CardState::Present);
        QCOMPARE(seen.present, std::size_t{7});
        QCOMPARE(seen.deleted, std::size_t{0});
        for (int i = 0; i < 3; ++i) {
            QCOMPARE(
                command(QStringLiteral("mdel"),
                        {"-i", path, QStringLiteral("::DCIM/100MILLS/A long name of photo %1.jpg").arg(i)})
                    .exitCode,
                0);
        }
        seen = look(path);
        QCOMPARE(seen.present, std::size_t{4});
        QCOMPARE(seen.deleted, std::size_t{3});
        const auto source = openSource(path.toStdString()).value();
        const auto survey = surveySource(*source);
        Allocation allocation(*source, survey.volumes[0].facts, 0);
        const auto tree = readTree(*source, survey.volumes[0], allocation, {}, [] { return true; });
        QCOMPARE(tree.files.size(), std::size_t{7});
        for (const auto& file : tree.files) {
            QCOMPARE(file.folder, std::string("DCIM/100MILLS"));
            QVERIFY2(file.entry.name.rfind("A long name of photo ", 0) == 0, file.entry.name.c_str());
            QCOMPARE(file.entry.size, std::uint64_t{300000});
            QVERIFY(file.entry.checked);
            QVERIFY(!file.entry.modified.empty());
            if (file.entry.deleted) continue;
            const auto chain = allocation.chain(file.entry.firstCluster, file.entry.size);
            QVERIFY(chain.complete);
            Buffer bytes(300000);
            std::size_t at = 0;
            for (const auto& range : chain.ranges) {
                source->read(range.offset, MutableBytes(bytes).subspan(at, range.length));
                at += range.length;
            }
            QCOMPARE(at, bytes.size());
            QVERIFY(bytes == readFile(one));
        }
    }
    void filesOnARealExFatVolume() {
        if (!LoopDevice::possible() || !QFile::exists(QStringLiteral("/dev/fuse")))
            QSKIP("needs root, loop devices and FUSE");
        const auto path = blankCard(QStringLiteral("exfat.img"));
        format(path, QStringLiteral("mkfs.exfat"));
        const auto mount = dir_.filePath(QStringLiteral("mount"));
        QDir().mkpath(mount);
        {
            LoopDevice loop(path, true);
            QVERIFY(loop.attached());
            QCOMPARE(command(QStringLiteral("mount.exfat-fuse"), {loop.path(), mount}).exitCode, 0);
            QDir().mkpath(mount + QStringLiteral("/DCIM/100MILLS"));
            for (int i = 0; i < 5; ++i)
                writeFile(mount + QStringLiteral("/DCIM/100MILLS/Mühle am Wehr %1.JPG").arg(i),
                          randomBytes(700000, static_cast<unsigned>(i)));
            QFile::remove(mount + QStringLiteral("/DCIM/100MILLS/Mühle am Wehr 2.JPG"));
            QCOMPARE(command(QStringLiteral("umount"), {mount}).exitCode, 0);
        }
        const auto seen = look(path);
        QVERIFY(seen.state == CardState::Present);
        QCOMPARE(seen.present, std::size_t{4});
        QCOMPARE(seen.deleted, std::size_t{1});
        const auto source = openSource(path.toStdString()).value();
        const auto survey = surveySource(*source);
        Allocation allocation(*source, survey.volumes[0].facts, 0);
        const auto tree = readTree(*source, survey.volumes[0], allocation, {}, [] { return true; });
        QCOMPARE(tree.files.size(), std::size_t{5});
        for (const auto& file : tree.files) {
            QCOMPARE(file.folder, std::string("DCIM/100MILLS"));
            QVERIFY(file.entry.checked);
            QVERIFY2(file.entry.name.rfind("Mühle am Wehr ", 0) == 0, file.entry.name.c_str());
            QCOMPARE(file.entry.size, std::uint64_t{700000});
        }
    }
    void damagedStart_data() {
        QTest::addColumn<QString>("program");
        QTest::addColumn<qint64>("wiped");
        QTest::addColumn<QString>("said");
        QTest::newRow("FAT32, boot sector") << "mkfs.vfat" << qint64{512} << "sector 6";
        QTest::newRow("exFAT, boot sector") << "mkfs.exfat" << qint64{512} << "sector 12";
        QTest::newRow("FAT32, boot sectors") << "mkfs.vfat" << qint64{8192} << "allocation table";
    }
    void damagedStart() {
        QFETCH(QString, program);
        QFETCH(qint64, wiped);
        QFETCH(QString, said);
        const auto path = blankCard(QStringLiteral("wiped.img"));
        format(path, program,
               program == QLatin1String("mkfs.vfat") ? QStringList{"-F", "32"} : QStringList{});
        fill(path);
        put(path, 0, Buffer(static_cast<std::size_t>(wiped), 0));
        const auto seen = look(path);
        QVERIFY2(seen.state == CardState::DamagedStart, seen.sentence.c_str());
        QVERIFY2(seen.sentence.find(said.toStdString()) != std::string::npos, seen.sentence.c_str());
    }
    void damagedPartitionTable() {
        // A partition whose table is gone: its volume is found where it lies.
        const auto path = blankCard(QStringLiteral("parted.img"));
        const auto inner = blankCard(QStringLiteral("inner.img"), kSize - (4 << 20));
        format(inner, QStringLiteral("mkfs.vfat"), {"-F", "32", "-h", "8192"});
        const auto bytes = readFile(inner);
        put(path, 4 << 20, Buffer(bytes.begin(), bytes.begin() + (2 << 20)));
        fill(path);
        const auto seen = look(path);
        QVERIFY2(seen.state == CardState::DamagedStart, seen.sentence.c_str());
        QVERIFY(!seen.survey.volumes.empty());
        QCOMPARE(seen.survey.volumes[0].offset, std::uint64_t{4 << 20});
    }
    void noVolume() {
        const auto path = blankCard(QStringLiteral("noise.img"), 64 << 20);
        put(path, 0, randomBytes(64 << 20, 9));
        QVERIFY(look(path).state == CardState::NoVolume);
    }
    void wrongSize_data() {
        QTest::addColumn<QString>("program");
        QTest::newRow("FAT32") << "mkfs.vfat";
        QTest::newRow("exFAT") << "mkfs.exfat";
    }
    void wrongSize() {
        QFETCH(QString, program);
        // 64 MiB of memory that answer as 256 MiB.
        const auto path = blankCard(QStringLiteral("liar.img"), 256 << 20);
        format(path, program);
        fill(path);
        auto content = readFile(path);
        for (std::size_t at = 64 << 20; at < content.size(); ++at) content[at] = content[at % (64 << 20)];
        writeFile(path, content);
        const auto seen = look(path);
        QVERIFY2(seen.state == CardState::WrongSize, seen.sentence.c_str());
        QVERIFY(seen.sentence.find("67.1 MB") != std::string::npos);
    }
    void failing() {
        const auto path = blankCard(QStringLiteral("failing.img"), 64 << 20);
        fill(path);
        RangeSet bad;
        bad.add({10 << 20, 8 << 20});
        const auto seen =
            lookAtFirst(std::make_shared<FailingSource>(openSource(path.toStdString()).value(), bad), 4.5);
        QVERIFY(seen.state == CardState::Failing);
        QVERIFY(seen.sentence.find("Copy it before anything else") != std::string::npos);
    }
    void answersInTimeWhenTheCardDoesNot() {
        const auto path = blankCard(QStringLiteral("stuck.img"), 64 << 20);
        ReaderPlan plan;
        plan.faults.push_back({{0, 64 << 20}, ReaderFault::Does::Stall, -1, 3});
        QElapsedTimer clock;
        clock.start();
        const auto seen =
            lookAtFirst(std::make_shared<FailingSource>(openSource(path.toStdString()).value(), plan), 1.5);
        QVERIFY(clock.elapsed() < 2500);
        QVERIFY(seen.state == CardState::Failing);
        QTest::qWait(3500);  // the read that was given up must find everything it needs still there
    }
    void survivesAnyDirectory() {
        const auto path = blankCard(QStringLiteral("fuzz.img"), 64 << 20);
        for (const auto& program : {QStringLiteral("mkfs.vfat"), QStringLiteral("mkfs.exfat")}) {
            format(path, program);
            const auto good = readFile(path);
            std::mt19937 random(17);
            for (int round = 0; round < 60; ++round) {
                auto bytes = Buffer(good.begin(), good.begin() + (4 << 20));
                bytes.resize(8 << 20);
                for (int i = 0; i < 400; ++i) {
                    // The boot sector keeps its marks, so that what follows is looked at.
                    const auto at = 11 + random() % (round % 2 == 0 ? 500U : 2U << 20);
                    bytes[at] = static_cast<std::uint8_t>(random());
                }
                bytes[510] = 0x55;
                bytes[511] = 0xaa;
                const auto image = dir_.filePath(QStringLiteral("round.img"));
                writeFile(image, bytes);
                const auto source = openSource(image.toStdString()).value();
                for (const auto& volume : surveySource(*source).volumes) {
                    Allocation allocation(*source, volume.facts, volume.offset);
                    TreeLimits limits;
                    limits.files = 5000;
                    limits.folders = 500;
                    const auto tree = readTree(*source, volume, allocation, limits, [] { return true; });
                    QVERIFY(tree.files.size() <= limits.files + 100000);
                    for (const auto& file : tree.files)
                        allocation.chain(file.entry.firstCluster, file.entry.size);
                }
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestFirstLook)
#include "test_first_look.moc"
