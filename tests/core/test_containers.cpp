#include <cmath>
#include <QTest>

#include "formats/exif.h"
#include "formats/isobmff/boxes.h"
#include "formats/loud_noise.h"
#include "formats/registry.h"
#include "formats/riff/pcm_check.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestContainers : public QObject {
    Q_OBJECT

    static std::string_view familyOf(const QString& name) {
        return name.endsWith(QLatin1String(".wav")) ? "wav" : "isobmff";
    }
    static void addFiles() {
        QTest::addColumn<QString>("name");
        for (const auto* pattern : {"*.mp4", "*.mov", "*.m4a", "*.3gp", "*.wav"}) {
            for (const auto& name : mediaNames(QString::fromLatin1(pattern)))
                QTest::newRow(qPrintable(name)) << name;
        }
    }

  private Q_SLOTS:
    // Cameras put boxes of their own between those of the standard, too.
    void aCamerasOwnBoxesArePassedOver() {
        const auto clip = mediaFile(QStringLiteral("h264-last.mp4"));
        const auto box = [](const char* type, std::size_t body) {
            Buffer bytes(8 + body, 0x11);
            for (unsigned i = 0; i < 4; ++i) {
                bytes[i] = static_cast<std::uint8_t>(bytes.size() >> (24 - 8 * i));
                bytes[4 + i] = static_cast<std::uint8_t>(type[i]);
            }
            return bytes;
        };
        const auto lengthOf = [&](const Buffer& behind) {
            auto all = clip;
            all.insert(all.end(), behind.begin(), behind.end());
            all.resize(all.size() + 70000, 0);
            const auto measured = measureWith("isobmff", all);
            return measured.accepted ? measured.length - clip.size() : std::uint64_t{1} << 40;
        };
        auto own = box("AmBa", 3000);
        QCOMPARE(lengthOf(own), std::uint64_t{0});  // a box of whatever follows, for all one knows
        const auto known = box("free", 100);
        own.insert(own.end(), known.begin(), known.end());
        QCOMPARE(lengthOf(own), std::uint64_t{own.size()});
        QCOMPARE(lengthOf(known), std::uint64_t{known.size()});
        QCOMPARE(lengthOf(randomBytes(9000, 3)), std::uint64_t{0});
        QCOMPARE(lengthOf(Buffer(9000, 'a')), std::uint64_t{0});
    }
    // A recorder that lost power leaves lengths that are none. Behind the sound: nothing, coded data, another
    // recording.
    void aRecordingThatWasNeverClosedEndsWithItsSound_data() {
        QTest::addColumn<quint32>("riff");
        QTest::addColumn<quint32>("data");
        QTest::addColumn<QString>("behind");
        const std::pair<quint32, quint32> none[] = {
            {0, 0}, {36, 0}, {0xffffffff, 0xffffffff}, {0x7ffff024, 0x7ffff000}};
        for (const auto& [riff, data] : none) {
            for (const auto* behind : {"", "baseline-420.jpg", "deep.wav"})
                QTest::addRow("%x, %s", data + riff, behind) << riff << data << QString::fromLatin1(behind);
        }
    }
    void aRecordingThatWasNeverClosedEndsWithItsSound() {
        QFETCH(quint32, riff);
        QFETCH(quint32, data);
        QFETCH(QString, behind);
        auto file = mediaFile(QStringLiteral("stereo.wav"));
        constexpr std::string_view mark = "data";
        const auto at = std::search(file.begin(), file.end(), mark.begin(), mark.end()) - file.begin();
        file.resize(file.size() / 4096 * 4096);
        for (unsigned i = 0; i < 4; ++i) {
            file[4 + i] = static_cast<std::uint8_t>(riff >> (8 * i));
            file[static_cast<std::size_t>(at) + 4 + i] = static_cast<std::uint8_t>(data >> (8 * i));
        }
        auto card = file;
        if (!behind.isEmpty()) {
            const auto other = mediaFile(behind);
            card.insert(card.end(), other.begin() + 8192, other.end());
        }
        card.resize(card.size() + 300000, 0);
        const auto measured = measureWith("wav", card);
        QVERIFY(measured.accepted);
        QVERIFY(measured.condition == Condition::Partial);
        QCOMPARE(measured.length, std::uint64_t{file.size()});
        QVERIFY(measured.description.duration.value_or(0) > 5);
    }
    void tellsWhereAClipWasRecorded() {
        const auto measured = measureWith("isobmff", mediaFile(QStringLiteral("placed.mov")));
        QVERIFY(measured.description.position.has_value());
        QCOMPARE(measured.description.position->latitude, 59.2741);
        QCOMPARE(measured.description.position->longitude, 10.4072);
        QCOMPARE(measured.notes, std::vector<std::string>{"it also holds a timecode"});
        QVERIFY(!positionFrom("+00.0000+000.0000/"));
        QVERIFY(!positionFrom("+95.0000+010.0000/"));
        QVERIFY(!positionFrom("59 north"));
    }
    void tellsWhereAPhotoWasTaken() {
        // A TIFF block with nothing but a GPS directory: 59 16.446 N, 10 24.432 W (CIPA DC-008, 4.6.6).
        const auto entry = [](unsigned tag, unsigned type, unsigned count, unsigned value) {
            Buffer bytes;
            for (const unsigned part : {tag, type})
                for (int i = 0; i < 2; ++i) bytes.push_back(static_cast<std::uint8_t>(part >> (8 * i)));
            for (const unsigned part : {count, value})
                for (int i = 0; i < 4; ++i) bytes.push_back(static_cast<std::uint8_t>(part >> (8 * i)));
            return bytes;
        };
        Buffer block{'I', 'I', 42, 0, 8, 0, 0, 0, 1, 0};
        const auto add = [&](const Buffer& bytes) { block.insert(block.end(), bytes.begin(), bytes.end()); };
        add(entry(0x8825, 4, 1, 26));
        add({0, 0, 0, 0, 4, 0});
        add(entry(1, 2, 2, 'N'));
        add(entry(2, 5, 3, 80));
        add(entry(3, 2, 2, 'W'));
        add(entry(4, 5, 3, 104));
        add({0, 0, 0, 0});
        for (const unsigned number : {59U, 1U, 16446U, 1000U, 0U, 1U, 10U, 1U, 24432U, 1000U, 0U, 0U})
            for (int i = 0; i < 4; ++i) block.push_back(static_cast<std::uint8_t>(number >> (8 * i)));
        Description about;
        QVERIFY(readExif(block, about));
        QVERIFY(about.position.has_value());
        QVERIFY(std::abs(about.position->latitude - 59.2741) < 1e-9);
        QVERIFY(std::abs(about.position->longitude + 10.4072) < 1e-9);
        // Cut anywhere it is no position, and no crash.
        for (std::size_t length = 0; length < block.size(); ++length)
            static_cast<void>(readExif(Bytes(block).first(length), about));
    }
    void measuresToTheLastByte_data() { addFiles(); }
    void measuresToTheLastByte() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        for (int behind = 0; behind < 3; ++behind) {
            auto longer = bytes;
            auto tail = randomBytes(9000, 4);
            if (behind == 1) std::fill(tail.begin(), tail.end(), std::uint8_t{0});
            if (behind == 2) tail = mediaFile(name);  // the next recording begins right behind
            longer.insert(longer.end(), tail.begin(), tail.end());
            const auto measured = measureWith(familyOf(name), longer);
            QVERIFY2(measured.accepted, measured.why.c_str());
            QCOMPARE(measured.length, static_cast<std::uint64_t>(bytes.size()));
            QCOMPARE(QString::fromStdString(measured.format), name.section(QLatin1Char('.'), -1));
            QVERIFY(measured.why.empty());
            // A fragmented file's index does not say how long it is; decoding tells.
            QVERIFY(measured.description.duration.value_or(0) > 1 ||
                    name.startsWith(QStringLiteral("fragmented")));
            QVERIFY(formatFor(measured.format) != nullptr);
        }
    }
    void isRecognisedByItsHead_data() { addFiles(); }
    void isRecognisedByItsHead() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        int matches = 0;
        for (const auto* format : allFormats()) matches += format->matches(slice(bytes, 0, 512)) ? 1 : 0;
        QCOMPARE(matches, 1);
        QVERIFY(familyNamed(familyOf(name))->matches(slice(bytes, 0, 512)));
    }
    void survivesHostileLengths_data() { addFiles(); }
    void survivesHostileLengths() {
        QFETCH(QString, name);
        auto bytes = mediaFile(name);
        // Every 32-bit number of head and index in turn at its worst.
        const std::uint8_t worst[][4] = {
            {0, 0, 0, 0}, {0xff, 0xff, 0xff, 0xff}, {0x7f, 0xff, 0xff, 0xff}, {0, 0, 0, 1}};
        std::mt19937 random(11);
        // Of a WAV all but the first bytes are samples, and each round listens to all of them.
        const int rounds = name.endsWith(QLatin1String(".wav")) ? 60 : 400;
        for (int round = 0; round < rounds; ++round) {
            auto damaged = bytes;
            const auto end = round % 2 == 0 ? std::size_t{256} : damaged.size() - 4;
            const auto from =
                round % 4 == 1 ? damaged.size() - std::min<std::size_t>(damaged.size(), 3000) : 0;
            const auto at = std::min(damaged.size() - 4, from + random() % (end - std::min(from, end - 1)));
            std::copy_n(worst[round % 4], 4, damaged.begin() + static_cast<std::ptrdiff_t>(at));
            const auto measured = measureWith(familyOf(name), damaged);
            QVERIFY(measured.proven <= measured.length || !measured.accepted);
        }
    }
    // Some write a pack a second only; a first piece of a quarter of a megabyte is a recording nevertheless.
    void fewPacksMakeAProgramStream() {
        const auto bytes = mediaFile(QStringLiteral("elder.mpg"));
        const auto packsIn = [&](std::size_t count) {
            const std::string_view pack("\0\0\1\xba", 4),
                all(reinterpret_cast<const char*>(bytes.data()), count);
            int packs = 0;
            for (auto at = all.find(pack); at != std::string_view::npos; at = all.find(pack, at + 1)) ++packs;
            return packs;
        };
        constexpr std::size_t enough = 200000, tooFew = 20000;
        QCOMPARE(packsIn(enough), 2);
        QVERIFY(measureWith("program", Bytes(bytes).first(enough)).accepted);
        QVERIFY(!measureWith("program", Bytes(bytes).first(tooFew)).accepted);
    }
    // Other data in the middle of a Matroska file: all of it is there when its end is where it should be.
    void aSegmentGoesOnBehindOtherData_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"h264.mkv", "vp9.webm"}) QTest::newRow(name) << QString::fromLatin1(name);
    }
    void aSegmentGoesOnBehindOtherData() {
        QFETCH(QString, name);
        const auto good = mediaFile(name);
        auto bytes = good;
        const auto from = bytes.size() * 2 / 5;
        const std::size_t length = bytes.size() / 20;
        const auto noise = randomBytes(length, 5);
        std::copy(noise.begin(), noise.end(), bytes.begin() + static_cast<std::ptrdiff_t>(from));
        const auto behind = randomBytes(50000, 6);
        bytes.insert(bytes.end(), behind.begin(), behind.end());
        const auto found = measureWith("matroska", bytes);
        QVERIFY(found.accepted);
        QVERIFY(found.condition == Condition::Partial);
        QCOMPARE(found.length, std::uint64_t{good.size()});
        QVERIFY(found.lost > 0 && found.lost < 2 * length);
        QVERIFY(found.proven <= from + length);
        QVERIFY(!found.why.empty());
        // Where it does not lead to its end, nothing says that what follows is its own.
        bytes.resize(good.size() * 4 / 5);
        bytes.insert(bytes.end(), behind.begin(), behind.end());
        bytes.resize(2 * good.size());
        const auto cut = measureWith("matroska", bytes);
        QVERIFY(cut.accepted);
        QVERIFY(cut.condition == Condition::Partial);
        QVERIFY(cut.length <= from + length);
        QCOMPARE(cut.lost, std::uint64_t{0});
    }
    void anIndexThatPointsElsewhereIsSaid() {
        auto bytes = mediaFile(QStringLiteral("h264-last.mp4"));
        const std::string name = "stco";
        const auto at = std::search(bytes.begin(), bytes.end(), name.begin(), name.end());
        QVERIFY(at != bytes.end());
        *(at + 12) = 0x70;  // the first chunk's offset
        const auto measured = measureWith("isobmff", bytes);
        QVERIFY(measured.condition == Condition::Broken);
        QVERIFY(!measured.why.empty());
    }
    void anIndexWithoutAnyMediaIsBroken() {
        auto bytes = mediaFile(QStringLiteral("h264-first.mp4"));
        const std::string name = "mdat";
        const auto at = std::search(bytes.begin(), bytes.end(), name.begin(), name.end());
        QVERIFY(at != bytes.end());
        bytes.erase(at + 4, bytes.end());
        const std::uint8_t untold[] = {0, 0, 0, 0};  // to the end of the file, which a card does not tell
        std::copy(std::begin(untold), std::end(untold), bytes.end() - 8);
        const auto measured = measureWith("isobmff", bytes);
        QVERIFY(measured.condition == Condition::Broken);
        QVERIFY(!measured.why.empty());
    }
    void aClipThatLostItsIndexIsBroken() {
        auto bytes = mediaFile(QStringLiteral("h264-last.mp4"));
        const std::string name = "moov";
        const auto at = std::search(bytes.begin(), bytes.end(), name.begin(), name.end());
        std::fill(at - 4, bytes.end(), std::uint8_t{0});
        const auto measured = measureWith("isobmff", bytes);
        QVERIFY(measured.accepted);
        QVERIFY(measured.condition == Condition::Broken);
        QVERIFY(measured.proven < 1000);
    }
    void strayNamesAreNoFiles() {
        for (unsigned seed = 0; seed < 300; ++seed) {
            auto bytes = randomBytes(20000, seed);
            const std::string head = seed % 2 == 0 ? std::string(
                                                         "\0\0\0\x20"
                                                         "ftypisom",
                                                         12)
                                                   : std::string("RIFF\x00\x40\x00\x00WAVEfmt ", 16);
            std::copy(head.begin(), head.end(), bytes.begin());
            QVERIFY(!measureWith(seed % 2 == 0 ? "isobmff" : "wav", bytes).accepted);
        }
    }
    void stillPicturesAreNotTakenForClips() {
        const std::string head(
            "\0\0\0\x18"
            "ftypheic\0\0\0\0mif1heic",
            24);
        Buffer bytes(head.begin(), head.end());
        bytes.resize(512, 0);
        QVERIFY(!familyNamed("isobmff")->matches(bytes));
    }
    void foreignClustersInARecordingAreNoticed_data() {
        QTest::addColumn<QString>("name");
        for (const auto& name : mediaNames(QStringLiteral("*.wav"))) QTest::newRow(qPrintable(name)) << name;
    }
    void foreignClustersInARecordingAreNoticed() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        QVERIFY(measureWith("wav", bytes).condition == Condition::Whole);
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const std::vector<Buffer> strangers{
            randomBytes(4096, 6), Buffer(photo.begin() + 8192, photo.begin() + 12288), Buffer(4096, 0)};
        for (const auto& stranger : strangers) {
            auto damaged = bytes;
            const auto at = damaged.size() / 2 / 4096 * 4096;
            std::copy(stranger.begin(), stranger.end(), damaged.begin() + static_cast<std::ptrdiff_t>(at));
            const auto measured = measureWith("wav", damaged);
            QVERIFY(measured.condition == Condition::Partial);
            QCOMPARE(measured.proven, static_cast<std::uint64_t>(at));
            QCOMPARE(measured.length, static_cast<std::uint64_t>(bytes.size()));
        }
    }
    void aRecordingThatBreaksOffIsNoticed() {
        auto bytes = mediaFile(QStringLiteral("stereo.wav"));
        std::fill(bytes.begin() + 32768 * 11, bytes.end(), std::uint8_t{0});
        const auto measured = measureWith("wav", bytes);
        QVERIFY(measured.condition == Condition::Partial);
        QCOMPARE(measured.proven, std::uint64_t{32768 * 11});
    }
    void recordedSilenceIsNoDamage() {
        auto bytes = mediaFile(QStringLiteral("stereo.wav"));
        std::fill_n(bytes.begin() + 100000, 50000, std::uint8_t{0});
        QVERIFY(measureWith("wav", bytes).condition == Condition::Whole);
    }
    void tonesOfAnyHeightAreSound() {
        // A sweep through a quarter of the sampling rate, where neighbouring samples have nothing in common.
        std::vector<float> sweep;
        double phase = 0;
        for (int i = 0; i < 48000; ++i) {
            phase += 2 * M_PI * (200 + i / 2.1) / 48000;
            sweep.push_back(static_cast<float>(0.85 * std::sin(phase)));
        }
        for (std::size_t at = 0; at + 2048 <= sweep.size(); at += 512) {
            QVERIFY(!isLoudNoise(std::span(sweep).subspan(at, 2048), 1));
        }
        std::mt19937 random(3);
        std::vector<float> noise;
        for (int i = 0; i < 2048; ++i) noise.push_back(static_cast<float>(random()) / 2147483648.0F - 1.0F);
        QVERIFY(isLoudNoise(noise, 1));
        QVERIFY(isLoudNoise(noise, 2));
    }
    void boxesNeverLeaveTheirParent() {
        const std::uint8_t bytes[] = {0,   0,   0,   16,  'f', 'r', 'e', 'e', 0,   0,   0,   99,
                                      'l', 'e', 'a', 'k', 0,   0,   0,   8,   'n', 'e', 'x', 't'};
        isobmff::BoxWalk walk(bytes);
        const auto outer = walk.next();
        QVERIFY(outer && outer->body.size() == 8);
        isobmff::BoxWalk inner(outer->body);
        QVERIFY(!inner.next());
        QVERIFY(walk.next());
        QVERIFY(!walk.next());
    }
};

QTEST_GUILESS_MAIN(TestContainers)
#include "test_containers.moc"
