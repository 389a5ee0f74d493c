// The whole job from the command line, on a card made by mkfs.vfat and mcopy from files that other encoders
// wrote.
#include <signal.h>

#include <QDir>
#include <QFile>
#include <QJsonDocument>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestCli : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString card_;

    QString path(const QString& name) { return dir_.filePath(name); }
    static void must(const Run& run) {
        if (run.exitCode != 0) qFatal("a fixture program failed: %s", run.err.constData());
    }
    static QStringList hashesOf(const QJsonObject& manifest) {
        QStringList hashes;
        for (const auto& file : manifest[QStringLiteral("files")].toArray())
            hashes << file.toObject()[QStringLiteral("sha256")].toString();
        return hashes;
    }
    QJsonObject manifestIn(const QString& folder) {
        const auto bytes = readFile(folder + QStringLiteral("/manifest.json"));
        return QJsonDocument::fromJson(QByteArray(reinterpret_cast<const char*>(bytes.data()),
                                                  static_cast<qsizetype>(bytes.size())))
            .object();
    }

  private Q_SLOTS:
    void initTestCase() {
        card_ = path(QStringLiteral("card.img"));
        QFile file(card_);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.resize(320 << 20));
        file.close();
        const QStringList format{QStringLiteral("-F"), QStringLiteral("32"), QStringLiteral("-s"),
                                 QStringLiteral("8"), card_};
        must(command(QStringLiteral("mkfs.vfat"), format));
        must(command(QStringLiteral("mmd"), {QStringLiteral("-i"), card_, QStringLiteral("::/DCIM"),
                                             QStringLiteral("::/DCIM/100TESTS")}));
        for (const auto& name : mediaNames()) {
            must(command(QStringLiteral("mcopy"),
                         {QStringLiteral("-i"), card_, QStringLiteral(DRESKEL_FIXTURES "/media/") + name,
                          QStringLiteral("::/DCIM/100TESTS/") + name}));
        }
        must(command(QStringLiteral("mkfs.vfat"), format));
    }
    void everyFileOfAFormattedCardComesBack() {
        const auto job = path(QStringLiteral("job"));
        const auto scan = cli({QStringLiteral("scan"), card_, QStringLiteral("--job"), job});
        QVERIFY2(scan.exitCode == 0, scan.err.constData());
        QVERIFY(scan.out.isEmpty());
        const auto out = path(QStringLiteral("out"));
        const auto save =
            cli({QStringLiteral("save"), QStringLiteral("--job"), job, QStringLiteral("--to"), out});
        QVERIFY2(save.exitCode == 0, save.err.constData());
        const auto hashes = hashesOf(manifestIn(out));
        for (const auto& name : mediaNames())
            QVERIFY2(hashes.contains(sha256(mediaFile(name))), qPrintable(name));
        QCOMPARE(hashes.size(), mediaNames().size());
        for (const auto& entry : manifestIn(out)[QStringLiteral("files")].toArray()) {
            const auto file = entry.toObject();
            QCOMPARE(file[QStringLiteral("condition")].toString(), QStringLiteral("whole"));
            QVERIFY(file[QStringLiteral("verified")].toBool());
            QCOMPARE(sha256(readFile(out + QLatin1Char('/') + file[QStringLiteral("saved_as")].toString())),
                     file[QStringLiteral("sha256")].toString());
        }
        // Again: nothing is left to do.
        const auto again = cli({QStringLiteral("scan"), card_, QStringLiteral("--job"), job});
        QCOMPARE(again.exitCode, 0);
        QVERIFY(again.err.contains("finished already"));
    }
    void listIsAsPromised() {
        const auto list = listOf(path(QStringLiteral("job")));
        QCOMPARE(list[QStringLiteral("schema")].toInt(), 1);
        QCOMPARE(list[QStringLiteral("source")][QStringLiteral("size")].toInteger(), qint64{320 << 20});
        QCOMPARE(list[QStringLiteral("scan")][QStringLiteral("state")].toString(),
                 QStringLiteral("finished"));
        QCOMPARE(list[QStringLiteral("scan")][QStringLiteral("bytes_read")].toInteger(), qint64{320 << 20});
        for (const auto& entry : list[QStringLiteral("files")].toArray()) {
            const auto file = entry.toObject();
            // The folder outlived the format; it names what the signatures found.
            const QJsonArray both{QStringLiteral("directory"), QStringLiteral("signature")};
            QCOMPARE(file[QStringLiteral("found_by")].toArray(), both);
            QVERIFY(mediaNames().contains(file[QStringLiteral("name")].toString()));
            QCOMPARE(file[QStringLiteral("folder")].toString(), QStringLiteral("DCIM/100TESTS"));
            QCOMPARE(file[QStringLiteral("fate")].toString(), QStringLiteral("formatted over"));
            QVERIFY(file[QStringLiteral("inside")].isNull());
        }
        const auto all = listOf(path(QStringLiteral("job")), true)[QStringLiteral("files")].toArray();
        QVERIFY(all.size() >= list[QStringLiteral("files")].toArray().size());
    }
    // Sizes and lengths, of everything that another program opens by itself.
    void describesAsAnotherProgramDoes() {
        const QStringList asked{
            "-v",
            "error",
            "-of",
            "json",
            "-show_entries",
            "stream=codec_type,width,height:stream_disposition=attached_pic:format=duration"};
        int pictures = 0, recordings = 0;
        for (const auto& entry : listOf(path(QStringLiteral("job")))[QStringLiteral("files")].toArray()) {
            const auto file = entry.toObject();
            const auto name = file[QStringLiteral("name")].toString();
            const auto run = command(QStringLiteral("ffprobe"),
                                     asked + QStringList{QStringLiteral(DRESKEL_FIXTURES "/media/") + name});
            const auto told = QJsonDocument::fromJson(run.out).object();
            // A photo may have smaller ones beside it, a recording a cover.
            bool any = false, same = false;
            for (const auto& one : told[QStringLiteral("streams")].toArray()) {
                const auto stream = one.toObject();
                const bool cover =
                    stream[QStringLiteral("disposition")][QStringLiteral("attached_pic")].toInt() != 0;
                const bool opened = stream[QStringLiteral("width")].toInt() > 0;
                if (stream[QStringLiteral("codec_type")].toString() != QLatin1String("video") || cover ||
                    !opened)
                    continue;
                any = true;
                same = same || (file[QStringLiteral("width")] == stream[QStringLiteral("width")] &&
                                file[QStringLiteral("height")] == stream[QStringLiteral("height")]);
            }
            QVERIFY2(same || !any, run.out.constData());
            pictures += any ? 1 : 0;
            const auto duration =
                told[QStringLiteral("format")][QStringLiteral("duration")].toString().toDouble();
            if (file[QStringLiteral("kind")].toString() == QLatin1String("photo") || duration <= 0) continue;
            const auto ours = file[QStringLiteral("duration")].toDouble();
            QVERIFY2(std::abs(ours - duration) <= 0.05 + duration * 0.01,
                     qPrintable(QStringLiteral("%1: %2 and %3 s").arg(name).arg(ours).arg(duration)));
            ++recordings;
        }
        QVERIFY(pictures >= 60 && recordings >= 40);
    }
    void savesWhatIsAskedFor() {
        const auto job = path(QStringLiteral("job"));
        const auto photos = path(QStringLiteral("photos"));
        QCOMPARE(
            cli({"save", "--job", job, "--to", photos, "--kinds", "photo", "--layout", "flat", "--quiet"})
                .exitCode,
            0);
        QCOMPARE(QDir(photos).entryList({QStringLiteral("*.jpg")}).size(),
                 mediaNames(QStringLiteral("*.jpg")).size());
        const auto two = path(QStringLiteral("two"));
        QCOMPARE(cli({"save", "--job", job, "--to", two, "--ids", "2,4-5"}).exitCode, 0);
        QCOMPARE(manifestIn(two)[QStringLiteral("files")].toArray().size(), 3);
        const auto broken = path(QStringLiteral("broken"));
        QCOMPARE(cli({"save", "--job", job, "--to", broken, "--only", "broken"}).exitCode, 0);
        QCOMPARE(manifestIn(broken)[QStringLiteral("files")].toArray().size(), 0);
    }
    void killedInTheMiddleNothingIsLost() {
        const auto job = path(QStringLiteral("killed"));
        std::size_t most = 0;
        int kills = 0;
        for (int kill = 0; kill < 5; ++kill) {
            QProcess scan;
            scan.start(
                QStringLiteral(DRESKEL_BIN "/dreskel-cli"),
                {QStringLiteral("scan"), card_, QStringLiteral("--job"), job, QStringLiteral("--quiet")});
            QVERIFY(scan.waitForStarted());
            QTest::qWait(120 + 150 * kill);
            // Another process lists while this one scans.
            const auto listed =
                static_cast<std::size_t>(listOf(job)[QStringLiteral("files")].toArray().size());
            QVERIFY2(listed >= most, "files that were listed before the kill are gone");
            most = listed;
            // Without a process the number would be 0, and that means everyone.
            const auto process = static_cast<pid_t>(scan.processId());
            if (process > 0) {
                ::kill(process, SIGKILL);
                ++kills;
            }
            scan.waitForFinished();
        }
        QVERIFY(kills >= 2);
        QCOMPARE(cli({"scan", card_, "--job", job, "--quiet"}).exitCode, 0);
        const auto list = listOf(job)[QStringLiteral("files")].toArray();
        QCOMPARE(list.size(), mediaNames().size());
        std::set<qint64> offsets;
        for (const auto& file : list) {
            QCOMPARE(file.toObject()[QStringLiteral("condition")].toString(), QStringLiteral("whole"));
            offsets.insert(
                file.toObject()[QStringLiteral("pieces")][0][QStringLiteral("offset")].toInteger());
        }
        QCOMPARE(static_cast<qsizetype>(offsets.size()), list.size());
    }
    void interruptedItSaysSo() {
        const auto job = path(QStringLiteral("interrupted"));
        QProcess scan;
        // Formats that take some seconds to look into.
        const QStringList some{"jpeg", "mp4", "mov", "png", "heic"};
        const QStringList asked{"scan", card_, "--job", job, "--formats", some.join(u',')};
        scan.start(QStringLiteral(DRESKEL_BIN "/dreskel-cli"), asked + QStringList{"--progress", "json"});
        QVERIFY(scan.waitForStarted());
        // Its first word; a busy machine may take long to come so far.
        scan.setReadChannel(QProcess::StandardError);
        QVERIFY(scan.waitForReadyRead(30000));
        QVERIFY(scan.processId() > 0);
        ::kill(static_cast<pid_t>(scan.processId()), SIGINT);
        QVERIFY(scan.waitForFinished(30000));
        QCOMPARE(scan.exitCode(), 130);
        const auto lines = scan.readAllStandardError().split('\n');
        QVERIFY(QJsonDocument::fromJson(lines[0]).object().contains(QStringLiteral("bytes_read")));
        QCOMPARE(cli(asked + QStringList{"--quiet"}).exitCode, 0);
        qsizetype files = 0;
        for (const auto& format : some)
            files += mediaNames(QStringLiteral("*.") +
                                (format == QLatin1String("jpeg") ? QStringLiteral("jpg") : format))
                         .size();
        QCOMPARE(listOf(job)[QStringLiteral("files")].toArray().size(), files);
    }
    void exitCodesAreAsPromised() {
        QCOMPARE(cli({"--help"}).exitCode, 0);
        QCOMPARE(cli({"scan", "--help"}).exitCode, 0);
        QCOMPARE(cli({}).exitCode, 2);
        QCOMPARE(cli({"frobnicate"}).exitCode, 2);
        QCOMPARE(cli({"scan", card_}).exitCode, 2);
        QCOMPARE(cli({"scan", card_, "--job", path("x"), "--formats", "xyz"}).exitCode, 2);
        QCOMPARE(cli({"scan", card_, "--job", path("x"), "--span", "9-3"}).exitCode, 2);
        QCOMPARE(cli({"scan", path("missing.img"), "--job", path("x")}).exitCode, 3);
        QVERIFY(!QFileInfo::exists(path("x")));
        writeFile(path("empty.img"), {});
        QCOMPARE(cli({"inspect", path("empty.img")}).exitCode, 3);
        QCOMPARE(cli({"list", "--job", path("nothing"), "--json"}).exitCode, 1);
        const auto refused = cli({"save", "--job", path("job"), "--to", card_ + "/inside"});
        QCOMPARE(refused.exitCode, 4);
        QVERIFY(!refused.err.isEmpty() && refused.out.isEmpty());
    }
    void inspectAccountsForEverySector() {
        const auto job = path(QStringLiteral("job"));
        QCOMPARE(cli({"scan", card_, "--job", job, "--quiet"}).exitCode, 0);  // that may be over already
        const auto run = cli({"inspect", card_, "--job", job, "--json"});
        QCOMPARE(run.exitCode, 0);
        const auto told = QJsonDocument::fromJson(run.out).object();
        const auto ledger = told["ledger"].toObject();
        qint64 sum = 0;
        for (const auto* account :
             {"files", "filesystem", "blank", "unreadable", "unexplained", "not_looked_at"})
            sum += ledger[account].toInteger();
        QCOMPARE(sum, told["source"].toObject()["size"].toInteger());
        qint64 unexplained = 0;
        for (const auto& stretch : told["unexplained"].toArray()) {
            unexplained += stretch.toObject()["length"].toInteger();
            QVERIFY(!stretch.toObject()["looks_like"].toString().isEmpty());
        }
        QCOMPARE(unexplained, ledger["unexplained"].toInteger());
        QVERIFY(cli({"inspect", card_, "--job", job}).out.contains("together"));
    }
    void inspectTellsTheVolume() {
        const auto json = QJsonDocument::fromJson(cli({"inspect", card_, "--json"}).out);
        QCOMPARE(json[QStringLiteral("filesystems")][0][QStringLiteral("kind")].toString(),
                 QStringLiteral("FAT32"));
        QCOMPARE(json[QStringLiteral("filesystems")][0][QStringLiteral("state")].toString(),
                 QStringLiteral("live"));
        QCOMPARE(json[QStringLiteral("source")][QStringLiteral("size")].toInteger(), qint64{320 << 20});
    }
    void onlyTheAskedSpanAndFormats() {
        const auto job = path(QStringLiteral("some"));
        QCOMPARE(
            cli({"scan", card_, "--job", job, "--kinds", "audio", "--span", "0-64M", "--quiet"}).exitCode, 0);
        for (const auto& file : listOf(job)[QStringLiteral("files")].toArray())
            QCOMPARE(file.toObject()[QStringLiteral("kind")].toString(), QStringLiteral("audio"));
        QCOMPARE(listOf(job)[QStringLiteral("scan")][QStringLiteral("bytes_read")].toInteger(),
                 qint64{64 << 20});
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "test_cli.moc"
