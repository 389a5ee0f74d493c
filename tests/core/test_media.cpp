// The decoder worker as the core uses it: reports, pictures, and what happens when it dies.
#include <fcntl.h>
#include <signal.h>
#include <QDir>
#include <QFile>
#include <QHash>
#include <QTemporaryDir>
#include <QTest>
#include <thread>

#include "media/decoder_process.h"
#include "media/thumbnail.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestMedia : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::shared_ptr<Source> source_;
    QHash<QString, QPair<quint64, quint64>> places_;

    std::vector<Piece> pieces(const QString& name) {
        return {{PieceFrom::Card, places_[name].first, places_[name].second, {}}};
    }
    // The worker that this process has started.
    static pid_t workerOf() {
        for (const auto& entry : QDir(QStringLiteral("/proc")).entryList(QDir::Dirs)) {
            QFile status(QStringLiteral("/proc/%1/status").arg(entry));
            if (!status.open(QIODevice::ReadOnly)) continue;
            const auto text = status.readAll();
            if (text.contains("Name:\tdreskel-decode") &&
                text.contains("PPid:\t" + QByteArray::number(QCoreApplication::applicationPid()) + "\n"))
                return entry.toInt();
        }
        return 0;
    }

  private Q_SLOTS:
    void initTestCase() {
        ImageBuilder image;
        for (const auto& name : mediaNames()) {
            const auto bytes = mediaFile(name);
            places_[name] = {image.add(bytes), bytes.size()};
        }
        places_[QStringLiteral("noise")] = {image.bytes().size(), 50000};
        image.addNoise(50000, 4);
        image.write(dir_.filePath(QStringLiteral("card.img")));
        source_ = openSource(dir_.filePath(QStringLiteral("card.img")).toStdString()).value();
    }
    void playsPicturesAndSoundInStep_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<double>("pictures");  // a second
        QTest::addColumn<double>("seconds");
        QTest::newRow("index behind") << QStringLiteral("h264-last.mp4") << 25.0 << 4.0;
        QTest::newRow("HEVC") << QStringLiteral("hevc.mp4") << 25.0 << 4.0;
        QTest::newRow("AVI") << QStringLiteral("h264.avi") << 25.0 << 4.0;
        QTest::newRow("transport stream") << QStringLiteral("h264.ts") << 25.0 << 4.0;
        QTest::newRow("sound alone") << QStringLiteral("music.m4a") << 0.0 << 6.0;
    }
    void playsPicturesAndSoundInStep() {
        QFETCH(QString, name);
        QFETCH(double, pictures);
        QFETCH(double, seconds);
        using media::DecoderProcess;
        DecoderProcess decoder(source_);
        const DecoderProcess::Manner manner{0.25, 200, false};
        std::vector<double> times;
        std::size_t samples = 0;
        double sum = 0;
        auto stretch = decoder.playFrom(pieces(name), name.section(QLatin1Char('.'), -1).toStdString(), 0.0,
                                        manner, nullptr);
        double expected = stretch ? stretch.value().soundAt : 0;
        for (int i = 0; i < 100; ++i) {
            QVERIFY2(stretch.ok(), stretch ? "" : stretch.error().sentence().c_str());
            const auto& got = stretch.value();
            for (const auto& picture : got.pictures) {
                QVERIFY(picture.width <= 200 && picture.height > 0 && picture.pixels);
                times.push_back(picture.at);
            }
            // Each stretch of sound begins where the one before ended.
            QVERIFY(std::abs(got.soundAt - expected) < 0.001);
            expected = got.soundAt + static_cast<double>(got.sound.size() / 2) / DecoderProcess::kSoundRate;
            samples += got.sound.size() / 2;
            for (const auto sample : got.sound) sum += std::abs(sample);
            if (got.ended) break;
            stretch = decoder.playOn(manner, nullptr);
        }
        QVERIFY(std::is_sorted(times.begin(), times.end()));
        // The first picture with the first sound, though pictures that are shown later are coded before.
        if (!times.empty()) QVERIFY2(times.front() < 0.03, qPrintable(QString::number(times.front())));
        QVERIFY2(std::abs(static_cast<double>(times.size()) - seconds * pictures) <= 2,
                 qPrintable(QString::number(times.size())));
        // A tone, as long as the pictures, and not silence.
        const double heard = static_cast<double>(samples) / DecoderProcess::kSoundRate;
        QVERIFY2(std::abs(heard - seconds) < 0.15, qPrintable(QString::number(heard)));
        QVERIFY(sum / static_cast<double>(samples * 2) > 500);
    }
    void playsFromAnyPlaceAndGoesOnOnlyWhereItWas() {
        using media::DecoderProcess;
        DecoderProcess decoder(source_);
        QVERIFY(!decoder.playOn({}, nullptr).ok());
        const auto stretch =
            decoder.playFrom(pieces(QStringLiteral("h264-last.mp4")), "mp4", 2.5, {0.5, 200, false}, nullptr);
        QVERIFY(stretch.ok());
        const auto& got = stretch.value();
        QVERIFY(!got.pictures.empty() && !got.ended);
        QVERIFY2(std::abs(got.pictures.front().at - 2.5) < 0.041,
                 qPrintable(QString::number(got.pictures.front().at)));
        QVERIFY(got.pictures.back().at < 3.0);
        QVERIFY(std::abs(got.soundAt - 2.5) < 0.001);
        QVERIFY(std::abs(got.duration - 4.0) < 0.1);
        // To and fro in the file that is open, from behind its end too, and in another one between.
        for (const double place : {3.5, 0.0, 0.0, 1.0, 0.0}) {
            const auto name = place == 1.0 ? QStringLiteral("hevc.mp4") : QStringLiteral("h264-last.mp4");
            const auto there = decoder.playFrom(pieces(name), "mp4", place, {1.0, 200, false}, nullptr);
            QVERIFY(there.ok() && !there.value().pictures.empty());
            QVERIFY2(std::abs(there.value().pictures.front().at - place) < 0.041,
                     qPrintable(QString::number(there.value().pictures.front().at)));
            QCOMPARE(there.value().ended, place == 3.5);
            QVERIFY(std::abs(there.value().soundAt - place) < 0.001 && !there.value().sound.empty());
        }
        const auto noise = decoder.playFrom(pieces(QStringLiteral("noise")), "mp4", 0, {}, nullptr);
        QVERIFY(!noise.ok());
    }
    void reportsOnEveryClipAndRecording() {
        media::DecoderProcess decoder(source_);
        for (const auto* pattern : {"*.mp4", "*.mov", "*.3gp", "*.m4a", "*.wav"}) {
            for (const auto& name : mediaNames(QString::fromLatin1(pattern))) {
                const auto report =
                    decoder.check(pieces(name), name.section(QLatin1Char('.'), -1).toStdString(), nullptr);
                QVERIFY2(report.ok(), qPrintable(name));
                const auto& found = report.value();
                QVERIFY2(found.opened && found.errors == 0,
                         qPrintable(name + QString::fromStdString(found.firstError)));
                QCOMPARE(found.decoded, 1.0);
                QVERIFY(found.duration.value_or(0) > 2.5);
                QCOMPARE(found.decodedMap.size(), std::size_t{64});
                const bool sees = name.endsWith(QLatin1String(".mp4")) ||
                                  name.endsWith(QLatin1String(".mov")) ||
                                  name.endsWith(QLatin1String(".3gp"));
                if (sees) QVERIFY(found.thumbnail && found.thumbnail->width >= 320);
                if (!name.endsWith(QLatin1String(".3gp"))) QCOMPARE(found.peaks.size(), std::size_t{512});
            }
        }
    }
    void tellsWhenAContainerWasWritten() {
        media::DecoderProcess decoder(source_);
        const auto dated = decoder.check(pieces(QStringLiteral("h264.mkv")), "mkv", nullptr);
        QVERIFY(dated.ok());
        QCOMPARE(dated.value().taken, std::string("2026-05-02T07:46:10Z"));
        const auto undated = decoder.check(pieces(QStringLiteral("live.mkv")), "mkv", nullptr);
        QVERIFY(undated.ok());
        QCOMPARE(undated.value().taken, std::string());
    }
    // Packets of another recording may bring streams that were not there when the check began.
    void streamsThatComeLaterAreForeign() {
        const auto one = QStringLiteral(DRESKEL_FIXTURES "/media/h264.ts");
        const auto other = dir_.filePath(QStringLiteral("other.ts"));
        QCOMPARE(command(QStringLiteral("ffmpeg"),
                         {"-v", "error", "-y", "-i", one, "-c", "copy", "-mpegts_start_pid", "0x300",
                          "-mpegts_pmt_start_pid", "0x1200", other})
                     .exitCode,
                 0);
        auto bytes = readFile(one);
        const auto more = readFile(other);
        for (int i = 0; i < 4; ++i) bytes.insert(bytes.end(), more.begin(), more.end());
        const auto path = dir_.filePath(QStringLiteral("two.ts"));
        writeFile(path, bytes);
        media::DecoderProcess decoder(openSource(path.toStdString()).value());
        const auto report = decoder.check({{PieceFrom::Card, 0, bytes.size(), {}}}, "ts", nullptr);
        QVERIFY(report.ok());
        QVERIFY(report.value().errors > 0);
        QVERIFY(!report.value().firstError.empty());
    }
    void saysWhereAClipIsDamaged() {
        media::DecoderProcess decoder(source_);
        auto whole = pieces(QStringLiteral("h264-first.mp4"))[0];
        // The third quarter is gone.
        const auto quarter = whole.length / 4;
        const std::vector<Piece> holed{
            {PieceFrom::Card, whole.offset, 2 * quarter, {}},
            {PieceFrom::Fill, 0, quarter, "test"},
            {PieceFrom::Card, whole.offset + 3 * quarter, whole.length - 3 * quarter, {}}};
        const auto report = decoder.check(holed, "mp4", nullptr);
        QVERIFY(report.ok());
        QVERIFY(report.value().errors > 0);
        QVERIFY(!report.value().firstError.empty());
        QVERIFY(report.value().decoded > 0.4 && report.value().decoded < 0.95);
        const auto& map = report.value().decodedMap;
        QVERIFY(map[5] == 255 && map[25] == 255);
        QVERIFY(map[42] < 128);
    }
    void noiseIsNoClip() {
        media::DecoderProcess decoder(source_);
        const auto report = decoder.check(pieces(QStringLiteral("noise")), "mp4", nullptr);
        QVERIFY(report.ok());
        QVERIFY(!report.value().opened);
        QVERIFY(report.value().errors > 0);
        QVERIFY(!decoder.photo(pieces(QStringLiteral("noise")), "jpeg", 100, nullptr).ok());
    }
    void framesLieAlongTheClip() {
        media::DecoderProcess decoder(source_);
        const auto frames = decoder.frames(pieces(QStringLiteral("hevc.mp4")), "mp4", 8, 200, nullptr);
        QVERIFY(frames.ok());
        QCOMPARE(frames.value().size(), std::size_t{8});
        for (std::size_t i = 1; i < 8; ++i) {
            QVERIFY(frames.value()[i].at > frames.value()[i - 1].at);
            QVERIFY(frames.value()[i].picture.rgb != frames.value()[i - 1].picture.rgb);
            QCOMPARE(frames.value()[i].picture.width, 200U);
        }
    }
    void photosComeInTheSizeAskedFor() {
        media::DecoderProcess decoder(source_);
        const auto small = decoder.photo(pieces(QStringLiteral("baseline-422.jpg")), "jpeg", 500, nullptr);
        QVERIFY(small.ok());
        QVERIFY(small.value().width >= 500 && small.value().width < 1000);
        const auto full = decoder.photo(pieces(QStringLiteral("baseline-422.jpg")), "jpeg", 0, nullptr);
        QVERIFY(full.ok());
        QCOMPARE(full.value().width, 2400U);
        QCOMPARE(full.value().height, 1600U);
        QVERIFY(decoder.photo(pieces(QStringLiteral("four-inks.jpg")), "jpeg", 300, nullptr).ok());
    }
    void aWorkerThatDiesCostsOneFile() {
        media::DecoderProcess decoder(source_);
        QVERIFY(decoder.check(pieces(QStringLiteral("music.m4a")), "m4a", nullptr).ok());
        const auto worker = workerOf();
        QVERIFY(worker > 0);
        ::kill(worker, SIGKILL);
        const auto failed = decoder.check(pieces(QStringLiteral("music.m4a")), "m4a", nullptr);
        QVERIFY(!failed.ok());
        QVERIFY(!failed.error().what.empty());
        const auto again = decoder.check(pieces(QStringLiteral("music.m4a")), "m4a", nullptr);
        QVERIFY(again.ok());
        QCOMPARE(again.value().errors, std::uint64_t{0});
    }
    // A worker that obeys orders in the files: each costs that file, with the reason, and nothing more.
    void aFileThatTakesTheWorkerDownIsToldAndPassed() {
        const auto program = QStringLiteral(DRESKEL_BIN "/unruly_decoder").toStdString();
        ImageBuilder image;
        std::map<std::string, std::vector<Piece>> places;
        for (const auto* order : {"crash", "hang", "bloat", "reach", "none"}) {
            auto file = mediaFile(QStringLiteral("music.m4a"));
            // In a box that means nothing, in front of the data.
            const std::string text = std::string(
                                         "\0\0\0\x30"
                                         "free",
                                         8) +
                                     "UNRULY:" + order;
            Buffer box(0x30, ' ');
            std::copy(text.begin(), text.end(), box.begin());
            const auto at = file.begin() + (file[0] << 24 | file[1] << 16 | file[2] << 8 | file[3]);
            if (std::string(order) != "none") file.insert(at, box.begin(), box.end());
            places[order] = {{PieceFrom::Card, image.add(file), file.size(), {}}};
        }
        const auto card = dir_.filePath(QStringLiteral("unruly.img"));
        image.write(card);
        media::DecoderProcess decoder(openSource(card.toStdString()).value(), program,
                                      std::chrono::seconds(2));
        const auto outcome = [&](const char* order) { return decoder.check(places[order], "m4a", nullptr); };
        QVERIFY(outcome("none").ok());
        const auto crashed = outcome("crash");
        QVERIFY(!crashed.ok());
        QVERIFY(crashed.error().what.find("ended over this file") != std::string::npos);
        const auto hung = outcome("hang");
        QVERIFY(!hung.ok());
        QVERIFY(hung.error().what.find("came to no end") != std::string::npos);
#if !defined(__SANITIZE_ADDRESS__)
        const auto bloated = outcome("bloat");
        QVERIFY(!bloated.ok() || bloated.value().errors > 0);
        const auto reached = outcome("reach");
        QVERIFY(reached.ok());
        QCOMPARE(reached.value().firstError, std::string("could reach nothing"));
#endif
        const auto after = outcome("none");
        QVERIFY(after.ok());
        QCOMPARE(after.value().errors, std::uint64_t{0});
    }
    void theWaitForItCanBeStopped() {
        media::DecoderProcess decoder(source_);
        Control control;
        control.stop();
        const auto stopped = decoder.check(pieces(QStringLiteral("pictures.mov")), "mov", &control);
        QVERIFY(stopped.ok() || stopped.error().fault == Fault::Interrupted);
    }
    void theWorkerCannotWriteTheSource() {
        media::DecoderProcess decoder(source_);
        QVERIFY(decoder.check(pieces(QStringLiteral("stereo.wav")), "wav", nullptr).ok());
        const auto worker = workerOf();
        QVERIFY(worker > 0);
        QFile flags(QStringLiteral("/proc/%1/fdinfo/4").arg(worker));
        QVERIFY(flags.open(QIODevice::ReadOnly));
        const auto line = QString::fromLatin1(flags.readAll())
                              .section(QStringLiteral("flags:"), 1)
                              .section(QLatin1Char('\n'), 0, 0)
                              .trimmed();
        QCOMPARE(line.toInt(nullptr, 8) & O_ACCMODE, O_RDONLY);
    }
    void shrinkingKeepsTheShape() {
        Picture picture{400, 100, {}};
        for (std::uint32_t i = 0; i < 400 * 100; ++i)
            picture.rgb.insert(picture.rgb.end(), {200, static_cast<std::uint8_t>(i % 400 / 2), 10});
        const auto small = media::shrink(picture, 40);
        QCOMPARE(small.width, 40U);
        QCOMPARE(small.height, 10U);
        QCOMPARE(small.rgb[0], std::uint8_t{200});
        QVERIFY(small.rgb[39 * 3 + 1] > small.rgb[1] + 150);
        QVERIFY(media::encodeThumbnail({}, 40).empty());
        QVERIFY(media::encodeThumbnail(picture, 40).size() > 100);
    }
};

QTEST_GUILESS_MAIN(TestMedia)
#include "test_media.moc"
