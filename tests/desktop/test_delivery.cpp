// Around a delivery: the shop's facts, an earlier delivery compared, a job kept small, opened without its
// card, raw pieces saved, and files chosen by the numbers of contact pages.
#include <QDir>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/bytes/leftovers.h"
#include "desktop/delivery/later_check.h"
#include "desktop/delivery/shop_panel.h"
#include "desktop/delivery/small_panel.h"
#include "desktop/main_window.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestDelivery : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;
    std::size_t files_ = 0;

    std::unique_ptr<MainWindow> searched() {
        auto window = std::make_unique<MainWindow>();
        window->show();
        window->openSource(card_);
        if (!QTest::qWaitFor([&] { return window->job() != nullptr; }, 60000))
            qFatal("the card does not open");
        window->job()->startSearch();
        const auto finished = [&] {
            return window->job()->feed().overview().progress.state == ScanState::Finished;
        };
        if (!QTest::qWaitFor(finished, 120000)) qFatal("the search does not end");
        QTest::qWait(300);
        return window;
    }
    QString saved(MainWindow& window, const char* name) {
        auto& tray = window.job()->tray();
        QTest::mouseClick(tray.nextButton(), Qt::LeftButton);  // keep all that is whole
        const auto to = dir_.filePath(QString::fromLatin1(name));
        tray.setDestination(to);
        QTest::mouseClick(tray.nextButton(), Qt::LeftButton);
        if (!QTest::qWaitFor([&] { return !tray.saving() && tray.lastSum() != nullptr; }, 60000))
            qFatal("nothing is saved: %s", qPrintable(tray.message()));
        return to;
    }

  private Q_SLOTS:
    void initTestCase() {
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        qputenv("XDG_CONFIG_HOME", dir_.filePath(QStringLiteral("settings")).toUtf8());
        card_ = dir_.filePath(QStringLiteral("BENCH-02.img"));
        ImageBuilder image;
        image.addNoise(200000, 8);
        for (const auto* pattern : {"*.jpg", "*.png", "stereo.wav"}) {
            for (const auto& name : mediaNames(QString::fromLatin1(pattern))) {
                image.add(mediaFile(name));
                ++files_;
            }
        }
        image.addNoise(60000, 9);
        image.write(card_);
    }
    void theShopIsSetOnce() {
        auto* panel = new ShopPanel(nullptr);
        panel->show();
        QTest::keyClicks(&panel->name(), QStringLiteral("Tide & Mill"));
        panel->address().setPlainText(QStringLiteral("4 Weir Lane"));
        panel->language().setCurrentIndex(panel->language().findText(QStringLiteral("Deutsch")));
        QVERIFY(panel->advice().toPlainText().startsWith(QStringLiteral("Formatieren Sie")));
        // A picture that is none is told at once.
        panel->logo().setText(card_);
        QTest::mouseClick(&panel->saveButton(), Qt::LeftButton);
        QVERIFY2(panel->isVisible() && !panel->message().isEmpty(), qPrintable(panel->message()));
        panel->logo().clear();
        panel->advice().appendPlainText(QStringLiteral("Erst trocknen."));
        QTest::mouseClick(&panel->saveButton(), Qt::LeftButton);
        QVERIFY(!panel->isVisible());
        const auto shop = readShop(usualShopPath());
        QVERIFY(shop.ok());
        QCOMPARE(shop.value().name, std::string("Tide & Mill"));
        QCOMPARE(shop.value().advice.back(), std::string("Erst trocknen."));
        // Its own advice stays when the language changes.
        auto* again = new ShopPanel(nullptr);
        again->show();
        QCOMPARE(again->name().text(), QStringLiteral("Tide & Mill"));
        again->language().setCurrentIndex(again->language().findText(QStringLiteral("English")));
        QVERIFY(again->advice().toPlainText().endsWith(QStringLiteral("Erst trocknen.")));
        again->close();
    }
    void anEarlierDeliveryIsCompared() {
        const auto window = searched();
        const auto to = saved(*window, "out");
        QVERIFY(QFile::exists(to + QStringLiteral("/report.pdf")));
        auto* check = new LaterCheck(window.get());
        check->show();
        check->folder().setText(to);
        QTest::mouseClick(&check->startButton(), Qt::LeftButton);
        QTRY_COMPARE(check->sentence(), QStringLiteral("All %1 files are as they were saved.").arg(files_));
        const auto photo = QDir(to + QStringLiteral("/Photos")).entryList(QDir::Files).first();
        QFile file(to + QStringLiteral("/Photos/") + photo);
        QVERIFY(file.open(QIODevice::ReadWrite) && file.seek(5000) && file.write("x") == 1);
        file.close();
        QTest::mouseClick(&check->startButton(), Qt::LeftButton);
        QTRY_VERIFY(check->sentence().startsWith(QStringLiteral("%1 of %2").arg(files_ - 1).arg(files_)));
        QVERIFY(check->listed().contains(photo));
        check->folder().setText(dir_.path());
        QTest::mouseClick(&check->startButton(), Qt::LeftButton);
        QTRY_VERIFY(check->sentence().contains(QStringLiteral("manifest")));
        check->close();
    }
    void aClientsNumbersAreFoundAgain() {
        const auto window = searched();
        auto* job = window->job();
        auto* field = job->findField();
        field->setText(QStringLiteral("#p1"));
        QTRY_COMPARE(job->sheet().shown(), std::min<std::size_t>(20, files_));
        field->setText(QStringLiteral("#2,4-5,p9"));
        QTRY_COMPARE(job->sheet().shown(), std::size_t{3});
        field->clear();
    }
    void whatNothingExplainsIsSavedRaw() {
        const auto window = searched();
        QTRY_VERIFY(window->job()->choices().leftoversButton()->isVisible());
        QTest::mouseClick(window->job()->choices().leftoversButton(), Qt::LeftButton);
        auto* panel = window->job()->findChild<Leftovers*>();
        QTRY_VERIFY(panel->saveButton().isEnabled());
        const auto to = dir_.filePath(QStringLiteral("raw"));
        panel->saveTo(to);
        QTRY_VERIFY2(panel->sentence().startsWith(QStringLiteral("Saved 2 raw pieces")),
                     qPrintable(panel->sentence()));
        const auto pieces = QDir(to).entryList({QStringLiteral("from byte *.bin")}, QDir::Files, QDir::Name);
        QCOMPARE(pieces.size(), qsizetype{2});
        const auto card = readFile(card_);
        const auto piece = readFile(to + QLatin1Char('/') + pieces.first());
        QVERIFY(piece.size() >= 200000 && std::equal(piece.begin(), piece.end(), card.begin()));
        panel->close();
    }
    void aJobIsKeptSmallAndOpensWithoutItsCard() {
        const auto window = searched();
        const auto folder = QString::fromStdString(window->job()->feed().session().folder());
        const auto id = window->job()->feed().session().listed().front().id;
        QVERIFY(!window->job()->feed().session().preview(id).picture.empty());
        QVERIFY(QMetaObject::invokeMethod(window.get(), [&] {
            for (auto* action : window->findChildren<QAction*>()) {
                if (action->text() == QStringLiteral("&Keep this job small")) action->trigger();
            }
        }));
        auto* panel = window->findChild<SmallPanel*>();
        QVERIFY(panel != nullptr);
        QVERIFY(!panel->copyChoice().isVisible());  // an image that was there is not the job's to delete
        QTest::mouseClick(&panel->doButton(), Qt::LeftButton);
        QTRY_VERIFY(panel->sentence().startsWith(QStringLiteral("The job takes ")));
        QTRY_VERIFY(window->job() != nullptr && !window->opening());
        QVERIFY(window->job()->feed().session().preview(id).picture.empty());
        QTRY_COMPARE(window->job()->sheet().shown(), files_);
        panel->close();
        window->leaveJob();

        const auto away = card_ + QStringLiteral(".away");
        QVERIFY(QFile::rename(card_, away));
        window->openJob(folder);
        QTRY_VERIFY(window->job() != nullptr);
        QTRY_COMPARE(window->job()->sheet().shown(), files_);
        QVERIFY2(window->job()->message().contains(QStringLiteral("not there")),
                 qPrintable(window->job()->message()));
        // Neither a search nor a delivery makes anything of it.
        auto& session = window->job()->feed().session();
        ScanOptions again;
        again.again = true;
        session.startScan(again);
        QVERIFY(session.overview().trouble.has_value());
        QVERIFY(session.overview().progress.unreadable == 0);
        Control control;
        const DeliveryRequest request{dir_.filePath("nowhere").toStdString(), Layout::Flat, session.listed()};
        const auto sum = session.save(request, control, [](const DeliveryProgress&) {});
        QVERIFY(!sum.ok() && sum.error().fault == Fault::SourceUnusable);
        window->leaveJob();
        QVERIFY(QFile::rename(away, card_));
    }
};

QTEST_MAIN(TestDelivery)
#include "test_delivery.moc"
