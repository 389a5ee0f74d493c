// Writing one file: long ones go past the cache, in portions, from several pieces; whatever happens, what is
// there under its name is all of it.
#include <fcntl.h>
#include <QCryptographicHash>

#include <sys/ioctl.h>
#include <QDir>
#include <QTemporaryDir>
#include <QTest>

#include "base/unique_fd.h"
#include "deliver/file_writer.h"
#include "deliver/long_file.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestFileWriter : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Buffer card_;
    std::shared_ptr<Source> source_;
    Control control_;

    // What is made, the second half of the card, filling, the first half without its last bytes: longer than
    // what goes through the cache, and no whole number of blocks.
    std::vector<Piece> pieces() const {
        const auto half = card_.size() / 2;
        return {madePiece(Buffer(777, 'm'), {}),
                {PieceFrom::Card, half, half, {}},
                {PieceFrom::Fill, 0, 5000, {}},
                {PieceFrom::Card, 0, half - 3, {}}};
    }
    Buffer expected() const {
        const auto half = static_cast<std::ptrdiff_t>(card_.size() / 2);
        Buffer bytes(777, 'm');
        bytes.insert(bytes.end(), card_.begin() + half, card_.end());
        bytes.insert(bytes.end(), 5000, 0);
        bytes.insert(bytes.end(), card_.begin(), card_.begin() + half - 3);
        return bytes;
    }
    static QStringList filesIn(const QString& folder) {
        return QDir(folder).entryList(QDir::Files | QDir::Hidden);
    }
    Result<Written> write(const QString& folder, const std::vector<Piece>& pieces,
                          const std::function<void(std::uint64_t)>& told) {
        CardView card(source_);
        PieceReader bytes(card, pieces);
        return writeTemporary(bytes, (folder + QStringLiteral("/long.mp4")).toStdString(), control_, told);
    }
    QString folder(const char* name) {
        const auto path = dir_.filePath(QString::fromLatin1(name));
        QDir().mkpath(path);
        return path;
    }

  private Q_SLOTS:
    void initTestCase() {
        card_ = randomBytes(kLongFile + (6 << 20), 11);
        writeFile(dir_.filePath(QStringLiteral("card.img")), card_);
        source_ = openSource(dir_.filePath(QStringLiteral("card.img")).toStdString()).value();
    }
    void aLongFileIsAllOfIt() {
        const auto to = folder("all");
        std::uint64_t told = 0;
        const auto written = write(to, pieces(), [&](std::uint64_t count) { told += count; });
        QVERIFY2(written.ok(), written ? "" : written.error().sentence().c_str());
        const auto bytes = expected();
        QCOMPARE(told, std::uint64_t{bytes.size()});
        QCOMPARE(written.value().size, std::uint64_t{bytes.size()});
        QVERIFY(flushTemporary(written.value()).ok());
        QVERIFY(readFile(QString::fromStdString(written.value().temporary)) == bytes);
        const auto sum = verifyTemporary(written.value(), control_);
        QVERIFY(sum.ok());
        QCOMPARE(QByteArray::fromStdString(sum.value()),
                 QCryptographicHash::hash(QByteArrayView(bytes.data(), static_cast<qsizetype>(bytes.size())),
                                          QCryptographicHash::Sha256)
                     .toHex());
        // A byte that changed on the medium is noticed.
        QFile file(QString::fromStdString(written.value().temporary));
        QVERIFY(file.open(QIODevice::ReadWrite) && file.seek(file.size() - 2));
        file.putChar(static_cast<char>(bytes[bytes.size() - 2] ^ 1));
        file.close();
        QVERIFY(!verifyTemporary(written.value(), control_).ok());
    }
    void stoppedItLeavesNothing() {
        const auto to = folder("stopped");
        std::uint64_t told = 0;
        const auto written = write(to, pieces(), [&](std::uint64_t count) {
            told += count;
            if (told > kLongFile / 4) control_.stop();
        });
        QVERIFY(!written.ok() && written.error().fault == Fault::Interrupted);
        QVERIFY(told < kLongFile);
        QVERIFY(filesIn(to).isEmpty());
    }
    void aSourceThatEndsLeavesNothing() {
        const auto to = folder("ended");
        Control fresh;
        CardView card(source_);
        PieceReader bytes(card, {{PieceFrom::Card, 4096, card_.size(), {}}});
        const auto written =
            writeTemporary(bytes, (to + QStringLiteral("/a")).toStdString(), fresh, [](auto) {});
        QVERIFY(!written.ok());
        QVERIFY2(written.error().what.find("source ended") != std::string::npos,
                 written.error().what.c_str());
        QVERIFY(filesIn(to).isEmpty());
    }
    // Of a drive with too little room nothing is filled first.
    void noRoomIsSaidAtOnce() {
        if (!LoopDevice::possible()) QSKIP("no loop devices here");
        const auto image = dir_.filePath(QStringLiteral("drive.img"));
        QFile drive(image);
        QVERIFY(drive.open(QIODevice::WriteOnly) && drive.resize(40 << 20));
        drive.close();
        QCOMPARE(command(QStringLiteral("mkfs.ext4"), {"-q", "-m", "0", image}).exitCode, 0);
        LoopDevice loop(image, true);
        const auto to = folder("drive");
        QCOMPARE(command(QStringLiteral("mount"), {"-t", "ext4", loop.path(), to}).exitCode, 0);
        Control fresh;
        CardView card(source_);
        PieceReader bytes(card, pieces());
        std::uint64_t told = 0;
        const auto written = writeTemporary(bytes, (to + QStringLiteral("/a")).toStdString(), fresh,
                                            [&](std::uint64_t count) { told += count; });
        const auto left = filesIn(to);
        command(QStringLiteral("umount"), {to});
        QVERIFY(!written.ok());
        QVERIFY2(written.error().advice.find("full") != std::string::npos,
                 written.error().sentence().c_str());
        QCOMPARE(told, std::uint64_t{0});
        QVERIFY(left.isEmpty());
    }
    // Pulled out in the middle: it fails, and nothing has its name.
    void aDriveThatIsPulledOut() {
        if (!LoopDevice::possible()) QSKIP("no loop devices here");
        const auto image = dir_.filePath(QStringLiteral("pulled.img"));
        QFile drive(image);
        QVERIFY(drive.open(QIODevice::WriteOnly) && drive.resize(160 << 20));
        drive.close();
        QCOMPARE(command(QStringLiteral("mkfs.ext4"), {"-q", "-m", "0", image}).exitCode, 0);
        LoopDevice loop(image, true);
        const auto to = folder("pulled");
        const QStringList mount{"-t", "ext4", loop.path(), to};
        QCOMPARE(command(QStringLiteral("mount"), mount).exitCode, 0);
        const UniqueFd root(::open(to.toUtf8().constData(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
        Control fresh;
        CardView card(source_);
        PieceReader bytes(card, pieces());
        std::uint64_t told = 0;
        const auto written =
            writeTemporary(bytes, (to + QStringLiteral("/a")).toStdString(), fresh, [&](std::uint64_t count) {
                // EXT4_IOC_SHUTDOWN without flushing its log.
                std::uint32_t withoutLog = 2;
                told += count;
                if (told > kLongFile / 4) ::ioctl(root.get(), _IOR('X', 125, std::uint32_t), &withoutLog);
            });
        QVERIFY(!written.ok() && written.error().fault == Fault::Failed);
        QVERIFY2(told < bytes.size(), written.error().sentence().c_str());
        command(QStringLiteral("umount"), {"-l", to});
        QVERIFY(!QFile::exists(to + QStringLiteral("/a")));
    }
};

QTEST_GUILESS_MAIN(TestFileWriter)
#include "test_file_writer.moc"
