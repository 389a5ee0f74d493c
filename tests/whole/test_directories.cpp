// What directories remember, on volumes made by the real mkfs tools and written by other programs: present,
// deleted, formatted over, damaged, used again.
#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "session/session.h"
#include "tests/support/loop_device.h"
#include "tests/support/support.h"
#include "volume/orphans.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

struct Put {
    QString folder, name;
    Buffer bytes;
};

}  // namespace

class TestDirectories : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    static void must(const Run& run, const char* what) {
        if (run.exitCode != 0) qFatal("%s failed: %s", what, run.err.constData());
    }
    QString fresh(const QString& name) { return dir_.filePath(QString::number(++number_) + name); }
    QString blank(qint64 size) {
        const auto path = fresh(QStringLiteral(".img"));
        QFile file(path);
        if (!file.open(QIODevice::WriteOnly) || !file.resize(size)) qFatal("no room");
        return path;
    }
    static void format(const QString& card, bool ex, const QString& cluster) {
        if (ex) {
            must(command(QStringLiteral("mkfs.exfat"), {"-c", cluster, card}), "mkfs.exfat");
        } else {
            must(command(QStringLiteral("mkfs.vfat"), {"-F", "32", "-s", cluster, card}), "mkfs.vfat");
        }
    }
    // Every file different: what is behind a JPEG's end is not looked at, so its comment carries the number.
    static std::vector<Put> files(int count) {
        std::vector<Put> all;
        QStringList names;
        // Names are the question here; longer films, which take long to check, are decoded in other tests.
        static const QRegularExpression films(
            QStringLiteral("[.](mp4|mov|mkv|webm|avi|3gp|m?2?ts|mpg|wmv|flv|h264|hevc)$"));
        for (const auto& name : mediaNames()) {
            const auto size = mediaFile(name).size();
            if (size > 3000 && size < (films.match(name).hasMatch() ? 200000U : 400000U)) names << name;
        }
        for (int i = 0; i < count; ++i) {
            const auto& source = names[i % names.size()];
            const auto extension = source.section(QLatin1Char('.'), -1);
            auto bytes = mediaFile(source);
            if (extension == QLatin1String("jpg")) {
                const Buffer comment{0xff,
                                     0xfe,
                                     0x00,
                                     0x06,
                                     'N',
                                     'o',
                                     static_cast<std::uint8_t>('0' + i / 64),
                                     static_cast<std::uint8_t>('0' + i % 64)};
                bytes.insert(bytes.begin() + 2, comment.begin(), comment.end());
            }
            const auto folder = QStringLiteral("DCIM/10%1MILLS").arg(i % 2);
            const auto name =
                i % 3 == 0
                    ? QStringLiteral("MILL%1.%2").arg(i, 4, 10, QLatin1Char('0')).arg(extension.toUpper())
                    : QStringLiteral("The wheel, seen from below (%1).%2").arg(i).arg(extension);
            all.push_back({folder, name, bytes});
        }
        return all;
    }
    // Runs `work` with the volume's root as an ordinary folder where a FUSE driver can, otherwise by mtools.
    void fill(const QString& card, bool ex, const std::vector<Put>& all, const std::vector<int>& removed) {
        if (ex) {
            LoopDevice loop(card, true);
            const auto mount = fresh(QStringLiteral("-mount"));
            QDir().mkpath(mount);
            must(command(QStringLiteral("mount.exfat-fuse"), {loop.path(), mount}), "mount.exfat-fuse");
            for (const auto& put : all) {
                QDir().mkpath(mount + QLatin1Char('/') + put.folder);
                writeFile(mount + QLatin1Char('/') + put.folder + QLatin1Char('/') + put.name, put.bytes);
            }
            for (const int i : removed)
                QFile::remove(mount + QLatin1Char('/') + all[static_cast<std::size_t>(i)].folder +
                              QLatin1Char('/') + all[static_cast<std::size_t>(i)].name);
            must(command(QStringLiteral("umount"), {mount}), "umount");
            return;
        }
        command(QStringLiteral("mmd"), {"-i", card, "::DCIM", "::DCIM/100MILLS", "::DCIM/101MILLS"});
        const auto one = fresh(QStringLiteral(".bin"));
        for (const auto& put : all) {
            writeFile(one, put.bytes);
            must(command(QStringLiteral("mcopy"),
                         {"-i", card, "-Do", one, "::" + put.folder + "/" + put.name}),
                 "mcopy");
        }
        for (const int i : removed)
            must(command(QStringLiteral("mdel"), {"-i", card,
                                                  "::" + all[static_cast<std::size_t>(i)].folder + "/" +
                                                      all[static_cast<std::size_t>(i)].name}),
                 "mdel");
    }
    // The FAT32 driver goes on behind the last file until it is told to begin anew (FSI_Nxt_Free).
    static void writeFromTheFront(const QString& card) {
        QFile image(card);
        if (!image.open(QIODevice::ReadWrite) || !image.seek(512 + 492)) qFatal("no card");
        image.write(QByteArray("\x02\0\0\0", 4));
    }
    QJsonObject searched(const QString& card, const QStringList& options = {}) {
        const auto job = fresh(QStringLiteral("-job"));
        const auto run = cli(QStringList{"scan", card, "--job", job, "--quiet"} + options);
        if (run.exitCode != 0) qFatal("the scan failed: %s", run.err.constData());
        return listOf(job);
    }
    static QString hashOf(const QString& card, const QJsonObject& file) {
        QFile image(card);
        if (!image.open(QIODevice::ReadOnly)) qFatal("no card");
        QByteArray bytes;
        for (const auto& value : file["pieces"].toArray()) {
            const auto piece = value.toObject();
            if (piece["from"].toString() != "card") return {};
            image.seek(piece["offset"].toInteger());
            bytes += image.read(piece["length"].toInteger());
        }
        return sha256(Buffer(bytes.begin(), bytes.end()));
    }
    static void ledgerAddsUp(const QJsonObject& list) {
        const auto ledger = list["ledger"].toObject();
        qint64 sum = 0;
        for (const auto* account :
             {"files", "filesystem", "blank", "unreadable", "unexplained", "not_looked_at"})
            sum += ledger[QLatin1String(account)].toInteger();
        QCOMPARE(sum, list["source"]["size"].toInteger());
        QCOMPARE(ledger["claimed_twice"].toInteger(), qint64{0});
    }
    struct Score {
        int exact = 0, named = 0, falseWhole = 0;
    };
    static Score compare(const QString& card, const QJsonObject& list, const std::vector<Put>& truth) {
        std::multimap<QString, const Put*> byHash;
        for (const auto& put : truth) byHash.emplace(sha256(put.bytes), &put);
        std::set<const Put*> exact;
        std::set<const Put*> named;
        Score score;
        for (const auto& value : list["files"].toArray()) {
            const auto file = value.toObject();
            const auto [from, to] = byHash.equal_range(hashOf(card, file));
            if (from == to && file["condition"].toString() == "whole") {
                ++score.falseWhole;
                qInfo("whole, and not what was written: %s",
                      QJsonDocument(file).toJson(QJsonDocument::Compact).constData());
            }
            for (auto put = from; put != to; ++put) {
                exact.insert(put->second);
                if (file["name"].toString() == put->second->name &&
                    file["folder"].toString() == put->second->folder)
                    named.insert(put->second);
            }
        }
        for (const auto& put : truth) {
            if (named.count(&put) == 0)
                qInfo("not %s: %s", exact.count(&put) == 0 ? "exact" : "named", qPrintable(put.name));
        }
        score.exact = static_cast<int>(exact.size());
        score.named = static_cast<int>(named.size());
        return score;
    }

  private Q_SLOTS:
    void namesComeBack_data() {
        QTest::addColumn<bool>("ex");
        QTest::addColumn<QString>("what");
        QTest::addColumn<int>("named");  // at least, of a hundred
        QTest::newRow("FAT32, present") << false << "present" << 100;
        QTest::newRow("exFAT, present") << true << "present" << 100;
        QTest::newRow("FAT32, emptied file by file") << false << "deleted" << 100;
        QTest::newRow("exFAT, emptied file by file") << true << "deleted" << 100;
        QTest::newRow("FAT32, formatted again") << false << "again" << 95;
        QTest::newRow("exFAT, formatted again") << true << "again" << 95;
        QTest::newRow("FAT32, other clusters") << false << "clusters" << 95;
        QTest::newRow("exFAT, then FAT32") << true << "other" << 95;
        // The first clusters of the folders are under the new volume's own tables; what is left names the
        // rest.
        QTest::newRow("FAT32, then exFAT") << false << "other" << 0;
        QTest::newRow("exFAT, first 8 MiB wiped") << true << "wiped" << 0;
    }
    void namesComeBack() {
        QFETCH(bool, ex);
        QFETCH(QString, what);
        QFETCH(int, named);
        if (ex && (!LoopDevice::possible() || !QFile::exists(QStringLiteral("/dev/fuse"))))
            QSKIP("needs root, loop devices and FUSE");
        const int count = 104;
        const auto truth = files(count);
        const auto card = blank(320 << 20);
        format(card, ex, ex ? QStringLiteral("32K") : QStringLiteral("8"));
        std::vector<int> removed;
        for (int i = 0; what == "deleted" && i < count; i += 2 - i % 3 % 2) removed.push_back(i);
        fill(card, ex, truth, removed);
        if (what == "again") format(card, ex, ex ? QStringLiteral("32K") : QStringLiteral("8"));
        if (what == "clusters") format(card, ex, QStringLiteral("16"));
        if (what == "other") format(card, !ex, ex ? QStringLiteral("8") : QStringLiteral("32K"));
        if (what == "wiped") {
            QFile file(card);
            QVERIFY(file.open(QIODevice::ReadWrite));
            file.write(QByteArray(8 << 20, '\0'));
        }
        const auto list = searched(card);
        const auto score = compare(card, list, truth);
        qInfo("%d of %d exact, %d with name and folder", score.exact, count, score.named);
        QCOMPARE(score.falseWhole, 0);
        // What the new volume's tables or the wiping took cannot come back.
        QVERIFY2(score.exact >= (what == "wiped" ? count * 3 / 4 : count * 99 / 100),
                 qPrintable(QString::number(score.exact)));
        QVERIFY2(score.named * 100 >= named * count, qPrintable(QString::number(score.named)));
        ledgerAddsUp(list);
        std::map<QString, int> fates;
        for (const auto& file : list["files"].toArray()) ++fates[file.toObject()["fate"].toString()];
        if (what == "deleted") {
            QCOMPARE(fates["deleted"], static_cast<int>(removed.size()));
            QCOMPARE(fates["present"], count - static_cast<int>(removed.size()));
        }
        if (what == "present") {
            QCOMPARE(fates["present"], count);
            // The filesystem's own checker counts the same files.
            const auto check = command(ex ? QStringLiteral("fsck.exfat") : QStringLiteral("fsck.vfat"),
                                       {QStringLiteral("-n"), card});
            const auto told = ex ? "files " + QByteArray::number(count)
                                 : QByteArray::number(count + 3) + " files";  // with the folders
            QVERIFY2((check.out + check.err).contains(told), (check.out + check.err).constData());
            QCOMPARE(searched(card, {"--skip-live"})["files"].toArray().size(), qsizetype{0});
        }
    }
    void followsAChainThroughItsPieces() {
        const auto card = blank(320 << 20);
        format(card, false, QStringLiteral("8"));
        auto truth = files(12);
        // Every second small file is removed, and large ones go into the holes.
        std::vector<Put> small;
        for (int i = 0; i < 60; ++i)
            small.push_back({QStringLiteral("DCIM/100MILLS"),
                             QStringLiteral("SMAL%1.TXT").arg(i, 4, 10, QLatin1Char('0')),
                             Buffer(20000, static_cast<std::uint8_t>('a' + i % 26))});
        std::vector<int> removed;
        for (int i = 0; i < 60; i += 2) removed.push_back(i);
        fill(card, false, small, removed);
        writeFromTheFront(card);
        fill(card, false, truth, {});
        const auto list = searched(card);
        int pieces = 0;
        for (const auto& value : list["files"].toArray()) {
            const auto file = value.toObject();
            if (file["pieces"].toArray().size() < 2) continue;
            ++pieces;
            QCOMPARE(file["joins"].toArray().size(), file["pieces"].toArray().size() - 1);
        }
        QVERIFY2(pieces >= 1, "nothing was written in pieces; the test says nothing");
        const auto score = compare(card, list, truth);
        QCOMPARE(score.exact, 12);
        QCOMPARE(score.named, 12);
        QCOMPARE(score.falseWhole, 0);
        ledgerAddsUp(list);
    }
    // Deletion on FAT frees the chain: the start and the length stay, and what is in the way.
    void goesRoundWhatIsInTheWayOfADeletedFile() {
        const auto card = blank(320 << 20);
        format(card, false, QStringLiteral("8"));
        const auto truth = files(26);
        // Bare streams in pieces end where foreign bytes begin: nothing leads on (docs/formats.md).
        const auto followed = static_cast<int>(std::count_if(truth.begin(), truth.end(), [](const Put& put) {
            return !put.name.endsWith(QStringLiteral("H264")) && !put.name.endsWith(QStringLiteral("HEVC"));
        }));
        QVERIFY(followed >= 24);
        std::vector<Put> small;
        std::vector<int> removed;
        for (int i = 0; i < 120; ++i) {
            small.push_back({QStringLiteral("DCIM/100MILLS"), QStringLiteral("SMAL%1.TXT").arg(i),
                             Buffer(90000, static_cast<std::uint8_t>('a' + i % 26))});
            if (i % 2 == 0) removed.push_back(i);
        }
        fill(card, false, small, removed);
        writeFromTheFront(card);
        fill(card, false, truth, {});
        int pieces = 0;
        for (const auto& value : searched(card)["files"].toArray())
            pieces += value.toObject()["pieces"].toArray().size() > 1 ? 1 : 0;
        QVERIFY2(pieces >= 2, qPrintable(QString::number(pieces)));
        for (const auto& put : truth)
            must(command(QStringLiteral("mdel"), {"-i", card, "::" + put.folder + "/" + put.name}), "mdel");
        const auto list = searched(card);
        const auto score = compare(card, list, truth);
        qInfo("%d files had been in pieces; %d of %d exact", pieces, score.exact,
              static_cast<int>(truth.size()));
        QCOMPARE(score.falseWhole, 0);
        QVERIFY(score.exact >= followed);
        QVERIFY(score.named >= followed);
        // Around what is there, but for streams whose records lead on by themselves.
        int joined = 0, around = 0;
        for (const auto& value : list["files"].toArray()) {
            const auto joins = value.toObject()["joins"].toArray();
            joined += joins.isEmpty() ? 0 : 1;
            const auto why = joins.isEmpty() ? QString() : joins[0].toObject()["why"].toString();
            around += why.contains(QStringLiteral("in its way")) ? 1 : 0;
            QVERIFY(joins.isEmpty() || !why.isEmpty());
        }
        QVERIFY(joined >= pieces - static_cast<int>(truth.size() - static_cast<std::size_t>(followed)));
        QVERIFY2(around >= 5, qPrintable(QString::number(around)));
        ledgerAddsUp(list);
    }
    // A camera that deletes on exFAT clears the in-use bits and the bitmap, and leaves the chain in the
    // table.
    void followsADeletedFilesChain() {
        const auto card = blank(320 << 20);
        format(card, true, QStringLiteral("32K"));
        std::vector<Put> small;
        std::vector<int> removed;
        for (int i = 0; i < 200; ++i) {
            small.push_back({QStringLiteral("DCIM/100MILLS"), QStringLiteral("SMAL%1.TXT").arg(i),
                             Buffer(20000, static_cast<std::uint8_t>('a' + i % 26))});
            if (i % 2 == 0) removed.push_back(i);
        }
        fill(card, true, small, removed);
        const auto truth = files(12);
        fill(card, true, truth, {});
        auto bytes = readFile(card);
        int deleted = 0;
        for (std::size_t at = 0; at + 96 <= bytes.size(); at += 32) {
            const bool file = bytes[at] == 0x85 && bytes[at + 32] == 0xc0 && bytes[at + 64] == 0xc1;
            if (!file || (bytes[at + 4] & 0x10) != 0) continue;
            for (std::size_t entry = 0; entry <= bytes[at + 1]; ++entry) bytes[at + entry * 32] &= 0x7f;
            ++deleted;
        }
        QCOMPARE(deleted, 12 + 100);
        const auto heap = static_cast<std::size_t>(bytes[88] | bytes[89] << 8 | bytes[90] << 16) * 512;
        std::fill(bytes.begin() + static_cast<std::ptrdiff_t>(heap) + 8,
                  bytes.begin() + static_cast<std::ptrdiff_t>(heap) + 4096, std::uint8_t{0});
        writeFile(card, bytes);
        const auto list = searched(card);
        int pieces = 0;
        for (const auto& value : list["files"].toArray())
            pieces += value.toObject()["pieces"].toArray().size() > 1 ? 1 : 0;
        QVERIFY2(pieces >= 3, qPrintable(QString::number(pieces)));
        const auto score = compare(card, list, truth);
        QCOMPARE(score.exact, 12);
        QCOMPARE(score.named, 12);
        QCOMPARE(score.falseWhole, 0);
        ledgerAddsUp(list);
    }
    void doesNotOfferWhatWasUsedAgain() {
        const auto card = blank(320 << 20);
        format(card, false, QStringLiteral("8"));
        auto before = files(30);
        std::vector<int> all;
        for (int i = 0; i < 30; ++i) all.push_back(i);
        fill(card, false, before, all);
        writeFromTheFront(card);
        std::vector<Put> after;
        for (int i = 0; i < 8; ++i)
            after.push_back({QStringLiteral("DCIM/101MILLS"), QStringLiteral("LATER%1.BIN").arg(i),
                             randomBytes(300000, 70U + static_cast<unsigned>(i))});
        fill(card, false, after, {});
        const auto list = searched(card);
        auto truth = before;
        truth.insert(truth.end(), after.begin(), after.end());
        const auto score = compare(card, list, truth);
        QCOMPARE(score.falseWhole, 0);
        QVERIFY(score.exact >= 8 + 10);  // the later ones, and those whose bytes were left alone
        QVERIFY(score.exact < 38);       // but some were overwritten
        ledgerAddsUp(list);
    }
    void listsDirectoriesBeforeThePass_data() {
        QTest::addColumn<bool>("copied");
        QTest::newRow("read from the card") << false;
        QTest::newRow("while the card is copied") << true;
    }
    void listsDirectoriesBeforeThePass() {
        QFETCH(bool, copied);
        const auto card = blank(320 << 20);
        format(card, false, QStringLiteral("8"));
        const auto truth = files(20);
        fill(card, false, truth, {});
        // On a reader so slow that the pass takes minutes.
        const auto recipe = fresh(QStringLiteral(".reader.json"));
        const auto text = QByteArray("{\"simulated_reader\": {\"image\": \"") +
                          QFileInfo(card).fileName().toUtf8() + "\", \"bytes_per_second\": 2000000}}";
        writeFile(recipe, Buffer(text.begin(), text.end()));
        const auto job = fresh(QStringLiteral("-job")).toStdString();
        const auto copy = fresh(QStringLiteral("-copy.img")).toStdString();
        const auto session =
            copied ? Session::openCopying(openSource(recipe.toStdString()).value(), {copy, {}, {}, {}}, job)
                   : Session::open(recipe.toStdString(), job);
        QVERIFY(session.ok());
        session.value()->startScan({});
        QVERIFY(QTest::qWaitFor([&] { return session.value()->overview().listed == 20; }, 8000));
        for (const auto& finding : session.value()->listed()) {
            QVERIFY(!finding.name.empty());
            QVERIFY(finding.fate == Fate::Present);
        }
        session.value()->stop();
        QVERIFY(!session.value()->wait().ok());
    }
    void looksAtNamedFilesOnly_data() {
        QTest::addColumn<bool>("ex");
        QTest::newRow("FAT32") << false;
        QTest::newRow("exFAT") << true;
    }
    void looksAtNamedFilesOnly() {
        QFETCH(bool, ex);
        if (ex && (!LoopDevice::possible() || !QFile::exists(QStringLiteral("/dev/fuse"))))
            QSKIP("needs root, loop devices and FUSE");
        const auto card = blank(320 << 20);
        format(card, ex, ex ? QStringLiteral("32K") : QStringLiteral("8"));
        auto truth = files(40);
        std::vector<int> all;
        for (int i = 0; i < 40; ++i) all.push_back(i);
        fill(card, ex, truth, all);
        // A file that no folder knows of.
        const auto stray = mediaFile(QStringLiteral("baseline-420.jpg"));
        QFile image(card);
        QVERIFY(image.open(QIODevice::ReadWrite));
        image.seek(300 << 20);
        image.write(reinterpret_cast<const char*>(stray.data()), static_cast<qint64>(stray.size()));
        image.close();

        const auto job = fresh(QStringLiteral("-job"));
        QCOMPARE(cli({"scan", card, "--job", job, "--quiet", "--named-only"}).exitCode, 0);
        auto list = listOf(job);
        QCOMPARE(list["scan"].toObject()["bytes_read"].toInteger(), qint64{0});
        auto score = compare(card, list, truth);
        QCOMPARE(score.exact, 40);
        QCOMPARE(score.named, 40);
        QCOMPARE(score.falseWhole, 0);
        QCOMPARE(list["files"].toArray().size(), qsizetype{40});
        for (const auto& file : list["files"].toArray())
            QVERIFY(file.toObject()["condition"].toString() != "unchecked" ||
                    !file.toObject()["found_by"].toArray().contains("signature"));
        ledgerAddsUp(list);
        QVERIFY(list["ledger"].toObject()["not_looked_at"].toInteger() > 200 << 20);
        QCOMPARE(
            cli({"scan", card, "--job", job, "--named-only", "--copy", fresh(QStringLiteral("-copy.img"))})
                .exitCode,
            2);
        // Asked for the same again it is done; asked for all of it it goes on.
        QCOMPARE(cli({"scan", card, "--job", job, "--quiet", "--named-only"}).exitCode, 0);
        QCOMPARE(listOf(job)["scan"].toObject()["bytes_read"].toInteger(), qint64{0});
        QCOMPARE(cli({"scan", card, "--job", job, "--quiet"}).exitCode, 0);
        list = listOf(job);
        truth.push_back({{}, QStringLiteral("nameless"), stray});
        score = compare(card, list, truth);
        QCOMPARE(score.exact, 41);
        QCOMPARE(score.named, 40);
        QCOMPARE(list["files"].toArray().size(), qsizetype{41});
        QCOMPARE(list["scan"].toObject()["bytes_read"].toInteger(), qint64{320 << 20});
        QCOMPARE(list["ledger"].toObject()["not_looked_at"].toInteger(), qint64{0});
        ledgerAddsUp(list);
    }
    void orphansSurviveAnyBytes() {
        // Folders of noise and of bent entries: nothing breaks, nothing runs on.
        const auto card = blank(320 << 20);
        format(card, false, QStringLiteral("8"));
        fill(card, false, files(20), {});
        const auto good = readFile(card);
        std::vector<std::uint64_t> sectors;
        for (std::uint64_t at = 0; at < 8 << 20; at += 512) {
            if (looksLikeFolder(slice(good, at, 512))) sectors.push_back(at);
        }
        QVERIFY(sectors.size() > 5);
        std::mt19937 random(6);
        for (int round = 0; round < 40; ++round) {
            Buffer bytes(good.begin(), good.begin() + (8 << 20));
            for (const auto at : sectors) {
                for (int i = 0; i < 6; ++i) bytes[at + random() % 512] = static_cast<std::uint8_t>(random());
            }
            const auto image = fresh(QStringLiteral(".img"));
            writeFile(image, bytes);
            const auto source = openSource(image.toStdString()).value();
            Anchors anchors;
            for (int i = 0; i < 200; ++i) anchors[random() % bytes.size() / 512 * 512] = random() % 3000000;
            const auto found = rememberOrphans(*source, sectors, {}, {}, anchors);
            for (const auto& file : found) QVERIFY(file.start() < bytes.size());
            QFile::remove(image);
        }
        std::size_t stray = 0;
        const auto noise = randomBytes(16 << 20, 8);
        for (std::size_t at = 0; at < noise.size(); at += 512)
            stray += looksLikeFolder(slice(noise, at, 512)) ? 1 : 0;
        QCOMPARE(stray, std::size_t{0});
    }
};

QTEST_GUILESS_MAIN(TestDirectories)
#include "test_directories.moc"
