// The pass that reads every byte once, and the session that desktop and command line stand on.
#include <QFileInfo>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "scan/pass.h"
#include "scan/surface.h"
#include "session/session.h"
#include "source/failing_source.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestSession : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;
    std::size_t files_ = 0;

    std::shared_ptr<Session> open(const QString& name) {
        auto session = Session::open(card_.toStdString(), dir_.filePath(name).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        return session.value();
    }

  private Q_SLOTS:
    void initTestCase() {
        card_ = dir_.filePath(QStringLiteral("card.img"));
        ImageBuilder image;
        for (const auto& name : mediaNames()) image.add(mediaFile(name));
        files_ = static_cast<std::size_t>(mediaNames().size());
        image.addGap(3 << 20, 0xff);
        image.write(card_);
    }
    void thePassShowsEveryByteOnce_data() {
        QTest::addColumn<qulonglong>("from");
        QTest::addColumn<qulonglong>("length");
        QTest::newRow("all") << 0ULL << 0ULL;
        QTest::newRow("from the middle of a portion") << 512ULL * 777 << (9ULL << 20);
        QTest::newRow("less than a portion") << 4096ULL << 5120ULL;
    }
    void thePassShowsEveryByteOnce() {
        QFETCH(qulonglong, from);
        QFETCH(qulonglong, length);
        const auto source =
            std::make_shared<FailingSource>(openSource(card_.toStdString()).value(), RangeSet());
        const ByteRange span{from, length == 0 ? source->size() - from : length};
        const auto expected = readFile(card_);
        Control control;
        std::uint64_t next = span.offset;
        bool same = true;
        QVERIFY(Pass::run(*source, span, control, [&](std::uint64_t offset, Bytes bytes, const auto& bad) {
            same = same && offset == next && bad.empty() &&
                   std::equal(bytes.begin(), bytes.end(),
                              expected.begin() + static_cast<std::ptrdiff_t>(offset));
            next = offset + bytes.size();
        }));
        QVERIFY(same);
        QCOMPARE(next, span.end());
        QCOMPARE(source->bytesRead(), span.length);
    }
    void thePassStopsWhenAsked() {
        const auto source = openSource(card_.toStdString()).value();
        Control control;
        int portions = 0;
        QVERIFY(!Pass::run(*source, {0, source->size()}, control, [&](std::uint64_t, Bytes, const auto&) {
            ++portions;
            control.stop();
        }));
        QCOMPARE(portions, 1);
    }
    void theSurfaceTellsBlankFromFilled() {
        Surface surface(4 << 20, {});
        surface.look(0, Buffer(1 << 20, 0), 512);
        surface.look(1 << 20, randomBytes(1 << 20, 1), 512);
        auto half = Buffer(1 << 20, 0xff);
        const auto noise = randomBytes(1 << 19, 2);
        std::copy(noise.begin(), noise.end(), half.begin());
        surface.look(2 << 20, half, 512);
        surface.look(3 << 20, Buffer(1 << 20, 0x41), 512);  // one byte throughout, but not a blank one
        QCOMPARE(surface.cells()[0], std::uint8_t{255});
        QCOMPARE(surface.cells()[1], std::uint8_t{0});
        QVERIFY(std::abs(surface.cells()[2] - 127) <= 1);
        QCOMPARE(surface.cells()[3], std::uint8_t{0});
    }
    void theNumbersAddUp() {
        const auto session = open(QStringLiteral("job"));
        QCOMPARE(session->overview().listed, std::size_t{0});
        session->startScan({});
        QVERIFY(session->wait().ok());
        const auto overview = session->overview();
        QVERIFY(overview.progress.state == ScanState::Finished);
        QCOMPARE(overview.listed, files_);
        std::size_t byKind = 0;
        for (const auto& [kind, count] : overview.byKind) byKind += count;
        std::size_t byCondition = 0;
        for (const auto& [condition, count] : overview.byCondition) byCondition += count;
        QCOMPARE(byKind, files_);
        QCOMPARE(byCondition, files_);
        QCOMPARE(session->listed().size(), files_);
        QCOMPARE(overview.progress.surface->back(), std::uint8_t{255});
        for (const auto& finding : session->listed()) {
            const auto preview = session->preview(finding.id);
            // Notes and text: nothing to see or to hear.
            if (finding.format == "mid" || finding.kind == Kind::Sidecar) continue;
            QVERIFY2(!preview.picture.empty() || !preview.peaks.empty(), finding.format.c_str());
        }
    }
    void changesComeAPageAtATime() {
        const auto session = open(QStringLiteral("job"));
        std::uint64_t since = 0;
        std::set<std::int64_t> seen;
        for (int page = 0; page < 100; ++page) {
            const auto changes = session->changes(since, 5);
            QVERIFY(changes.size() <= 5);
            if (changes.empty()) break;
            for (const auto& finding : changes) QVERIFY(seen.insert(finding->id).second);
        }
        QVERIFY(seen.size() >= files_);
        QVERIFY(session->changes(since, 5).empty());
        // A decision is a change, told once, and kept over reopening.
        const auto some = session->listed()[3].id;
        session->decide({{some, {true, false, 0, {}}}});
        const auto changed = session->changes(since, 5);
        QCOMPARE(changed.size(), std::size_t{1});
        QCOMPARE(changed[0]->id, some);
        QCOMPARE(session->overview().kept, std::size_t{1});
        QCOMPARE(session->overview().keptBytes, session->finding(some)->size());
        session->decide({{some, {true, false, 0, {}}}});
        QVERIFY(session->changes(since, 5).empty());
    }
    void decisionsOutliveTheProgram() {
        {
            const auto session = open(QStringLiteral("job"));
            QCOMPARE(session->overview().kept, std::size_t{1});
            QVERIFY(!Session::open(card_.toStdString(), dir_.filePath(QStringLiteral("job")).toStdString())
                         .ok());  // in use
        }
        const auto again = Session::open(
            std::string(), dir_.filePath(QStringLiteral("job")).toStdString());  // the job knows its card
        QVERIFY(again.ok());
        QCOMPARE(again.value()->overview().kept, std::size_t{1});
        again.value()->decide({{again.value()->listed()[3].id, {}}});
        QCOMPARE(again.value()->overview().keptBytes, std::uint64_t{0});
    }
    void aPausedScanStandsStill() {
        const auto session = open(QStringLiteral("paused"));
        session->startScan({});
        session->pause();
        QVERIFY(session->overview().activity == Activity::Paused);
        QTest::qWait(800);
        const auto before = session->overview();
        QTest::qWait(500);
        QCOMPARE(session->overview().changes, before.changes);
        QCOMPARE(session->overview().progress.position, before.progress.position);
        session->resume();
        QVERIFY(session->wait().ok());
        QCOMPARE(session->overview().listed, files_);
    }
    void aSourceThatIsGoneLeavesNoJob() {
        const auto folder = dir_.filePath(QStringLiteral("never"));
        const auto session = Session::open("/nowhere/card.img", folder.toStdString());
        QVERIFY(!session.ok());
        QVERIFY(session.error().fault == Fault::SourceUnusable);
        QVERIFY(!QFileInfo::exists(folder));
    }
};

QTEST_GUILESS_MAIN(TestSession)
#include "test_session.moc"
