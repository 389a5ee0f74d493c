// The ways in which what is no photo is put together: record by record, by the clocks and counters of
// streams, and by the waveform. Each on files by independent encoders that were cut here, without a scan
// around it.
#include <QTest>

#include "formats/clip/elementary.h"
#include "formats/registry.h"
#include "rebuild/bare_joiner.h"
#include "rebuild/plain_joiner.h"
#include "rebuild/stream_joiner.h"
#include "rebuild/walk_joiner.h"
#include "tests/support/cards.h"
#include "tests/support/pieces.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// As far as it is known where a file lies; the last of the true places may be followed by what fills its
// cluster.
bool begins(const std::vector<ByteRange>& places, const std::vector<ByteRange>& with) {
    for (std::size_t i = 0; i < with.size(); ++i) {
        if (i >= places.size() || places[i].offset != with[i].offset) return false;
        if (i + 1 < with.size() && places[i].length != with[i].length) return false;
    }
    return places.size() == with.size();
}

}  // namespace

class TestJoiners : public QObject {
    Q_OBJECT
    Cards cards_;

    // `taken`: what others have.
    std::optional<std::vector<ByteRange>> walk(std::string_view family, const Buffer& card,
                                               std::uint64_t start,
                                               const std::vector<ByteRange>& taken = {}) {
        auto view = cards_.viewOf(card);
        rebuild::ClipPool pool({{0, card.size()}}, kCluster, 0);
        pool.take(taken);
        const auto whole = [&](const std::vector<ByteRange>& places) {
            const auto bytes = bytesAt(card, places);
            const auto measured = measureWith(family, bytes);
            return measured.accepted && measured.why.empty();
        };
        const Control control;
        // Under the sanitizers it takes many times as long.
        return rebuild::joinWalk(view, *familyNamed(family), start, pool, whole, control,
                                 {std::chrono::minutes(2)});
    }
    rebuild::JoinedStream stream(std::string_view family, const Buffer& card, std::uint64_t start) {
        auto view = cards_.viewOf(card);
        const Control control;
        const rebuild::ClipPool free({{0, card.size()}}, kCluster, 0);
        const auto pool = rebuild::StreamPool::of(view, {familyNamed(family)}, free, control).front();
        return rebuild::joinStream(view, start, pool, control);
    }
    std::optional<std::vector<ByteRange>> bare(const Buffer& card, std::uint64_t start) {
        auto view = cards_.viewOf(card);
        const auto coding = bareCodingOf(slice(Bytes(card), start, Format::kHead));
        if (!coding) return std::nullopt;
        const Control control;
        const rebuild::ClipPool pool({{0, card.size()}}, kCluster, 0);
        Patience patience(std::chrono::minutes(5));
        return rebuild::joinBare(view, *coding, start, pool, patience, control);
    }
    std::optional<std::vector<ByteRange>> plain(std::string_view family, const Buffer& card,
                                                std::uint64_t start) {
        auto view = cards_.viewOf(card);
        const auto samples = measureWith(family, slice(Bytes(card), start, card.size())).samples;
        if (!samples) return std::nullopt;
        const Control control;
        const rebuild::ClipPool pool({{0, card.size()}}, kCluster, 0);
        return rebuild::joinPlain(view, {{start, kCluster}}, *samples, pool, std::chrono::seconds(20),
                                  control);
    }

