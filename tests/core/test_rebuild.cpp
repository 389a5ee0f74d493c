// Photos in pieces put together again, on cards whose truth is known; and nothing put together that is not a
// photo.
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "rebuild/photo_joiner.h"
#include "rebuild/preview_seams.h"
#include "session/session.h"
#include "tests/support/pieces.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestRebuild : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    std::vector<Finding> search(const PiecesCard& card, bool rebuild = true) {
        const auto path = dir_.filePath(QStringLiteral("%1.img").arg(++number_));
        writeFile(path, card.bytes);
        auto session = Session::open(path.toStdString(),
                                     dir_.filePath(QStringLiteral("job%1").arg(number_)).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        ScanOptions options;
        options.rebuild = rebuild;
        session.value()->startScan(options);
        const auto outcome = session.value()->wait();
        if (!outcome) qFatal("%s", outcome.error().sentence().c_str());
        return session.value()->listed();
    }
    static void addPair(const char* one, const char* two) {
        QTest::newRow((QByteArray(one) + " and " + two).constData())
            << QString::fromLatin1(one) << QString::fromLatin1(two);
    }
    static int clustersOf(const QString& name) {
        return static_cast<int>((mediaFile(name).size() + kCluster - 1) / kCluster);
    }
    static Buffer bytesOf(const PiecesCard& card, const Finding& finding) {
        Buffer all;
        for (const auto& piece : finding.pieces) {
            if (piece.from != PieceFrom::Card) return {};
            const auto from = card.bytes.begin() + static_cast<std::ptrdiff_t>(piece.offset);
            all.insert(all.end(), from, from + static_cast<std::ptrdiff_t>(piece.length));
        }
        return all;
    }
    // Every file of the card is there, whole and exact, and nothing else is called whole.
    static void mustBeExact(const PiecesCard& card, const std::vector<Finding>& found) {
        std::set<QString> exact;
        for (const auto& finding : found) {
            if (finding.condition != Condition::Whole) continue;
            const auto bytes = bytesOf(card, finding);
            bool known = false;
            for (const auto& [name, places] : card.places) {
                if (bytes != mediaFile(name)) continue;
                known = true;
                exact.insert(name);
                QCOMPARE(finding.joins.size(), finding.pieces.size() - 1);
                for (const auto& join : finding.joins) {
                    QVERIFY(join.at % kCluster == 0 && join.at > 0 && join.confidence > 0.5);
                    QVERIFY(!join.why.empty());
                }
            }
            QString where;
            for (const auto& piece : finding.pieces)
                where += QStringLiteral(" %1+%2").arg(piece.offset / kCluster).arg(piece.length);
            QVERIFY2(known, qPrintable("called whole and none of the files, in clusters" + where));
        }
        for (const auto& [name, places] : card.places) QVERIFY2(exact.count(name) == 1, qPrintable(name));
    }

  private Q_SLOTS:
    void cardsInPieces_data() {
        QTest::addColumn<Runs>("runs");
        const auto a = QStringLiteral("baseline-420.jpg"), b = QStringLiteral("baseline-422.jpg"),
                   c = QStringLiteral("other-encoder.jpg"), d = QStringLiteral("restart-row.jpg"),
                   e = QStringLiteral("optimised-444.jpg"), f = QStringLiteral("progressive.jpg"),
                   g = QStringLiteral("grey.jpg");
        QTest::newRow("one around another") << Runs{{a, 20}, {c, -1}, {a, -1}};
        QTest::newRow("two in turns") << Runs{{a, 30}, {b, 60}, {a, -1}, {b, -1}};
        QTest::newRow("three pieces") << Runs{{b, 40}, {c, -1}, {b, 50}, {e, -1}, {b, -1}};
        QTest::newRow("among noise") << Runs{{g, -1}, {QString(), 3}, {e, 10}, {QString(), 8}, {e, -1}};
        QTest::newRow("noise between")
            << Runs{{a, 11}, {QString(), 20}, {a, -1}, {d, 25}, {QString(), 7}, {d, -1}};
        QTest::newRow("progressive") << Runs{{f, 9}, {g, -1}, {f, -1}};
        QTest::newRow("with restart markers") << Runs{{d, 33}, {a, 21}, {d, -1}, {a, -1}};
        QTest::newRow("five pieces each, three in turns")
            << Runs{{a, 20}, {b, 25}, {e, 15}, {a, 12}, {e, 20}, {b, 18}, {a, 9},
                    {b, 30}, {e, 25}, {a, 14}, {b, -1}, {e, -1}, {a, -1}};
        QTest::newRow("progressive, four pieces")
            << Runs{{f, 9}, {g, 20}, {f, 13}, {c, -1}, {f, 8}, {g, -1}, {f, -1}};
        Runs many;
        for (int turn = 0; turn < 19; ++turn) {
            many.emplace_back(b, clustersOf(b) / 21);
            many.emplace_back(e, clustersOf(e) / 21);
        }
        many.emplace_back(b, -1);
        many.emplace_back(e, -1);
        QTest::newRow("twenty pieces each, in turns") << many;
        const auto h = QStringLiteral("several.jpg");
        QTest::newRow("with further pictures behind it")
            << Runs{{h, 60}, {a, -1}, {h, 100}, {e, -1}, {h, -1}};
        const auto i = QStringLiteral("long-header.jpg");
        QTest::newRow("pieces that end in the header")
            << Runs{{i, 2}, {a, -1}, {i, 3}, {QString(), 5}, {i, -1}};
        QTest::newRow("pieces that end in previews") << Runs{{QStringLiteral("codes.pef"), 9},
                                                             {QStringLiteral("other.pef"), 8},
                                                             {QString(), 3},
                                                             {QStringLiteral("codes.pef"), -1},
                                                             {QStringLiteral("other.pef"), -1}};
        QTest::newRow("a clip between") << Runs{{b, 90}, {QStringLiteral("h264-last.mp4"), -1}, {b, -1}};
    }
    void cardsInPieces() {
        QFETCH(Runs, runs);
        const auto card = writeInPieces(runs);
        mustBeExact(card, search(card));
    }
    // What is checked record by record: chunks, pages, frames, elements. Two that are in pieces themselves,
    // in turns; the second also with its last piece in front of its first.
    void recordsLeadOn_data() {
        QTest::addColumn<QString>("one");
        QTest::addColumn<QString>("two");
        addPair("picture.png", "lossless.flac");
        addPair("music.ogg", "h264.mkv");
        addPair("broadcast.mxf", "simple.wmv");
        addPair("h264.flv", "other-encoder.png");
        addPair("deep.flac", "inside.oga");
        addPair("music.wma", "lossless.flac");
        addPair("lossless.dng", "picture.png");
        addPair("tiles.dng", "lossless.flac");
        addPair("lossless.nef", "lossy.nef");
        addPair("lossless.nef", "other.nef");
        addPair("codes.pef", "other.pef");
        addPair("adapting.orf", "other.orf");
        addPair("planes.cr3", "other.cr3");
    }
    void recordsLeadOn() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, one);
        QFETCH(QString, two);
        const int a = clustersOf(one);
        const int b = clustersOf(two);
        const auto card = writeInPieces({{one, a / 3}, {two, b / 2}, {one, a / 3}, {two, -1}, {one, -1}});
        mustBeExact(card, search(card));
    }
    // The preview of a raw file decodes with any piece that has as many blocks; its rows then do not fit. A
    // smaller preview beside it says more.
    void rowsOfPreviewsTell() {
        constexpr std::uint64_t cluster = 4096, kStep = (kSanitized ? 42 : 14) * cluster;
        auto bytes = mediaFile(QStringLiteral("small-framed.jpg"));
        const ByteRange small{0, bytes.size()};
        bytes.resize((bytes.size() + cluster - 1) / cluster * cluster);
        const auto large = mediaFile(QStringLiteral("baseline-422.jpg"));
        const ByteRange preview{bytes.size(), large.size()};
        bytes.insert(bytes.end(), large.begin(), large.end());
        bytes.resize((bytes.size() + cluster - 1) / cluster * cluster);
        const auto path = dir_.filePath(QStringLiteral("preview.img"));
        writeFile(path, bytes);
        CardView card(openImage(path.toStdString(), 512).value());
        const auto end = bytes.size();
        struct Told {
            int wrong = 0, fits = 0;
        };
        const auto told = [&](const std::vector<ByteRange>& previews) {
            Told count;
            for (auto cut = preview.offset + 20 * cluster; cut < end - 60 * cluster; cut += kStep) {
                if (rebuild::seamsOfPreviews(card, {{0, cut}, {cut, end - cut}}, previews) !=
                    jpeg::Seam::Fits)
                    qFatal("a true join does not fit");
                for (const auto gone : {5, 11, 18, 40}) {
                    const auto later = cut + static_cast<std::uint64_t>(gone) * cluster;
                    const auto seam =
                        rebuild::seamsOfPreviews(card, {{0, cut}, {later, end - later}}, previews);
                    count.wrong += seam == jpeg::Seam::DoesNotFit ? 1 : 0;
                    count.fits += seam == jpeg::Seam::Fits ? 1 : 0;
                }
            }
            return count;
        };
        // Where the picture is even, or breaks off within a row, nothing shows.
        const auto alone = told({preview}), beside = told({small, preview});
        const auto both = QStringLiteral("%1 and %2, %3 and %4")
                              .arg(alone.wrong)
                              .arg(alone.fits)
                              .arg(beside.wrong)
                              .arg(beside.fits);
        QVERIFY2(alone.wrong > alone.fits, qPrintable(both));
        QVERIFY2(beside.wrong >= alone.wrong && beside.fits < alone.fits, qPrintable(both));
    }
    // Blocks of a film are longer than clusters: what is in them says where one was cut.
    void joinsWithinBlocksAreTold() {
        const auto film = QStringLiteral("h264.mkv"), other = QStringLiteral("h264.flv");
        const auto card = writeInPieces({{film, 7},
                                         {QString(), 3},
                                         {film, 9},
                                         {other, 11},
                                         {film, 10},
                                         {QString(), 5},
                                         {other, 13},
                                         {film, 12},
                                         {other, -1},
                                         {film, -1}});
        mustBeExact(card, search(card));
    }
    // A key picture may be longer than a dozen clusters.
    void joinsWithinLongBlocksAreTold() {
        constexpr std::size_t kSmall = 4096;
        const auto film = QStringLiteral("large-pictures.mkv");
        QVERIFY(mediaFile(film).size() > 200 * kSmall);
        const auto card = writeInPieces({{film, 49},
                                         {QString(), 3},
                                         {film, 131},
                                         {QString(), 20},
                                         {film, 280},
                                         {QString(), 2},
                                         {film, -1}},
                                        kSmall);
        for (const auto& finding : search(card)) {
            QVERIFY2(finding.condition == Condition::Whole, finding.why.c_str());
            QVERIFY(bytesOf(card, finding) == mediaFile(film));
        }
    }
    // On a card with large clusters the last of a file is mostly blank more often than not.
    void aLastClusterMayBeMostlyBlank() {
        constexpr std::size_t cluster = 32768;
        QStringList broken;
        Runs runs;
        for (const auto& name : mediaNames()) {
            const auto size = mediaFile(name).size();
            const bool hardlyBegun = size % cluster > 0 && size % cluster < cluster * 2 / 5;
            if (size > 8 * cluster && hardlyBegun &&
                (name.endsWith(".png") || name.endsWith(".flac") || name.endsWith(".mkv") ||
                 name.endsWith(".mp4") || name.endsWith(".dng")))
                broken << name;
        }
        QVERIFY2(broken.size() >= 2, qPrintable(broken.join(u' ')));
        // Whole ones around them show the size of the clusters.
        int number = 0;
        for (const auto& name : broken) {
            runs.push_back({name, 5});
            runs.push_back({mediaNames(QStringLiteral("*.jpg"))[number++], -1});
            runs.push_back({name, -1});
        }
        for (const auto& name : {"music.ogg", "bytes.wav", "still.gif"})
            runs.push_back({QString::fromLatin1(name), -1});
        mustBeExact(writeInPieces(runs, cluster), search(writeInPieces(runs, cluster)));
    }
    // Streams have no length of their own: what reaches over the end of a piece says how the next begins.
    void streamsGoOn_data() {
        QTest::addColumn<QString>("one");
        QTest::addColumn<QString>("two");
        addPair("h264.ts", "camcorder.m2ts");
        addPair("simple.mpg", "elder.mpg");
        addPair("elder.mpg", "h264.ts");
        addPair("constant.mp3", "variable.mp3");
        addPair("music.aac", "baseline-420.jpg");
        addPair("camcorder.m2ts", "simple.mpg");
        addPair("bare.h264", "bare.hevc");
        addPair("bare.hevc", "bare.h264");
    }
    void streamsGoOn() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, one);
        QFETCH(QString, two);
        const int a = clustersOf(one);
        const int b = clustersOf(two);
        const auto card = writeInPieces(
            {{one, a / 4}, {two, b / 3}, {one, a / 3}, {two, b / 4}, {QString(), 5}, {one, -1}, {two, -1}});
        mustBeExact(card, search(card));
    }
    // Each of its pieces looks like a beginning; by its clock only one is.
    void streamsComeBackFromAnyOrder_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"h264.ts", "camcorder.m2ts", "simple.mpg", "elder.mpg"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void streamsComeBackFromAnyOrder() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto card = writeShuffled(name, {2, 4, 0, 3, 1});
        mustBeExact(card, search(card));
    }
    // Frames of speech follow frames of any recording: the nearest are taken, and it is not called whole.
    void speechIsPutTogetherAndNotCalledWhole() {
        const auto voice = QStringLiteral("voice.amr"), music = QStringLiteral("music.aac");
        const auto card = writeInPieces(
            {{voice, 1}, {music, 2}, {voice, 1}, {music, 1}, {QString(), 5}, {voice, -1}, {music, -1}});
        const auto found = search(card);
        const auto speech = std::find_if(found.begin(), found.end(), [](const Finding& finding) {
            return finding.evidence.family == "amr";
        });
        QVERIFY(speech != found.end());
        QVERIFY(bytesOf(card, *speech) == mediaFile(voice));
        QVERIFY(speech->condition == Condition::Partial);
        QVERIFY(speech->why.find("another recording") != std::string::npos);
    }
    // Samples have nothing to check them by but the waveform: what is put together by that is right, and not
    // called whole.
    void recordingsGoOnWithTheirWaveform_data() {
        QTest::addColumn<QString>("one");
        QTest::addColumn<QString>("two");
        addPair("stereo.wav", "deep.wav");
        addPair("floating.wav", "deep.wav");
        addPair("deep.wav", "baseline-420.jpg");
    }
    void recordingsGoOnWithTheirWaveform() {
        QFETCH(QString, one);
        QFETCH(QString, two);
        const int a = clustersOf(one);
        const int b = clustersOf(two);
        const auto card =
            writeInPieces({{one, a / 3}, {two, b / 2}, {one, a / 4}, {two, -1}, {QString(), 7}, {one, -1}});
        const auto found = search(card);
        for (const auto& name : {one, two}) {
            if (!name.endsWith(QStringLiteral(".wav"))) continue;
            const auto hit = std::find_if(found.begin(), found.end(), [&](const Finding& finding) {
                return bytesOf(card, finding) == mediaFile(name);
            });
            QVERIFY2(hit != found.end(), qPrintable(name));
            QVERIFY(hit->condition == Condition::Partial);
            QVERIFY(hit->joins.size() == hit->pieces.size() - 1 && !hit->joins.empty());
        }
        for (const auto& finding : found)
            QVERIFY(finding.condition != Condition::Whole || bytesOf(card, finding) == mediaFile(two));
    }
    // Field recorders keep a chunk of many clusters in front of the samples.
    void aLongHeaderDoesNotEndARecording() {
        auto file = mediaFile(QStringLiteral("deep.wav"));
        constexpr std::uint32_t length = 40001 + 1;
        Buffer kept{'J', 'U', 'N', 'K', length & 0xff, length >> 8 & 0xff, 0, 0};
        // Stretches of sound itself, that do not go on from one cluster to the next.
        const auto other = mediaFile(QStringLiteral("deep.wav"));
        for (std::size_t i = 0; i < length; ++i) kept.push_back(other[100 + i + i / kCluster * 123457]);
        file.insert(file.begin() + 12, kept.begin(), kept.end());
        const auto size = static_cast<std::uint32_t>(file.size() - 8);
        std::memcpy(&file[4], &size, 4);
        PiecesCard card;
        card.bytes = randomBytes(2 * kCluster, 5);
        const auto border = file.begin() + 60 * static_cast<std::ptrdiff_t>(kCluster);
        card.bytes.insert(card.bytes.end(), file.begin(), border);
        const auto between = randomBytes(5 * kCluster, 6);
        card.bytes.insert(card.bytes.end(), between.begin(), between.end());
        card.bytes.insert(card.bytes.end(), border, file.end());
        card.bytes.resize((card.bytes.size() / kCluster + 2) * kCluster, 0);
        const auto found = search(card);
        QVERIFY(std::any_of(found.begin(), found.end(), [&](const Finding& finding) {
            return bytesOf(card, finding) == file && finding.condition == Condition::Partial;
        }));
    }
    void aStreamThatBreaksOffIsNotWhole() {
        for (const auto* name : {"h264.ts", "constant.mp3", "music.aac"}) {
            const auto file = QString::fromLatin1(name);
            const auto card = writeInPieces({{file, 5}, {QString(), 12}});
            for (const auto& finding : search(card)) {
                QVERIFY2(finding.condition != Condition::Whole, name);
                QVERIFY2(!finding.why.empty(), name);
            }
        }
    }
    // Neither is there a way when a piece is gone, nor is another's taken for it.
    void aMissingPieceIsNotMadeUp() {
        const auto one = QStringLiteral("picture.png"), two = QStringLiteral("other-encoder.png");
        const auto card = writeInPieces({{one, 30}, {two, 40}, {QString(), 20}, {two, -1}});
        for (const auto& finding : search(card)) {
            if (finding.condition != Condition::Whole) continue;
            QVERIFY(bytesOf(card, finding) == mediaFile(two));
        }
    }
    void aPhotoWrittenBackwardsIsFound() {
        // Its second half lies in front of its first.
        auto card = writeInPieces({{QStringLiteral("baseline-420.jpg"), 30},
                                   {QStringLiteral("baseline-420.jpg"), -1},
                                   {QStringLiteral("grey.jpg"), -1}});
        const auto first = card.places[QStringLiteral("baseline-420.jpg")][0];
        const auto file = mediaFile(QStringLiteral("baseline-420.jpg"));
        const auto rest = (file.size() - first.length + kCluster - 1) / kCluster * kCluster;
        const auto start = card.bytes.begin() + static_cast<std::ptrdiff_t>(first.offset);
        std::rotate(start, start + static_cast<std::ptrdiff_t>(first.length),
                    start + static_cast<std::ptrdiff_t>(first.length + rest));
        mustBeExact(card, search(card));
    }
    // Nothing in the picture goes up and down by which a join could be seen. It is told by that nothing else
    // on the card goes on there.
    void anEvenPictureIsPutTogether_data() {
        QTest::addColumn<std::size_t>("pieces");
        QTest::newRow("three") << std::size_t{3};
        QTest::newRow("four") << std::size_t{4};
    }
    void anEvenPictureIsPutTogether() {
        QFETCH(std::size_t, pieces);
        const auto file = mediaFile(QStringLiteral("even.jpg"));
        const auto clusters = (file.size() + kCluster - 1) / kCluster;
        const auto cut = [&](std::size_t number) { return clusters * number / pieces; };
        PiecesCard card{randomBytes(2 * kCluster, 5), {}};
        const auto lay = [&](std::size_t from, std::size_t to) {
            const auto part = slice(file, from * kCluster, (to - from) * kCluster);
            card.bytes.insert(card.bytes.end(), part.begin(), part.end());
            card.bytes.resize((card.bytes.size() + kCluster - 1) / kCluster * kCluster, 0);
            const auto noise = randomBytes(9 * kCluster, static_cast<unsigned>(from));
            card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
        };
        lay(cut(pieces - 1), clusters);
        for (std::size_t number = 0; number + 1 < pieces; ++number) lay(cut(number), cut(number + 1));
        const auto found = search(card);
        const auto photo = std::find_if(found.begin(), found.end(), [&](const Finding& finding) {
            return finding.evidence.family == "jpeg" && finding.pieces.size() == pieces;
        });
        QVERIFY(photo != found.end());
        QVERIFY(bytesOf(card, *photo) == file);
        QVERIFY(photo->condition == Condition::Whole);
        for (const auto& join : photo->joins) QVERIFY(join.confidence > 0.9);
    }
    // What a text says decodes as coefficients for long, in later scans of progressive photos above all.
    // Within one segment of a header nothing shows where it was cut.
    void aLongSegmentIsPutTogetherAndNotCalledWhole() {
        const auto name = QStringLiteral("long-segment.jpg");
        const auto card = writeInPieces({{name, 3}, {QString(), 9}, {name, -1}});
        const auto truth = mediaFile(name);
        const auto found = search(card);
        const auto photo = std::find_if(found.begin(), found.end(), [](const Finding& finding) {
            return finding.kind == Kind::Photo && finding.pieces.size() == 2;
        });
        QVERIFY(photo != found.end());
        QCOMPARE(photo->size(), std::uint64_t{truth.size()});
        QVERIFY(photo->condition == Condition::Partial);
        QVERIFY(!photo->why.empty());
        // Its picture is all there, wherever its segment was cut.
        const auto bytes = bytesOf(card, *photo);
        QVERIFY(std::equal(bytes.begin() + 61000, bytes.end(), truth.begin() + 61000));
    }
    void textIsNoPieceOfAPhoto() {
        Buffer bytes;
        const std::string line =
            "Wheat, rye and oats: sacks by the miller\u2019s count, in \u00bd bushels.\r\n";
        while (bytes.size() < 8 * kCluster) bytes.insert(bytes.end(), line.begin(), line.end());
        bytes.resize(8 * kCluster);
        const auto photo = mediaFile(QStringLiteral("progressive.jpg"));
        const auto coded = slice(photo, 8 * kCluster, 8 * kCluster);
        bytes.insert(bytes.end(), coded.begin(), coded.end());
        const auto path = dir_.filePath(QStringLiteral("text.img"));
        writeFile(path, bytes);
        CardView view(openSource(path.toStdString()).value());
        const Control control;
        const rebuild::Pool pool(view, {{0, bytes.size()}}, kCluster, 0, control);
        for (std::uint64_t at = 0; at < bytes.size(); at += kCluster)
            QCOMPARE(pool.fits(at), at >= 8 * kCluster);
    }
    void withoutRebuildingItStaysInPieces() {
        const auto card = writeInPieces({{QStringLiteral("baseline-420.jpg"), 20},
                                         {QStringLiteral("other-encoder.jpg"), -1},
                                         {QStringLiteral("baseline-420.jpg"), -1}});
        for (const auto& finding : search(card, false)) {
            if (finding.start() != card.places.at(QStringLiteral("baseline-420.jpg"))[0].offset) continue;
            QVERIFY(finding.condition != Condition::Whole);
            QVERIFY(finding.joins.empty());
        }
    }
    // Stopped while it rebuilds, the job is not finished, and goes on.
    void aStopInTheMiddleLosesNothing() {
        Runs runs;
        for (int i = 0; i < 3; ++i) {
            runs.push_back({QStringLiteral("baseline-422.jpg"), 40 + 30 * i});
            runs.push_back({QString(), 3});
        }
        runs.push_back({QStringLiteral("baseline-422.jpg"), -1});
        const auto card = writeInPieces(runs);
        const auto path = dir_.filePath(QStringLiteral("stopped.img"));
        writeFile(path, card.bytes);
        const auto job = dir_.filePath(QStringLiteral("stopped")).toStdString();
        int stops = 0;
        for (int wait = 1; wait < 4000; wait = wait * 3 / 2 + 1) {
            auto session = Session::open(path.toStdString(), job);
            QVERIFY(session.ok());
            session.value()->startScan({});
            QTest::qWait(wait);
            session.value()->stop();
            if (session.value()->wait().ok()) break;
            ++stops;
            QVERIFY(session.value()->overview().progress.state != ScanState::Finished);
        }
        QVERIFY(stops > 0);
        auto session = Session::open(path.toStdString(), job);
        session.value()->startScan({});
        QVERIFY(session.value()->wait().ok());
        mustBeExact(card, session.value()->listed());
    }
    // The rest was overwritten: what there is of it is put together and called what it is.
    void aPhotoWhoseEndIsGoneIsFollowedAsFarAsItGoes() {
        const auto name = QStringLiteral("baseline-422.jpg");
        const auto card = writeInPieces({{name, 40}, {QString(), 3}, {name, 40}, {QString(), 30}});
        const auto file = mediaFile(name);
        bool seen = false;
        for (const auto& finding : search(card)) {
            if (finding.start() != card.places.at(name)[0].offset) continue;
            seen = true;
            QVERIFY(finding.condition == Condition::Partial);
            QVERIFY(finding.pieces.size() >= 2);
            QCOMPARE(finding.joins.size(), finding.pieces.size() - 1);
            QVERIFY(finding.joins[0].why.find("its end was not found") != std::string::npos);
            std::size_t right = 0;
            for (const auto& piece : finding.pieces) {
                for (std::uint64_t i = 0; i < piece.length && right < file.size(); ++i, ++right) {
                    if (card.bytes[piece.offset + i] != file[right]) break;
                }
            }
            QVERIFY2(right > 75 * kCluster, qPrintable(QString::number(right / kCluster)));
            QVERIFY2(finding.size() <= right + 2 * kCluster, qPrintable(QString::number(finding.size())));
        }
        QVERIFY(seen);
    }
    // The end of one photo behind the beginning of another: both halves are there, and no photo is.
    void halvesOfDifferentPhotosAreNotJoined() {
        for (const auto* other : {"baseline-420.jpg", "other-encoder.jpg", "fine.jpg"}) {
            auto card = writeInPieces({{QStringLiteral("restart-row.jpg"), -1}});
            const auto head = mediaFile(QStringLiteral("baseline-422.jpg"));
            const auto tail = mediaFile(QString::fromLatin1(other));
            card.bytes.insert(card.bytes.end(), head.begin(), head.begin() + 40 * kCluster);
            const auto noise = randomBytes(3 * kCluster, 8);
            card.bytes.insert(card.bytes.end(), noise.begin(), noise.end());
            card.bytes.insert(card.bytes.end(), tail.begin() + 5 * kCluster, tail.end());
            card.bytes.resize((card.bytes.size() / kCluster + 1) * kCluster, 0);
            mustBeExact(card, search(card));
        }
    }
};

QTEST_GUILESS_MAIN(TestRebuild)
#include "test_rebuild.moc"
