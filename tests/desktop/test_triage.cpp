// Triage by single keys: from file to file, from heading to heading, to what is not whole, and across a join.
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include "desktop/main_window.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestTriage : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::unique_ptr<MainWindow> window_;
    std::uint64_t clipAt_ = 0, damagedAt_ = 0;
    double joinAt_ = 0;  // as a share of the clip

    JobPage& job() { return *window_->job(); }
    Sheet& sheet() { return job().sheet(); }
    std::size_t place() {
        const auto& ids = sheet().shownIds();
        return static_cast<std::size_t>(std::find(ids.begin(), ids.end(), sheet().current()) - ids.begin());
    }
    const Finding& current() { return *job().feed().find(sheet().current()); }
    void press(Qt::Key key, Qt::KeyboardModifiers with = {}) {
        QTest::keyClick(job().loupe().isFull() ? static_cast<QWidget*>(&job().loupe()) : &sheet(), key, with);
    }

  private Q_SLOTS:
    void initTestCase() {
        qputenv("XDG_CONFIG_HOME", dir_.path().toUtf8());
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        ImageBuilder image(4096);
        for (const auto* name : {"baseline-420.jpg", "optimised-444.jpg", "picture.png"})
            image.add(mediaFile(QString::fromLatin1(name)));
        auto damaged = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto noise = randomBytes(60000, 3);
        std::copy(noise.begin(), noise.end(), damaged.begin() + 200000);
        damagedAt_ = image.add(damaged);
        // A clip whose second part lies behind a photo.
        const auto clip = mediaFile(QStringLiteral("h264-first.mp4"));
        const auto cut = clip.size() / 2 / 4096 * 4096;
        joinAt_ = static_cast<double>(cut) / static_cast<double>(clip.size());
        clipAt_ = image.add(Buffer(clip.begin(), clip.begin() + static_cast<std::ptrdiff_t>(cut)));
        image.add(mediaFile(QStringLiteral("grey.jpg")));
        image.add(Buffer(clip.begin() + static_cast<std::ptrdiff_t>(cut), clip.end()));
        const auto card = dir_.filePath(QStringLiteral("BENCH-03.img"));
        image.write(card);
        window_ = std::make_unique<MainWindow>();
        window_->show();
        window_->openSource(card);
        QVERIFY(QTest::qWaitFor([&] { return window_->job() != nullptr; }, 60000));
        job().startSearch();
        QVERIFY(QTest::qWaitFor([&] { return job().feed().overview().progress.state == ScanState::Finished; },
                                120000));
        auto* arrange = job().choices().arrangeBox();
        arrange->setCurrentIndex(arrange->findData(static_cast<int>(ArrangeBy::Format)));
        QTRY_VERIFY(sheet().arrangement().groups.size() >= 3);
    }
    void cleanupTestCase() { window_.reset(); }

    void oneHandGoesFromFileToFile() {
        press(Qt::Key_Home);
        QCOMPARE(place(), std::size_t{0});
        press(Qt::Key_E);
        press(Qt::Key_E);
        QCOMPARE(place(), std::size_t{2});
        press(Qt::Key_W);
        QCOMPARE(place(), std::size_t{1});
        press(Qt::Key_Space);
        QVERIFY(current().decision.kept);
        press(Qt::Key_X);
        QVERIFY(current().decision.leftOut);
        press(Qt::Key_X);
        press(Qt::Key_3);
        QCOMPARE(current().decision.rating, 3);
    }
    // More than are decided at once: in the order in which they were made, and taken back as one step.
    void manyAreDecidedBehindTheWindow() {
        auto& feed = job().feed();
        std::vector<std::int64_t> many = sheet().shownIds();
        const auto shown = many.size();
        while (many.size() < 2000) many.push_back(sheet().shownIds()[many.size() % shown]);
        feed.setKept(sheet().shownIds(), false);
        const auto before = feed.decisions().count();
        feed.setKept(many, true);
        feed.setKept({sheet().current()}, false);  // after it, although it is only one
        feed.settle();
        QTRY_COMPARE(feed.overview().kept, shown - 1);
        QTRY_COMPARE(feed.decisions().count(), before + 2);
        feed.decisions().undo();
        feed.settle();
        QTRY_COMPARE(feed.overview().kept, shown);
        feed.decisions().undo();
        feed.settle();
        QTRY_COMPARE(feed.overview().kept, std::size_t{0});
        // Taken back at once it is this that is taken back, not what was decided before it.
        feed.setKept(many, true);
        job().undo();
        feed.settle();
        QTRY_COMPARE(feed.overview().kept, std::size_t{0});
    }
    // Decided behind the window, but not on the stack yet when the next one is made.
    void stepsComeOntoTheStackInTheirOrder() {
        auto& feed = job().feed();
        std::vector<std::int64_t> many = sheet().shownIds();
        const auto shown = many.size();
        while (many.size() < 2000) many.push_back(many[many.size() % shown]);
        feed.setKept(many, true);
        QThread::msleep(500);  // without a turn of the event loop
        feed.setKept({sheet().current()}, false);
        feed.settle();
        QTRY_COMPARE(feed.overview().kept, shown - 1);
        feed.decisions().undo();
        QTRY_COMPARE(feed.overview().kept, shown);
        feed.decisions().undo();
        QTRY_COMPARE(feed.overview().kept, std::size_t{0});
    }
    void headingsFollowOneAnother() {
        press(Qt::Key_Home);
        const auto& groups = sheet().arrangement().groups;
        press(Qt::Key_E);
        press(Qt::Key_G);
        QCOMPARE(sheet().current(), groups[1].ids.front());
        press(Qt::Key_G);
        QCOMPARE(sheet().current(), groups[2].ids.front());
        press(Qt::Key_G, Qt::ShiftModifier);
        QCOMPARE(sheet().current(), groups[1].ids.front());
        press(Qt::Key_End);
        press(Qt::Key_G);
        QCOMPARE(place(), sheet().shown() - 1);
        // Within the last one: to its first.
        if (groups.back().ids.size() > 1) {
            press(Qt::Key_G, Qt::ShiftModifier);
            QCOMPARE(sheet().current(), groups.back().ids.front());
        }
    }
    void whatIsNotWholeIsNext() {
        press(Qt::Key_Home);
        press(Qt::Key_D);
        QVERIFY(current().condition != Condition::Whole);
    }
    void thePictureFillsTheWindowAndTheKeysGoOn() {
        press(Qt::Key_Home);
        press(Qt::Key_V);
        QVERIFY(job().loupe().isFull());
        press(Qt::Key_E);
        QCOMPARE(place(), std::size_t{1});
        press(Qt::Key_V);
        QVERIFY(!job().loupe().isFull());
        QVERIFY(sheet().isVisible());
    }
    // A field keeps its letters, and the splice bench is not left by those of the sheet.
    void lettersAreTypedWhereTextIs() {
        press(Qt::Key_Home);
        job().findField()->setFocus();
        QTest::keyClicks(job().findField(), QStringLiteral("wedgvj"));
        QCOMPARE(job().findField()->text(), QStringLiteral("wedgvj"));
        QVERIFY(!job().loupe().isFull());
        job().findField()->clear();
        QTRY_VERIFY(sheet().shown() > 3);
        sheet().setFocus();
    }
    void aClipPlaysAcrossItsJoin() {
        for (const auto& finding : job().feed().files()) {
            if (finding->start() == clipAt_) sheet().setCurrent(finding->id);
        }
        QCOMPARE(current().kind, Kind::Video);
        QCOMPARE(current().joins.size(), std::size_t{1});
        auto& loupe = job().loupe();
        QTRY_VERIFY_WITH_TIMEOUT(loupe.clip().frameCount() > 3, 10000);
        const double join = joinAt_ * current().description.duration.value_or(0);
        QCOMPARE(loupe.clip().joins().size(), std::size_t{1});
        QVERIFY(std::abs(loupe.clip().joins()[0] - join) < 0.05);
        QSignalSpy shown(&loupe.playback(), &Playback::shown);
        press(Qt::Key_J);
        QVERIFY(QTest::qWaitFor([&] { return loupe.playback().position() > join; }, 10000));
        QVERIFY(loupe.playback().playing());
        const auto first = shown.front().at(1).toDouble();
        QVERIFY2(first > join - 1.2 && first < join, qPrintable(QString::number(first)));
        QTest::keyClick(&loupe, Qt::Key_P);
    }
};

QTEST_MAIN(TestTriage)
#include "test_triage.moc"