  private Q_SLOTS:
    // By a check that some foreign bytes pass, a piece could be found anywhere.
    void noPiecesAreLookedForByAWeakCheck() {
        QVERIFY(familyNamed("png")->measure()->clone());
        QVERIFY(!familyNamed("webp")->measure()->clone());
    }
    // In every order that two, three and four pieces can have.
    void recordsGoOnInAnyOrder_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("family");
        const std::pair<const char*, const char*> files[] = {
            {"picture.png", "png"},   {"lossless.flac", "flac"}, {"music.ogg", "ogg"},
            {"h264.mkv", "matroska"}, {"h264.flv", "flv"},       {"deep.flac", "flac"},
            {"inside.oga", "ogg"},    {"moving.gif", "gif"},     {"still.gif", "gif"},
            {"apple.caf", "caf"}};
        for (const auto& [name, family] : files)
            QTest::newRow(name) << QString::fromLatin1(name) << QString::fromLatin1(family);
    }
    void recordsGoOnInAnyOrder() {
        QFETCH(QString, name);
        QFETCH(QString, family);
        const auto file = mediaFile(name);
        const bool checked = family == QLatin1String("png") || family == QLatin1String("flac") ||
                             family == QLatin1String("ogg") || family == QLatin1String("gif");
        for (const auto& order : std::vector<std::vector<std::size_t>>{
                 {0, 1}, {1, 0}, {0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {2, 1, 0}, {3, 0, 2, 1}}) {
            // What says only how long its records are is put together in order.
            if (!checked && !std::is_sorted(order.begin(), order.end())) continue;
            // A piece holds two clusters or more behind the record that reaches over the join.
            if (file.size() / order.size() < 3 * kCluster) continue;
            const auto card = writeShuffled(name, order);
            const auto places = card.places.at(name);
            const auto joined = walk(family.toStdString(), card.bytes, places[0].offset);
            if (family == QLatin1String("caf")) {
                // One chunk that holds all the sound: nothing to go by.
                QVERIFY(!joined || bytesAt(card.bytes, *joined) != file);
                continue;
            }
            QVERIFY(joined);
            QCOMPARE(bytesAt(card.bytes, *joined), file);
        }
    }

    void whatOthersHaveIsLeftToThem() {
        const auto name = QStringLiteral("picture.png");
        const auto card = writeShuffled(name, {0, 1, 2});
        const auto places = card.places.at(name);
        const auto start = places[0].offset;
        QVERIFY(walk("png", card.bytes, start));
        for (const auto& place : {places[1], places[2]}) {
            const ByteRange cluster{place.offset, kCluster};
            QVERIFY(!walk("png", card.bytes, start, {cluster}));
        }
        // Another photo's place beside it does not matter.
        QVERIFY(walk("png", card.bytes, start, {{places[1].end(), kCluster}}));
    }

    // A cluster is missing, or one of its bytes is wrong: no way is right, and none is found.
    void whatIsNotAllThereIsNotPutTogether() {
        const auto name = QStringLiteral("lossless.flac");
        const auto card = writeShuffled(name, {0, 1});
        const auto places = card.places.at(name);
        for (std::size_t i = 0; i < 12; ++i) {
            auto changed = card.bytes;
            const auto& place = places[i % 2];
            const auto at = place.offset + (i % 2 == 0 ? 4 * kCluster : 0) + (place.length / 16) * (i / 2);
            if (i < 6) {
                changed[at] ^= 0x10;
            } else {
                const auto foreign = randomBytes(kCluster, static_cast<unsigned>(i));
                std::copy(foreign.begin(), foreign.end(),
                          changed.begin() + static_cast<std::ptrdiff_t>(at / kCluster * kCluster));
            }
            const auto joined = walk("flac", changed, places[0].offset);
            QVERIFY(!joined);
        }
    }

    // Two of one kind, cluster by cluster in turns: each takes its own.
    void twoThatWereWrittenInTurnsAreToldApart() {
        const auto one = QStringLiteral("picture.png");
        const auto other = QStringLiteral("other-encoder.png");
        Runs runs;
        for (int i = 0; i < 5; ++i) {
            runs.push_back({one, 10 + 3 * i});
            runs.push_back({other, 9});
        }
        runs.push_back({other, -1});
        runs.push_back({QString(), 2});
        runs.push_back({one, -1});
        const auto card = writeInPieces(runs);
        for (const auto& name : {one, other}) {
            const auto joined = walk("png", card.bytes, card.places.at(name)[0].offset);
            QVERIFY(joined);
            QCOMPARE(bytesAt(card.bytes, *joined), mediaFile(name));
        }
    }

    void streamsGoOnByTheirClocks_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("family");
        const std::pair<const char*, const char*> files[] = {{"h264.ts", "transport"},
                                                             {"simple.mpg", "program"},
                                                             {"constant.mp3", "mp3"},
                                                             {"music.aac", "aac"}};
        for (const auto& [name, family] : files)
            QTest::newRow(name) << QString::fromLatin1(name) << QString::fromLatin1(family);
    }
    void streamsGoOnByTheirClocks() {
        QFETCH(QString, name);
        QFETCH(QString, family);
        const auto file = mediaFile(name);
        const bool clock = family == QLatin1String("transport") || family == QLatin1String("program");
        for (const auto& order :
             std::vector<std::vector<std::size_t>>{{0, 1}, {0, 1, 2}, {1, 0}, {0, 2, 1}}) {
            // Nothing but its phase tells a frame of sound from another.
            if (!clock && (order.size() > 2 || order[0] != 0)) continue;
            const auto card = writeShuffled(name, order);
            const auto places = card.places.at(name);
            const auto joined = stream(family.toStdString(), card.bytes, places[0].offset);
            QVERIFY(begins(joined.places, places));
            const auto bytes = bytesAt(card.bytes, joined.places);
            QVERIFY(bytes.size() >= file.size() && std::equal(file.begin(), file.end(), bytes.begin()));
        }
    }

    // Nothing but the picture over the border tells where a bare stream goes on.
    void bareStreamsGoOnWithTheirPictures_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"bare.h264", "bare.hevc"}) QTest::newRow(name) << QString::fromLatin1(name);
    }
    void bareStreamsGoOnWithTheirPictures() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        for (const auto& order : std::vector<std::vector<std::size_t>>{
                 {0, 1}, {1, 0}, {0, 1, 2}, {0, 2, 1}, {2, 1, 0}, {5, 0, 3, 1, 4, 2}}) {
            const auto card = writeShuffled(name, order);
            const auto places = card.places.at(name);
            const auto joined = bare(card.bytes, places[0].offset);
            QVERIFY(joined);
            QVERIFY(begins(*joined, places));
            const auto bytes = bytesAt(card.bytes, *joined);
            QVERIFY(bytes.size() >= file.size() && std::equal(file.begin(), file.end(), bytes.begin()));
        }
    }
    // With a piece gone, what was found before it is not led on by anything else.
    void aBareStreamWithAGapEndsThere() {
        const auto name = QStringLiteral("bare.h264");
        const auto card = writeShuffled(name, {0, 1, 2, 3});
        const auto places = card.places.at(name);
        auto gone = card.bytes;
        const auto noise = randomBytes(places[2].length, 9);
        std::copy(noise.begin(), noise.end(), gone.begin() + static_cast<std::ptrdiff_t>(places[2].offset));
        const auto joined = bare(gone, places[0].offset);
        QVERIFY(joined);
        QCOMPARE(joined->size(), std::size_t{2});
        QVERIFY(begins(*joined, {places[0], places[1]}));
    }

    // Pieces that hold no beginning of a picture tell no time: the picture says which goes on with it.
    void streamsGoOnWithinAPicture() {
        const auto name = QStringLiteral("large-pictures.m2ts");
        const auto file = mediaFile(name);
        std::vector<std::size_t> order;
        for (std::size_t piece = 0; piece < 32; piece += 4)
            order.insert(order.end(), {piece + 2, piece, piece + 3, piece + 1});
        const auto card = writeShuffled(name, order);
        const auto places = card.places.at(name);
        const auto joined = stream("transport", card.bytes, places[0].offset);
        QVERIFY(begins(joined.places, places));
        const auto bytes = bytesAt(card.bytes, joined.places);
        QVERIFY(bytes.size() >= file.size() && std::equal(file.begin(), file.end(), bytes.begin()));
    }

    // A stream's first piece alone breaks off within a record; its last ends as it should.
    void aStreamThatBreaksOffIsSaid() {
        const auto name = QStringLiteral("h264.ts");
        const auto file = mediaFile(name);
        Buffer card = randomBytes(2 * kCluster, 5);
        const auto start = card.size();
        card.insert(card.end(), file.begin(), file.begin() + 10 * static_cast<std::ptrdiff_t>(kCluster));
        const auto noise = randomBytes(8 * kCluster, 6);
        card.insert(card.end(), noise.begin(), noise.end());
        const auto cut = stream("transport", card, start);
        QCOMPARE(cut.places.size(), std::size_t{1});
        QVERIFY(cut.breaksOff);
        card = randomBytes(2 * kCluster, 5);
        card.insert(card.end(), file.begin(), file.end());
        card.resize((card.size() / kCluster + 4) * kCluster, 0);
        const auto whole = stream("transport", card, start);
        QCOMPARE(whole.places.size(), std::size_t{1});
        QVERIFY(!whole.breaksOff);
    }

    // The waveform of recordings, of either order of bytes, and the rows of pictures.
    void plainSamplesGoOn_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("family");
        const std::pair<const char*, const char*> files[] = {{"stereo.wav", "wav"},  {"deep.wav", "wav"},
                                                             {"apple.aiff", "aiff"}, {"apple.caf", "caf"},
                                                             {"picture.bmp", "bmp"}, {"sensor.dng", "tiff"}};
        for (const auto& [name, family] : files)
            QTest::newRow(name) << QString::fromLatin1(name) << QString::fromLatin1(family);
    }
    void plainSamplesGoOn() {
        QFETCH(QString, name);
        QFETCH(QString, family);
        for (const auto& order : std::vector<std::vector<std::size_t>>{{0, 1}, {1, 0}, {0, 1, 2}}) {
            const auto card = writeShuffled(name, order);
            const auto places = card.places.at(name);
            const auto joined = plain(family.toStdString(), card.bytes, places[0].offset);
            QVERIFY(joined);
            QCOMPARE(bytesAt(card.bytes, *joined), mediaFile(name));
        }
    }
    // Without its second half, or with a cluster of it gone, there is no chain as long as the header says.
    void aRecordingWithAGapIsNotPutTogether() {
        const auto name = QStringLiteral("stereo.wav");
        const auto card = writeShuffled(name, {0, 1});
        const auto places = card.places.at(name);
        auto gone = card.bytes;
        const auto noise = randomBytes(places[1].length, 9);
        std::copy(noise.begin(), noise.end(), gone.begin() + static_cast<std::ptrdiff_t>(places[1].offset));
        QVERIFY(!plain("wav", gone, places[0].offset));
        auto gap = card.bytes;
        std::copy_n(noise.begin(), kCluster,
                    gap.begin() + static_cast<std::ptrdiff_t>(places[1].offset + 2 * kCluster));
        QVERIFY(!plain("wav", gap, places[0].offset));
    }
};

QTEST_GUILESS_MAIN(TestJoiners)
#include "test_joiners.moc"
