#include <QTest>
#include <random>
#include <thread>

#include "base/bytes.h"
#include "base/control.h"
#include "base/words.h"

using namespace dreskel;

class TestBase : public QObject {
    Q_OBJECT
  private Q_SLOTS:
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
};

QTEST_GUILESS_MAIN(TestBase)
#include "test_base.moc"
