// Streams whose beginning was overwritten: what is left of them is found, from the first record on to the
// last byte, in one piece or several, and nothing of the kind is made of what is none.
#include <QTest>

#include "tests/support/searches.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr const char* kNoBeginning = "its beginning was not found; it plays from where it begins now";

}  // namespace

class TestBeheaded : public QObject {
    Q_OBJECT
    Searches searches_;

    static bool saysSo(const Finding& finding) {
        return finding.why == kNoBeginning ||
               std::find(finding.notes.begin(), finding.notes.end(), kNoBeginning) != finding.notes.end();
    }
    // The file with `lost` bytes of noise in place of what was there, and noise around it.
    static Buffer cardWith(const QString& name, std::size_t from, std::size_t lost, std::size_t before) {
        auto card = randomBytes(before, 5);
        const auto file = mediaFile(name);
        card.insert(card.end(), file.begin(), file.end());
        const auto noise = randomBytes(lost, 6);
        std::copy(noise.begin(), noise.end(), card.begin() + static_cast<std::ptrdiff_t>(before + from));
        const auto behind = randomBytes(100000, 7);
        card.insert(card.end(), behind.begin(), behind.end());
        return card;
    }

  private Q_SLOTS:
    void whatIsLeftIsFound_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<std::size_t>("record");  // bytes of one, at most
        QTest::newRow("transport stream") << "h264.ts" << std::size_t{188};
        QTest::newRow("with times of arrival") << "camcorder.m2ts" << std::size_t{192};
        QTest::newRow("program stream") << "simple.mpg" << std::size_t{4096};
        QTest::newRow("ADTS") << "music.aac" << std::size_t{2048};
        QTest::newRow("MP3") << "constant.mp3" << std::size_t{2048};
    }
    void whatIsLeftIsFound() {
        QFETCH(QString, name);
        QFETCH(std::size_t, record);
        const auto file = mediaFile(name);
        const std::size_t lost = file.size() / 4 / kCluster * kCluster;
        const std::size_t before = 4 * kCluster;
        const auto card = cardWith(name, 0, lost, before);
        const auto found = searches_.of(card);
        QCOMPARE(found.size(), std::size_t{1});
        const auto& finding = found.front();
        QVERIFY(finding.condition == Condition::Partial);
        QVERIFY(saysSo(finding));
        // From the first whole record behind what was lost to the last byte of the file.
        const auto bytes = bytesOf(card, finding);
        QVERIFY(finding.start() >= before + lost);
        QVERIFY(finding.start() < before + lost + record);
        QVERIFY(bytes == Buffer(file.end() - static_cast<std::ptrdiff_t>(bytes.size()), file.end()));
    }
    // Both parts, each by itself.
    void aHoleLeavesTwoParts() {
        const auto file = mediaFile(QStringLiteral("h264.ts"));
        const std::size_t hole = file.size() / 2 / kCluster * kCluster;
        const auto card = cardWith(QStringLiteral("h264.ts"), hole, 2 * kCluster, 4 * kCluster);
        const auto found = searches_.of(card);
        QCOMPARE(found.size(), std::size_t{2});
        QCOMPARE(std::count_if(found.begin(), found.end(), saysSo), 1);
        for (const auto& finding : found) {
            QVERIFY(finding.condition == Condition::Partial);
            const auto bytes = bytesOf(card, finding);
            QVERIFY(std::search(file.begin(), file.end(), bytes.begin() + 188, bytes.end() - 188) !=
                    file.end());
            QVERIFY(bytes.size() > file.size() / 3);
        }
    }
    // A stream without its first piece goes on from the second to the third.
    void itsPiecesAreJoined() {
        const QString name = QStringLiteral("h264.ts");
        const auto file = mediaFile(name);
        const int clusters = static_cast<int>((file.size() + kCluster - 1) / kCluster);
        auto card = writeInPieces({{name, clusters / 4}, {{}, 3}, {name, clusters / 3}, {{}, 5}, {name, -1}});
        const auto places = card.places[name];
        const auto noise = randomBytes(places[0].length, 8);
        std::copy(noise.begin(), noise.end(),
                  card.bytes.begin() + static_cast<std::ptrdiff_t>(places[0].offset));
        const auto found = searches_.of(card.bytes);
        QCOMPARE(found.size(), std::size_t{1});
        QVERIFY(saysSo(found.front()));
        const auto bytes = bytesOf(card.bytes, found.front());
        QVERIFY(bytes.size() + 188 > places[1].length + places[2].length);
        QVERIFY(bytes == Buffer(file.end() - static_cast<std::ptrdiff_t>(bytes.size()), file.end()));
        QCOMPARE(found.front().joins.size(), std::size_t{1});
    }
    // Whole ones keep all that is theirs, and what is too short to be played is left alone.
    void wholeOnesAreLeftAlone() {
        auto card = randomBytes(kCluster, 9);
        const auto add = [&](const Buffer& bytes) {
            card.insert(card.end(), bytes.begin(), bytes.end());
            card.resize((card.size() + kCluster - 1) / kCluster * kCluster, 0);
        };
        std::map<QString, Buffer> whole;
        for (const auto* name : {"h264.ts", "simple.mpg", "constant.mp3", "camcorder.m2ts"})
            add(whole[QString::fromLatin1(name)] = mediaFile(QString::fromLatin1(name)));
        const auto ts = whole[QStringLiteral("h264.ts")];
        add(Buffer(ts.begin() + 188 * 100 + 7, ts.begin() + 188 * 400));  // 56 KB
        add(randomBytes(300000, 10));
        const auto found = searches_.of(card);
        QCOMPARE(found.size(), whole.size());
        for (const auto& finding : found) {
            const auto bytes = bytesOf(card, finding);
            QVERIFY(std::any_of(whole.begin(), whole.end(),
                                [&](const auto& each) { return each.second == bytes; }));
            QVERIFY(finding.condition == Condition::Whole);
        }
    }
};

QTEST_GUILESS_MAIN(TestBeheaded)
#include "test_beheaded.moc"
