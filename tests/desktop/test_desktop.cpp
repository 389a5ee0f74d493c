// The desktop, driven as a person would: open, search, look, keep, save.
#include <QDir>
#include <QElapsedTimer>
#include <QJsonDocument>
#include <QLabel>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "desktop/bytes/leftovers.h"
#include "desktop/job_shelf.h"
#include "desktop/look/look.h"
#include "desktop/main_window.h"
#include "formats/registry.h"
#include "tests/support/support.h"

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
    QTemporaryDir dir_;
    QString card_;
    std::vector<std::pair<QString, std::uint64_t>> placed_;
    std::uint64_t damagedAt_ = 0;

    static bool finished(JobPage& job) { return job.feed().overview().progress.state == ScanState::Finished; }
    std::int64_t idAt(JobPage& job, std::uint64_t offset) {
        for (const auto& finding : job.feed().session().listed()) {
            if (finding.start() == offset) return finding.id;
        }
        return 0;
    }
    std::uint64_t offsetOf(const QString& name) {
        for (const auto& [known, offset] : placed_) {
            if (known == name) return offset;
        }
        return 0;
    }
    std::unique_ptr<MainWindow> searched() {
        auto window = std::make_unique<MainWindow>();
        window->show();
        window->openSource(card_);
        if (!QTest::qWaitFor([&] { return window->job() != nullptr; }, 60000))
            qFatal("the card does not open");
        window->job()->startSearch();
        if (!QTest::qWaitFor([&] { return finished(*window->job()); }, 120000))
            qFatal("the search does not end");
        QTest::qWait(400);
        return window;
    }

  private Q_SLOTS:
    void initTestCase() {
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        card_ = dir_.filePath(QStringLiteral("BENCH-01.img"));
        ImageBuilder image;
        image.addNoise(100000, 8);
        for (const auto& name : mediaNames()) placed_.emplace_back(name, image.add(mediaFile(name)));
        auto damaged = mediaFile(QStringLiteral("baseline-420.jpg"));
        const auto noise = randomBytes(100000, 3);
        std::copy(noise.begin(), noise.end(), damaged.begin() + 300000);
        image.addGap(8192);
        damagedAt_ = image.add(damaged);
        image.write(card_);
    }
    void opensSearchesKeepsAndSaves() {
        MainWindow window;
        window.show();
        Q_EMIT window.front().sourceChosen(card_);
        QTRY_VERIFY(window.job() != nullptr);
        auto* job = window.job();
        QCOMPARE(job->tray().nextButton()->text(), QStringLiteral("Search the card"));
        StallWatch stalls;
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return job->sheet().shown() > 0; }, 20000));
        // The first files can be looked at and kept while the search goes on.
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QVERIFY(QTest::qWaitFor([&] { return job->feed().overview().kept == 1; }, 2000));
        QVERIFY(QTest::qWaitFor([&] { return finished(*job); }, 120000));
        QTest::qWait(400);
        // Told, not judged: a busy machine stalls everyone. See docs/measures.md.
        qInfo("longest stall of the event loop: %lld ms", static_cast<long long>(stalls.longest()));
        // With the damaged one, whose parts above and below the damage are one picture.
        QCOMPARE(job->sheet().shown(), placed_.size() + 1);

        // Once more lets go; then all whole ones by the tray's own offer.
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QCOMPARE(job->feed().overview().kept, std::size_t{0});
        QVERIFY(job->tray().nextButton()->text().startsWith(QStringLiteral("Keep all")));
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QCOMPARE(job->feed().overview().kept, placed_.size());
        // Every decision can be taken back, and on again; one that changed a single file leaves the others.
        job->undo();
        QCOMPARE(job->feed().overview().kept, std::size_t{0});
        QVERIFY(job->message().contains(QStringLiteral("keeping %1 files").arg(placed_.size())));
        job->redo();
        QCOMPARE(job->feed().overview().kept, placed_.size());
        QTest::keyClick(&job->sheet(), Qt::Key_Space);
        QCOMPARE(job->feed().overview().kept, placed_.size() - 1);
        job->feed().setKept(job->sheet().shownIds(), true);
        job->undo();
        QCOMPARE(job->feed().overview().kept, placed_.size() - 1);
        job->redo();
        job->undo();
        job->undo();
        QCOMPARE(job->feed().overview().kept, placed_.size());
        QCOMPARE(job->tray().nextButton()->text(), QStringLiteral("Choose where to save"));

        // Not onto the card; then to a good place.
        job->tray().setDestination(card_ + QStringLiteral("/inside"));
        QVERIFY(!job->tray().nextButton()->isEnabled());
        QVERIFY(!job->tray().message().isEmpty());
        const auto out = dir_.filePath(QStringLiteral("out"));
        job->tray().setDestination(out);
        QVERIFY(job->tray().nextButton()->isEnabled());
        QTest::mouseClick(job->tray().nextButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !job->tray().saving(); }, 120000));
        QVERIFY(job->tray().lastSum() != nullptr);
        QCOMPARE(job->tray().lastSum()->verified, placed_.size());
        QVERIFY(job->tray().message().contains(QString::number(placed_.size())));
        std::set<QString> hashes;
        for (const auto& item : job->tray().lastSum()->items)
            hashes.insert(sha256(readFile(out + QLatin1Char('/') + QString::fromStdString(item.savedAs))));
        for (const auto& [name, offset] : placed_)
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
        QCOMPARE(jobs[0].kept, placed_.size());
        QVERIFY(jobs[0].state == ScanState::Finished);
        Q_EMIT window.front().jobChosen(jobs[0].folder);
        QTRY_VERIFY(window.job() != nullptr);
        QTRY_COMPARE(window.job()->feed().overview().kept, placed_.size());
        QVERIFY(QTest::qWaitFor([&] { return window.job()->sheet().shown() == placed_.size() + 1; }, 5000));
    }
    void pausesStopsAndGoesOn() {
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs-2")).toUtf8());
        MainWindow window;
        window.show();
        window.openSource(card_);
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
        if (!finished(*job)) {
            QCOMPARE(job->tray().nextButton()->text().left(6),
                     job->feed().overview().kept > 0 ? QStringLiteral("Choose") : QStringLiteral("Go on "));
        }
        job->startSearch();
        QVERIFY(QTest::qWaitFor([&] { return finished(*job); }, 120000));
        QVERIFY(QTest::qWaitFor([&] { return job->sheet().shown() == placed_.size() + 1; }, 5000));
    }
    void looksAtPhotosClipsAndSound() {
        const auto window = searched();
        auto* job = window->job();
        auto& loupe = job->loupe();
        // A photo: fits, zooms to the pointer, turns.
        job->sheet().setCurrent(idAt(*job, offsetOf(QStringLiteral("baseline-422.jpg"))));
        QTest::qWait(1500);
        auto& photo = loupe.photo();
        QVERIFY(photo.isVisible());
        const double fitted = photo.zoom();
        QTest::keyClick(&loupe, Qt::Key_Plus);
        QVERIFY(photo.zoom() > fitted * 1.4);
        const auto zoomed = photo.grab().toImage();
        QTest::keyClick(&loupe, Qt::Key_R);
        QVERIFY(photo.grab().toImage() != zoomed);
        QTest::keyClick(&loupe, Qt::Key_Z);
        QVERIFY(qFuzzyCompare(photo.zoom() * photo.devicePixelRatioF(), 1.0));
        QTest::keyClick(&loupe, Qt::Key_F);
        QVERIFY(photo.zoom() < 1.0);
        // A clip: frames along its length, that differ.
        job->sheet().setCurrent(idAt(*job, offsetOf(QStringLiteral("h264-last.mp4"))));
        QVERIFY(QTest::qWaitFor([&] { return loupe.clip().frameCount() >= 8; }, 20000));
        const auto first = loupe.clip().grab().toImage();
        QTest::keyClick(&loupe, Qt::Key_Period);
        QVERIFY(QTest::qWaitFor([&] { return loupe.clip().grab().toImage() != first; }, 5000));
        // Sound: a waveform that is not blank.
        job->sheet().setCurrent(idAt(*job, offsetOf(QStringLiteral("stereo.wav"))));
        auto* wave = loupe.findChild<SoundView*>();
        QTRY_VERIFY(wave->isVisible());
        const auto picture = wave->grab().toImage();
        int coloured = 0;
        for (int x = 0; x < picture.width(); x += 3) {
            for (int y = 0; y < picture.height(); y += 3)
                coloured += picture.pixelColor(x, y) == look::kSound ? 1 : 0;
        }
        QVERIFY(coloured > 50);
    }
    void aClipPlaysFromTheCard() {
        const auto window = searched();
        auto* job = window->job();
        auto& loupe = job->loupe();
        auto& playback = loupe.playback();
        job->sheet().setCurrent(idAt(*job, offsetOf(QStringLiteral("h264-last.mp4"))));
        QVERIFY(QTest::qWaitFor([&] { return loupe.clip().frameCount() >= 8; }, 20000));
        QSignalSpy shown(&playback, &Playback::shown);
        QTest::mouseClick(&loupe.playButton(), Qt::LeftButton);
        QVERIFY(playback.playing());
        QVERIFY(QTest::qWaitFor([&] { return shown.size() > 0; }, 10000));
        // Its pictures at their rate, 25 a second, in their order; not faster than it was taken. How many of
        // them are passed over is the machine's affair.
        QElapsedTimer clock;
        clock.start();
        const auto from = playback.position();
        QVERIFY(QTest::qWaitFor([&] { return playback.position() >= from + 1.5; }, 30000));
        QVERIFY2(clock.elapsed() > 1300, qPrintable(QString::number(clock.elapsed())));
        const auto passed = shown.size() + playback.leftOut();
        QVERIFY2(std::abs(passed - qRound((playback.position() - shown[0][1].toDouble()) * 25) - 1) <= 1,
                 qPrintable(QStringLiteral("%1 to %2").arg(passed).arg(playback.position())));
        for (int i = 1; i < shown.size(); ++i) QVERIFY(shown[i][1].toDouble() > shown[i - 1][1].toDouble());
        QVERIFY(shown[0][0].value<QImage>().width() > 200);
        QCOMPARE(loupe.clip().momentAt(), playback.position());
        // Standing still, and picture by picture to both sides.
        QTest::keyClick(&loupe, Qt::Key_P);
        QVERIFY(!playback.playing());
        QTest::qWait(100);
        const auto stoodAt = playback.position();
        QTest::qWait(200);
        QCOMPARE(playback.position(), stoodAt);
        QTest::keyClick(&loupe, Qt::Key_Period);
        QVERIFY(QTest::qWaitFor([&] { return playback.position() > stoodAt; }, 5000));
        QVERIFY2(std::abs(playback.position() - stoodAt - 0.04) < 0.001,
                 qPrintable(QString::number(playback.position() - stoodAt)));
        shown.clear();
        QTest::keyClick(&loupe, Qt::Key_Comma);
        QVERIFY(QTest::qWaitFor([&] { return shown.size() > 0; }, 5000));
        QVERIFY2(std::abs(playback.position() - stoodAt) < 0.001,
                 qPrintable(QString::number(playback.position() - stoodAt)));
        // To a place on the row, and from there to the end, where it stands still.
        shown.clear();
        auto& clip = loupe.clip();
        QTest::mouseClick(&clip, Qt::LeftButton, {}, QPoint(clip.width() * 7 / 8, clip.height() - 20));
        QVERIFY(QTest::qWaitFor([&] { return shown.size() > 0; }, 5000));
        QVERIFY2(std::abs(playback.position() - 3.5) < 0.05,
                 qPrintable(QString::number(playback.position())));
        QTest::keyClick(&loupe, Qt::Key_P);
        QVERIFY(playback.playing());
        QVERIFY(QTest::qWaitFor([&] { return !playback.playing(); }, 5000));
        QVERIFY2(std::abs(playback.position() - 3.96) < 0.05,
                 qPrintable(QString::number(playback.position())));
        // Another file is not played by what was asked of this one.
        job->sheet().setCurrent(idAt(*job, offsetOf(QStringLiteral("stereo.wav"))));
        QVERIFY(!playback.has(idAt(*job, offsetOf(QStringLiteral("h264-last.mp4")))));
        QTest::keyClick(&loupe, Qt::Key_P);
        QVERIFY(QTest::qWaitFor([&] { return playback.position() > 0.5; }, 5000));
        QVERIFY(playback.playing());
    }
    void damageIsSeenInTheThumbnail() {
        const auto window = searched();
        auto* job = window->job();
        const auto damaged = job->feed().session().finding(idAt(*job, damagedAt_));
        QVERIFY(damaged && damaged->condition == Condition::Partial);
        const QSize size(180, 120);
        const auto cell = drawThumbnail(*damaged, job->feed().session().preview(damaged->id), size);
        const auto whole =
            job->feed().session().finding(idAt(*job, offsetOf(QStringLiteral("baseline-420.jpg"))));
        const auto good = drawThumbnail(*whole, job->feed().session().preview(whole->id), size);
        // The upper part is the same picture; the foot is hatching instead.
        int sameAbove = 0;
        int sameBelow = 0;
        for (int x = 0; x < size.width(); x += 2) {
            sameAbove += std::abs(qGray(cell.pixel(x, 10)) - qGray(good.pixel(x, 10))) < 12 ? 1 : 0;
            sameBelow += std::abs(qGray(cell.pixel(x, 112)) - qGray(good.pixel(x, 112))) < 12 ? 1 : 0;
        }
        QVERIFY(sameAbove > 80);
        QVERIFY(sameBelow < 45);
    }
    void theLoupeMarksWhereAPhotoBreaksOff() {
        const auto window = searched();
        auto* job = window->job();
        job->sheet().setCurrent(idAt(*job, damagedAt_));
        auto& photo = job->loupe().photo();
        const auto marked = [&] {
            const auto picture = photo.grab().toImage();
            int most = 0;
            for (int y = 0; y < picture.height(); ++y) {
                int here = 0;
                for (int x = 0; x < picture.width(); ++x) {
                    const auto colour = picture.pixelColor(x, y);
                    here += colour.red() > 150 && colour.blue() < 130 && colour.red() - colour.blue() > 70
                                ? 1
                                : 0;
                }
                most = std::max(most, here);
            }
            return most > picture.width() / 4;
        };
        QVERIFY(QTest::qWaitFor(marked, 10000));
    }
    void narrowsAndArranges() {
        const auto window = searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto all = sheet.shown();
        const auto only = [&](Kind kind) {
            for (const auto each : {Kind::Photo, Kind::Video, Kind::Audio, Kind::Other}) {
                auto* button = job->choices().kindButton(each);
                if (button->isChecked() != (each == kind)) button->click();
            }
        };
        only(Kind::Photo);
        std::size_t photos = 1;  // the damaged one
        for (const auto* pattern :
             {"*.jpg", "*.png", "*.gif", "*.bmp", "*.tif", "*.webp", "*.heic", "*.avif", "*.dng", "*.jxl"})
            photos += static_cast<std::size_t>(mediaNames(QString::fromLatin1(pattern)).size());
        QCOMPARE(sheet.shown(), photos);
        for (const auto each : {Kind::Video, Kind::Audio, Kind::Other})
            job->choices().kindButton(each)->click();
        job->choices().damagedButton()->click();
        QCOMPARE(sheet.shown(), std::size_t{1});
        job->choices().damagedButton()->click();
        QCOMPARE(sheet.shown(), all);
        for (const auto by : {ArrangeBy::Place, ArrangeBy::Camera, ArrangeBy::Condition, ArrangeBy::Shoot}) {
            sheet.setArrangement(by);
            QCOMPARE(sheet.shown(), all);
        }
        sheet.setArrangement(ArrangeBy::Place);
        const auto ids = sheet.shownIds();
        sheet.setCurrent(ids[0]);
        QTest::keyClick(&sheet, Qt::Key_Right);
        QCOMPARE(sheet.current(), ids[1]);
        QTest::keyClick(&sheet, Qt::Key_End);
        QCOMPARE(sheet.current(), ids.back());
        QTest::keyClick(&sheet, Qt::Key_Home);
        QTest::keyClick(&sheet, Qt::Key_Right, Qt::ShiftModifier);
        QTest::keyClick(&sheet, Qt::Key_Right, Qt::ShiftModifier);
        QCOMPARE(sheet.selection().size(), std::size_t{3});
        const auto kept = job->feed().overview().kept;
        QTest::keyClick(&sheet, Qt::Key_K);
        QVERIFY(job->feed().overview().kept != kept || kept > 0);
    }
    // Beside the sheet every value has its number; what is chosen is said in words and undone one by one.
    void narrowsByWhatIsCounted() {
        const auto window = searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto all = sheet.shown();
        auto& panel = job->narrowing();
        QVERIFY(!panel.isVisible());
        QTest::keyClick(&sheet, Qt::Key_N);
        QVERIFY(panel.isVisible());
        const auto item = [&](Facet facet, const QString& label) -> QTreeWidgetItem* {
            for (int i = 0; i < panel.topLevelItemCount(); ++i) {
                auto* side = panel.topLevelItem(i);
                if (side->text(0) != titleOf(facet)) continue;
                side->setExpanded(true);
                for (int row = 0; row < side->childCount(); ++row) {
                    if (side->child(row)->text(0) == label) return side->child(row);
                }
            }
            return nullptr;
        };
        const auto click = [&](QTreeWidgetItem* what) {
            panel.scrollToItem(what);
            QTest::mouseClick(panel.viewport(), Qt::LeftButton, {}, panel.visualItemRect(what).center());
        };
        auto* jpeg = item(Facet::Format, QStringLiteral("JPEG"));
        QVERIFY(jpeg != nullptr);
        const auto jpegs = jpeg->text(1).toULongLong();
        QVERIFY(jpegs > 1 && jpegs < all);
        click(jpeg);
        QCOMPARE(sheet.shown(), static_cast<std::size_t>(jpegs));
        QCOMPARE(job->choices().chosenButtons().size(), std::size_t{1});
        QCOMPARE(job->choices().chosenButtons()[0]->text(), QStringLiteral("Format: JPEG  \u00d7"));
        // What keys decide about is seen.
        QVERIFY(job->feed().find(sheet.current())->format == "jpeg");
        // Other sides now count among those.
        auto* partial = item(Facet::Condition, QStringLiteral("partial"));
        QVERIFY(partial != nullptr);
        QCOMPARE(partial->text(1), QStringLiteral("1"));
        click(partial);
        QCOMPARE(sheet.shown(), std::size_t{1});
        QCOMPARE(job->choices().chosenButtons().size(), std::size_t{2});
        QTest::mouseClick(job->choices().chosenButtons()[0], Qt::LeftButton);  // any condition again
        QCOMPARE(sheet.shown(), static_cast<std::size_t>(jpegs));
        click(item(Facet::Format, QStringLiteral("PNG")));
        QVERIFY(sheet.shown() > jpegs);
        QVERIFY(job->choices().chosenButtons()[0]->text().contains(QStringLiteral("JPEG or PNG")));
        QTest::mouseClick(job->choices().chosenButtons()[0], Qt::LeftButton);
        QCOMPARE(sheet.shown(), all);
        // By keys alone.
        panel.setFocus();
        panel.setCurrentItem(item(Facet::Format, QStringLiteral("PNG")));
        QTest::keyClick(&panel, Qt::Key_Return);
        QVERIFY(sheet.shown() < all);
        QTest::keyClick(&panel, Qt::Key_Return);
        QCOMPARE(sheet.shown(), all);
        QTest::keyClick(&panel, Qt::Key_N);
        QVERIFY(!panel.isVisible());
        QVERIFY(sheet.hasFocus());
        job->choices().orderBox()->setCurrentIndex(
            job->choices().orderBox()->findText(QStringLiteral("the largest")));
        job->choices().arrangeBox()->setCurrentIndex(
            job->choices().arrangeBox()->findText(QStringLiteral("place")));
        for (std::size_t i = 1; i < sheet.shownIds().size(); ++i) {
            QVERIFY(job->feed().find(sheet.shownIds()[i - 1])->size() >=
                    job->feed().find(sheet.shownIds()[i])->size());
        }
    }
    // A span marked on the band, with the mouse, narrows; it is undone by its words or by Esc.
    void aSpanOfTheBandNarrows() {
        const auto window = searched();
        auto* job = window->job();
        auto& band = job->band();
        const auto all = job->sheet().shown();
        const auto mark = [&](int from, int to) {
            QTest::mousePress(&band, Qt::LeftButton, Qt::ShiftModifier, {from, 60});
            QMouseEvent move(QEvent::MouseMove, QPointF(to, 60), band.mapToGlobal(QPointF(to, 60)),
                             Qt::NoButton, Qt::LeftButton, Qt::ShiftModifier);
            QApplication::sendEvent(&band, &move);
            QTest::mouseRelease(&band, Qt::LeftButton, Qt::ShiftModifier, {to, 60});
        };
        // Up to the middle file.
        job->choices().arrangeBox()->setCurrentIndex(
            job->choices().arrangeBox()->findText(QStringLiteral("place")));
        const auto* middle = job->feed().find(job->sheet().shownIds()[all / 2]);
        const auto size = static_cast<double>(job->feed().session().source()->size());
        const int edge = 96 + qRound(static_cast<double>(middle->start()) / size * (band.width() - 120));
        mark(96, edge);
        const auto first = job->sheet().shown();
        QVERIFY(first > 0 && first < all);
        QCOMPARE(job->choices().chosenButtons().size(), std::size_t{1});
        const auto span = *job->choices().filter().span;
        for (const auto id : job->sheet().shownIds()) {
            const auto* finding = job->feed().find(id);
            QVERIFY(std::any_of(finding->pieces.begin(), finding->pieces.end(),
                                [&](const Piece& piece) { return piece.onCard().overlaps(span); }));
        }
        mark(edge, band.width() - 20);
        QVERIFY(first + job->sheet().shown() >= all);
        band.setFocus();
        QTest::keyClick(&band, Qt::Key_Escape);
        QCOMPARE(job->sheet().shown(), all);
        QVERIFY(job->choices().chosenButtons().empty());
        mark(96, edge);
        QTest::mouseClick(job->choices().chosenButtons().at(0), Qt::LeftButton);
        QCOMPARE(job->sheet().shown(), all);
    }
    // What the client asked for is written down, answered with files, shown again, and still there next time.
    void whatWasAskedForIsTicked() {
        QString folder;
        std::vector<std::int64_t> ids;
        {
            const auto window = searched();
            auto* job = window->job();
            folder = QString::fromStdString(job->feed().session().folder());
            auto& asked = job->asked();
            QTest::keyClick(&job->sheet(), Qt::Key_Q);
            QVERIFY(asked.isVisible() && asked.field().hasFocus());
            for (const auto* text : {"the wheel at work", "the miller’s speech"}) {
                asked.field().setText(QString::fromUtf8(text));
                QTest::keyClick(&asked.field(), Qt::Key_Return);
            }
            asked.list().setCurrentRow(0);
            QTest::keyClick(&job->sheet(), Qt::Key_Home);
            QTest::keyClick(&job->sheet(), Qt::Key_Right, Qt::ShiftModifier);
            ids = job->sheet().selection();
            QTest::mouseClick(&asked.answerButton(), Qt::LeftButton);
            QCOMPARE(job->choices().askedButton()->text(), QStringLiteral("asked for 1 of 2"));
            Q_EMIT asked.filesAsked(asked.wishes()[0].files, QStringLiteral("the wheel"));
            QCOMPARE(job->sheet().shown(), std::size_t{2});
            QCOMPARE(job->choices().chosenButtons().at(0)->text(), QStringLiteral("the wheel  \u00d7"));
            asked.note().setPlainText(QStringLiteral("card fell into the mill race"));
        }
        const auto again = Session::open(std::string(), folder.toStdString());
        QVERIFY(again.ok());
        QCOMPARE(again.value()->note(), std::string("card fell into the mill race"));
        const auto wishes = again.value()->wishes();
        QCOMPARE(wishes.size(), std::size_t{2});
        QVERIFY(wishes[0].met && !wishes[1].met);
        QCOMPARE(wishes[0].files.size(), ids.size());
    }
    // A file that the client still has is found by its bytes, and by its picture when it was made smaller.
    void aFileThatOneHasIsFound() {
        const auto window = searched();
        auto* job = window->job();
        const auto all = job->sheet().shown();
        const auto path = QStringLiteral(DRESKEL_FIXTURES "/media/baseline-422.jpg");
        const auto id = idAt(*job, offsetOf(QStringLiteral("baseline-422.jpg")));
        job->lookForFile(path);
        QTRY_VERIFY(job->sheet().shown() < all);
        QVERIFY(std::ranges::count(job->sheet().shownIds(), id) == 1);
        QVERIFY(job->choices().chosenButtons().at(0)->text().contains(QStringLiteral("bytes")));
        job->choices().clear();
        const auto small = dir_.filePath(QStringLiteral("small.jpg"));
        QVERIFY(QImage(path).scaledToWidth(220, Qt::SmoothTransformation).save(small, "JPEG", 50));
        job->lookForFile(small);
        QTRY_VERIFY(job->sheet().shown() < all);
        QVERIFY(std::ranges::count(job->sheet().shownIds(), id) == 1);
        job->choices().clear();
        job->sheet().setCurrent(id);
        QTest::keyClick(&job->sheet(), Qt::Key_L);
        QTRY_VERIFY(job->sheet().shown() < all);
        QVERIFY(std::ranges::count(job->sheet().shownIds(), id) == 1);
        job->choices().clear();
        const auto elsewhere = dir_.filePath(QStringLiteral("elsewhere.bin"));
        QFile file(elsewhere);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("not on the card at all") > 0);
        file.close();
        job->lookForFile(elsewhere);
        QTRY_VERIFY(job->message().contains(QStringLiteral("not among the files")));
        QCOMPARE(job->sheet().shown(), all);
    }
    // Two photos go closer together; keys decide about the one in hand.
    void twoPhotosAreCompared() {
        const auto window = searched();
        auto* job = window->job();
        job->choices().kindButton(Kind::Video)->click();
        job->choices().kindButton(Kind::Audio)->click();
        job->choices().kindButton(Kind::Other)->click();
        auto& sheet = job->sheet();
        sheet.setCurrent(idAt(*job, offsetOf(QStringLiteral("baseline-422.jpg"))));
        const auto first = sheet.current();
        sheet.setFocus();
        QTest::keyClick(&sheet, Qt::Key_C);
        auto& compare = job->comparison();
        QVERIFY(compare.isVisible() && !sheet.isVisible());
        QCOMPARE(compare.at(0), first);
        const auto second = compare.at(1);
        QVERIFY(second != first && job->feed().find(second)->kind == Kind::Photo);
        QTRY_VERIFY(compare.view(0).zoom() > 0 && compare.view(0).zoom() != 1 && compare.view(1).zoom() != 1);
        QTest::qWait(1200);
        const auto before = compare.view(0).zoom();
        QTest::keyClick(&compare, Qt::Key_Plus);
        QTest::keyClick(&compare, Qt::Key_Plus);
        QVERIFY(compare.view(0).zoom() > before * 1.5);
        // The same part of both fills the same room.
        const auto widthOf = [&](int side) {
            return *job->feed().find(compare.at(side))->description.width * compare.view(side).zoom();
        };
        QVERIFY(std::abs(widthOf(0) - widthOf(1)) < widthOf(0) * 0.02);
        QTest::keyClick(&compare, Qt::Key_K);
        QVERIFY(job->feed().find(second)->decision.kept && !job->feed().find(first)->decision.kept);
        QVERIFY(compare.caption(1).contains(QStringLiteral("kept")));
        QTest::keyClick(&compare, Qt::Key_Tab);
        QCOMPARE(compare.inHand(), 0);
        QTest::keyClick(&compare, Qt::Key_X);
        QVERIFY(job->feed().find(first)->decision.leftOut);
        QTest::keyClick(&compare, Qt::Key_Tab);
        QTest::keyClick(&compare, Qt::Key_Right);
        const auto third = compare.at(1);
        QVERIFY(third != second && third != first);
        QTest::keyClick(&compare, Qt::Key_Escape);
        QVERIFY(sheet.isVisible() && !compare.isVisible());
        QCOMPARE(sheet.current(), third);
        job->undo();
        job->undo();
        QVERIFY(job->feed().find(second)->decision == Decision{} &&
                job->feed().find(first)->decision == Decision{});
        window->resize(1280, 800);
        QCOMPARE(window->height(), 800);
    }
    // Where to, what it is called, and what opens: said before anything is saved.
    void theTraySaysWhatWillBeSaved() {
        const auto window = searched();
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
        const auto out = dir_.filePath(QStringLiteral("with-versions"));
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
    // Other colours are put on while a job is open: it goes on, with its decisions, and is what it says it
    // is.
    void coloursCanBeChanged() {
        const auto window = searched();
        const auto shown = window->job()->sheet().shown();
        const auto folder = window->job()->feed().session().folder();
        const auto brightness = [&] {
            const auto picture = window->grab().toImage();
            double sum = 0;
            for (int x = 20; x < picture.width(); x += 40) sum += qGray(picture.pixel(x, 70));
            return sum / (picture.width() / 40);
        };
        QVERIFY(brightness() < 90);
        window->wear(look::Scheme::Light);
        QVERIFY(window->job() != nullptr);
        QCOMPARE(window->job()->feed().session().folder(), folder);
        QTRY_COMPARE(window->job()->sheet().shown(), shown);
        QTest::qWait(300);
        QVERIFY(brightness() > 170);
        window->leaveJob();
        window->wear(look::Scheme::Dark);
        QTest::qWait(200);
        QVERIFY(window->job() == nullptr);
        QVERIFY(brightness() < 90);
        window->wear(look::Scheme::Mixed);
        QTest::qWait(200);
        QVERIFY(brightness() > 170);
    }
    // A pointer that rests on a clip sees it along its length; the loupe tells how bright a photo is.
    void aClipIsFlippedThrough() {
        const auto window = searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto clip = idAt(*job, offsetOf(QStringLiteral("pictures.mov")));
        sheet.setCurrent(clip);
        const auto moveAlong = [&](double share) {
            const auto box = sheet.boxOf(clip);
            const QPointF place(box.left() + share * box.width(), box.center().y());
            QMouseEvent move(QEvent::MouseMove, place, sheet.viewport()->mapToGlobal(place), Qt::NoButton,
                             Qt::NoButton, {});
            QApplication::sendEvent(sheet.viewport(), &move);
        };
        moveAlong(0.02);
        QTRY_VERIFY_WITH_TIMEOUT(sheet.flipping().picture() != nullptr, 10000);
        const auto first = *sheet.flipping().picture();
        moveAlong(0.97);
        QVERIFY(sheet.flipping().picture() != nullptr && *sheet.flipping().picture() != first);
        moveAlong(0.02);
        QVERIFY(*sheet.flipping().picture() == first);
        QEvent leave(QEvent::Leave);
        QApplication::sendEvent(&sheet, &leave);
        QVERIFY(sheet.flipping().clip() == 0 && sheet.flipping().picture() == nullptr);

        sheet.setCurrent(idAt(*job, offsetOf(QStringLiteral("baseline-422.jpg"))));
        QTRY_VERIFY_WITH_TIMEOUT(job->loupe().histogram().histogram().pixels > 0, 10000);
        const auto& histogram = job->loupe().histogram().histogram();
        std::uint64_t sum = 0;
        for (const auto count : histogram.counts[1]) sum += count;
        QCOMPARE(sum, histogram.pixels);
        Finding half;
        half.kind = Kind::Photo;
        half.condition = Condition::Partial;
        half.decoded = 0.5;
        QImage two(100, 100, QImage::Format_RGB888);
        two.fill(Qt::white);
        for (int y = 50; y < 100; ++y) std::fill_n(two.scanLine(y), 300, uchar{0});
        const auto there = Histogram::of(two, half);
        QCOMPARE(there.counts[0][255], 5000U);
        QCOMPARE(there.counts[0][0], 0U);  // what did not decode is not counted
    }
    // Left out, rated, noted: by keys, told in the loupe, taken back, kept over closing.
    void decidesByKeys() {
        const auto window = searched();
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
    // Words and limits are typed, counted, told in a sentence, and taken back.
    void findsByTyping() {
        const auto window = searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto all = sheet.shown();
        auto* field = job->findField();
        QTest::keyClick(job, Qt::Key_F, Qt::ControlModifier);
        QTRY_VERIFY(field->hasFocus());
        QTest::keyClicks(field, QStringLiteral("flac"));
        // By format, and by the coding inside of an Ogg.
        QCOMPARE(sheet.shown(), static_cast<std::size_t>(mediaNames(QStringLiteral("*.flac")).size()) + 1);
        QTest::keyClick(field, Qt::Key_Return);
        QTest::keyClick(&sheet, Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(sheet.selection().size(), sheet.shown());
        QTest::keyClick(job, Qt::Key_F, Qt::ControlModifier);
        QTest::keyClick(field, Qt::Key_End);
        QTest::keyClicks(field, QStringLiteral(" >1GB"));
        QCOMPARE(sheet.shown(), std::size_t{0});
        QTest::keyClick(field, Qt::Key_Escape);
        QCOMPARE(sheet.shown(), all);
        QVERIFY(sheet.hasFocus());
        // The one that is damaged, from wherever one is.
        QTest::keyClick(&sheet, Qt::Key_D);
        const auto damaged = sheet.current();
        QVERIFY(job->feed().find(damaged)->condition != Condition::Whole);
        QTest::keyClick(&sheet, Qt::Key_Home);
        QTest::keyClick(&sheet, Qt::Key_D);
        QCOMPARE(sheet.current(), damaged);
    }
    // A photo without its beginning becomes a picture when a good one of the same camera is lent.
    void lendsAGoodFile() {
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto good = dir_.filePath(QStringLiteral("good.jpg"));
        writeFile(good, photo);
        ImageBuilder image(32768);
        image.addNoise(32768, 3);
        image.add({photo.begin() + 8 * 32768, photo.end()});
        image.addGap(65536);
        const auto card = dir_.filePath(QStringLiteral("headless.img"));
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
        job->lend(dir_.filePath(QStringLiteral("nowhere.jpg")));
        QVERIFY(job->message().contains(QStringLiteral("nowhere.jpg")));
        job->lend(good);
        QTRY_COMPARE_WITH_TIMEOUT(job->sheet().shown(), std::size_t{1}, 60000);
    }
    // An emptied card: what its folders still name is checked at once, the rest of it is read when asked.
    void looksAtWhatFoldersNameFirst() {
        const auto card = dir_.filePath(QStringLiteral("emptied.img"));
        QFile file(card);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.resize(64 << 20));
        file.close();
        const auto photo = mediaFile(QStringLiteral("fine.jpg"));
        const auto one = dir_.filePath(QStringLiteral("one.jpg"));
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
        QVERIFY(QTest::qWaitFor([&] { return finished(*job); }, 30000));
        QTRY_COMPARE(job->sheet().shown(), std::size_t{1});
        const auto found = job->feed().session().listed().front();
        QVERIFY(found.condition == Condition::Whole);
        QVERIFY(found.fate == Fate::Deleted);
        QTRY_COMPARE(other->text(), QStringLiteral("Search the rest of the card"));
        QVERIFY(other->isVisible());
        QTest::mouseClick(other, Qt::LeftButton);
        QTRY_COMPARE_WITH_TIMEOUT(job->sheet().shown(), std::size_t{2}, 30000);
        QVERIFY(QTest::qWaitFor([&] { return finished(*job); }, 30000));
        QTRY_VERIFY(!other->isVisible());
    }
    void theBandLeadsToTheFile() {
        const auto window = searched();
        auto* job = window->job();
        const auto offset = offsetOf(QStringLiteral("baseline-422.jpg"));
        const auto size = job->feed().session().source()->size();
        // In the middle of the photo, on the photos' lane.
        const double share = (static_cast<double>(offset) + 800000) / static_cast<double>(size);
        const int x = static_cast<int>(96 + share * (job->band().width() - 96 - 24));
        QTest::mouseClick(&job->band(), Qt::LeftButton, {}, QPoint(x, 14 + 2 * 18 + 5));
        QCOMPARE(job->sheet().current(), idAt(*job, offset));
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
        qputenv("XDG_CONFIG_HOME", dir_.filePath(QStringLiteral("config")).toLocal8Bit());
        QStringList samples;
        for (unsigned i = 0; i < 2; ++i) {
            auto file = randomBytes(20000, i);
            const std::string mark("PELLOW raw 02");
            std::copy(mark.begin(), mark.end(), file.begin());
            samples << dir_.filePath(QStringLiteral("sample%1.pel").arg(i));
            writeFile(samples.back(), file);
        }
        const auto window = searched();
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
        const auto window = searched();
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
        const auto bytes = readFile(card_);
        const auto start = QStringLiteral("000000000000  %1 %2 ")
                               .arg(bytes[0], 2, 16, QLatin1Char('0'))
                               .arg(bytes[1], 2, 16, QLatin1Char('0'));
        QTRY_VERIFY(panel->bytes().firstLine().startsWith(start));
        panel->close();
    }
};

QTEST_MAIN(TestDesktop)
#include "test_desktop.moc"
