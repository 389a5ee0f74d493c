#include <fcntl.h>
#include <unistd.h>
#include <QTemporaryDir>
#include <QTest>
#include <random>

#include "source/card_view.h"
#include "source/failing_source.h"
#include "source/tolerant_read.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestSource : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString image_;
    Buffer bytes_;

    std::shared_ptr<FailingSource> failing(const std::vector<ByteRange>& bad) {
        RangeSet set;
        for (const auto& range : bad) set.add(range);
        return std::make_shared<FailingSource>(openSource(image_.toStdString()).value(), set);
    }

  private Q_SLOTS:
    void initTestCase() {
        image_ = dir_.filePath(QStringLiteral("card.img"));
        bytes_ = randomBytes(1 << 20, 3);
        writeFile(image_, bytes_);
    }
    void isOpenedForReadingOnly() {
        const auto source = openSource(image_.toStdString());
        QVERIFY(source.ok());
        QCOMPARE(source.value()->size(), std::uint64_t{1} << 20);
        const int flags = ::fcntl(source.value()->descriptor(), F_GETFL);
        QCOMPARE(flags & O_ACCMODE, O_RDONLY);
        QCOMPARE(::write(source.value()->descriptor(), "x", 1), ssize_t{-1});
        QVERIFY(readFile(image_) == bytes_);
    }
    void refusesWhatCannotBeASource() {
        const auto missing = openSource("/nowhere/card.img");
        QVERIFY(!missing.ok());
        QVERIFY(missing.error().fault == Fault::SourceUnusable);
        QVERIFY(!missing.error().where.empty());
        QVERIFY(!openSource(dir_.path().toStdString()).ok());
        const auto empty = dir_.filePath(QStringLiteral("empty.img"));
        writeFile(empty, {});
        QVERIFY(openSource(empty.toStdString()).error().fault == Fault::SourceUnusable);
    }
    // An image that holds no blank stretches, as copies are; read in any way it is the same bytes.
    void holesAreBlank() {
        constexpr std::size_t kSize = 9 << 20;
        const auto path = dir_.filePath(QStringLiteral("holes.img"));
        Buffer bytes(kSize, 0);
        QFile image(path);
        QVERIFY(image.open(QIODevice::WriteOnly) && image.resize(kSize));
        for (const std::size_t at : {1048576UL, 3140728UL, 6291456UL}) {
            const auto part = randomBytes(300000, static_cast<unsigned>(at));
            std::copy(part.begin(), part.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
            QVERIFY(image.seek(static_cast<qint64>(at)));
            image.write(reinterpret_cast<const char*>(part.data()), static_cast<qint64>(part.size()));
        }
        image.close();
        const auto source = openSource(path.toStdString()).value();
        std::mt19937 random(5);
        for (int i = 0; i < 300; ++i) {
            const std::size_t at = i == 0 ? 0 : random() % kSize;
            const std::size_t length = i == 0 ? kSize : 1 + random() % (3 << 20);
            Buffer got(length, 0xee);
            const auto outcome = source->read(at, got);
            const auto there = std::min(length, kSize - at);
            QCOMPARE(outcome.count, there);
            QVERIFY(std::equal(got.begin(), got.begin() + static_cast<std::ptrdiff_t>(there),
                               bytes.begin() + static_cast<std::ptrdiff_t>(at)));
        }
        // Cut short behind our back it ends; it is not made up.
        QVERIFY(QFile::resize(path, 2 << 20));
        Buffer got(4 << 20, 0xee);
        QCOMPARE(source->read(1 << 20, got).count, std::size_t{1} << 20);
        QCOMPARE(source->read(5 << 20, got).count, std::size_t{0});
    }
    void narrowsToTheSectorsThatFail_data() {
        QTest::addColumn<QList<qint64>>("bad");
        QTest::newRow("none") << QList<qint64>{};
        QTest::newRow("one") << QList<qint64>{51200};
        QTest::newRow("first and last") << QList<qint64>{0, (1 << 20) - 512};
        QTest::newRow("neighbours") << QList<qint64>{4096, 4608, 5120, 9216};
    }
    void narrowsToTheSectorsThatFail() {
        QFETCH(QList<qint64>, bad);
        std::vector<ByteRange> ranges;
        RangeSet expected;
        for (const auto at : bad) {
            ranges.push_back({static_cast<std::uint64_t>(at), 512});
            expected.add(ranges.back());
        }
        const auto source = failing(ranges);
        Buffer buffer(bytes_.size(), 0xee);
        RangeSet found;
        for (const auto& range : readTolerant(*source, 0, buffer)) found.add(range);
        QVERIFY(found.ranges() == expected.ranges());
        for (std::size_t i = 0; i < buffer.size(); ++i) {
            QCOMPARE(buffer[i], expected.contains(i) ? std::uint8_t{0} : bytes_[i]);
        }
        // Halving costs some failed reads for each bad place, never a read of good bytes twice.
        QCOMPARE(source->bytesRead(), bytes_.size() - expected.total());
    }
    void viewTriesABadPlaceOnce() {
        const auto source = failing({{8192, 512}});
        CardView card(source);
        Buffer buffer(65536);
        QCOMPARE(card.read(0, buffer), buffer.size());
        QCOMPARE(card.unreadable().total(), std::uint64_t{512});
        const auto failures = source->failures();
        QCOMPARE(card.read(0, buffer), buffer.size());
        QCOMPARE(source->failures(), failures);
        QVERIFY(std::equal(buffer.begin() + 8704, buffer.end(), bytes_.begin() + 8704));
    }
    void piecesReadAsOneFile() {
        CardView card(openSource(image_.toStdString()).value());
        PieceReader reader(card, {{PieceFrom::Card, 1000, 300, {}},
                                  {PieceFrom::Fill, 0, 50, "test"},
                                  {PieceFrom::Card, 10, 5, {}}});
        QCOMPARE(reader.size(), std::uint64_t{355});
        Buffer all(400);
        QCOMPARE(reader.read(0, all), std::size_t{355});
        Buffer expected(bytes_.begin() + 1000, bytes_.begin() + 1300);
        expected.resize(350, 0);
        expected.insert(expected.end(), bytes_.begin() + 10, bytes_.begin() + 15);
        all.resize(355);
        QVERIFY(all == expected);
        Buffer part(4);
        QCOMPARE(reader.read(349, part), std::size_t{4});
        QVERIFY(std::equal(part.begin(), part.end(), expected.begin() + 349));
    }
};

QTEST_GUILESS_MAIN(TestSource)
#include "test_source.moc"
