// Letting a card go, and being refused: with a stand-in for UDisks2 (tests/rigs/udisks_stand_in), since a
// loop device can be neither ejected nor switched off.
#include <QTemporaryDir>
#include <QTest>

#include "desktop/front/source_card.h"
#include "desktop/main_window.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"
#include "udisks/udisks.h"

using namespace dreskel;
using namespace dreskel::test;

class TestLettingGo : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;

    static QString inStandIn(const QString& name) {
        return qEnvironmentVariable("DRESKEL_STAND_IN") + QLatin1Char('/') + name;
    }
    static void behave(const QByteArray& mode) {
        writeFile(inStandIn(QStringLiteral("mode")), Buffer(mode.begin(), mode.end()));
        QFile::remove(inStandIn(QStringLiteral("calls")));
    }
    static QStringList calls() {
        QFile file(inStandIn(QStringLiteral("calls")));
        if (!file.open(QIODevice::ReadOnly)) return {};
        return QString::fromUtf8(file.readAll()).split(QLatin1Char('\n'), Qt::SkipEmptyParts);
    }
    // The sheet of the card when it has been looked at.
    static SourceCard* looked(MainWindow& window, const QString& path) {
        const bool shown =
            QTest::qWaitFor(
                [&] { return window.front().cardAt(path) != nullptr && window.watch().hasService(); },
                5000) &&
            QTest::qWaitFor([&] { return !window.front().cardAt(path)->looking(); }, 8000);
        return shown ? window.front().cardAt(path) : nullptr;
    }

  private Q_SLOTS:
    void initTestCase() {
        if (!LoopDevice::possible()) QSKIP("needs root and loop devices");
        QVERIFY(qEnvironmentVariableIsSet("DRESKEL_STAND_IN"));
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        card_ = dir_.filePath(QStringLiteral("MILL-22.img"));
        ImageBuilder image;
        image.addNoise(8 << 20, 4);
        image.write(card_);
    }
    void ejectsOrSwitchesOff_data() {
        QTest::addColumn<QByteArray>("mode");
        QTest::addColumn<QString>("call");
        QTest::newRow("the medium") << QByteArray("ejectable switchable") << QStringLiteral("eject");
        QTest::newRow("the reader") << QByteArray("switchable") << QStringLiteral("power off");
    }
    void ejectsOrSwitchesOff() {
        QFETCH(QByteArray, mode);
        QFETCH(QString, call);
        behave(mode);
        LoopDevice loop(card_);
        MainWindow window;
        window.show();
        auto* card = looked(window, loop.path());
        QVERIFY(card != nullptr);
        QCOMPARE(QString::fromStdString(card->device().serial), QStringLiteral("0017"));
        QCOMPARE(card->device().bus, std::string("USB"));
        QVERIFY(calls().contains(QStringLiteral("open r")));
        QTest::mouseClick(card->letGoButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return calls().contains(call); }, 5000));
        QVERIFY(
            QTest::qWaitFor([&] { return card->said().contains(QStringLiteral("pulled out now")); }, 5000));
        QCOMPARE(calls().count(QStringLiteral("eject")) + calls().count(QStringLiteral("power off")), 1);
    }
    void saysWhyItCannotBeLetGo() {
        behave("ejectable busy");
        LoopDevice loop(card_);
        const Result<std::shared_ptr<Source>> opened = Udisks::open(loop.path());
        QVERIFY(!opened);
        behave("ejectable");
        MainWindow window;
        window.show();
        auto* card = looked(window, loop.path());
        QVERIFY(card != nullptr);
        behave("ejectable busy");
        QTest::mouseClick(card->letGoButton(), Qt::LeftButton);
        QVERIFY(
            QTest::qWaitFor([&] { return card->said().contains(QStringLiteral("still uses it")); }, 5000));
        QVERIFY(!card->said().contains(QStringLiteral("pulled out")));
    }
    // By a user who has no right to the node, so that there is no other way than the service.
    void saysWhatToDoWhenPolicyRefuses() {
        behave("refuse");
        LoopDevice loop(card_);
        QFile::setPermissions(loop.path(), QFile::ReadOwner | QFile::WriteOwner);
        const auto refused =
            command(QStringLiteral("setpriv"),
                    {QStringLiteral("--reuid=65534"), QStringLiteral("--regid=65534"),
                     QStringLiteral("--clear-groups"), QStringLiteral(DRESKEL_BIN "/dreskel-cli"),
                     QStringLiteral("inspect"), loop.path()});
        QCOMPARE(refused.exitCode, 3);
        QVERIFY2(refused.err.contains("polkit") && refused.err.contains("administrator"),
                 refused.err.constData());
        // Where policy allows it, the same user needs no more.
        behave("");
        const auto allowed =
            command(QStringLiteral("setpriv"),
                    {QStringLiteral("--reuid=65534"), QStringLiteral("--regid=65534"),
                     QStringLiteral("--clear-groups"), QStringLiteral(DRESKEL_BIN "/dreskel-cli"),
                     QStringLiteral("inspect"), loop.path()});
        QVERIFY2(allowed.exitCode == 0, allowed.err.constData());
        QVERIFY(calls().contains(QStringLiteral("open r")));
    }
    void refusesADescriptorThatCouldWrite() {
        behave("dishonest");
        LoopDevice loop(card_, true);
        const auto opened = Udisks::open(loop.path());
        QVERIFY(!opened);
        QVERIFY(opened.error().sentence().find("could be written to") != std::string::npos);
    }
    void aDiskOfThisComputerTakesASecondStep() {
        behave("");
        LoopDevice loop(card_);
        Device disk;
        disk.path = loop.path().toStdString();
        disk.model = "Disk";
        disk.size = 8 << 20;
        SourceCard card(disk, true);
        card.show();
        QTest::qWait(300);
        QVERIFY(!card.looking());
        QVERIFY(calls().isEmpty());  // not even opened
        QVERIFY(!card.openButton()->isVisible() && !card.copyButton()->isVisible());
        QTest::mouseClick(card.unlockButton(), Qt::LeftButton);
        QVERIFY(card.openButton()->isVisible());
        QVERIFY(QTest::qWaitFor([&] { return !card.looking(); }, 8000));
        QVERIFY(calls().contains(QStringLiteral("open r")));
    }
    void aPartCanBeCopiedWithFewerTries() {
        behave("");
        LoopDevice loop(card_);
        MainWindow window;
        window.show();
        auto* card = looked(window, loop.path());
        QVERIFY(card != nullptr);
        QTest::mouseClick(card->copyButton(), Qt::LeftButton);
        auto& row = card->copyRow();
        const auto copy = dir_.filePath(QStringLiteral("part.img"));
        row.imagePath()->setText(copy);
        row.spanFrom()->setValue(6);
        row.spanTo()->setValue(2);
        QTest::qWait(200);
        QVERIFY(!row.startButton()->isEnabled());
        row.spanFrom()->setValue(1);
        row.laterTries()->setValue(0);
        QVERIFY(QTest::qWaitFor([&] { return row.startButton()->isEnabled(); }, 3000));
        QTest::mouseClick(row.startButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return window.job() != nullptr; }, 5000));
        QVERIFY(QTest::qWaitFor(
            [&] { return window.job()->feed().overview().progress.state == ScanState::Finished; }, 60000));
        const auto card1 = readFile(card_);
        const auto made = readFile(copy);
        QVERIFY(std::equal(made.begin() + 1000000, made.begin() + 2000000, card1.begin() + 1000000));
        QVERIFY(std::all_of(made.begin() + 2001000, made.end(), [](std::uint8_t byte) { return byte == 0; }));
    }
};

QTEST_MAIN(TestLettingGo)
#include "test_letting_go.moc"
