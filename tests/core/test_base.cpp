#include <chrono>
#include <ctime>
#include <QTest>
#include <random>
#include <thread>

#include "base/bytes.h"
#include "base/control.h"
#include "base/iso_time.h"
#include "base/patience.h"
#include "base/words.h"

using namespace dreskel;

class TestBase : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    // A search is given up for what it did, not for what the machine did beside it.
    void patienceCountsOwnWork() {
        using namespace std::chrono_literals;
        Patience patience(200ms);
        std::this_thread::sleep_for(300ms);
        QVERIFY(!patience.over());
        const auto work = [] {
            for (const auto until = std::clock() + CLOCKS_PER_SEC * 3 / 10; std::clock() < until;) {
            }
            return true;
        };
        QVERIFY(patience.without(work));
        QVERIFY(!patience.over());
        work();
        QVERIFY(patience.over());
        // Waiting is borne ten times as long.
        Patience waiting(5ms);
        std::this_thread::sleep_for(80ms);
        QVERIFY(waiting.over());
    }
    void readerNeverLeavesItsView() {
        const std::uint8_t data[] = {0x01, 0x02, 0x03};
        ByteReader reader(data);
        QCOMPARE(reader.u16(), std::uint16_t{0x0102});
        QCOMPARE(reader.u16(), std::uint16_t{0});
        QVERIFY(!reader.ok());
        QCOMPARE(reader.u8(), std::uint8_t{0});
        ByteReader little(data, Endian::Little);
        QCOMPARE(little.u24(), std::uint32_t{0x030201});
        ByteReader far(data);
        far.seek(4);
        QVERIFY(!far.ok());
        QVERIFY(slice(data, ~std::uint64_t{0}, 5).empty());
        QCOMPARE(slice(data, 1, ~std::uint64_t{0}).size(), std::size_t{2});
    }
    void checkedArithmeticSaysWhenItDoesNotFit() {
        QVERIFY(!checkedAdd(~std::uint64_t{0}, 1));
        QCOMPARE(*checkedAdd(2, 3), std::uint64_t{5});
        QVERIFY(!checkedMultiply(1ULL << 40, 1ULL << 40));
    }
    // Against a plain array of flags, for many random sequences.
    void rangeSetAgreesWithFlags() {
        std::mt19937 random(7);
        for (int round = 0; round < 50; ++round) {
            std::vector<bool> flags(200, false);
            RangeSet set;
            for (int step = 0; step < 40; ++step) {
                const ByteRange range{random() % 180, random() % 20};
                const bool add = random() % 3 != 0;
                if (add)
                    set.add(range);
                else
                    set.remove(range);
                for (auto at = range.offset; at < range.end(); ++at) flags[at] = add;
            }
            QCOMPARE(set.total(), static_cast<std::uint64_t>(std::count(flags.begin(), flags.end(), true)));
            for (std::uint64_t at = 0; at < flags.size(); ++at)
                QCOMPARE(set.contains(at), static_cast<bool>(flags[at]));
            const ByteRange window{random() % 150, random() % 50};
            std::uint64_t in = 0;
            for (const auto& hit : set.within(window)) in += hit.length;
            std::uint64_t out = 0;
            for (const auto& gap : set.gaps(window)) out += gap.length;
            QCOMPARE(in + out, window.length);
            QCOMPARE(set.covers(window), in == window.length);
            for (const auto& range : set.ranges()) QVERIFY(range.length > 0);
        }
    }
    void wordsGoBothWays() {
        for (const auto condition :
             {Condition::Whole, Condition::Partial, Condition::Broken, Condition::Unchecked}) {
            QCOMPARE(conditionFromWord(toWord(condition)), std::optional(condition));
        }
        for (const auto kind : {Kind::Photo, Kind::Video, Kind::Audio, Kind::Sidecar, Kind::Other}) {
            QCOMPARE(kindFromWord(toWord(kind)), std::optional(kind));
        }
        QVERIFY(!conditionFromWord("good"));
    }
    void unreadableBytesBecomeFill() {
        RangeSet unreadable;
        unreadable.add({150, 20});
        const auto pieces = piecesOf({100, 100}, unreadable);
        QCOMPARE(pieces.size(), std::size_t{3});
        QVERIFY(pieces[1].from == PieceFrom::Fill);
        QVERIFY(!pieces[1].why.empty());
        QCOMPARE(totalLength(pieces), std::uint64_t{100});
    }
    void sizesAreReadable() {
        QCOMPARE(humanSize(999), std::string("999 bytes"));
        QCOMPARE(humanSize(1500), std::string("1.50 kB"));
        QCOMPARE(humanSize(999600), std::string("1.00 MB"));
        QCOMPARE(humanSize(8053063680ULL), std::string("8.05 GB"));
    }
    void pausedWorkEndsWhenStopped() {
        Control control;
        control.pause();
        std::thread stopper([&] { control.stop(); });
        QVERIFY(!control.proceed());
        stopper.join();
    }
    void timesAreRead_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<qint64>("seconds");  // of 1970, without a zone as if it were there; -1: no time
        QTest::newRow("plain") << QStringLiteral("2026-05-02T07:41:10") << qint64{1777707670};
        QTest::newRow("fraction") << QStringLiteral("2026-05-02T07:41:10.250") << qint64{1777707670};
        QTest::newRow("zulu") << QStringLiteral("2026-05-02T07:41:10Z") << qint64{1777707670};
        QTest::newRow("ahead") << QStringLiteral("2026-05-02T07:41:10+02:00") << qint64{1777700470};
        QTest::newRow("behind, with a fraction")
            << QStringLiteral("2026-05-02T07:41:10.5-01:30") << qint64{1777713070};
        QTest::newRow("a date alone") << QStringLiteral("2026-05-02") << qint64{-1};
        QTest::newRow("no month") << QStringLiteral("2026-13-02T07:41:10") << qint64{-1};
        QTest::newRow("no hour") << QStringLiteral("2026-05-02T24:41:10") << qint64{-1};
        QTest::newRow("before") << QStringLiteral("1904-01-01T00:00:00") << qint64{-1};
        QTest::newRow("no zone that is one") << QStringLiteral("2026-05-02T07:41:10 noon") << qint64{-1};
        QTest::newRow("nothing") << QString() << qint64{-1};
    }
    void timesAreRead() {
        QFETCH(QString, text);
        QFETCH(qint64, seconds);
        QCOMPARE(secondsOf(text.toStdString(), false).value_or(-1), seconds);
        // A zone that is told counts whatever this machine's is.
        if (text.endsWith(QLatin1Char('Z')) || text.contains(QLatin1Char('+')))
            QCOMPARE(secondsOf(text.toStdString(), true).value_or(-1), seconds);
    }
};

QTEST_GUILESS_MAIN(TestBase)
#include "test_base.moc"
