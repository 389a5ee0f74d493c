// What photos hold of themselves in their headers, and what it tells of the bytes behind: by pictures of
// independent encoders, and another decoder's reading of the small ones.
#include <QTemporaryDir>
#include <QTest>

#include "formats/exif.h"
#include "formats/jpeg/own_thumbnail.h"
#include "formats/jpeg/small_picture.h"
#include "media/worker/preview_match.h"
#include "rebuild/photo_joiner.h"
#include "rebuild/photo_splice.h"
#include "tests/support/cards.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;
using Told = rebuild::JoinedPhoto::Told;

namespace {

void put(Buffer& into, std::uint64_t value, int bytes) {
    for (int i = bytes - 1; i >= 0; --i) into.push_back(static_cast<std::uint8_t>(value >> (8 * i)));
}

// A block of Exif, big end first, with a thumbnail in its second directory.
Buffer exifBlock(const Buffer& thumbnail) {
    Buffer block{'M', 'M', 0, 42};
    put(block, 8, 4);
    put(block, 1, 2);  // the first: its only entry an orientation
    put(block, 0x0112'0003, 4);
    put(block, 1, 4);
    put(block, 1, 2);
    put(block, 0, 2);
    put(block, 26, 4);
    put(block, 2, 2);
    for (const auto& [tag, value] :
         {std::pair<std::uint64_t, std::uint64_t>{0x201, 56}, {0x202, thumbnail.size()}}) {
        put(block, tag, 2);
        put(block, 4, 2);
        put(block, 1, 4);
        put(block, value, 4);
    }
    put(block, 0, 4);
    block.insert(block.end(), thumbnail.begin(), thumbnail.end());
    return block;
}

Buffer withThumbnail(const Buffer& photo, const Buffer& thumbnail) {
    const auto block = exifBlock(thumbnail);
    Buffer file(photo.begin(), photo.begin() + 2);
    put(file, 0xffe1, 2);
    put(file, block.size() + 8, 2);
    for (const char letter : {'E', 'x', 'i', 'f', '\0', '\0'})
        file.push_back(static_cast<std::uint8_t>(letter));
    file.insert(file.end(), block.begin(), block.end());
    file.insert(file.end(), photo.begin() + 2, photo.end());
    return file;
}

// Of a PGM with 8 bits a sample.
Grey readPgm(const QString& name) {
    const auto bytes = mediaFile(name);
    const QByteArray head(reinterpret_cast<const char*>(bytes.data()), 15);
    const auto words = head.simplified().split(' ');
    Grey grey{words[1].toUInt(), words[2].toUInt(), {}};
    const auto count = std::size_t{grey.width} * grey.height;
    grey.samples.assign(bytes.end() - static_cast<std::ptrdiff_t>(count), bytes.end());
    return grey;
}

struct Decoded {
    jpeg::DcPlanes planes;
    jpeg::StreamDecoder decoder{&planes};
    explicit Decoded(const Buffer& photo) { decoder.feed(photo, true); }
    std::uint64_t mcus() const { return std::uint64_t{decoder.frame().mcusWide} * decoder.frame().mcusHigh; }
    std::uint64_t rows(double share) const {
        return static_cast<std::uint64_t>(share * decoder.frame().mcusHigh) * decoder.frame().mcusWide;
    }
};

// A photo with a restart marker behind each row of MCUs, of whose rows these stand where those should.
Buffer withRowsFromElsewhere(const Buffer& photo, std::size_t first, std::size_t count, std::size_t from) {
    std::vector<std::size_t> rows;  // where each begins; the last entry is the end marker
    for (std::size_t at = 0; at + 1 < photo.size(); ++at) {
        if (photo[at] != 0xff) continue;
        const auto code = photo[at + 1];
        if (code == 0xda) rows.push_back(at + 2 + (std::size_t{photo[at + 2]} << 8 | photo[at + 3]));
        if (code >= 0xd0 && code <= 0xd7) rows.push_back(at + 2);
        if (code == 0xd9) rows.push_back(at + 2);
    }
    Buffer changed(photo.begin(), photo.begin() + static_cast<std::ptrdiff_t>(rows[0]));
    for (std::size_t row = 0; row + 1 < rows.size(); ++row) {
        const auto taken = row >= first && row < first + count ? row - first + from : row;
        changed.insert(changed.end(), photo.begin() + static_cast<std::ptrdiff_t>(rows[taken]),
                       photo.begin() + static_cast<std::ptrdiff_t>(rows[taken + 1]) - 2);
        changed.push_back(0xff);
        changed.push_back(static_cast<std::uint8_t>(row + 2 == rows.size() ? 0xd9 : 0xd0 + row % 8));
    }
    return changed;
}

}  // namespace

class TestThumbnails : public QObject {
    Q_OBJECT
    Cards cards_;

