// Cards that come and go while the program runs, with the real UDisks2 (tests/rigs/udisks) and without it.
#include <fcntl.h>
#include <QElapsedTimer>
#include <QLabel>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/front/source_card.h"
#include "desktop/main_window.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"
#include "udisks/udisks.h"

using namespace dreskel;
using namespace dreskel::test;

class TestDevices : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;

    static bool service() { return qEnvironmentVariableIsSet("DRESKEL_RIG_UDISKS"); }

  private Q_SLOTS:
    void initTestCase() {
        if (!LoopDevice::possible()) QSKIP("needs root and loop devices");
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        card_ = dir_.filePath(QStringLiteral("MILL-21.img"));
        ImageBuilder image;
        for (const auto& name : mediaNames(QStringLiteral("*.jpg"))) {
            image.add(mediaFile(name));
            image.addGap(8192);
        }
        image.addNoise(24 << 20, 4);
        image.write(card_);
    }
    void appearAndVanishWithinASecond() {
        MainWindow window;
        window.show();
        QTRY_COMPARE(window.watch().hasService(), service());
        QTest::qWait(600);
        for (int round = 0; round < 3; ++round) {
            QElapsedTimer clock;
            clock.start();
            LoopDevice loop(card_);
            QVERIFY(loop.attached());
            QVERIFY(QTest::qWaitFor([&] { return window.front().cardAt(loop.path()) != nullptr; }, 3000));
            QVERIFY2(clock.elapsed() < 1000, qPrintable(QString::number(clock.elapsed())));
            auto* card = window.front().cardAt(loop.path());
            QVERIFY(QTest::qWaitFor([&] { return !card->looking(); }, 6000));
            QVERIFY2(card->sentence().contains(QStringLiteral("Holds data")), qPrintable(card->sentence()));
            QVERIFY(card->device().readOnly);
            clock.restart();
            loop.detach();
            QVERIFY(QTest::qWaitFor([&] { return window.front().cardAt(loop.path()) == nullptr; }, 3000));
            QVERIFY2(clock.elapsed() < 1000, qPrintable(QString::number(clock.elapsed())));
        }
    }
    void opensForReadingOnlyAndLeavesEveryByte() {
        const auto before = sha256(readFile(card_));
        LoopDevice loop(card_, true);  // the device could be written to
        const auto source = openReadOnly(loop.path());
        QVERIFY2(source.ok(), source.ok() ? "" : source.error().sentence().c_str());
        QCOMPARE(::fcntl(source.value()->descriptor(), F_GETFL) & O_ACCMODE, O_RDONLY);
        QCOMPARE(::write(source.value()->descriptor(), "x", 1), ssize_t{-1});
        MainWindow window;
        window.show();
        QVERIFY(QTest::qWaitFor([&] { return window.front().cardAt(loop.path()) != nullptr; }, 3000));
        auto* card = window.front().cardAt(loop.path());
        QVERIFY(QTest::qWaitFor([&] { return !card->looking(); }, 6000));
        // Copied and searched by clicks.
        QTest::mouseClick(card->copyButton(), Qt::LeftButton);
        const auto copy = dir_.filePath(QStringLiteral("copy.img"));
        card->copyRow().imagePath()->setText(copy);
        QVERIFY(QTest::qWaitFor([&] { return card->copyRow().startButton()->isEnabled(); }, 3000));
        QTest::mouseClick(card->copyRow().startButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return window.job() != nullptr; }, 5000));
        // While it is read it is not let go of, and that is said.
        QVERIFY(QTest::qWaitFor([&] { return window.job()->readsCard(); }, 3000));
        Q_EMIT window.job()->letGoAsked();
        QVERIFY(window.job()->message().contains(QStringLiteral("still being read")));
        QVERIFY(QTest::qWaitFor(
            [&] { return window.job()->feed().overview().progress.state == ScanState::Finished; }, 120000));
        QVERIFY(window.job()->feed().overview().listed > 5);
        QCOMPARE(sha256(readFile(copy)), before);
        QCOMPARE(sha256(readFile(card_)), before);
    }
    void unmountsAWritableCard() {
        const auto image = dir_.filePath(QStringLiteral("mounted.img"));
        writeFile(image, Buffer(16 << 20, 0));
        QCOMPARE(command(QStringLiteral("mkfs.ext4"), {"-q", image}).exitCode, 0);
        LoopDevice loop(image, true);
        const auto folder = dir_.filePath(QStringLiteral("a folder"));
        QDir().mkpath(folder);
        QCOMPARE(command(QStringLiteral("mount"), {loop.path(), folder}).exitCode, 0);
        MainWindow window;
        window.show();
        QVERIFY(QTest::qWaitFor([&] { return window.front().cardAt(loop.path()) != nullptr; }, 3000));
        QTRY_COMPARE(window.watch().hasService(), service());
        auto* card = window.front().cardAt(loop.path());
        QVERIFY(card->device().writable());
        QStringList said;
        for (const auto* label : card->findChildren<QLabel*>()) said << label->text();
        QVERIFY(said.join(QLatin1Char(' ')).contains(folder));
        if (service()) {
            QTest::mouseClick(card->unmountButton(), Qt::LeftButton);
            QVERIFY(QTest::qWaitFor(
                [&] {
                    const auto* now = window.front().cardAt(loop.path());
                    return now != nullptr && now->device().mounts.empty();
                },
                10000));
        } else {
            QVERIFY(said.join(QLatin1Char(' ')).contains(QStringLiteral("by hand")));
            command(QStringLiteral("umount"), {folder});
        }
    }
};

QTEST_MAIN(TestDevices)
#include "test_devices.moc"
