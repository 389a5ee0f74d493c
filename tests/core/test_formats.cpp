// Every format on files of independent encoders: found, measured to the byte whatever follows, told from its
// neighbours, and bounded on damaged input.
#include <QRegularExpression>
#include <QTest>

#include "formats/registry.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestFormats : public QObject {
    Q_OBJECT

    // The family that finds a file, by its first bytes.
    static const Format* familyOf(Bytes bytes) {
        for (const auto* format : allFormats()) {
            if (format->matches(bytes.first(std::min(bytes.size(), Format::kHead)))) return format;
        }
        return nullptr;
    }
    static Buffer followedBy(Buffer file, const Buffer& more, std::size_t cluster) {
        file.resize((file.size() + cluster - 1) / cluster * cluster, 0);
        file.insert(file.end(), more.begin(), more.end());
        return file;
    }
    static Buffer only(const QString& name, double share) {
        auto bytes = mediaFile(name);
        bytes.resize(static_cast<std::size_t>(static_cast<double>(bytes.size()) * share));
        return bytes;
    }

  private Q_SLOTS:
    void lengthsAreExact_data() {
        QTest::addColumn<QString>("name");
        auto names = mediaNames();
        // Of the right structure, with noise where sensor data would be.
        names << QStringLiteral("heaps.crw") << QStringLiteral("sections.x3f") << QStringLiteral("parts.raf")
              << QStringLiteral("blocks.mrw") << QStringLiteral("boxes.cr3")
              << QStringLiteral("more-parts.raf") << QStringLiteral("portions.rw2")
              << QStringLiteral("list.iiq") << QStringLiteral("several.jpg") << QStringLiteral("tiles.dng");
        for (const auto& name : names) QTest::newRow(qPrintable(name)) << name;
    }
    void lengthsAreExact() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto* family = familyOf(file);
        QVERIFY(family != nullptr);
        const auto& beginning = formatsBeginning(file[0]);
        QVERIFY(std::find(beginning.begin(), beginning.end(), family) != beginning.end());
        // Behind it: zeros to the end of the cluster and noise; or noise at once, with no slack between.
        for (const std::size_t cluster : {std::size_t{4096}, std::size_t{1}}) {
            // Nothing marks the end of a bare stream but what cannot go on.
            if (cluster == 1 && family->name() == "elementary") continue;
            const auto measured =
                measureWith(family->name(), followedBy(file, randomBytes(200000, 31), cluster));
            QVERIFY2(measured.accepted, measured.why.c_str());
            QCOMPARE(measured.length, std::uint64_t{file.size()});
            QVERIFY2(measured.condition == Condition::Unchecked || measured.condition == Condition::Whole,
                     measured.why.c_str());
            const auto names = family->formats();
            QVERIFY(std::find(names.begin(), names.end(), measured.format) != names.end());
            QVERIFY(family->kindOf(measured.format) == measured.kind);
        }
    }
    // As in the pieces that a directory knows: nothing follows at all.
    void filesMayEndWithTheirSource_data() { lengthsAreExact_data(); }
    void filesMayEndWithTheirSource() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto measured = measureWith(familyOf(file)->name(), file);
        QVERIFY2(measured.accepted, measured.why.c_str());
        QCOMPARE(measured.length, std::uint64_t{file.size()});
        QVERIFY2(measured.condition == Condition::Unchecked || measured.condition == Condition::Whole,
                 measured.why.c_str());
    }
    // Formats that state their length must notice that what is there is less.
    void whatIsCutOffIsNotWhole_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name :
             {"picture.png", "still.gif", "music.ogg", "lossless.flac", "variable.mp3", "h264.avi",
              "h264.mkv", "apple.aiff", "apple.caf", "broadcast.mxf", "simple.wmv"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void whatIsCutOffIsNotWhole() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto* family = familyOf(file);
        auto cut = only(name, 0.6);
        cut.resize(file.size() + 500000);  // zeros where the rest was
        const auto measured = measureWith(family->name(), cut);
        QVERIFY(measured.accepted);
        if (measured.length > cut.size() * 6 / 10 && measured.why.empty()) {
            // The container was stepped over by its stated length; the decoder has to notice then.
            QVERIFY(measured.needsDecoder);
            QVERIFY(measured.condition == Condition::Unchecked);
        } else {
            QCOMPARE(measured.condition, Condition::Partial);
            QVERIFY(!measured.why.empty());
        }
    }
    // A camcorder notes in its pictures when it took them; a stream without the note says nothing.
    void camcordersTellWhenTheyRecorded() {
        const auto taken = [](const char* name) {
            return measureWith("transport", mediaFile(QString::fromLatin1(name))).description.taken;
        };
        QCOMPARE(taken("camcorder.m2ts"), std::string("2026-05-02T07:46:10"));
        QCOMPARE(taken("h264.ts"), std::string());
        auto damaged = mediaFile(QStringLiteral("camcorder.m2ts"));
        const auto note = std::search(damaged.begin(), damaged.end(), "MDPM", "MDPM" + 4);
        QVERIFY(note != damaged.end());
        *(note + 9) = 0x1f;  // no month in BCD
        QCOMPARE(measureWith("transport", damaged).description.taken, std::string());
    }
    void streamsEndWhereTheNextBegins_data() {
        QTest::addColumn<QString>("first");
        QTest::addColumn<QString>("second");
        const auto pair = [](const char* a, const char* b) {
            QTest::newRow(a) << QString::fromLatin1(a) << QString::fromLatin1(b);
        };
        pair("variable.mp3", "constant.mp3");
        pair("bare.mp3", "old.mp3");
        pair("constant.mp3", "variable.mp3");
        pair("music.aac", "music.ogg");
        pair("music.ogg", "music.ogg");
        pair("music.opus", "music.ogg");
        pair("voice.amr", "voice.amr");
        pair("lossless.flac", "deep.flac");
        pair("simple.mpg", "elder.mpg");
        pair("h264.ts", "h264.ts");
        pair("tape.dv", "simple.mpg");
        pair("bare.h264", "bare.hevc");
        pair("bare.hevc", "bare.hevc");
        pair("place.srt", "place.srt");
        pair("rating.xmp", "rating.xmp");
        pair("heaps.crw", "heaps.crw");
        pair("sections.x3f", "heaps.crw");
        pair("parts.raf", "blocks.mrw");
        pair("boxes.cr3", "parts.raf");
    }
    void streamsEndWhereTheNextBegins() {
        QFETCH(QString, first);
        QFETCH(QString, second);
        const auto file = mediaFile(first);
        const auto measured = measureWith(familyOf(file)->name(), followedBy(file, mediaFile(second), 512));
        QCOMPARE(measured.length, std::uint64_t{file.size()});
    }
    // As phones do: a clip at once behind the end marker, or behind a mark and followed by a trailer.
    void aClipBehindAPhotoBelongsToIt() {
        const auto photo = mediaFile(QStringLiteral("fine.jpg"));
        const auto clip = mediaFile(QStringLiteral("h264-first.mp4"));
        QVERIFY(photo.size() % 512 != 0);
        auto both = photo;
        both.insert(both.end(), clip.begin(), clip.end());
        auto measured = measureWith("jpeg", followedBy(both, randomBytes(100000, 3), 4096));
        QCOMPARE(measured.length, std::uint64_t{both.size()});
        QCOMPARE(measured.condition, Condition::Whole);
        const std::string mark("\0\0\x30\x0a\x10\0\0\0MotionPhoto_Data", 24);
        const std::string list("SEFH\x6a\0\0\0\1\0\0\0\0\0\x30\x0a\x30\x12\0\0\x18\x12\0\0\x18\0\0\0SEFT",
                               32);
        auto marked = photo;
        marked.insert(marked.end(), mark.begin(), mark.end());
        marked.insert(marked.end(), clip.begin(), clip.end());
        marked.insert(marked.end(), list.begin(), list.end());
        measured = measureWith("jpeg", followedBy(marked, randomBytes(100000, 3), 4096));
        QCOMPARE(measured.length, std::uint64_t{marked.size()});
        // A clip that begins with the next cluster is a file of its own.
        measured = measureWith("jpeg", followedBy(photo, clip, 4096));
        QCOMPARE(measured.length, std::uint64_t{photo.size()});
    }
    // Of a photo, one without loss, one with opacity in four parts, and an animation.
    void foreignBytesInAWebpAreNoticed_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"picture", "lossless", "opacity", "moving"})
            QTest::newRow(name) << QString::fromLatin1(name) + QStringLiteral(".webp");
    }
    void foreignBytesInAWebpAreNoticed() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        int whole = 0;
        for (unsigned round = 0; round < 20; ++round) {
            auto bytes = file;
            const auto noise = randomBytes(4096, 100 + round);
            const auto at = 512 + (bytes.size() - 4096 - 1024) / 20 * round;
            std::copy(noise.begin(), noise.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
            const auto measured = measureWith("webp", bytes);
            QVERIFY(measured.accepted);
            if (measured.condition != Condition::Partial) ++whole;
        }
        QVERIFY2(whole <= 1, qPrintable(QString::number(whole)));
    }
    // Coded by the library, in several groups of which the middle ones come first, by prefix codes alone, and
    // an animation.
    void aBareJxlIsToldFromBytesWithItsMark_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<unsigned>("width");
        QTest::addColumn<bool>("proven");
        const auto row = [](const char* name, unsigned width, bool proven) {
            QTest::newRow(name) << QString::fromLatin1(name) << width << proven;
        };
        row("bare.jxl", 640, true);
        row("middle-first.jxl", 1203, true);
        row("lossless.jxl", 1203, false);
        row("moving.jxl", 320, true);
    }
    void aBareJxlIsToldFromBytesWithItsMark() {
        QFETCH(QString, name);
        QFETCH(unsigned, width);
        QFETCH(bool, proven);
        const auto file = mediaFile(name);
        QCOMPARE(familyOf(file)->name(), std::string_view("jxl"));
        auto measured = measureWith("jxl", followedBy(file, randomBytes(9000, 8), 1));
        QCOMPARE(measured.length, std::uint64_t{file.size()});
        QCOMPARE(measured.description.width.value_or(0), width);
        QCOMPARE(measured.onlyIfItDecodes, !proven);
        // Its end is gone: a file, but not a whole one, and none where nothing proves it.
        measured = measureWith(
            "jxl", Buffer(file.begin(), file.begin() + static_cast<std::ptrdiff_t>(file.size() / 3)));
        if (measured.accepted)
            QVERIFY(measured.length > file.size() / 3 || measured.condition == Condition::Partial);
        // Its mark before noise.
        for (unsigned i = 0; i < 3000; ++i) {
            auto noise = randomBytes(4096, i);
            noise[0] = 0xff;
            noise[1] = 0x0a;
            const auto stray = measureWith("jxl", noise);
            QVERIFY2(!stray.accepted || stray.onlyIfItDecodes, qPrintable(QString::number(i)));
        }
    }
    // Two strips of odd lengths, each at an even place; the last filled up as the first is, or not.
    void aWriterThatFillsUpDoesSoAtTheEnd() {
        const auto file = [](std::size_t first, std::size_t gap, std::size_t second) {
            constexpr std::uint32_t kData = 200;
            Buffer bytes(kData + first + gap + second, 0x5a);
            std::size_t at = 0;
            const auto put = [&](std::uint64_t number, std::size_t count) {
                for (; count > 0; --count, number >>= 8) bytes[at++] = static_cast<std::uint8_t>(number);
            };
            const auto entry = [&](unsigned tag, unsigned count, std::uint64_t value) {
                put(tag, 2);
                put(4, 2);
                put(count, 4);
                put(value, 4);
            };
            put(0x2a4949, 4);
            put(8, 4);
            put(4, 2);
            entry(0x100, 1, 31);
            entry(0x101, 1, 8);
            entry(0x111, 2, 100);
            entry(0x117, 2, 108);
            put(0, 4);
            at = 100;
            put(kData, 4);
            put(kData + first + gap, 4);
            put(first, 4);
            put(second, 4);
            return bytes;
        };
        const auto length = [](const Buffer& tiff, std::uint8_t behind) {
            auto card = tiff;
            card.push_back(behind);
            card.resize(card.size() + 5000, 0x33);
            return measureWith("tiff", card).length - tiff.size();
        };
        QCOMPARE(length(file(101, 1, 103), 0), std::uint64_t{1});
        QCOMPARE(length(file(101, 1, 103), 7), std::uint64_t{0});
        QCOMPARE(length(file(101, 0, 103), 0), std::uint64_t{0});
        QCOMPARE(length(file(100, 0, 103), 0), std::uint64_t{0});
        QCOMPARE(length(file(101, 1, 104), 0), std::uint64_t{0});
    }
    void notesInAPhotoAreNotItsCodedData() {
        const auto photo = mediaFile(QStringLiteral("tiles.heic"));
        constexpr std::string_view mark = "<?xpacket begin";
        const auto notes = std::search(photo.begin(), photo.end(), mark.begin(), mark.end());
        QVERIFY(notes != photo.end());
        const auto at = static_cast<std::uint64_t>(notes - photo.begin());
        QCOMPARE(at % 512, std::uint64_t{0});
        const auto measured = measureWith("isopicture", photo);
        QCOMPARE(measured.mediaData.size(), std::size_t{12});
        for (const auto& range : measured.mediaData) QVERIFY(!range.contains(at));
    }
    void rawFilesAreToldApartByTheirOwnMarks() {
        const auto format = [](const char* name) {
            return measureWith("tiff", mediaFile(QString::fromLatin1(name))).format;
        };
        QCOMPARE(format("list.iiq"), std::string("iiq"));
        QCOMPARE(format("portions.rw2"), std::string("rw2"));
        QCOMPARE(format("tiles.dng"), std::string("dng"));
        QCOMPARE(format("plain.tif"), std::string("tiff"));
    }
    void rawFilesTellTheirCamera() {
        QCOMPARE(measureWith("raw", mediaFile(QStringLiteral("parts.raf"))).description.camera,
                 std::string("Halden F2"));
        const auto boxes = measureWith("cr3", mediaFile(QStringLiteral("boxes.cr3"))).description;
        QCOMPARE(boxes.camera, std::string("Halden F3"));
        QCOMPARE(boxes.taken, std::string("2026-05-06T18:20:01"));
    }
    void aWebpTellsWhenItWasTaken() {
        const auto file = mediaFile(QStringLiteral("opacity.webp"));
        // As cameras write it: one directory with the date (tag 0x0132).
        const std::string facts(
            "EXIF\x2e\0\0\0II*\0\x08\0\0\0\1\0\x32\1\2\0\x14\0\0\0\x1a\0\0\0\0\0\0\0"
            "2026:05:02 07:46:10\0",
            54);
        auto bytes = file;
        bytes.insert(bytes.end(), facts.begin(), facts.end());
        const auto length = static_cast<std::uint32_t>(bytes.size() - 8);
        std::memcpy(&bytes[4], &length, 4);
        const auto measured = measureWith("webp", bytes);
        QCOMPARE(measured.length, std::uint64_t{bytes.size()});
        QCOMPARE(measured.description.taken, std::string("2026-05-02T07:46:10"));
        QCOMPARE(measured.description.width.value_or(0), 400U);
    }
    void whatEndsWithinARecordIsNotWhole() {
        auto tape = only(QStringLiteral("tape.dv"), 0.55);
        tape.resize(tape.size() / 4096 * 4096);
        auto measured = measureWith("dv", followedBy(tape, randomBytes(200000, 5), 4096));
        QVERIFY(measured.condition == Condition::Partial);

        const std::string text =
            "1\r\n00:00:01,000 --> 00:00:02,000\r\n" + std::string(700, 'a') + "\r\n\r\n";
        const Buffer subtitles(text.begin(), text.end());
        QVERIFY(measureWith("srt", followedBy(subtitles, randomBytes(9000, 5), 512)).condition ==
                Condition::Whole);
        const Buffer front(subtitles.begin(), subtitles.begin() + 512);
        measured = measureWith("srt", followedBy(front, randomBytes(9000, 5), 512));
        QVERIFY(measured.condition == Condition::Partial);
        QCOMPARE(measured.length, std::uint64_t{512});
        // Some recorders end their last line with the file.
        const Buffer unended(subtitles.begin(), subtitles.end() - 4);
        measured = measureWith("srt", followedBy(unended, randomBytes(9000, 5), 512));
        QVERIFY(measured.condition == Condition::Whole);
        QCOMPARE(measured.length, std::uint64_t{unended.size()});

        auto notes = mediaFile(QStringLiteral("notes.mid"));
        QVERIFY(measureWith("mid", notes).condition == Condition::Whole);
        notes[26] = 0x90;  // where the length of a note was
        QVERIFY(measureWith("mid", notes).condition == Condition::Partial);
    }
    // A unit's start code that lies over the border of a cluster, with other data behind it: its zeros are
    // not what a recording's last cluster is filled up with.
    void aBareStreamMayGoOnElsewhere() {
        constexpr std::size_t kBorder = 4096;
        const auto stream = mediaFile(QStringLiteral("bare.h264"));
        const auto with = [&](std::size_t inFront, std::uint8_t filling) {
            // The last unit in front of byte 100 000 is moved there by one of filling data (7.3.2.7).
            const std::array<std::uint8_t, 4> code{0, 0, 0, 1};
            const auto unit =
                std::find_end(stream.begin(), stream.begin() + 100000, code.begin(), code.end());
            Buffer moved(stream.begin(), unit);
            const auto end = (moved.size() / kBorder + 2) * kBorder;
            moved.insert(moved.end(), {0, 0, 0, 1, 12});
            moved.resize(end - inFront - 1, 0xff);
            moved.push_back(0x80);
            moved.resize(end, 0);
            moved.resize(end + 20000, filling);
            return moved;
        };
        const auto found = measureWith("elementary", with(3, 0xe5));
        QVERIFY(found.accepted);
        QCOMPARE(found.condition, Condition::Partial);
        // Blank to the end of the sector: it is complete.
        QCOMPARE(measureWith("elementary", with(200, 0xe5)).condition, Condition::Unchecked);
    }
    void runsThatAreTooShortAreNoFiles() {
        for (const auto* name : {"bare.mp3", "music.aac", "h264.ts", "simple.mpg", "bare.h264"}) {
            const auto file = mediaFile(QString::fromLatin1(name));
            auto few = Buffer(file.begin(), file.begin() + 250);
            few.resize(100000, 0xee);
            QVERIFY2(!measureWith(familyOf(file)->name(), few).accepted, name);
        }
    }
    void noiseIsNoFile() {
        int matched = 0;
        const auto noise = randomBytes(8 << 20, 99);
        for (std::size_t at = 0; at < noise.size(); at += 512) {
            const auto head =
                Bytes(noise).subspan(at, std::min<std::size_t>(Format::kHead, noise.size() - at));
            for (const auto* format : allFormats()) {
                if (!format->matches(head)) continue;
                const auto& beginning = formatsBeginning(head[0]);
                QVERIFY(std::find(beginning.begin(), beginning.end(), format) != beginning.end());
                ++matched;
                QVERIFY2(!measureWith(format->name(),
                                      Buffer(noise.begin() + static_cast<std::ptrdiff_t>(at), noise.end()))
                              .accepted,
                         std::string(format->name()).c_str());
            }
        }
        QVERIFY2(matched < 10, qPrintable(QString::number(matched)));
    }
    // Hostile input: numbers changed at random in the first bytes, where the structure is; nothing may crash,
    // hang, or come out longer than 64 bits hold.
    void damageIsSurvived() {
        unsigned seed = 1;
        for (const auto& name : mediaNames()) {
            auto file = mediaFile(name);
            if (file.size() > 400000) file.resize(400000);
            const auto* family = familyOf(file);
            for (int round = 0; round < 12; ++round, ++seed) {
                auto broken = file;
                const auto noise = randomBytes(64, seed);
                const auto span = std::min<std::size_t>(broken.size(), round % 2 == 0 ? 256 : 65536);
                for (std::size_t i = 0; i + 3 < noise.size(); i += 4)
                    broken[(noise[i] << 16 | noise[i + 1] << 8 | noise[i + 2]) % span] = noise[i + 3];
                const auto measured = measureWith(family->name(), broken);
                QVERIFY(measured.proven <= measured.length || !measured.accepted);
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestFormats)
#include "test_formats.moc"