    // Shots of one scene, one right after the other, by another encoder.
    static std::vector<Buffer> burst(std::size_t count, const QStringList& coding) {
        const QTemporaryDir dir;
        const auto path = dir.filePath(QStringLiteral("taken.ppm"));
        const auto coded = dir.filePath(QStringLiteral("taken.jpg"));
        const auto scene = QStringLiteral(DRESKEL_FIXTURES "/media/baseline-420.jpg");
        if (command(QStringLiteral("djpeg"), {"-outfile", path, scene}).exitCode != 0) qFatal("no scene");
        const auto samples = readFile(path);
        const auto small = mediaFile(QStringLiteral("small-plain.jpg"));
        std::mt19937 dice(11);
        std::vector<Buffer> shots;
        for (std::size_t shot = 0; shot < count; ++shot) {
            auto taken = samples;
            const auto moved = 3 * (dice() % 4);  // by pixels to the left
            const auto light = 0.99 + 0.005 * static_cast<double>(dice() % 5);
            for (std::size_t at = 20; at < taken.size(); ++at) {
                const auto from = std::min(at + moved, taken.size() - 1);
                const auto level = samples[from] * light + static_cast<double>(dice() % 9) - 4;
                taken[at] = static_cast<std::uint8_t>(std::clamp(level, 0.0, 255.0));
            }
            writeFile(path, taken);
            const auto arguments = coding + QStringList{"-quality", "88", "-outfile", coded, path};
            if (command(QStringLiteral("cjpeg"), arguments).exitCode != 0) qFatal("not coded");
            shots.push_back(withThumbnail(readFile(coded), small));
        }
        return shots;
    }

