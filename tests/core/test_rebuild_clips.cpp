// Clips in pieces put together again by their index, on cards whose truth is known; and none called whole
// that is not.
#include <QTemporaryDir>
#include <QTest>

#include "rebuild/clip_joiner.h"
#include "session/session.h"
#include "tests/support/pieces.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

Buffer bytesOf(const PiecesCard& card, const Finding& finding) {
    Buffer all;
    for (const auto& piece : finding.pieces) {
        if (piece.from != PieceFrom::Card) {
            all.resize(all.size() + piece.length);
            continue;
        }
        const auto from = card.bytes.begin() + static_cast<std::ptrdiff_t>(piece.offset);
        all.insert(all.end(), from, from + static_cast<std::ptrdiff_t>(piece.length));
    }
    return all;
}

const QString kLast = QStringLiteral("h264-last.mp4");
const QString kSound = QStringLiteral("h264-cavlc.mov");
const QString kHevc = QStringLiteral("hevc.mp4");
const QString kFirst = QStringLiteral("h264-first.mp4");
const QString kAvi = QStringLiteral("pictures.avi");
const QString kCoded = QStringLiteral("h264.avi");
const QString kTiles = QStringLiteral("tiles.heic");
const QString kOtherTiles = QStringLiteral("other-tiles.heic");
const QString kOnePicture = QStringLiteral("picture.heic");
const QString kPhoto = QStringLiteral("fine.jpg");

}  // namespace

class TestRebuildClips : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    std::vector<Finding> search(const PiecesCard& card) {
        const auto path = dir_.filePath(QStringLiteral("%1.img").arg(++number_));
        writeFile(path, card.bytes);
        auto session = Session::open(path.toStdString(),
                                     dir_.filePath(QStringLiteral("job%1").arg(number_)).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        session.value()->startScan({});
        const auto outcome = session.value()->wait();
        if (!outcome) qFatal("%s", outcome.error().sentence().c_str());
        return session.value()->listed();
    }

