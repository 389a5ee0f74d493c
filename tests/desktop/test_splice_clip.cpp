// A clip on the splice bench: its frames along time, a join taken apart, what could follow, a piece taken
// out.
#include <QTest>

#include "desktop/look/look.h"
#include "tests/desktop/bench_card.h"

using namespace dreskel;
using namespace dreskel::test;

class TestSpliceClip : public QObject {
    Q_OBJECT
    const QString clip_ = QStringLiteral("h264-last.mp4");
    const QString other_ = QStringLiteral("h264-cavlc.mov");
    BenchCard card_;

    SpliceBench& bench() { return card_.bench(); }
    bool ready() { return card_.ready(); }
    Finding found() { return card_.found(clip_); }
    std::uint64_t lengthOfWay() {
        std::uint64_t length = 0;
        for (const auto& place : bench().way()) length += place.length;
        return length;
    }

  private Q_SLOTS:
    void initTestCase() {
        QVERIFY(
            card_.make({{clip_, 20}, {other_, 25}, {clip_, 25}, {QString(), 7}, {other_, -1}, {clip_, -1}}));
    }
    void showsFramesAlongItsTime() {
        QVERIFY(found().condition == Condition::Whole);
        QVERIFY(card_.openBench(clip_));
        QVERIFY(bench().way() == card_.places().at(clip_));
        QVERIFY(bench().lookOfIt().complete);
        QCOMPARE(bench().lookOfIt().joinsAt.size(), std::size_t{2});
        QVERIFY(bench().lookOfIt().joinsAt[0] > 0 &&
                bench().lookOfIt().joinsAt[0] < bench().lookOfIt().joinsAt[1]);
        QVERIFY(QTest::qWaitFor([&] { return bench().frames().framesShown() >= 9; }, 20000));
        QVERIFY(!bench().picture().isVisible());
        QVERIFY2(card_.window().width() <= 1280, "the bench is wider than the window");
        QVERIFY(!bench().undoButton().isEnabled());
    }
    void isPutTogetherAgainByHand() {
        const auto whole = bench().way();
        // Pointed at a moment within its second piece: all from the cluster in which that begins is out.
        const auto& joins = bench().lookOfIt().joinsAt;
        const auto moment = (joins[0] + joins[1]) / 2;
        QTest::mouseClick(&bench().frames(), Qt::LeftButton, {}, bench().frames().placeOf(moment));
        QVERIFY(QTest::qWaitFor([&] { return bench().way().size() == 2; }, 10000));
        QVERIFY(ready());
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(bench().lookOfIt().reached <= moment + 100);
        QVERIFY(lengthOfWay() % kCluster == 0);
        // The rest, piece by piece, each time the best that is offered.
        for (int step = 0; step < 4 && !bench().lookOfIt().complete; ++step) {
            QVERIFY(!bench().followers().empty());
            auto* best = bench().followers().front();
            QVERIFY2(best->why().contains(QStringLiteral("index")), qPrintable(best->why()));
            QTest::mouseClick(best, Qt::LeftButton);
            QVERIFY(ready());
        }
        QVERIFY(bench().lookOfIt().complete);
        QCOMPARE(lengthOfWay(), mediaFile(clip_).size());
        // The same bytes, whether or not the piece that was parted is one again.
        Buffer bytes;
        const auto source = card_.job().feed().session().source();
        for (const auto& place : bench().way()) {
            Buffer piece(place.length);
            QCOMPARE(CardView(source).read(place.offset, piece), piece.size());
            bytes.insert(bytes.end(), piece.begin(), piece.end());
        }
        QVERIFY(bytes == mediaFile(clip_));
        for (int i = 0; i < 4 && bench().undoButton().isEnabled(); ++i) bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == whole);
    }
    // What was dragged across is left empty; what is behind it keeps its time.
    void aStretchIsDraggedAcross() {
        const auto whole = bench().way();
        auto& frames = bench().frames();
        const auto& look = bench().lookOfIt();
        const auto from = look.joinsAt[0] + (look.joinsAt[1] - look.joinsAt[0]) / 4;
        const auto to = look.joinsAt[0] + (look.joinsAt[1] - look.joinsAt[0]) * 3 / 4;
        QVERIFY(frames.placeOf(to).x() - frames.placeOf(from).x() > 10);
        QTest::mousePress(&frames, Qt::LeftButton, {}, frames.placeOf(from));
        QTest::mouseMove(&frames, frames.placeOf(to));
        QTest::mouseRelease(&frames, Qt::LeftButton, {}, frames.placeOf(to));
        QVERIFY(QTest::qWaitFor([&] { return bench().way() != whole; }, 10000));
        QVERIFY(ready());
        QCOMPARE(lengthOfWay(), mediaFile(clip_).size());
        const auto& way = bench().way();
        QCOMPARE(std::count_if(way.begin(), way.end(), rebuild::isNowhere), std::ptrdiff_t{1});
        const auto& wrong = bench().lookOfIt().wrong;
        QVERIFY(!wrong.empty() && wrong.front().from < to && wrong.front().to > from);
        QVERIFY(!bench().lookOfIt().complete);
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().way() == whole && bench().lookOfIt().complete);
        bench().laterJoinButton().click();
        QVERIFY(ready());
    }
    void saysWhereItBreaks() {
        // The second piece ends two clusters too late: the first pictures behind it are not where they should
        // be.
        bench().earlierJoinButton().click();
        QVERIFY(ready());
        bench().onClusterButton().click();
        QVERIFY(ready());
        QVERIFY(!bench().lookOfIt().complete);
        QVERIFY(!bench().lookOfIt().wrong.empty());
        bench().undoButton().click();
        QVERIFY(ready());
        QVERIFY(bench().lookOfIt().complete);
    }
    void aPieceIsTakenOutAndKeptSo() {
        QVERIFY(bench().takeOutButton().isEnabled());
        bench().takeOutButton().click();
        QVERIFY(ready());
        QVERIFY(!bench().lookOfIt().complete);
        QCOMPARE(bench().lookOfIt().wrong.size(), std::size_t{1});
        QCOMPARE(lengthOfWay(), mediaFile(clip_).size());
        bench().keepButton().click();
        QVERIFY(QTest::qWaitFor([&] { return found().evidence.decided; }, 30000));
        QVERIFY(card_.searched());
        const auto kept = found();
        QVERIFY(kept.condition == Condition::Partial);
        QCOMPARE(kept.size(), mediaFile(clip_).size());
        const auto gap = std::find_if(kept.pieces.begin(), kept.pieces.end(),
                                      [](const Piece& piece) { return piece.from == PieceFrom::Fill; });
        QVERIFY(gap != kept.pieces.end());
        QCOMPARE(gap->length, card_.places().at(clip_)[1].length);
        QVERIFY(kept.decoded > 0.2 && kept.decoded < 0.9);
        // And back.
        QVERIFY(card_.openBench(clip_));
        QVERIFY(rebuild::isNowhere(bench().way()[1]));
        bench().forgetButton().click();
        QVERIFY(QTest::qWaitFor([&] { return found().condition == Condition::Whole; }, 60000));
        QVERIFY(card_.searched());
        QCOMPARE(found().size(), mediaFile(clip_).size());
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    look::dress(application);
    TestSpliceClip test;
    return QTest::qExec(&test, argc, argv);
}

#include "test_splice_clip.moc"
