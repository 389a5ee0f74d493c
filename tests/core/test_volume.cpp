#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include "tests/support/support.h"
#include "volume/survey.h"

using namespace dreskel;
using namespace dreskel::test;

// Volumes by the real formatting programs.
class TestVolume : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    QString make(const QString& name, qint64 size, const QString& program, const QStringList& options) {
        const auto path = dir_.filePath(name);
        QFile file(path);
        if (!file.open(QIODevice::WriteOnly) || !file.resize(size)) qFatal("no room");
        file.close();
        if (!program.isEmpty()) {
            const auto run = command(program, options + QStringList{path});
            if (run.exitCode != 0) qFatal("%s failed: %s", qPrintable(program), run.err.constData());
        }
        return path;
    }
    static Survey survey(const QString& path) {
        return surveySource(*openSource(path.toStdString()).value());
    }

  private Q_SLOTS:
    void namesFilesystems_data() {
        QTest::addColumn<QString>("program");
        QTest::addColumn<QStringList>("options");
        QTest::addColumn<qint64>("size");
        QTest::addColumn<QString>("kind");
        QTest::addColumn<quint32>("cluster");
        QTest::newRow("FAT12") << "mkfs.vfat" << QStringList{"-F", "12", "-s", "4"} << qint64{4 << 20}
                               << "FAT12" << 2048U;
        QTest::newRow("FAT16") << "mkfs.vfat" << QStringList{"-F", "16", "-s", "8"} << qint64{64 << 20}
                               << "FAT16" << 4096U;
        QTest::newRow("FAT32") << "mkfs.vfat" << QStringList{"-F", "32", "-s", "8", "-n", "BENCH"}
                               << qint64{512 << 20} << "FAT32" << 4096U;
        QTest::newRow("exFAT") << "mkfs.exfat" << QStringList{"-c", "32K"} << qint64{64 << 20} << "exFAT"
                               << 32768U;
    }
    void namesFilesystems() {
        QFETCH(QString, program);
        QFETCH(QStringList, options);
        QFETCH(qint64, size);
        QFETCH(QString, kind);
        QFETCH(quint32, cluster);
        const auto seen = survey(make(QStringLiteral("one.img"), size, program, options));
        QCOMPARE(seen.table.kind, std::string("none"));
        QCOMPARE(seen.volumes.size(), std::size_t{1});
        QCOMPARE(QString::fromStdString(seen.volumes[0].facts.kind), kind);
        QCOMPARE(seen.volumes[0].facts.clusterSize, cluster);
        QVERIFY(seen.volumes[0].facts.size <= static_cast<std::uint64_t>(size));
        QVERIFY(seen.volumes[0].facts.size > static_cast<std::uint64_t>(size) / 10 * 9);
    }
    void namesWhatItDoesNotRead() {
        const auto path = make(QStringLiteral("ext.img"), 64 << 20, QStringLiteral("mkfs.ext4"), {"-q"});
        const auto seen = survey(path);
        QCOMPARE(seen.volumes.size(), std::size_t{1});
        QCOMPARE(seen.volumes[0].facts.kind, std::string("ext4"));
        QCOMPARE(seen.volumes[0].facts.clusterSize, 0U);  // not to be walked
    }
    void findsTheBackupOfALostBootSector() {
        for (const auto& [program, options] :
             {std::pair{QStringLiteral("mkfs.vfat"), QStringList{"-F", "32"}},
              std::pair{QStringLiteral("mkfs.exfat"), QStringList{}}}) {
            const auto path = make(QStringLiteral("wiped.img"), 512 << 20, program, options);
            auto before = survey(path);
            QFile file(path);
            QVERIFY(file.open(QIODevice::ReadWrite));
            file.write(QByteArray(512, '\0'));
            file.close();
            const auto seen = survey(path);
            QCOMPARE(seen.volumes.size(), std::size_t{1});
            QVERIFY(seen.volumes[0].state == VolumeSeen::State::Damaged);
            QCOMPARE(seen.volumes[0].facts.size, before.volumes[0].facts.size);
        }
    }
    void readsPartitionTables() {
        const auto path = make(QStringLiteral("parted.img"), 256 << 20, {}, {});
        QProcess fdisk;
        fdisk.start(QStringLiteral("sfdisk"), {QStringLiteral("-q"), path});
        fdisk.write("label: dos\nstart=8192, type=c\n");
        fdisk.closeWriteChannel();
        QVERIFY(fdisk.waitForFinished());
        QCOMPARE(fdisk.exitCode(), 0);
        auto seen = survey(path);
        QCOMPARE(seen.table.kind, std::string("MBR"));
        QCOMPARE(seen.table.partitions.size(), std::size_t{1});
        QCOMPARE(seen.table.partitions[0].range.offset, std::uint64_t{8192} * 512);
        QCOMPARE(seen.table.partitions[0].type, std::string("0x0c"));
        fdisk.start(QStringLiteral("sfdisk"), {QStringLiteral("-q"), path});
        fdisk.write("label: gpt\nstart=2048, size=100000\nstart=204800\n");
        fdisk.closeWriteChannel();
        QVERIFY(fdisk.waitForFinished());
        seen = survey(path);
        QCOMPARE(seen.table.kind, std::string("GPT"));
        QCOMPARE(seen.table.partitions.size(), std::size_t{2});
        QCOMPARE(seen.table.partitions[0].range, (ByteRange{2048 * 512, 100000 * 512}));
    }
    void survivesAnyBytes() {
        const auto good =
            readFile(make(QStringLiteral("seed.img"), 64 << 20, QStringLiteral("mkfs.exfat"), {}));
        for (unsigned seed = 0; seed < 400; ++seed) {
            Buffer sector(good.begin(), good.begin() + 512);
            const auto noise = randomBytes(16, seed);
            for (std::size_t i = 0; i < 8; ++i)
                sector[(noise[i] * 2U + (noise[i + 8] & 1U)) % 510] = noise[i + 8];
            const auto facts = readBootSector(sector);
            if (facts) QVERIFY(facts->sectorSize >= 512 && facts->sectorSize <= 4096);
        }
        for (unsigned seed = 0; seed < 200; ++seed) {
            auto sector = randomBytes(512, seed + 1000);
            sector[510] = 0x55;
            sector[511] = 0xaa;
            const auto facts = readBootSector(sector);
            if (facts && facts->kind != "NTFS") QVERIFY(facts->clusterSize > 0);
        }
    }
};

QTEST_GUILESS_MAIN(TestVolume)
#include "test_volume.moc"
