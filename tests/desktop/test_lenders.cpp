// A clip without an index on the splice bench: the good clips that could lend theirs, what each explains, and
// the index written anew after the one that is chosen.
#include <QTest>

#include "desktop/look/look.h"
#include "tests/desktop/bench_card.h"

using namespace dreskel;
using namespace dreskel::test;

class TestLenders : public QObject {
    Q_OBJECT
    const QString good_ = QStringLiteral("h264-last.mp4"), other_ = QStringLiteral("h264-cavlc.mov"),
                  hevc_ = QStringLiteral("hevc.mp4"), lost_ = QStringLiteral("lost");
    BenchCard card_;

    SpliceBench& bench() { return card_.bench(); }
    std::int64_t idOf(const QString& name) { return card_.found(name).id; }
    // What the index of the lost clip was written after.
    bool writtenAfter(const QString& name) {
        const auto pieces = card_.found(lost_).pieces;
        const auto wanted = " after file " + std::to_string(idOf(name));
        return std::any_of(pieces.begin(), pieces.end(), [&](const Piece& piece) {
            const auto at = piece.why.find(wanted);
            return piece.from == PieceFrom::Made && at != std::string::npos &&
                   (at + wanted.size() == piece.why.size() || piece.why[at + wanted.size()] == ';');
        });
    }
    FollowerRow* rowOf(const QString& name) {
        const auto title = QStringLiteral("Clip %1").arg(idOf(name));
        for (auto* row : bench().followers()) {
            if (row->text() == title) return row;
        }
        return nullptr;
    }
    void choose(const QString& name) {
        auto* row = rowOf(name);
        QVERIFY(row != nullptr);
        QTest::mouseClick(row, Qt::LeftButton);
        QVERIFY(card_.ready());
        QVERIFY(row->isChecked());
    }
    void keep(const QString& name) {
        QVERIFY(bench().keepButton().isEnabled());
        bench().keepButton().click();
        QVERIFY(QTest::qWaitFor([&] { return writtenAfter(name); }, 60000));
        QVERIFY(card_.searched());
        QVERIFY(!bench().isVisible());
    }

  private Q_SLOTS:
    void initTestCase() {
        auto card = writeInPieces({{good_, -1}, {QString(), 9}, {hevc_, -1}, {other_, -1}});
        const auto file = mediaFile(good_);
        const auto at = (card.bytes.size() + kCluster - 1) / kCluster * kCluster;
        const auto cut = file.size() * 7 / 10;
        card.bytes.resize(at, 0);
        card.bytes.insert(card.bytes.end(), file.begin(), file.begin() + static_cast<std::ptrdiff_t>(cut));
        const auto noise = randomBytes(40 * kCluster, 3);
        card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
        card.places[lost_] = {{at, cut}};
        QVERIFY(card_.make(std::move(card)));
        QVERIFY(writtenAfter(good_));
    }
    void saysWhichFitsAndWhy() {
        QVERIFY(card_.openBench(lost_));
        QCOMPARE(bench().followers().size(), std::size_t{3});
        auto* best = bench().followers().front();
        QVERIFY(best == rowOf(good_) && best->isChecked());
        QVERIFY2(best->why().startsWith(QStringLiteral("Fits: ")) &&
                     best->why().contains(QStringLiteral("its index is after this one")),
                 qPrintable(best->why()));
        QVERIFY(bench().lookOfIt().share > 0.9);
        QVERIFY(QTest::qWaitFor([&] { return bench().frames().framesShown() >= 9; }, 20000));
        // Nothing of it is of another coding: that is said, and cannot be kept.
        choose(hevc_);
        QVERIFY2(rowOf(hevc_)->why().startsWith(QStringLiteral("Does not fit: none")),
                 qPrintable(rowOf(hevc_)->why()));
        QVERIFY(!bench().keepButton().isEnabled());
    }
    void aPointOnItsTimeCutsNothing() {
        choose(good_);
        QTest::mouseClick(&bench().frames(), Qt::LeftButton, {}, bench().frames().placeOf(500));
        QTest::qWait(100);
        QVERIFY(bench().way().empty() && bench().isVisible());
    }
    void theIndexIsWrittenAfterTheChosenOne() {
        choose(other_);
        QVERIFY2(rowOf(other_)->why().contains(QStringLiteral("do not decode")),
                 qPrintable(rowOf(other_)->why()));
        QTest::qWait(1500);
        keep(other_);
        const auto wrong = card_.found(lost_);
        QVERIFY(wrong.condition == Condition::Partial);
        QVERIFY(card_.openBench(lost_));
        choose(good_);
        keep(good_);
        const auto found = card_.found(lost_);
        QVERIFY(found.condition == Condition::Partial && found.decoded > 0.99);
        QVERIFY(wrong.decoded < 0.9);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    look::dress(application);
    TestLenders test;
    return QTest::qExec(&test, argc, argv);
}

#include "test_lenders.moc"
