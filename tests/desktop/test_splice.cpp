// The splice bench, driven as a person would: a photo taken apart, what could follow looked through, a join
// moved, taken back, kept; and what the job makes of it.
#include <QTest>

#include "desktop/look/look.h"
#include "tests/desktop/bench_card.h"

using namespace dreskel;
using namespace dreskel::test;

class TestSplice : public QObject {
    Q_OBJECT
    const QString photo_ = QStringLiteral("fine.jpg");
    const QString between_ = QStringLiteral("baseline-420.jpg");
    BenchCard card_;

    JobPage& job() { return card_.job(); }
    SpliceBench& bench() { return card_.bench(); }
    Finding found() { return card_.found(photo_); }
    bool ready() { return card_.ready(); }
    bool searched() { return card_.searched(); }
    void openBench() { QVERIFY(card_.openBench(photo_)); }
    // Taken apart at its join, by pointing at the row.
    void cutAtTheJoin() {
        bench().earlierJoinButton().click();
        QVERIFY(ready());
        Q_EMIT bench().picture().pointed({bench().picture().row(), Pointing::Stretch::kToTheEnd});
        QVERIFY(QTest::qWaitFor([&] { return bench().way().size() == 1; }, 10000));
        QVERIFY(ready());
    }

  private Q_SLOTS:
    void initTestCase() { QVERIFY(card_.make({{photo_, 20}, {between_, -1}, {photo_, -1}})); }
    void showsWhatWasPutTogether() {
        openBench();
        QVERIFY(bench().way() == card_.places().at(photo_));
        QVERIFY(bench().lookOfIt().complete);
        QVERIFY(!bench().undoButton().isEnabled());
        QVERIFY2(card_.window().width() <= 1280, "the bench is wider than the window");
        bench().leaveButton().click();
        QVERIFY(!bench().isVisible() && job().sheet().isVisible());
    }
    void whatCouldFollowComesBestFirst() {
        openBench();
        cutAtTheJoin();
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(bench().followers().size() >= 2);
        auto* best = bench().followers().front();
        QVERIFY(best->why().contains(QStringLiteral("exactly the last block")));
        QTest::mouseClick(best, Qt::LeftButton);
        QVERIFY(ready());
        QVERIFY(bench().lookOfIt().complete);
        QVERIFY(bench().way() == card_.places().at(photo_));
        // And back, and again, without an end.
        QTest::keyClick(&bench(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(ready());
        QCOMPARE(bench().way().size(), std::size_t{1});
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().lookOfIt().complete);
        bench().redoButton().click();
        bench().redoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == card_.places().at(photo_));
        QVERIFY(!bench().redoButton().isEnabled());
    }
    void aJoinMovesByAClusterAndBack() {
        const auto whole = bench().way();
        bench().earlierJoinButton().click();
        QVERIFY(ready());
        bench().backClusterButton().click();
        QVERIFY(ready());
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(bench().way().front().length < whole.front().length);
        QElapsedTimer clock;
        clock.start();
        bench().onClusterButton().click();
        QVERIFY(QTest::qWaitFor([&] { return bench().lookOfIt().complete; }, 10000));
        qInfo("the picture changed within %lld ms", static_cast<long long>(clock.elapsed()));
        QVERIFY(bench().way() == whole);
        bench().leaveButton().click();
        QVERIFY(found().condition == Condition::Whole);
    }
    // A piece that is another's is taken out, and put back.
    void whatDoesNotBelongIsTakenOut() {
        openBench();
        QVERIFY(ready());
        const auto whole = bench().way();
        QCOMPARE(whole.size(), std::size_t{2});
        QVERIFY(bench().takeOutButton().isVisible());
        QVERIFY(bench().takeOutButton().toolTip().contains(QStringLiteral("photo")));
        bench().earlierJoinButton().click();
        QVERIFY(ready());
        QVERIFY(!bench().takeOutButton().isEnabled());  // what a photo begins with is its own
        bench().laterJoinButton().click();
        QVERIFY(ready());
        bench().takeOutButton().click();
        QVERIFY(ready());
        QCOMPARE(bench().way().size(), std::size_t{1});
        QVERIFY(bench().way().front().offset == whole.front().offset);
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(!bench().followers().empty());
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == whole);
        QVERIFY(bench().lookOfIt().complete);
        bench().leaveButton().click();
        QVERIFY(found().condition == Condition::Whole);
    }
    // Rows within a piece are dragged across and taken out; what was there is offered first and taken back.
    void rowsThatDoNotBelongAreDraggedAcross() {
        openBench();
        const auto whole = bench().way();
        auto& picture = bench().picture();
        const auto rows = bench().lookOfIt().extent;
        const auto from = picture.placeOf(rows / 4), to = picture.placeOf(rows / 3);
        QVERIFY(to.y() - from.y() > 10);
        QTest::mousePress(&picture, Qt::LeftButton, {}, to);
        QTest::mouseMove(&picture, (from + to) / 2);
        QTest::mouseMove(&picture, from);
        QTest::mouseRelease(&picture, Qt::LeftButton, {}, from);
        QVERIFY(QTest::qWaitFor([&] { return bench().way() != whole; }, 10000));
        QVERIFY(ready());
        const auto cut = bench().way();
        QCOMPARE(cut.size(), whole.size() + 1);
        QVERIFY(cut[0].offset == whole[0].offset && cut[1].offset > cut[0].end());
        // Rows are not bytes, but in a picture of an even grain the shares are alike.
        const auto taken = rebuild::total(whole) - rebuild::total(cut);
        QVERIFY(taken > rebuild::total(whole) / 25 && taken < rebuild::total(whole) / 5);
        // The join in hand is the new one.
        QVERIFY(picture.row() > rows / 6 && picture.row() < rows / 3);
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(bench().followers().front()->why().contains(QStringLiteral("fit")));
        QTest::mouseClick(bench().followers().front(), Qt::LeftButton);
        QVERIFY(ready());
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == cut);
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == whole && bench().lookOfIt().complete);
        // A hand that is not quite still points.
        QTest::mousePress(&picture, Qt::LeftButton, {}, from);
        QTest::mouseMove(&picture, from + QPoint(0, 3));
        QTest::mouseRelease(&picture, Qt::LeftButton, {}, from + QPoint(0, 3));
        QVERIFY(QTest::qWaitFor([&] { return bench().way().size() == 1; }, 10000));
        bench().leaveButton().click();
    }
    void whatIsKeptOutweighsWhatWasFound() {
        openBench();
        cutAtTheJoin();
        auto* none = bench().followers().back();
        QVERIFY(none->text().startsWith(QStringLiteral("None")));
        const auto way = bench().way();
        bench().keepButton().click();
        QVERIFY(!bench().isVisible());
        QVERIFY(QTest::qWaitFor([&] { return found().evidence.decided; }, 30000));
        QVERIFY(searched());
        auto kept = found();
        QVERIFY(kept.condition != Condition::Whole);
        QCOMPARE(kept.pieces.size(), std::size_t{1});
        QVERIFY(kept.size() <= way.front().length);
        // The photo between is not touched by it.
        for (const auto& finding : job().feed().session().listed()) {
            if (finding.start() == card_.places().at(between_).front().offset)
                QVERIFY(finding.condition == Condition::Whole);
        }
        // And it can be taken back.
        openBench();
        QVERIFY(bench().forgetButton().isVisible());
        bench().forgetButton().click();
        QVERIFY(QTest::qWaitFor([&] { return found().condition == Condition::Whole; }, 60000));
        QVERIFY(searched());
        kept = found();
        QVERIFY(!kept.evidence.decided);
        QCOMPARE(kept.size(), mediaFile(photo_).size());
    }
    void keepsAJoinThatWasSet() {
        openBench();
        cutAtTheJoin();
        bench().followers().front()->click();
        QVERIFY(ready());
        bench().keepButton().click();
        QVERIFY(QTest::qWaitFor([&] { return found().evidence.decided; }, 30000));
        QVERIFY(searched());
        const auto kept = found();
        QVERIFY(kept.condition == Condition::Whole);
        QCOMPARE(kept.joins.size(), std::size_t{1});
        QCOMPARE(kept.joins[0].why, std::string("set by the technician"));
        QCOMPARE(kept.size(), mediaFile(photo_).size());
        // It outlives the program.
        const auto folder = job().feed().session().folder();
        card_.window().leaveJob();
        const auto again = Session::open(std::string(), folder);
        QVERIFY(again.ok());
        QVERIFY(again.value()->finding(kept.id)->evidence.decided);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    look::dress(application);
    TestSplice test;
    return QTest::qExec(&test, argc, argv);
}

#include "test_splice.moc"
