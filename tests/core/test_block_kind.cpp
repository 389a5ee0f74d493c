// What blocks look like by themselves, on the bytes of real encoders' files, and what the ledger leaves over.
#include <cmath>
#include <QTemporaryDir>
#include <QTest>

#include "scan/unexplained.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestBlockKind : public QObject {
    Q_OBJECT

    // How many of the blocks inside a file, away from its ends, are taken for each kind.
    static std::map<BlockKind, int> kindsIn(const Buffer& file) {
        std::map<BlockKind, int> seen;
        for (std::size_t at = 8192; at + 8192 <= file.size(); at += 4096)
            ++seen[kindOfBlock(Bytes(file.data() + at, 4096))];
        return seen;
    }
    static int all(const std::map<BlockKind, int>& seen) {
        int sum = 0;
        for (const auto& [kind, count] : seen) sum += count;
        return sum;
    }

  private Q_SLOTS:
    void photosAreToldFromNoise() {
        int photo = 0;
        int blocks = 0;
        for (const auto& name : mediaNames(QStringLiteral("*.jpg"))) {
            auto seen = kindsIn(mediaFile(name));
            photo += seen[BlockKind::PhotoData];
            blocks += all(seen);
        }
        QVERIFY2(blocks > 50, qPrintable(QString::number(blocks)));
        QVERIFY2(photo * 10 >= blocks * 8, qPrintable(QStringLiteral("%1 of %2").arg(photo).arg(blocks)));
        auto noise = kindsIn(randomBytes(4 << 20, 5));
        QVERIFY(noise[BlockKind::PhotoData] * 50 <= all(noise));
        QVERIFY(noise[BlockKind::Dense] * 10 >= all(noise) * 9);
    }
    void soundTextAndBlank() {
        Buffer tone;
        for (int i = 0; i < 40000; ++i) {
            const auto sample = static_cast<std::int16_t>(9000 * std::sin(i * 0.05) + (i * 7919 % 200));
            tone.push_back(static_cast<std::uint8_t>(sample & 0xff));
            tone.push_back(static_cast<std::uint8_t>(sample >> 8 & 0xff));
        }
        auto seen = kindsIn(tone);
        QVERIFY(seen[BlockKind::Sound] * 10 >= all(seen) * 9);
        QCOMPARE(kindOfBlock(Buffer(4096, 0xff)), BlockKind::Blank);
        const QByteArray line("The water was low this morning, and the wheel stood still.\n");
        const auto text = line.repeated(60);
        QCOMPARE(kindOfBlock(Buffer(text.begin(), text.end())), BlockKind::Text);
    }
    void anyBytesAreAnswered() {
        for (unsigned seed = 0; seed < 200; ++seed) {
            const auto noise = randomBytes(seed % 97, seed);
            const auto kind = kindOfBlock(noise);
            QVERIFY(!toWords(kind).empty());
        }
    }
    void stretchesAreLookedAt() {
        QTemporaryDir dir;
        ImageBuilder image;
        image.addNoise(256 << 10, 9);
        const auto path = dir.filePath(QStringLiteral("card.img"));
        image.write(path);
        auto bytes = readFile(path);
        std::fill(bytes.begin() + 65536, bytes.begin() + 131072, std::uint8_t{'a'});
        writeFile(path, bytes);
        const auto source = openSource(path.toStdString());
        QVERIFY(source.ok());
        const auto seen = lookAtUnexplained(*source.value(), {{0, 65536}, {65536, 65536}, {32768, 65536}},
                                            [] { return true; });
        QCOMPARE(seen.size(), std::size_t{3});
        QCOMPARE(seen[0].kind, BlockKind::Dense);
        QVERIFY(!seen[0].mixed);
        QCOMPARE(seen[1].kind, BlockKind::Blank);
        QVERIFY(seen[2].mixed);
        QVERIFY(lookAtUnexplained(*source.value(), {{0, 65536}}, [] { return false; }).empty());
    }
};

QTEST_APPLESS_MAIN(TestBlockKind)
#include "test_block_kind.moc"
