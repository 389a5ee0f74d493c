// Finding the one that matters, driven as a person would: sides, words, spans, what was asked for, files that
// one has.
#include <QTest>

#include "tests/desktop/media_card.h"

using namespace dreskel;
using namespace dreskel::test;

class TestNarrowing : public QObject {
    Q_OBJECT
    MediaCard card_;

  private Q_SLOTS:
    void initTestCase() { card_.make(); }
    void narrowsAndArranges() {
        const auto window = card_.searched();
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
        for (const auto* pattern : {"*.jpg", "*.png", "*.gif", "*.bmp", "*.tif", "*.webp", "*.heic", "*.avif",
                                    "*.dng", "*.nef", "*.pef", "*.orf", "*.cr3", "*.jxl"})
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
        const auto window = card_.searched();
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
        const auto window = card_.searched();
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
            const auto window = card_.searched();
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
        const auto window = card_.searched();
        auto* job = window->job();
        const auto all = job->sheet().shown();
        const auto path = QStringLiteral(DRESKEL_FIXTURES "/media/baseline-422.jpg");
        const auto id = MediaCard::idAt(*job, card_.offsetOf(QStringLiteral("baseline-422.jpg")));
        job->lookForFile(path);
        QTRY_VERIFY(job->sheet().shown() < all);
        QVERIFY(std::ranges::count(job->sheet().shownIds(), id) == 1);
        QVERIFY(job->choices().chosenButtons().at(0)->text().contains(QStringLiteral("bytes")));
        job->choices().clear();
        const auto small = card_.folder().filePath(QStringLiteral("small.jpg"));
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
        const auto elsewhere = card_.folder().filePath(QStringLiteral("elsewhere.bin"));
        QFile file(elsewhere);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("not on the card at all") > 0);
        file.close();
        job->lookForFile(elsewhere);
        QTRY_VERIFY(job->message().contains(QStringLiteral("not among the files")));
        QCOMPARE(job->sheet().shown(), all);
    }
    // Words and limits are typed, counted, told in a sentence, and taken back.
    void findsByTyping() {
        const auto window = card_.searched();
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
};

QTEST_MAIN(TestNarrowing)
#include "test_narrowing.moc"