  private Q_SLOTS:
    void clipsComeBackFromTheirPieces_data() {
        QTest::addColumn<Runs>("runs");
        QTest::newRow("two pieces round a photo") << Runs{{kLast, 20}, {kPhoto, -1}, {kLast, -1}};
        QTest::newRow("three pieces, noise between")
            << Runs{{kSound, 31}, {QString(), 9}, {kSound, 17}, {QString(), 4}, {kSound, -1}};
        QTest::newRow("the end in front") << Runs{{kPhoto, -1}, {kHevc, 12}, {kPhoto, -1}, {kHevc, -1}};
        QTest::newRow("two written at once") << Runs{{kLast, 16}, {kSound, 24}, {kLast, 24}, {kSound, 8},
                                                     {kLast, 16}, {kSound, 40}, {kLast, -1}, {kSound, -1}};
        QTest::newRow("AVI of pictures and samples")
            << Runs{{kAvi, 30}, {kPhoto, -1}, {kAvi, 21}, {QString(), 2}, {kAvi, -1}};
        QTest::newRow("AVI, with a clip in turns")
            << Runs{{kCoded, 9}, {kLast, 20}, {kCoded, 14}, {kLast, -1}, {kCoded, -1}};
        QTest::newRow("a photo of tiles")
            << Runs{{kTiles, 21}, {kPhoto, -1}, {kTiles, 40}, {QString(), 5}, {kTiles, -1}};
        QTest::newRow("two photos of tiles in turns, the end in front") << Runs{
            {kTiles, 30}, {kOtherTiles, 25}, {kTiles, 50}, {kPhoto, -1}, {kOtherTiles, -1}, {kTiles, -1}};
        QTest::newRow("a photo of one picture")
            << Runs{{kOnePicture, 3},  {QString(), 4}, {kOnePicture, 9}, {kPhoto, -1},
                    {kOnePicture, 31}, {QString(), 2}, {kOnePicture, -1}};
        QTest::newRow("a photo of one picture and one of tiles in turns, the end in front")
            << Runs{{kTiles, 20},      {kOnePicture, 30}, {kTiles, 9},  {QString(), 3},
                    {kOnePicture, 40}, {kTiles, -1},      {kPhoto, -1}, {kOnePicture, -1}};
        QTest::newRow("pieces in which no sample begins")
            << Runs{{kLast, 2}, {QString(), 2}, {kLast, 1}, {QString(), 3}, {kLast, 1}, {kPhoto, -1},
                    {kLast, 2}, {QString(), 4}, {kLast, 1}, {QString(), 1}, {kLast, -1}};
        QTest::newRow("single clusters of HEVC")
            << Runs{{kHevc, 1}, {QString(), 2}, {kHevc, 1}, {QString(), 3}, {kHevc, 1}, {kPhoto, -1},
                    {kHevc, 1}, {QString(), 4}, {kHevc, 1}, {QString(), 1}, {kHevc, -1}};
        QTest::newRow("the index in two pieces itself")
            << Runs{{kLast, 30}, {QString(), 2}, {kLast, 34}, {kPhoto, -1}, {kLast, -1}};
        QTest::newRow("the index of HEVC in two pieces itself")
            << Runs{{kPhoto, -1}, {kHevc, 32}, {QString(), 5}, {kHevc, -1}};
        // Their pictures begin with a mark; each piece holds the beginning of some.
        const std::pair<const char*, int> marked[] = {{"phone.3gp", 7},
                                                      {"simple.mp4", 30},
                                                      {"av1.mp4", 7},
                                                      {"frames.mov", 25},
                                                      {"start-codes.mov", 25}};
        for (const auto& [name, clusters] : marked) {
            const auto clip = QString::fromLatin1(name);
            QTest::newRow(name) << Runs{
                {clip, clusters}, {QString(), 3}, {clip, clusters}, {kPhoto, -1}, {clip, -1}};
        }
        const auto voice = QStringLiteral("music.m4a"), lossless = QStringLiteral("lossless.m4a");
        QTest::newRow("sound alone, in turns")
            << Runs{{voice, 2}, {kPhoto, -1},   {lossless, 9},  {voice, 3},  {QString(), 2}, {lossless, 2},
                    {voice, 1}, {QString(), 4}, {lossless, 20}, {voice, -1}, {kPhoto, -1},   {lossless, -1}};
        QTest::newRow("index in front")
            << Runs{{kFirst, 26}, {kPhoto, -1}, {kFirst, 13}, {QString(), 3}, {kFirst, -1}};
    }
    void clipsComeBackFromTheirPieces() {
        QFETCH(Runs, runs);
        const auto card = writeInPieces(runs);
        const auto found = search(card);
        for (const auto& [name, places] : card.places) {
            const auto file = std::find_if(
                found.begin(), found.end(),
                [at = places[0].offset](const Finding& finding) { return finding.start() == at; });
            QVERIFY2(file != found.end(), qPrintable(name));
            QVERIFY2(file->condition == Condition::Whole, file->why.c_str());
            QVERIFY2(bytesOf(card, *file) == mediaFile(name), qPrintable(name));
            if (file->pieces.size() == 1) continue;
            QCOMPARE(file->joins.size(), file->pieces.size() - 1);
            for (const auto& join : file->joins) QVERIFY(!join.why.empty() && join.confidence > 0.5);
        }
    }
    // Its beginning alone says little then: a name, and an index that soon is something else.
    void anIndexInFrontMayLieInPiecesItself() {
        constexpr std::size_t kSmall = 4096;
        const auto name = QStringLiteral("index-first.mov");
        for (const auto& runs : {Runs{{name, 1}, {kPhoto, -1}, {name, 90}, {QString(), 6}, {name, -1}},
                                 Runs{{name, 1}, {QString(), 9}, {name, 1}, {QString(), 4}, {name, -1}}}) {
            const auto card = writeInPieces(runs, kSmall);
            const auto found = search(card);
            const auto file = std::find_if(found.begin(), found.end(), [&](const Finding& finding) {
                return finding.start() == card.places.at(name)[0].offset;
            });
            QVERIFY(file != found.end());
            QVERIFY2(file->condition == Condition::Whole, file->why.c_str());
            QVERIFY(bytesOf(card, *file) == mediaFile(name));
        }
    }
    // The rest may be gone: then a clip began there, and that is all that is said.
    void aLonelyIndexInFrontIsABrokenClip() {
        PiecesCard card;
        card.bytes = randomBytes(2 * kCluster, 5);
        const auto file = mediaFile(kFirst);
        for (const std::size_t length : {std::size_t{2048}, std::size_t{6144}}) {
            auto part = Buffer(file.begin(), file.begin() + static_cast<std::ptrdiff_t>(length));
            card.bytes.insert(card.bytes.end(), part.begin(), part.end());
            const auto noise = randomBytes(10 * kCluster - length, static_cast<unsigned>(length));
            card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
        }
        const auto found = search(card);
        QCOMPARE(found.size(), std::size_t{2});
        for (const auto& clip : found) {
            QVERIFY(clip.condition == Condition::Broken || clip.condition == Condition::Partial);
            QVERIFY(!clip.why.empty());
        }
    }
    // A piece of it is gone: nothing is made up for it.
    void withAPieceGoneItIsNotWhole_data() {
        QTest::addColumn<QString>("name");
        QTest::newRow("a clip") << kLast;
        QTest::newRow("a photo of tiles") << kTiles;
        QTest::newRow("a photo of one picture") << kOnePicture;
        QTest::newRow("a recording") << QStringLiteral("lossless.m4a");
    }
    void withAPieceGoneItIsNotWhole() {
        QFETCH(QString, name);
        auto card = writeInPieces({{name, 20}, {kPhoto, -1}, {name, 30}, {kPhoto, -1}, {name, -1}});
        const auto photo = mediaFile(kPhoto).size();
        const auto gone = card.places.at(kPhoto)[0].offset + (photo + kCluster - 1) / kCluster * kCluster;
        const auto noise = randomBytes(30 * kCluster, 77);
        std::copy(noise.begin(), noise.end(), card.bytes.begin() + static_cast<std::ptrdiff_t>(gone));
        bool any = false;
        for (const auto& finding : search(card)) {
            if (finding.start() != card.places.at(name)[0].offset) continue;
            any = true;
            QVERIFY(finding.condition != Condition::Whole);
        }
        QVERIFY(any);
    }
    // And what is not gone is where it was, around a gap.
    void whatIsLeftOfAClipIsInItsPlace_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<bool>("bySomethingElse");
        QTest::newRow("H.264, noise") << kLast << false;
        QTest::newRow("H.264, a photo") << kLast << true;
        QTest::newRow("HEVC, noise") << kHevc << false;
        QTest::newRow("AVI, noise") << kAvi << false;
        QTest::newRow("index in front, noise") << kFirst << false;
    }
    void whatIsLeftOfAClipIsInItsPlace() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        QFETCH(bool, bySomethingElse);
        constexpr std::size_t kGone = 12, kEdges = 8;  // clusters
        const auto truth = mediaFile(name);
        auto card = writeInPieces(
            {{name, 14}, {QString(), 3}, {name, kGone}, {kSound, 9}, {name, 11}, {kSound, -1}, {name, -1}});
        const auto gone = card.places.at(name)[1];
        auto over = randomBytes(gone.length, 91);
        if (bySomethingElse) {
            const auto photo = mediaFile(QStringLiteral("grey.jpg"));
            std::copy_n(photo.begin(), std::min(photo.size(), over.size()), over.begin());
        }
        std::copy(over.begin(), over.end(), card.bytes.begin() + static_cast<std::ptrdiff_t>(gone.offset));
        const auto found = search(card);
        const auto file = std::find_if(found.begin(), found.end(), [&](const Finding& finding) {
            return finding.start() == card.places.at(name)[0].offset;
        });
        QVERIFY(file != found.end());
        QVERIFY(file->condition == Condition::Partial);
        const auto bytes = bytesOf(card, *file);
        QCOMPARE(bytes.size(), truth.size());
        std::size_t right = 0, made = 0;
        for (std::size_t at = 0; at < truth.size(); at += kCluster) {
            const auto length = std::min(kCluster, truth.size() - at);
            const auto same = std::equal(truth.begin() + static_cast<std::ptrdiff_t>(at),
                                         truth.begin() + static_cast<std::ptrdiff_t>(at + length),
                                         bytes.begin() + static_cast<std::ptrdiff_t>(at));
            const bool lost = at >= 14 * kCluster && at < (14 + kGone) * kCluster;
            right += same && !lost ? 1 : 0;
            made += same && lost ? 1 : 0;
        }
        QCOMPARE(made, std::size_t{0});
        // All but the pictures that the gap reaches into.
        const auto clusters = (truth.size() + kCluster - 1) / kCluster;
        QVERIFY2(right + kGone + kEdges >= clusters, qPrintable(QString::number(right)));
        QVERIFY(std::any_of(file->pieces.begin(), file->pieces.end(),
                            [](const Piece& piece) { return piece.from == PieceFrom::Fill; }));
    }
    void twoClipsAreNotMadeIntoOne() {
        // The front of one and the end of another.
        auto card = writeInPieces({{kLast, 20}, {QString(), 3}});
        const auto other = mediaFile(kSound);
        const auto from = other.begin() + static_cast<std::ptrdiff_t>(other.size() / 2 / kCluster * kCluster);
        card.bytes.insert(card.bytes.end(), from, other.end());
        card.bytes.resize((card.bytes.size() / kCluster + 2) * kCluster);
        for (const auto& finding : search(card)) {
            if (finding.kind == Kind::Video) QVERIFY(finding.condition != Condition::Whole);
        }
    }
    // Heads that state more than there is must not be followed: what they ask for would fill the memory.
    void aClipLargerThanTheCardIsNone() {
        auto mov = mediaFile(kLast);
        ImageBuilder image(kCluster);
        const auto start = image.add(mov);
        const auto path = dir_.filePath(QStringLiteral("large.img"));
        image.write(path);
        {
            CardView card(openSource(path.toStdString()).value());
            QVERIFY(rebuild::readClipHead(card, start).has_value());
        }
        auto bytes = image.bytes();
        const std::string mark("mdat");
        const auto at = std::search(bytes.begin(), bytes.end(), mark.begin(), mark.end());
        QVERIFY(at != bytes.end());
        *(at - 4) = 0x7f;
        writeFile(path, bytes);
        CardView card(openSource(path.toStdString()).value());
        QVERIFY(!rebuild::readClipHead(card, start).has_value());
    }
    void indexesAreFoundAtAnyByteAndMatched() {
        const auto file = mediaFile(kLast);
        ImageBuilder image(kCluster);
        const auto start = image.add(file);
        image.addNoise(40 * kCluster, 3);
        const auto path = dir_.filePath(QStringLiteral("whole.img"));
        image.write(path);
        CardView card(openSource(path.toStdString()).value());
        const auto head = rebuild::readClipHead(card, start);
        QVERIFY(head.has_value());
        QVERIFY(!head->indexInFront);
        Control control;
        const auto places = rebuild::findIndexes(card, {{0, card.size()}}, control).movies;
        QCOMPARE(places.size(), std::size_t{1});
        QCOMPARE(places[0], start + head->indexAt);
        auto index = rebuild::readLooseIndex(card, places[0]);
        QVERIFY(index.has_value());
        QVERIFY(rebuild::fits(*head, *index, kCluster));
        index->box.offset += 512;
        QVERIFY(!rebuild::fits(*head, *index, kCluster));
        index->box.offset -= 512;
        index->lastByte += 100;
        QVERIFY(!rebuild::fits(*head, *index, kCluster));
        // Bent anywhere it is no index, or one of bounded size; never a crash.
        std::mt19937 random(9);
        for (int i = 0; i < 400; ++i) {
            auto bytes = image.bytes();
            for (int k = 0; k < 8; ++k)
                bytes[places[0] + random() % index->box.length] = static_cast<std::uint8_t>(random());
            const auto body = Bytes(bytes).subspan(places[0] + 8, index->box.length - 8);
            const auto tracks = isobmff::readSamples(body);
            if (tracks) QVERIFY(tracks->size() <= 64);
        }
    }
};

QTEST_GUILESS_MAIN(TestRebuildClips)
#include "test_rebuild_clips.moc"