  private Q_SLOTS:
    void smallPicturesDecode_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"plain", "restarting", "grey", "odd", "framed"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void smallPicturesDecode() {
        QFETCH(QString, name);
        const auto found = jpeg::decodeSmall(mediaFile(QStringLiteral("small-%1.jpg").arg(name)));
        const auto expected = readPgm(QStringLiteral("small-%1.pgm").arg(name));
        QVERIFY(found.has_value());
        QCOMPARE(found->width, expected.width);
        QCOMPARE(found->height, expected.height);
        QCOMPARE(found->samples.size(), expected.samples.size());
        for (std::size_t i = 0; i < expected.samples.size(); ++i)
            QVERIFY(std::abs(found->samples[i] - expected.samples[i]) <= 1);
    }
    void whatIsNoSmallPictureDoesNotDecode() {
        QVERIFY(!jpeg::decodeSmall(mediaFile(QStringLiteral("small-progressive.jpg"))));
        QVERIFY(!jpeg::decodeSmall(mediaFile(QStringLiteral("baseline-420.jpg"))));  // too large
        const auto small = mediaFile(QStringLiteral("small-restarting.jpg"));
        for (std::size_t length = 0; length < small.size() - 8; length += 37)
            QVERIFY(!jpeg::decodeSmall(Bytes(small).first(length)));
        // Whatever stands in it, it comes to an end, and gives a picture of the size stated or none.
        std::mt19937 dice(5);
        for (int i = 0; i < tries(600); ++i) {
            auto hurt = small;
            for (int hit = 0; hit < 4; ++hit) hurt[dice() % hurt.size()] = static_cast<std::uint8_t>(dice());
            const auto found = jpeg::decodeSmall(hurt);
            if (found) QCOMPARE(found->samples.size(), std::size_t{found->width} * found->height);
        }
    }
    void itIsFoundInTheHeader() {
        const auto small = mediaFile(QStringLiteral("small-plain.jpg"));
        const auto block = exifBlock(small);
        const auto found = thumbnailIn(block);
        QCOMPARE(Buffer(found.begin(), found.end()), small);
        QVERIFY(thumbnailIn(Bytes(block).first(40)).empty());
        QVERIFY(thumbnailIn(small).empty());
    }
    // Its own rows are what it shows, another's are not; framed in black or not.
    void itKnowsItsOwnPicture_data() {
        QTest::addColumn<QString>("photo");
        QTest::addColumn<QString>("small");
        QTest::newRow("as it is") << QStringLiteral("baseline-420.jpg") << QStringLiteral("small-plain.jpg");
        QTest::newRow("framed") << QStringLiteral("baseline-422.jpg") << QStringLiteral("small-framed.jpg");
        QTest::newRow("bands") << QStringLiteral("bands.jpg") << QStringLiteral("small-bands.jpg");
    }
    void itKnowsItsOwnPicture() {
        QFETCH(QString, photo);
        QFETCH(QString, small);
        const auto file = withThumbnail(mediaFile(photo), mediaFile(small));
        Decoded decoded(file);
        const auto thumbnail = jpeg::OwnThumbnail::in(file, decoded.decoder.frame());
        QVERIFY(thumbnail != nullptr);
        const auto learnt = thumbnail->learn(decoded.planes, decoded.rows(0.3));
        QVERIFY(learnt.has_value());
        const auto before = decoded.planes.planes[0].dc;
        for (double from = 0; from < 0.9; from += 0.1) {
            const auto own =
                thumbnail->strain(decoded.planes, *learnt, decoded.rows(from), decoded.rows(from + 0.1));
            QVERIFY(own && *own < 0.8);
        }
        QVERIFY(!thumbnail->strangeFrom(decoded.planes));
        // Its lower half, upside down.
        auto& dc = decoded.planes.planes[0].dc;
        std::reverse(dc.begin() + static_cast<std::ptrdiff_t>(dc.size() / 2), dc.end());
        const auto other = thumbnail->strain(decoded.planes, *learnt, decoded.rows(0.5), decoded.mcus());
        QVERIFY(other && *other > 1.2);
        // What is no picture of it is not believed.
        const auto another = withThumbnail(mediaFile(photo), mediaFile(QStringLiteral("small-odd.jpg")));
        const auto wrong = jpeg::OwnThumbnail::in(another, decoded.decoder.frame());
        QVERIFY(wrong && !wrong->learn(decoded.planes, decoded.rows(0.5)));
    }
    // Bands of 168 rows of pixels: an edge in every tenth row of MCUs or eleventh, and nowhere else.
    void itShowsTheEdgesOfItsPicture() {
        const auto file = withThumbnail(mediaFile(QStringLiteral("bands.jpg")),
                                        mediaFile(QStringLiteral("small-bands.jpg")));
        Decoded decoded(file);
        const auto thumbnail = jpeg::OwnThumbnail::in(file, decoded.decoder.frame());
        const auto learnt = thumbnail->learn(decoded.planes, decoded.mcus());
        QVERIFY(learnt.has_value());
        const auto wide = decoded.decoder.frame().mcusWide;
        for (std::uint64_t row = 0; row + 1 < decoded.decoder.frame().mcusHigh; ++row) {
            const auto fromEdge = [](std::uint64_t y) { return std::min(y % 168, 168 - y % 168); };
            const auto there = std::min(fromEdge(row * 16), fromEdge(row * 16 + 16));
            const bool near = there <= 8, far = there > 40;
            const bool shown = thumbnail->showsEdge(*learnt, row * wide);
            if (near && row > 8 && row < 60) QVERIFY2(shown, qPrintable(QString::number(row)));
            if (far) QVERIFY2(!shown, qPrintable(QString::number(row)));
        }
    }
    // Rows of the same photo, coded alike, where others should be: it decodes to its end, and every row
    // begins where one may.
    void rowsFromElsewhereShow() {
        const auto photo = mediaFile(QStringLiteral("restart-row.jpg"));
        const auto small = mediaFile(QStringLiteral("small-plain.jpg"));
        const auto fine = measureWith("jpeg", withThumbnail(photo, small));
        QVERIFY2(fine.condition == Condition::Whole, fine.why.c_str());
        const auto changed = withRowsFromElsewhere(photo, 45, 25, 2);
        QVERIFY(measureWith("jpeg", changed).condition == Condition::Whole);  // nothing else tells
        const auto seen = measureWith("jpeg", withThumbnail(changed, small));
        QVERIFY(seen.condition == Condition::Partial);
        QVERIFY2(seen.why.find("thumbnail") != std::string::npos, seen.why.c_str());
        QVERIFY(std::abs(seen.decoded - 45.0 / 75) < 0.08);
    }
    // An edge from side to side just at a join is rougher than any wrong place may be: only that the
    // thumbnail has it, too, tells that it is the picture's own.
    // Two whole photos of four hundred were called partial: how light goes with light says nothing of how
    // dark goes with dark.
    void whatWasLearntOfLightDoesNotHoldForDark() {
        constexpr std::uint32_t kWide = 160, kHigh = 120, kBlocks = 2, kDark = 60;  // blocks a pixel
        const auto wave = [](double x, double y, double phase) {
            return std::sin(x / 9 + phase) * std::cos(y / (7 + phase));
        };
        const auto levelAt = [&](std::uint32_t x, std::uint32_t y) {
            return y < kDark ? 180 + 40 * wave(x, y, 0) : 60 + 40 * wave(x, y, 0);
        };
        Grey small{kWide, kHigh, {}};
        for (std::uint32_t y = 0; y < kHigh; ++y)
            for (std::uint32_t x = 0; x < kWide; ++x)
                small.samples.push_back(static_cast<std::uint8_t>(levelAt(x, y)));
        // Its dark part as `dark` has it, by pixels of the small picture.
        const auto isAnother = [&](const std::function<double(std::uint32_t, std::uint32_t)>& dark) {
            std::vector<std::int16_t> means;
            for (std::uint32_t y = 0; y < kHigh * kBlocks; ++y) {
                for (std::uint32_t x = 0; x < kWide * kBlocks; ++x) {
                    const auto px = x / kBlocks, py = y / kBlocks;
                    means.push_back(static_cast<std::int16_t>(py < kDark ? levelAt(px, py) : dark(px, py)));
                }
            }
            const BlockMeans picture{means.data(), kWide * kBlocks, kWide * kBlocks, kHigh * kBlocks, 1, 0};
            const ThumbnailMatch match(small, kWide * kBlocks, kHigh * kBlocks, double(kWide) / kHigh);
            const auto learnt = match.learn(picture, kDark * kBlocks);
            if (!learnt || !learnt->sure) qFatal("nothing is learnt");
            const auto strain = match.strain(picture, *learnt, kDark * kBlocks, kHigh * kBlocks);
            if (!strain || *strain < 2) qFatal("nothing to doubt");
            return match.isAnother(picture, *learnt, kDark * kBlocks, kHigh * kBlocks);
        };
        QVERIFY(!isAnother([&](auto x, auto y) { return levelAt(x, y) * 0.6 + 90; }));
        QVERIFY(isAnother([&](auto x, auto y) { return 150 + 40 * wave(x, y, 2); }));
        QVERIFY(isAnother([&](auto, auto) { return 170.0; }));
    }
    void edgesThatItShowsMayLieAtJoins() {
        constexpr std::size_t cluster = 4096;
        const auto photo = mediaFile(QStringLiteral("bands.jpg"));
        const auto file = withThumbnail(photo, mediaFile(QStringLiteral("small-bands.jpg")));
        auto blind = file;  // the same without a thumbnail: the marker it begins with is gone
        blind[2 + 10 + 56] = 0;
        int helped = 0;
        for (const std::size_t cut : {41U, 42U, 43U, 44U, 84U, 85U, 86U, 126U, 127U, 128U}) {
            const auto joined = [&](const Buffer& from) {
                auto bytes = randomBytes(3 * cluster, 1);
                const auto start = bytes.size();
                bytes.insert(bytes.end(), from.begin(),
                             from.begin() + static_cast<std::ptrdiff_t>(cut * cluster));
                const auto noise = randomBytes(5 * cluster, 2);
                bytes.insert(bytes.end(), noise.begin(), noise.end());
                const auto second = bytes.size();
                bytes.insert(bytes.end(), from.begin() + static_cast<std::ptrdiff_t>(cut * cluster),
                             from.end());
                bytes.resize((bytes.size() / cluster + 4) * cluster, 0);
                auto view = cards_.viewOf(bytes);
                const Control control;
                const rebuild::Pool pool(view, {{0, bytes.size()}}, cluster, 0, control);
                const auto found = rebuild::joinPhoto(
                    view, start, pool, control, {.time = std::chrono::milliseconds(1000), .rough = true});
                return found && found->told == Told::Whole && found->places.size() == 2 &&
                       found->places[1].offset == second;
            };
            QVERIFY2(joined(file), qPrintable(QString::number(cut)));
            helped += joined(blind) ? 0 : 1;
        }
        QVERIFY(helped > 0);
    }
    // The thumbnail of one photo of a burst shows the others, too: from shot to shot the hand moves, the
    // light changes, and the sensor's noise is new. Each goes on with its own pieces, and one of which a
    // piece is lost is not told.
    void aBurstIsNotMixed_data() {
        QTest::addColumn<QStringList>("coding");
        QTest::newRow("without restart markers") << QStringList{};
        QTest::newRow("a restart marker a row") << QStringList{"-restart", "1"};
        QTest::newRow("restart markers in the row") << QStringList{"-restart", "12B"};
    }
    void aBurstIsNotMixed() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QStringList, coding);
        constexpr std::size_t cluster = 4096, kShots = 6, kPieces = 3;
        const auto shots = burst(kShots, coding);
        Buffer card = randomBytes(2 * cluster, 1);
        std::vector<std::vector<ByteRange>> places(kShots);
        const auto third = shots[0].size() / cluster / kPieces;
        const auto lost = [](std::size_t shot) { return shot % 2 == 1; };  // its middle piece
        for (std::size_t piece = 0; piece < kPieces; ++piece) {
            for (std::size_t shot = 0; shot < kShots; ++shot) {
                const auto& file = shots[shot];
                const auto from = piece * third * cluster;
                const auto to = piece + 1 == kPieces ? file.size() : from + third * cluster;
                places[shot].push_back({card.size(), to - from});
                const auto noise = randomBytes(to - from, static_cast<unsigned>(shot));
                const auto bytes = piece == 1 && lost(shot) ? Bytes(noise) : slice(file, from, to - from);
                card.insert(card.end(), bytes.begin(), bytes.end());
                card.resize((card.size() / cluster + 3) * cluster, 0);
            }
        }
        auto view = cards_.viewOf(card);
        const Control control;
        rebuild::Pool pool(view, {{0, card.size()}}, cluster, 0, control);
        for (std::size_t shot = 0; shot < kShots; ++shot) {
            rebuild::PhotoJoinLimits limits;
            if (lost(shot)) limits.time = std::chrono::seconds(2);
            const auto found = rebuild::joinPhoto(view, places[shot][0].offset, pool, control, limits);
            const bool told = found && found->told == Told::Whole;
            QVERIFY2(told != lost(shot), qPrintable(QString::number(shot)));
            if (!told) continue;
            QCOMPARE(found->places.size(), kPieces);
            for (std::size_t i = 0; i < kPieces; ++i) {
                QCOMPARE(found->places[i].offset, places[shot][i].offset);
                QCOMPARE(found->places[i].length, places[shot][i].length);
            }
            pool.take(found->places);
        }
    }
    // On the splice bench what it shows is said of what could follow, and counts.
    void itSpeaksOfWhatCouldFollow() {
        constexpr std::size_t cluster = 4096;
        const auto file = withThumbnail(mediaFile(QStringLiteral("baseline-422.jpg")),
                                        mediaFile(QStringLiteral("small-framed.jpg")));
        const auto clusters = (file.size() + cluster - 1) / cluster;
        const auto cut = clusters / 2, other = clusters * 3 / 4;
        Buffer card = randomBytes(2 * cluster, 1);
        const auto lay = [&](std::size_t from, std::size_t to) {
            const auto at = card.size();
            card.insert(card.end(), file.begin() + static_cast<std::ptrdiff_t>(from * cluster),
                        file.begin() + static_cast<std::ptrdiff_t>(std::min(to * cluster, file.size())));
            card.resize((card.size() / cluster + 3) * cluster, 0);
            return at;
        };
        const auto first = lay(0, cut), last = lay(other, clusters), second = lay(cut, other);
        auto view = cards_.viewOf(card);
        const Control control;
        const rebuild::Pool pool(view, {{0, card.size()}}, cluster, 0, control);
        rebuild::PhotoSplice splice(view, pool, cluster);
        const std::vector<ByteRange> places{{first, cut * cluster}};
        QVERIFY(!splice.look(places, 320).complete);
        const auto found = splice.followers(places, 8, 320, control);
        QVERIFY(!found.best.empty());
        QCOMPARE(found.best[0].place.offset, std::uint64_t{second});
        QVERIFY(found.best[0].why.find("it is what the photo's thumbnail shows") != std::string::npos);
        for (const auto& each : found.best) {
            if (each.place.offset == last)
                QVERIFY(each.why.find("it is what the photo's thumbnail shows") == std::string::npos);
        }
    }
    // Sensor data by a curve of their own, of a camera that frames its previews.
    void sensorDataAreHeldAgainstPreviews() {
        const auto shown = readPgm(QStringLiteral("small-plain.pgm"));
        media::SensorSamples sensor;
        sensor.left = 8;
        sensor.top = 4;
        sensor.width = shown.width * 12;
        sensor.height = shown.height * 12;
        sensor.stride = sensor.width + 20;
        sensor.black = 200;
        sensor.white = 4095;
        std::vector<std::uint16_t> samples(sensor.stride * (sensor.height + 6));
        std::mt19937 dice(3);
        for (std::uint32_t y = 0; y < sensor.height; ++y) {
            for (std::uint32_t x = 0; x < sensor.width; ++x) {
                const double level = shown.samples[std::size_t{y / 12} * shown.width + x / 12] / 255.0;
                const auto light = std::pow(level, 1.9) * 3000 + static_cast<double>(dice() % 60);
                samples[(y + sensor.top) * sensor.stride + x + sensor.left] =
                    static_cast<std::uint16_t>(200 + light * ((x + y) % 2 == 0 ? 1.0 : 0.7));
            }
        }
        Picture preview{shown.width, shown.height, {}};
        for (const auto level : shown.samples) preview.rgb.insert(preview.rgb.end(), 3, level);
        sensor.all = samples;
        QVERIFY(!media::strangeFrom(sensor, preview));
        // Rows 900 and on from elsewhere.
        auto changed = samples;
        std::copy(samples.begin(), samples.begin() + static_cast<std::ptrdiff_t>(sensor.stride * 500),
                  changed.begin() + static_cast<std::ptrdiff_t>(sensor.stride * 900));
        sensor.all = changed;
        const auto strange = media::strangeFrom(sensor, preview);
        QVERIFY(strange && *strange > 800 && *strange < 1000);
        // Fewer samples than stated.
        sensor.all = std::span(changed).first(changed.size() / 2);
        QVERIFY(!media::strangeFrom(sensor, preview));
    }
};

QTEST_GUILESS_MAIN(TestThumbnails)
#include "test_thumbnails.moc"
