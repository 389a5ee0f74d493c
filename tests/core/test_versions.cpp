// Versions that open, of clips and photos of which a part is lost: looked at by programs that share no code
// with Dreskel.
#include <algorithm>
#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include "deliver/verification.h"
#include "formats/registry.h"
#include "session/session.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestVersions : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    // Searches a card with this file on it, and saves everything that was found, with versions.
    DeliverySum delivered(const Buffer& file) {
        const auto stem = dir_.filePath(QStringLiteral("card-%1").arg(++number_));
        ImageBuilder builder;
        builder.addGap(8192);
        builder.add(file);
        builder.addGap(262144);
        builder.write(stem + QStringLiteral(".img"));
        const auto session = Session::open((stem + QStringLiteral(".img")).toStdString(),
                                           (stem + QStringLiteral("-job")).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        ScanOptions options;
        options.rebuild = false;
        session.value()->startScan(options);
        if (!session.value()->wait()) qFatal("the search failed");
        DeliveryRequest request;
        request.destination = (stem + QStringLiteral("-out")).toStdString();
        request.files = session.value()->listed();
        request.versions = true;
        Control control;
        auto sum = session.value()->save(request, control, [](const DeliveryProgress&) {});
        if (!sum) qFatal("%s", sum.error().sentence().c_str());
        return sum.value();
    }
    static QString pathOf(const DeliverySum& sum, const SavedVersion& version) {
        return QString::fromStdString(sum.folder + "/" + version.savedAs);
    }
    static double lengthOf(const QString& file, const char* stream) {
        const auto run = command(QStringLiteral("ffprobe"),
                                 {"-v", "error", "-select_streams", QString::fromLatin1(stream),
                                  "-show_entries", "packet=pts_time,duration_time", "-of", "csv=p=0", file});
        double end = 0;
        for (const auto& line : run.out.split('\n')) {
            const auto cells = line.split(',');
            if (cells.size() >= 2) end = std::max(end, cells[0].toDouble() + cells[1].toDouble());
        }
        return end;
    }
    static int picturesOf(const QString& file) {
        return command(QStringLiteral("ffprobe"),
                       {"-v", "error", "-select_streams", "v:0", "-count_packets", "-show_entries",
                        "stream=nb_read_packets", "-of", "csv=p=0", file})
            .out.split(',')[0]
            .trimmed()
            .toInt();
    }
    // Times and hashes of the pictures that an independent decoder sees.
    static QMap<QByteArray, QByteArray> framesOf(const QString& file) {
        QMap<QByteArray, QByteArray> frames;
        const auto run = command(QStringLiteral("ffmpeg"),
                                 {"-v", "error", "-i", file, "-map", "0:v:0", "-fps_mode", "passthrough",
                                  "-copyts", "-enc_time_base", "1:90000", "-f", "framemd5", "-"});
        for (const auto& line : run.out.split('\n')) {
            const auto cells = line.split(',');
            if (cells.size() == 6 && !line.startsWith('#')) frames[cells[2].trimmed()] = cells[5].trimmed();
        }
        return frames;
    }

    // By name of the media, or one with a picture to begin with every 15.
    Buffer clip(const QString& name) {
        if (!name.startsWith(QLatin1String("often-"))) return mediaFile(name);
        const auto path = dir_.filePath(name);
        if (!QFile::exists(path)) {
            const bool hevc = name.contains(QLatin1String("hevc"));
            const auto run = command(
                QStringLiteral("ffmpeg"),
                {"-v",
                 "error",
                 "-f",
                 "lavfi",
                 "-i",
                 "testsrc2=size=640x360:rate=25:duration=6",
                 "-f",
                 "lavfi",
                 "-i",
                 "sine=frequency=440:duration=6",
                 "-c:v",
                 hevc ? "libx265" : "libx264",
                 "-g",
                 "15",
                 "-bf",
                 "2",
                 "-threads",
                 "1",
                 "-x265-params",
                 "log-level=none:keyint=15",
                 "-movflags",
                 name.contains(QLatin1String("fragments")) ? "+frag_keyframe+empty_moov" : "-faststart",
                 "-c:a",
                 "aac",
                 path});
            if (run.exitCode != 0) qFatal("%s", run.err.constData());
        }
        return readFile(path);
    }

  private Q_SLOTS:
    void aHalfLostClipPlays_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<double>("from");  // what is overwritten, as shares of the file
        QTest::addColumn<double>("to");
        QTest::addColumn<double>("end");
        QTest::newRow("index last, a hole") << "often-h264.mp4" << 0.4 << 0.5 << 1.0;
        QTest::newRow("index first, a hole") << "h264-first.mp4" << 0.5 << 0.6 << 1.0;
        QTest::newRow("HEVC, a hole") << "often-hevc.mp4" << 0.4 << 0.45 << 1.0;
        QTest::newRow("fragments, a hole") << "often-fragments.mp4" << 0.4 << 0.43 << 1.0;
        QTest::newRow("Matroska, a hole") << "often-h264.mkv" << 0.4 << 0.45 << 1.0;
        QTest::newRow("Motion JPEG, two holes") << "pictures.mov" << 0.4 << 0.45 << 1.0;
        // What remains takes the same ways in other places.
        if (kSanitized) return;
        QTest::newRow("index last, the beginning") << "often-h264.mp4" << 0.03 << 0.2 << 1.0;
        QTest::newRow("index first, cut off") << "h264-first.mp4" << 0.6 << 0.6 << 0.6;
        QTest::newRow("fragments, cut off") << "often-fragments.mp4" << 0.6 << 0.6 << 0.6;
        QTest::newRow("Matroska, cut off") << "often-hevc.mkv" << 0.6 << 0.6 << 0.6;
        QTest::newRow("plain sound, a hole") << "h264-cavlc.mov" << 0.4 << 0.45 << 1.0;
    }
    void aHalfLostClipPlays() {
        QFETCH(QString, name);
        QFETCH(double, from);
        QFETCH(double, to);
        QFETCH(double, end);
        const auto good = clip(name);
        auto lost = good;
        const auto at = [&](double share) {
            return static_cast<std::ptrdiff_t>(share * static_cast<double>(good.size()));
        };
        const auto other = randomBytes(static_cast<std::size_t>(at(to) - at(from)), 3);
        std::copy(other.begin(), other.end(), lost.begin() + at(from));
        lost.resize(static_cast<std::size_t>(at(end)));
        const auto sum = delivered(lost);
        const auto item = std::find_if(sum.items.begin(), sum.items.end(), [](const DeliveryItem& each) {
            return each.finding.kind == Kind::Video;
        });
        QVERIFY(item != sum.items.end());
        QVERIFY(item->finding.condition == Condition::Partial);
        const auto& version = item->version;
        QVERIFY2(!version.savedAs.empty(), version.whyNot.c_str());
        QVERIFY(version.verified);
        QVERIFY(QString::fromStdString(version.savedAs).contains(QStringLiteral(" (what plays).")));
        QVERIFY(!QString::fromStdString(version.savedAs).contains(QStringLiteral("partial")));
        QCOMPARE(sum.versions, std::size_t{1});
        const auto path = pathOf(sum, version);
        // From its beginning to its end without a message.
        const bool plain = name == QLatin1String("h264-cavlc.mov");
        const auto run = command(QStringLiteral("ffmpeg"), {"-v", "error", "-i", path, "-f", "null", "-"});
        QVERIFY2(run.err.isEmpty(), run.err.constData());
        const auto whole = dir_.filePath(name);
        writeFile(whole, good);
        // What is shown is shown when it was, and is what it was.
        const auto all = framesOf(whole);
        const auto left = framesOf(path);
        QVERIFY2(left.size() >= static_cast<qsizetype>(static_cast<double>(all.size()) * 0.3),
                 qPrintable(QStringLiteral("%1 of %2").arg(left.size()).arg(all.size())));
        QVERIFY(left.size() < all.size());
        for (auto frame = left.begin(); frame != left.end(); ++frame) {
            QVERIFY2(all.contains(frame.key()), frame.key().constData());
            QCOMPARE(frame.value(), all[frame.key()]);
        }
        if (end < 1) return;
        // Sound and pictures are as long as before, so they are in step.
        const auto shorter = lengthOf(whole, "v:0") - lengthOf(path, "v:0");
        QVERIFY2(std::abs(shorter) < 0.05, qPrintable(QString::number(shorter)));
        if (!plain && picturesOf(path) > 0)
            QVERIFY(std::abs(lengthOf(path, "a:0") - lengthOf(whole, "a:0")) < 0.05);
        // Every byte of it is accounted for, and the delivery can be compared later.
        Control control;
        const auto check = checkDelivery(sum.folder, control, [](std::size_t, std::size_t) {});
        QVERIFY(check.ok());
        QCOMPARE(check.value().same, sum.items.size() + 1);
        QVERIFY(check.value().wrong.empty());
    }
    void aRecordingThatWasNeverClosedPlays() {
        const auto good = mediaFile(QStringLiteral("stereo.wav"));
        auto lost = good;
        std::fill_n(lost.begin() + 4, 4, std::uint8_t{0});
        constexpr std::string_view mark = "data";
        std::fill_n(std::search(lost.begin(), lost.end(), mark.begin(), mark.end()) + 4, 4, std::uint8_t{0});
        const auto sum = delivered(lost);
        const auto item = std::find_if(sum.items.begin(), sum.items.end(), [](const DeliveryItem& each) {
            return each.finding.kind == Kind::Audio;
        });
        QVERIFY(item != sum.items.end());
        QVERIFY2(!item->version.savedAs.empty(), item->version.whyNot.c_str());
        // The very file it was, but for what its head says of things that were not lost.
        const auto saved = readFile(pathOf(sum, item->version));
        QCOMPARE(saved.size(), good.size());
        QVERIFY(saved == good);
        // Of a partial one whose lengths are true nothing is made, and nothing is said of it.
        auto other = good;
        const auto noise = randomBytes(40960, 8);
        std::copy(noise.begin(), noise.end(), other.begin() + 20 * 4096);
        const auto left = delivered(other);
        const auto partial = std::find_if(left.items.begin(), left.items.end(), [](const DeliveryItem& each) {
            return each.finding.kind == Kind::Audio;
        });
        QVERIFY(partial != left.items.end());
        QVERIFY(partial->finding.condition == Condition::Partial);
        QVERIFY(partial->version.savedAs.empty() && partial->version.whyNot.empty());
    }
    // An AVI that was never closed, with and without lengths, and one with a hole.
    void anAviWithoutItsIndexPlays_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("damage");
        for (const auto* name : {"h264.avi", "pictures.avi"}) {
            QTest::addRow("%s, cut off", name) << name << 0;
            QTest::addRow("%s, never closed", name) << name << 1;
            QTest::addRow("%s, a hole", name) << name << 2;
        }
    }
    void anAviWithoutItsIndexPlays() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        QFETCH(int, damage);
        const auto good = mediaFile(name);
        const std::string_view mark = "idx1";
        auto lost = good;
        lost.resize(static_cast<std::size_t>(
            std::find_end(lost.begin(), lost.end(), mark.begin(), mark.end()) - lost.begin()));
        if (damage < 2) lost.resize(lost.size() * 7 / 10);
        if (damage == 1) std::fill_n(lost.begin() + 4, 4, std::uint8_t{0});
        if (damage == 2) {
            const auto noise = randomBytes(40000, 4);
            std::copy(noise.begin(), noise.end(),
                      lost.begin() + static_cast<std::ptrdiff_t>(lost.size() / 2));
        }
        const auto sum = delivered(lost);
        const auto item = std::find_if(sum.items.begin(), sum.items.end(), [](const DeliveryItem& each) {
            return each.finding.kind == Kind::Video;
        });
        QVERIFY(item != sum.items.end());
        QVERIFY2(!item->version.savedAs.empty(), item->version.whyNot.c_str());
        const auto path = pathOf(sum, item->version);
        const auto bytes = readFile(path);
        QVERIFY(std::search(bytes.begin(), bytes.end(), mark.begin(), mark.end()) != bytes.end());
        const auto lengthSaid = std::size_t{bytes[4]} | std::size_t{bytes[5]} << 8 |
                                std::size_t{bytes[6]} << 16 | std::size_t{bytes[7]} << 24;
        QCOMPARE(lengthSaid + 8, bytes.size());
        const auto whole = dir_.filePath(name);
        writeFile(whole, good);
        const auto all = picturesOf(whole);
        QVERIFY2(picturesOf(path) >= all * (damage == 2 ? 80 : 60) / 100,
                 qPrintable(QString::number(picturesOf(path))));
        // The index leads to the pictures: one far behind can be gone to.
        const auto far = command(QStringLiteral("ffmpeg"), {"-v", "error", "-ss", "1", "-i", path,
                                                            "-frames:v", "1", "-f", "framemd5", "-"});
        QVERIFY(far.out.contains("0,"));
        if (damage == 2) return;
        const auto left = framesOf(path);
        const auto truth = framesOf(whole);
        int same = 0;
        for (auto frame = left.begin(); frame != left.end(); ++frame)
            same += truth.value(frame.key()) == frame.value() ? 1 : 0;
        QVERIFY2(same >= left.size() - 2, qPrintable(QStringLiteral("%1 of %2").arg(same).arg(left.size())));
    }
    void aHalfLostPhotoOpens_data() {
        QTest::addColumn<QString>("name");
        QTest::newRow("baseline") << "baseline-420.jpg";
        QTest::newRow("4:2:2") << "baseline-422.jpg";
        QTest::newRow("restart markers") << "restart-row.jpg";
    }
    void aHalfLostPhotoOpens() {
        QFETCH(QString, name);
        const auto good = mediaFile(name);
        auto lost = good;
        lost.resize(lost.size() * 6 / 10);
        const auto sum = delivered(lost);
        QCOMPARE(sum.items.size(), std::size_t{1});
        const auto& version = sum.items[0].version;
        QVERIFY2(!version.savedAs.empty(), version.whyNot.c_str());
        QVERIFY(QString::fromStdString(version.savedAs).endsWith(QStringLiteral(" (what is left).jpg")));
        const auto path = pathOf(sum, version);
        const auto pixels = [](const QString& file) {
            return command(QStringLiteral("djpeg"), {"-ppm", file});
        };
        const auto opened = pixels(path);
        QCOMPARE(opened.exitCode, 0);
        QVERIFY2(opened.err.isEmpty(), opened.err.constData());
        const auto whole = dir_.filePath(name);
        writeFile(whole, good);
        const auto truth = pixels(whole);
        QCOMPARE(opened.out.size(), truth.out.size());
        // What is left is the picture; what is lost is no part of any.
        const auto there = static_cast<qsizetype>(sum.items[0].finding.decoded * 0.95 *
                                                  static_cast<double>(truth.out.size()));
        QVERIFY(there > truth.out.size() / 3);
        double off = 0;
        for (qsizetype i = 32; i < there; ++i)
            off += std::abs(int{static_cast<uchar>(opened.out[i])} - int{static_cast<uchar>(truth.out[i])});
        QVERIFY2(off / static_cast<double>(there) < 4,
                 qPrintable(QString::number(off / static_cast<double>(there))));
        bool grey = true;
        for (qsizetype i = truth.out.size() - 300; i + 2 < truth.out.size(); i += 3)
            grey = grey && std::abs(int{static_cast<uchar>(opened.out[i])} -
                                    int{static_cast<uchar>(opened.out[i + 2])}) < 12;
        QVERIFY(grey);
    }
    // Where none can be made, the file is saved all the same, and the manifest says why there is none.
    void whatCannotBeMadeIsTold() {
        // All its pictures build on the first.
        auto lost = mediaFile(QStringLiteral("h264.mkv"));
        const auto noise = randomBytes(3000, 6);
        std::copy(noise.begin(), noise.end(), lost.begin() + 4500);
        const auto sum = delivered(lost);
        const auto item = std::find_if(sum.items.begin(), sum.items.end(), [](const DeliveryItem& each) {
            return each.finding.condition == Condition::Partial && each.finding.kind == Kind::Video;
        });
        QVERIFY(item != sum.items.end());
        QVERIFY(item->verified && item->version.savedAs.empty() && !item->version.whyNot.empty());
        const auto manifest = readFile(QString::fromStdString(sum.manifest));
        const std::string_view key = "\"no_version\"";
        QVERIFY(std::search(manifest.begin(), manifest.end(), key.begin(), key.end()) != manifest.end());
    }
    // Of what is whole there is nothing to be made.
    void aWholeFileHasNone() {
        const auto sum = delivered(mediaFile(QStringLiteral("h264-last.mp4")));
        QVERIFY(!sum.items.empty());
        QCOMPARE(sum.versions, std::size_t{0});
    }
};

QTEST_GUILESS_MAIN(TestVersions)
#include "test_versions.moc"
