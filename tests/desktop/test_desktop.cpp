// The desktop, driven as a person would: open, search, keep, save.
#include <QElapsedTimer>
#include <QLabel>
#include <QTest>
#include <set>

#include "desktop/bytes/leftovers.h"
#include "desktop/job_shelf.h"
#include "formats/registry.h"
#include "tests/desktop/media_card.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// The longest time the event loop did not come round.
class StallWatch : public QObject {
  public:
    StallWatch() {
        clock_.start();
        startTimer(1, Qt::PreciseTimer);
    }
    qint64 longest() const { return longest_; }

  protected:
    void timerEvent(QTimerEvent*) override { longest_ = std::max(longest_, clock_.restart()); }

  private:
    QElapsedTimer clock_;
    qint64 longest_ = 0;
};

}  // namespace

class TestDesktop : public QObject {
    Q_OBJECT
    MediaCard card_;

  private Q_SLOTS:
    void initTestCase() { card_.make(); }
    void opensSearchesKeepsAndSaves() {
        MainWindow window;
        window.show();
        Q_EMIT window.front().sourceChosen(card_.path());
        QTRY_VERIFY(window.job() != nullptr);
        auto* job = window.job();
        QCOMPARE(job->tray().nextButton()->text(), QStringLiteral("Search the card"));
        StallWatch stalls;
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return job->sheet().shown() > 0; }, 20000));
        // The first files can be looked at and kept while the search goes on.
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QVERIFY(QTest::qWaitFor([&] { return job->feed().overview().kept == 1; }, 2000));
        QVERIFY(QTest::qWaitFor([&] { return MediaCard::finished(*job); }, 120000));
        QTest::qWait(400);
        // Told, not judged: a busy machine stalls everyone. See docs/measures.md.
        qInfo("longest stall of the event loop: %lld ms", static_cast<long long>(stalls.longest()));
        // With the damaged one, whose parts above and below the damage are one picture.
        QCOMPARE(job->sheet().shown(), card_.files() + 1);

        // Once more lets go; then all whole ones by the tray's own offer.
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QCOMPARE(job->feed().overview().kept, std::size_t{0});
        QVERIFY(job->tray().nextButton()->text().startsWith(QStringLiteral("Keep all")));
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QCOMPARE(job->feed().overview().kept, card_.files());
        // Every decision can be taken back, and on again; one that changed a single file leaves the others.
        job->undo();
        QCOMPARE(job->feed().overview().kept, std::size_t{0});
        QVERIFY(job->message().contains(QStringLiteral("keeping %1 files").arg(card_.files())));
        job->redo();
        QCOMPARE(job->feed().overview().kept, card_.files());
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QCOMPARE(job->feed().overview().kept, card_.files() - 1);
        job->feed().setKept(job->sheet().shownIds(), true);
        job->undo();
        QCOMPARE(job->feed().overview().kept, card_.files() - 1);
        job->redo();
        job->undo();
        job->undo();
        QCOMPARE(job->feed().overview().kept, card_.files());
        QCOMPARE(job->tray().nextButton()->text(), QStringLiteral("Choose where to save"));

        // Not onto the card; then to a good place.
        job->tray().setDestination(card_.path() + QStringLiteral("/inside"));
        QVERIFY(!job->tray().nextButton()->isEnabled());
        QVERIFY(!job->tray().message().isEmpty());
        const auto out = card_.folder().filePath(QStringLiteral("out"));
        job->tray().setDestination(out);
        QVERIFY(job->tray().nextButton()->isEnabled());
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !job->tray().saving(); }, 120000));
        QVERIFY(job->tray().lastSum() != nullptr);
        QCOMPARE(job->tray().lastSum()->verified, card_.files());
        QVERIFY(job->tray().message().contains(QString::number(card_.files())));
        std::set<QString> hashes;
        for (const auto& item : job->tray().lastSum()->items)
            hashes.insert(sha256(readFile(out + QLatin1Char('/') + QString::fromStdString(item.savedAs))));
        for (const auto& name : mediaNames())
            QVERIFY2(hashes.count(sha256(mediaFile(name))) == 1, qPrintable(name));
        QCOMPARE(job->tray().nextButton()->text(), QStringLiteral("Show what was saved"));
        QVERIFY(QFileInfo::exists(QString::fromStdString(job->tray().lastSum()->report)));
        // Laid out another way it is another delivery.
        auto* layout = job->tray().layoutChoice();
        QVERIFY(layout->isVisible());
        layout->setCurrentIndex(layout->findText(QStringLiteral("by camera")));
        QVERIFY(job->tray().nextButton()->text().startsWith(QStringLiteral("Save ")));
        QVERIFY(job->tray().message().contains(QStringLiteral("the first as ")));
        layout->setCurrentIndex(0);

        // Back to the front page, where the job waits with its decisions.
        window.leaveJob();
        const auto jobs = shelvedJobs();
        QCOMPARE(jobs.size(), std::size_t{1});
        QCOMPARE(jobs[0].kept, card_.files());
        QVERIFY(jobs[0].state == ScanState::Finished);
        Q_EMIT window.front().jobChosen(jobs[0].folder);
        QTRY_VERIFY(window.job() != nullptr);
        QTRY_COMPARE(window.job()->feed().overview().kept, card_.files());
        QVERIFY(QTest::qWaitFor([&] { return window.job()->sheet().shown() == card_.files() + 1; }, 5000));
    }
    void pausesStopsAndGoesOn() {
        qputenv("DRESKEL_JOBS", card_.folder().filePath(QStringLiteral("jobs-2")).toUtf8());
        MainWindow window;
        window.show();
        window.openSource(card_.path());
        QTRY_VERIFY(window.job() != nullptr);
        auto* job = window.job();
        job->startSearch();
        QTest::mouseClick(job->pauseButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return job->feed().overview().activity == Activity::Paused; }, 5000));
        QTest::qWait(600);  // the step in hand may still end
        const auto before = job->feed().overview().changes;
        QTest::qWait(600);
        QCOMPARE(job->feed().overview().changes, before);
        QTest::mouseClick(job->pauseButton(), Qt::LeftButton);
        QTest::mouseClick(job->stopButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return job->feed().overview().activity == Activity::Idle; }, 20000));
        if (!MediaCard::finished(*job)) {
            QCOMPARE(job->tray().nextButton()->text().left(6),
                     job->feed().overview().kept > 0 ? QStringLiteral("Choose") : QStringLiteral("Go on "));
        }
        job->startSearch();
        QVERIFY(QTest::qWaitFor([&] { return MediaCard::finished(*job); }, 120000));
        QVERIFY(QTest::qWaitFor([&] { return job->sheet().shown() == card_.files() + 1; }, 5000));
    }
    // Where to, what it is called, and what opens: said before anything is saved.
    void theTraySaysWhatWillBeSaved() {
        const auto window = card_.searched();
        auto* job = window->job();
        auto& tray = job->tray();
        std::int64_t nameless = 0, damaged = 0;
        for (const auto& finding : job->feed().files()) {
            if (!finding->listed() || finding->kind != Kind::Photo) continue;
            if (finding->condition == Condition::Partial) damaged = finding->id;
            if (finding->condition == Condition::Whole && finding->name.empty()) nameless = finding->id;
        }
        QVERIFY(nameless != 0 && damaged != 0);
        job->feed().setKept(job->sheet().shownIds(), false);
        job->feed().setKept({nameless}, true);
        QTRY_VERIFY(tray.namesField() != nullptr && !tray.versionsChoice()->isVisible());
        tray.namesField()->setText(QStringLiteral("{kind} of the mill {number}"));
        QVERIFY2(tray.message().contains(QStringLiteral("Photo of the mill 0")), qPrintable(tray.message()));
        tray.namesField()->setText(QStringLiteral("{nonsense}"));
        QVERIFY(!tray.message().contains(QStringLiteral("nonsense")));
        tray.namesField()->setText(QStringLiteral("{date} {time} {camera}"));
        job->feed().setKept({damaged}, true);
        QTRY_VERIFY(tray.versionsChoice()->isVisible() && tray.versionsChoice()->isChecked());
        Q_EMIT tray.placesMenu()->aboutToShow();
        const auto offered = tray.placesMenu()->actions();
        QVERIFY(!offered.isEmpty());
        QCOMPARE(offered.last()->text(), QStringLiteral("Another folder"));
        const auto out = card_.folder().filePath(QStringLiteral("with-versions"));
        tray.setDestination(out);
        QTRY_VERIFY(tray.nextButton()->text().startsWith(QStringLiteral("Save 2")));
        QTest::mouseClick(tray.nextButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!tray.saving() && tray.lastSum() != nullptr, 60000);
        QCOMPARE(tray.lastSum()->verified, std::size_t{2});
        QCOMPARE(tray.lastSum()->versions, std::size_t{1});
        QVERIFY(tray.message().contains(QStringLiteral("that open")));
        // The last folder is offered first.
        Q_EMIT tray.placesMenu()->aboutToShow();
        QVERIFY(tray.placesMenu()->actions().first()->text().startsWith(out));
        job->undo();
        job->undo();
    }
    // Left out, rated, noted: by keys, told in the loupe, taken back, kept over closing.
    void decidesByKeys() {
        const auto window = card_.searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto id = sheet.current();
        const auto decision = [&] { return job->feed().find(id)->decision; };
        sheet.setFocus();
        QTest::keyClick(&sheet, Qt::Key_K);
        QVERIFY(decision().kept);
        QTest::keyClick(&sheet, Qt::Key_X);
        QVERIFY(decision().leftOut && !decision().kept);
        QTest::keyClick(&sheet, Qt::Key_4);
        QCOMPARE(decision().rating, 4);
        QTest::keyClick(&sheet, Qt::Key_Return);
        QVERIFY(job->loupe().isFull());
        QTest::keyClick(&job->loupe(), Qt::Key_2);
        QCOMPARE(decision().rating, 2);
        QTest::keyClick(&job->loupe(), Qt::Key_X);
        QVERIFY(!decision().leftOut);
        QTest::keyClick(&job->loupe(), Qt::Key_Escape);
        job->undo();
        job->undo();
        QCOMPARE(decision().rating, 4);
        QVERIFY(decision().leftOut);
        job->loupe().note().setFocus();
        QTest::keyClicks(&job->loupe().note(), QStringLiteral("the miller"));
        QTest::keyClick(&job->loupe().note(), Qt::Key_Return);
        QCOMPARE(QString::fromStdString(decision().note), QStringLiteral("the miller"));
        QVERIFY(sheet.hasFocus());
        job->findField()->setText(QStringLiteral("MILLER"));
        QCOMPARE(sheet.shown(), std::size_t{1});
        job->findField()->clear();
        job->undo();
        QVERIFY(decision().note.empty());
        job->undo();
        job->undo();
        job->undo();
        QVERIFY(decision() == Decision{});
    }
    // A photo without its beginning becomes a picture when a good one of the same camera is lent.
    void lendsAGoodFile() {
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto good = card_.folder().filePath(QStringLiteral("good.jpg"));
        writeFile(good, photo);
        ImageBuilder image(32768);
        image.addNoise(32768, 3);
        image.add({photo.begin() + 8 * 32768, photo.end()});
        image.addGap(65536);
        const auto card = card_.folder().filePath(QStringLiteral("headless.img"));
        image.write(card);
        MainWindow window;
        window.show();
        window.openSource(card);
        QTRY_VERIFY_WITH_TIMEOUT(window.job() != nullptr, 60000);
        auto* job = window.job();
        const auto finished = [&] {
            const auto& overview = job->feed().overview();
            return overview.activity == Activity::Idle && overview.progress.state == ScanState::Finished;
        };
        job->startSearch();
        QTRY_VERIFY_WITH_TIMEOUT(finished(), 60000);
        QCOMPARE(job->sheet().shown(), std::size_t{0});
        job->lend(card_.folder().filePath(QStringLiteral("nowhere.jpg")));
        QVERIFY(job->message().contains(QStringLiteral("nowhere.jpg")));
        job->lend(good);
        QTRY_COMPARE_WITH_TIMEOUT(job->sheet().shown(), std::size_t{1}, 60000);
    }
    // An emptied card: what its folders still name is checked at once, the rest of it is read when asked.
    void looksAtWhatFoldersNameFirst() {
        const auto card = card_.folder().filePath(QStringLiteral("emptied.img"));
        QFile file(card);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.resize(64 << 20));
        file.close();
        const auto photo = mediaFile(QStringLiteral("fine.jpg"));
        const auto one = card_.folder().filePath(QStringLiteral("one.jpg"));
        writeFile(one, photo);
        QCOMPARE(command(QStringLiteral("mkfs.vfat"), {"-F", "16", card}).exitCode, 0);
        QCOMPARE(command(QStringLiteral("mcopy"), {"-i", card, one, "::MILL0001.JPG"}).exitCode, 0);
        QCOMPARE(command(QStringLiteral("mdel"), {"-i", card, "::MILL0001.JPG"}).exitCode, 0);
        QVERIFY(file.open(QIODevice::ReadWrite));
        file.seek(40 << 20);
        file.write(reinterpret_cast<const char*>(photo.data()), static_cast<qint64>(photo.size()));
        file.close();
        MainWindow window;
        window.show();
        Q_EMIT window.front().sourceChosen(card);
        QTRY_VERIFY(window.job() != nullptr);
        auto* job = window.job();
        auto* other = job->tray().otherSearchButton();
        QCOMPARE(other->text(), QStringLiteral("Only what folders name"));
        QTest::mouseClick(other, Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return MediaCard::finished(*job); }, 30000));
        QTRY_COMPARE(job->sheet().shown(), std::size_t{1});
        const auto found = job->feed().session().listed().front();
        QVERIFY(found.condition == Condition::Whole);
        QVERIFY(found.fate == Fate::Deleted);
        QTRY_COMPARE(other->text(), QStringLiteral("Search the rest of the card"));
        QVERIFY(other->isVisible());
        QTest::mouseClick(other, Qt::LeftButton);
        QTRY_COMPARE_WITH_TIMEOUT(job->sheet().shown(), std::size_t{2}, 30000);
        QVERIFY(QTest::qWaitFor([&] { return MediaCard::finished(*job); }, 30000));
        QTRY_VERIFY(!other->isVisible());
    }
    void theBandLeadsToTheFile() {
        const auto window = card_.searched();
        auto* job = window->job();
        const auto offset = card_.offsetOf(QStringLiteral("baseline-422.jpg"));
        const auto size = job->feed().session().source()->size();
        // In the middle of the photo, on the photos' lane.
        const double share = (static_cast<double>(offset) + 800000) / static_cast<double>(size);
        const int x = static_cast<int>(96 + share * (job->band().width() - 96 - 24));
        QTest::mouseClick(&job->band(), Qt::LeftButton, {}, QPoint(x, 14 + 2 * 18 + 5));
        QCOMPARE(job->sheet().current(), MediaCard::idAt(*job, offset));
    }
    void troubleIsToldWithoutADialog() {
        MainWindow window;
        window.show();
        window.openSource(QStringLiteral("/nowhere/card.img"));
        QTRY_VERIFY(!window.opening());
        QVERIFY(window.job() == nullptr);
        bool told = false;
        for (const auto* label : window.front().findChildren<QLabel*>())
            told =
                told || (label->isVisible() && label->text().contains(QStringLiteral("/nowhere/card.img")));
        QVERIFY(told);
    }
    void aFormatIsLearntTriedAndKept() {
        qputenv("XDG_CONFIG_HOME", card_.folder().filePath(QStringLiteral("config")).toLocal8Bit());
        QStringList samples;
        for (unsigned i = 0; i < 2; ++i) {
            auto file = randomBytes(20000, i);
            const std::string mark("PELLOW raw 02");
            std::copy(mark.begin(), mark.end(), file.begin());
            samples << card_.folder().filePath(QStringLiteral("sample%1.pel").arg(i));
            writeFile(samples.back(), file);
        }
        const auto window = card_.searched();
        auto* panel = window->makeOwnPanel();
        panel->show();
        QVERIFY(panel->keepButton().isEnabled());  // the example
        panel->text().setPlainText(QStringLiteral("{\n\"schema\": 1,\n\"formats\": [{}]}"));
        QVERIFY2(panel->verdict().startsWith(QStringLiteral("Line 3")), qPrintable(panel->verdict()));
        QVERIFY(!panel->keepButton().isEnabled());
        QTest::keyClicks(&panel->name(), QStringLiteral("pel"));
        panel->learn(samples);
        QVERIFY(panel->text().toPlainText().contains(QStringLiteral("50 45 4c 4c 4f 57")));
        QTRY_VERIFY2(panel->verdict().startsWith(QStringLiteral("It begins at 0 sectors")),
                     qPrintable(panel->verdict()));
        QTest::mouseClick(&panel->keepButton(), Qt::LeftButton);
        QCOMPARE(panel->list().count(), 1);
        QVERIFY(formatFor("pel") != nullptr);
        QTest::mouseClick(&panel->dropButton(), Qt::LeftButton);
        QCOMPARE(panel->list().count(), 0);
        QVERIFY(formatFor("pel") == nullptr);
        panel->close();
    }
    void whatNothingExplainsCanBeLookedAt() {
        const auto window = card_.searched();
        auto* job = window->job();
        QTRY_VERIFY(job->choices().leftoversButton()->isVisible());
        QVERIFY(job->choices().leftoversButton()->text().contains(QStringLiteral("unexplained")));
        QTest::mouseClick(job->choices().leftoversButton(), Qt::LeftButton);
        auto* panel = job->findChild<Leftovers*>();
        QVERIFY(panel != nullptr);
        QTRY_VERIFY(panel->list().topLevelItemCount() > 0);
        // The noise at the beginning of the card is the longest or not; it is there, and called what it is.
        QTreeWidgetItem* first = nullptr;
        for (int i = 0; i < panel->list().topLevelItemCount(); ++i) {
            if (panel->list().topLevelItem(i)->text(0) == QStringLiteral("0"))
                first = panel->list().topLevelItem(i);
        }
        QVERIFY(first != nullptr);
        QVERIFY(first->text(2).startsWith(QStringLiteral("dense")));
        panel->list().setCurrentItem(first);
        const auto bytes = readFile(card_.path());
        const auto start = QStringLiteral("000000000000  %1 %2 ")
                               .arg(bytes[0], 2, 16, QLatin1Char('0'))
                               .arg(bytes[1], 2, 16, QLatin1Char('0'));
        QTRY_VERIFY(panel->bytes().firstLine().startsWith(start));
        panel->close();
    }
};

QTEST_MAIN(TestDesktop)
#include "test_desktop.moc"
