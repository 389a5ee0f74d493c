// Looking at what was found, driven as a person would: the loupe, clips that play, damage, two photos side by
// side.
#include <QElapsedTimer>
#include <QSignalSpy>
#include <QTest>

#include "desktop/look/look.h"
#include "tests/desktop/media_card.h"

using namespace dreskel;
using namespace dreskel::test;

class TestLooking : public QObject {
    Q_OBJECT
    MediaCard card_;

  private Q_SLOTS:
    void initTestCase() { card_.make(); }
    void looksAtPhotosClipsAndSound() {
        const auto window = card_.searched();
        auto* job = window->job();
        auto& loupe = job->loupe();
        // A photo: fits, zooms to the pointer, turns.
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("baseline-422.jpg"))));
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
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("h264-last.mp4"))));
        QVERIFY(QTest::qWaitFor([&] { return loupe.clip().frameCount() >= 8; }, 20000));
        const auto first = loupe.clip().grab().toImage();
        QTest::keyClick(&loupe, Qt::Key_Period);
        QVERIFY(QTest::qWaitFor([&] { return loupe.clip().grab().toImage() != first; }, 5000));
        // Sound: a waveform that is not blank.
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("stereo.wav"))));
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
        const auto window = card_.searched();
        auto* job = window->job();
        auto& loupe = job->loupe();
        auto& playback = loupe.playback();
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("h264-last.mp4"))));
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
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("stereo.wav"))));
        QVERIFY(!playback.has(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("h264-last.mp4")))));
        QTest::keyClick(&loupe, Qt::Key_P);
        QVERIFY(QTest::qWaitFor([&] { return playback.position() > 0.5; }, 5000));
        QVERIFY(playback.playing());
    }
    void damageIsSeenInTheThumbnail() {
        const auto window = card_.searched();
        auto* job = window->job();
        const auto damaged = job->feed().session().finding(MediaCard::idAt(*job, card_.damagedAt()));
        QVERIFY(damaged && damaged->condition == Condition::Partial);
        const QSize size(180, 120);
        const auto cell = drawThumbnail(*damaged, job->feed().session().preview(damaged->id), size);
        const auto whole = job->feed().session().finding(
            MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("baseline-420.jpg"))));
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
        const auto window = card_.searched();
        auto* job = window->job();
        job->sheet().setCurrent(MediaCard::idAt(*job, card_.damagedAt()));
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
    // Two photos go closer together; keys decide about the one in hand.
    void twoPhotosAreCompared() {
        const auto window = card_.searched();
        auto* job = window->job();
        job->choices().kindButton(Kind::Video)->click();
        job->choices().kindButton(Kind::Audio)->click();
        job->choices().kindButton(Kind::Other)->click();
        auto& sheet = job->sheet();
        sheet.setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("baseline-422.jpg"))));
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
    // Other colours are put on while a job is open: it goes on, with its decisions, and is what it says it
    // is.
    void coloursCanBeChanged() {
        const auto window = card_.searched();
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
        const auto window = card_.searched();
        auto* job = window->job();
        auto& sheet = job->sheet();
        const auto clip = MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("pictures.mov")));
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

        sheet.setCurrent(MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("baseline-422.jpg"))));
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
};

QTEST_MAIN(TestLooking)
#include "test_looking.moc"
