// Clips that lost their index: a recorder without power, an index overwritten. The samples come back as they
// were, at the times they had, and every byte that was made is accounted for.
#include <QTemporaryDir>
#include <QTest>

#include "session/session.h"
#include "tests/support/pieces.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

enum class Loss { Cut, NeverClosed, Overwritten };

std::size_t mediaHeaderOf(const Buffer& clip) {
    const std::string_view mark = "mdat";
    const auto hit = std::search(clip.begin(), clip.end(), mark.begin(), mark.end());
    return static_cast<std::size_t>(hit - clip.begin()) - 4;
}

}  // namespace

class TestLostIndex : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    // By name of the media, or a film in which little moves, so that most of its pictures take few bytes,
    // with quiet sound.
    Buffer film(const QString& name) {
        if (!name.startsWith(QLatin1String("quiet-"))) return mediaFile(name);
        const auto path = dir_.filePath(name);
        if (!QFile::exists(path)) {
            const bool hevc = name.contains(QLatin1String("hevc"));
            const bool plain = name.endsWith(QLatin1String(".mov"));
            const auto run =
                command(QStringLiteral("ffmpeg"), {"-v",
                                                   "error",
                                                   "-f",
                                                   "lavfi",
                                                   "-i",
                                                   "smptebars=size=640x360:rate=25:duration=6",
                                                   "-f",
                                                   "lavfi",
                                                   "-i",
                                                   "sine=frequency=440:sample_rate=48000:duration=6",
                                                   "-af",
                                                   "volume=0.02,aformat=channel_layouts=stereo",
                                                   "-vf",
                                                   "noise=alls=3:allf=t:all_seed=4,boxblur=4",
                                                   "-c:v",
                                                   hevc ? "libx265" : "libx264",
                                                   "-bf",
                                                   "0",
                                                   "-threads",
                                                   "1",
                                                   "-x265-params",
                                                   "log-level=none:bframes=0",
                                                   "-c:a",
                                                   plain ? "pcm_s16le" : "aac",
                                                   path});
            if (run.exitCode != 0) qFatal("%s", run.err.constData());
        }
        return readFile(path);
    }
    QString fresh(const QString& name) { return dir_.filePath(QString::number(++number_) + name); }
    std::shared_ptr<Session> search(const QString& card, const std::vector<std::string>& references) {
        auto session = Session::open(card.toStdString(), fresh(QStringLiteral("-job")).toStdString());
        if (!session) qFatal("%s", session.error().sentence().c_str());
        ScanOptions options;
        options.references = references;
        session.value()->startScan(options);
        const auto outcome = session.value()->wait();
        if (!outcome) qFatal("%s", outcome.error().sentence().c_str());
        return session.value();
    }
    static Buffer bytesOf(const std::shared_ptr<Source>& source, const Finding& finding) {
        CardView card(source);
        PieceReader reader(card, finding.pieces);
        Buffer bytes(reader.size());
        reader.read(0, bytes);
        return bytes;
    }
    // Size and time of each packet of a stream, by an independent reader.
    static QList<QByteArray> packets(const QString& file, const QString& stream) {
        const auto run =
            command(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", stream, "-show_entries",
                                                "packet=pts_time,size", "-of", "csv=p=0", file});
        auto lines = run.out.split('\n');
        lines.removeIf([](const QByteArray& line) { return !line.contains(','); });
        return lines;
    }

  private Q_SLOTS:
    void comesBack_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("loss");
        QTest::addColumn<bool>("lent");
        const auto row = [](const char* title, const char* name, Loss loss, bool lent) {
            QTest::newRow(title) << QString::fromLatin1(name) << static_cast<int>(loss) << lent;
        };
        row("H.264 and AAC, cut off", "h264-last.mp4", Loss::Cut, false);
        row("the same, lent", "h264-last.mp4", Loss::Cut, true);
        row("never closed", "h264-last.mp4", Loss::NeverClosed, false);
        row("its index overwritten", "h264-last.mp4", Loss::Overwritten, true);
        row("HEVC", "hevc.mp4", Loss::Cut, false);
        row("H.264 and plain sound, QuickTime", "h264-cavlc.mov", Loss::NeverClosed, true);
        row("Motion JPEG", "pictures.mov", Loss::Cut, true);
        // Behind the clip lies something else, which must not be taken for more of it.
        row("small pictures", "quiet-h264.mp4", Loss::NeverClosed, false);
        row("small pictures between plain sound", "quiet-h264.mov", Loss::NeverClosed, false);
        row("HEVC between plain sound", "quiet-hevc.mov", Loss::NeverClosed, true);
    }
    void comesBack() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        QFETCH(int, loss);
        QFETCH(bool, lent);
        const auto good = film(name);
        auto lost = good;
        const auto header = mediaHeaderOf(lost);
        if (loss == static_cast<int>(Loss::NeverClosed))
            std::fill_n(lost.begin() + static_cast<std::ptrdiff_t>(header), 4, std::uint8_t{0});
        if (loss != static_cast<int>(Loss::Overwritten)) lost.resize(lost.size() * 7 / 10);
        if (loss == static_cast<int>(Loss::Overwritten)) {
            const std::string_view mark = "moov";
            const auto index = std::find_end(lost.begin(), lost.end(), mark.begin(), mark.end());
            lost.resize(static_cast<std::size_t>(index - lost.begin()) - 4);
        }
        const auto mediaEnd = lost.size();
        ImageBuilder builder;
        if (!lent) {
            builder.add(good);
            builder.addGap(40960);
        }
        const auto at = builder.add(lost);
        if (name.startsWith(QLatin1String("quiet-"))) builder.addNoise(1 << 20, 7);
        builder.addGap(204800);
        const auto card = fresh(QStringLiteral(".img"));
        builder.write(card);
        const auto good1 = fresh(QLatin1Char('-') + name);
        writeFile(good1, good);
        auto session =
            search(card, lent ? std::vector<std::string>{good1.toStdString()} : std::vector<std::string>{});
        const Finding* found = nullptr;
        const auto listed = session->listed();
        for (const auto& finding : listed) {
            if (finding.start() == at) found = &finding;
        }
        QVERIFY(found != nullptr);
        // Never called whole: it was made anew in part, and that is said.
        QVERIFY(found->condition == Condition::Partial);
        QVERIFY(found->decoded > 0.99);
        int made = 0;
        for (const auto& piece : found->pieces) {
            made += piece.from == PieceFrom::Made ? 1 : 0;
            QVERIFY(piece.from != PieceFrom::Made || !piece.why.empty());
        }
        QCOMPARE(made, 2);
        const auto bytes = bytesOf(session->source(), *found);
        const auto saved = fresh(QLatin1Char('-') + name);
        writeFile(saved, bytes);
        const auto played =
            command(QStringLiteral("ffmpeg"), {"-v", "error", "-i", saved, "-f", "null", "-"});
        QVERIFY2(played.exitCode == 0 && played.err.isEmpty(), played.err.constData());
        // Of what had been written nearly all is there, each at its time.
        for (const auto& stream : {QStringLiteral("v"), QStringLiteral("a")}) {
            const auto before = packets(good1, stream);
            const auto after = packets(saved, stream);
            if (before.isEmpty()) continue;
            const auto share = static_cast<double>(mediaEnd) / static_cast<double>(good.size());
            QVERIFY2(
                after.size() >= static_cast<qsizetype>(static_cast<double>(before.size()) * share * 0.9) - 2,
                qPrintable(QStringLiteral("%1 of %2").arg(after.size()).arg(before.size())));
            for (qsizetype i = 0; i < after.size(); ++i) {
                const auto then = before[i].split(',');
                const auto now = after[i].split(',');
                QVERIFY(qAbs(then[0].toDouble() - now[0].toDouble()) < 0.002);
                // PCM is cut into packets as the reader likes.
                if (i + 1 < after.size()) QCOMPARE(now[1], then[1]);
            }
        }
        // The job keeps what was made.
        const auto folder = session->folder();
        const auto id = found->id;
        session.reset();
        const auto again = Session::open(std::string(), folder);
        QVERIFY(again.ok());
        QVERIFY(bytesOf(again.value()->source(), *again.value()->finding(id)) == bytes);
    }
    void aClipLentLaterIsTried() {
        const auto good = mediaFile(QStringLiteral("h264-last.mp4"));
        auto lost = good;
        lost.resize(lost.size() / 2);
        ImageBuilder builder;
        const auto at = builder.add(lost);
        builder.addGap(102400);
        const auto card = fresh(QStringLiteral(".img"));
        builder.write(card);
        const auto session = search(card, {});
        const auto listed = session->listed();
        QVERIFY(std::any_of(listed.begin(), listed.end(), [&](const Finding& finding) {
            return finding.start() == at && finding.condition == Condition::Broken;
        }));
        const auto lent = fresh(QStringLiteral(".mp4"));
        writeFile(lent, good);
        ScanOptions options;
        options.references = {lent.toStdString()};
        session->startScan(options);
        QVERIFY(session->wait().ok());
        const auto later = session->listed();
        QVERIFY(std::any_of(later.begin(), later.end(), [&](const Finding& finding) {
            return finding.start() == at && finding.condition == Condition::Partial && finding.decoded > 0.99;
        }));
    }
    // The other way round: the index is there, and its clip's first cluster is overwritten, by noise or by a
    // photo; in one piece, or in two.
    void comesBackWithoutItsBeginning_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("pieces");
        for (const auto* name : {"h264-last.mp4", "hevc.mp4", "h264-cavlc.mov", "pictures.mov"}) {
            for (const int pieces : {1, 2})
                QTest::addRow("%s in %d", name, pieces) << QString::fromLatin1(name) << pieces;
        }
    }
    void comesBackWithoutItsBeginning() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        QFETCH(int, pieces);
        const auto file = mediaFile(name);
        const auto photo = QStringLiteral("baseline-420.jpg");
        auto card = pieces == 1 ? writeInPieces({{photo, -1}, {name, -1}, {QString(), 4}})
                                : writeInPieces({{name, 25}, {photo, -1}, {name, -1}, {QString(), 4}});
        const auto start = card.places.at(name).front().offset;
        const auto noise = randomBytes(kCluster, 77);
        std::copy(noise.begin(), noise.end(), card.bytes.begin() + static_cast<std::ptrdiff_t>(start));
        const auto path = fresh(QStringLiteral(".img"));
        writeFile(path, card.bytes);
        const auto session = search(path, {});
        const auto listed = session->listed();
        const auto clip = std::find_if(listed.begin(), listed.end(),
                                       [](const Finding& finding) { return finding.kind == Kind::Video; });
        QVERIFY(clip != listed.end());
        QVERIFY(clip->condition == Condition::Partial);
        QVERIFY2(clip->decoded > 0.85, qPrintable(QString::number(clip->decoded)));
        QVERIFY(clip->pieces.front().from == PieceFrom::Made && !clip->pieces.front().why.empty());
        QVERIFY(!clip->notes.empty());
        // Every byte of the card that is in it is where it was, and nearly all that were left are.
        std::uint64_t at = 0, right = 0;
        for (const auto& piece : clip->pieces) {
            if (piece.from == PieceFrom::Card && at + piece.length <= file.size()) {
                for (std::uint64_t i = 0; i < piece.length; ++i, ++right)
                    QVERIFY(card.bytes[piece.offset + i] == file[at + i]);
            }
            at += piece.length;
        }
        QVERIFY2(static_cast<double>(right) > 0.9 * static_cast<double>(file.size()),
                 qPrintable(QStringLiteral("%1 of %2").arg(right).arg(file.size())));
        // A player shows it.
        const auto saved = fresh(QLatin1Char('-') + name);
        writeFile(saved, bytesOf(session->source(), *clip));
        const auto before = fresh(QStringLiteral("-whole-") + name);
        writeFile(before, file);
        QCOMPARE(packets(saved, QStringLiteral("v")).size(), packets(before, QStringLiteral("v")).size());
    }
    // An index whose samples are gone with the rest is no clip.
    void anIndexAloneIsNoClip() {
        const auto name = QStringLiteral("h264-last.mp4");
        auto card = writeInPieces({{QStringLiteral("baseline-420.jpg"), -1}, {name, -1}, {QString(), 4}});
        const auto place = card.places.at(name).front();
        // All but the last fifth of its media data.
        const auto noise = randomBytes(mediaFile(name).size() * 4 / 5, 78);
        std::copy(noise.begin(), noise.end(), card.bytes.begin() + static_cast<std::ptrdiff_t>(place.offset));
        const auto path = fresh(QStringLiteral(".img"));
        writeFile(path, card.bytes);
        for (const auto& finding : search(path, {})->listed()) {
            QVERIFY(finding.kind != Kind::Video);
            for (const auto& piece : finding.pieces) QVERIFY(piece.from != PieceFrom::Made);
        }
    }
    void aClipOfAnotherKindIsNoTemplate() {
        auto lost = mediaFile(QStringLiteral("h264-last.mp4"));
        lost.resize(lost.size() / 2);
        ImageBuilder builder;
        const auto at = builder.add(lost);
        builder.addGap(8192);
        builder.add(mediaFile(QStringLiteral("hevc.mp4")));
        const auto card = fresh(QStringLiteral(".img"));
        builder.write(card);
        for (const auto& finding : search(card, {})->listed()) {
            if (finding.start() != at) continue;
            for (const auto& piece : finding.pieces) QVERIFY(piece.from != PieceFrom::Made);
        }
    }
};

QTEST_GUILESS_MAIN(TestLostIndex)
#include "test_lost_index.moc"
