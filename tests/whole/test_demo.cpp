// The demo card and its truth: every contiguous file comes back to the byte, and nothing is called whole that
// is not.
#include <map>
#include <QFileInfo>
#include <QJsonDocument>
#include <QTemporaryDir>
#include <QTest>
#include <set>

#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestDemo : public QObject {
    Q_OBJECT

    static QJsonObject json(const QString& path) {
        const auto bytes = readFile(path);
        return QJsonDocument::fromJson(QByteArray(reinterpret_cast<const char*>(bytes.data()),
                                                  static_cast<qsizetype>(bytes.size())))
            .object();
    }

  private Q_SLOTS:
    void theWholeJob() {
        const QTemporaryDir dir;
        const auto card = dir.filePath(QStringLiteral("MILL-07.img"));
        QCOMPARE(cli({"demo-card", card, "--quiet"}).exitCode, 0);
        QVERIFY(QFileInfo(card).size() < 400000000);
        QCOMPARE(cli({"demo-card", card, "--quiet"}).exitCode, 1);  // never over an existing file
        QCOMPARE(cli({"scan", card, "--job", dir.filePath("job"), "--quiet"}).exitCode, 0);
        QCOMPARE(cli({"save", "--job", dir.filePath("job"), "--to", dir.filePath("out")}).exitCode, 0);

        const auto truth = json(card + QStringLiteral(".truth.json"))[QStringLiteral("files")].toArray();
        const auto saved = json(dir.filePath("out/manifest.json"))[QStringLiteral("files")].toArray();
        std::map<QString, QJsonObject> byHash;
        for (const auto& entry : saved)
            byHash[entry.toObject()[QStringLiteral("sha256")].toString()] = entry.toObject();
        std::map<QString, int> kinds;
        std::map<QString, int> fates;
        std::set<QString> truthHashes;
        for (const auto& entry : truth) {
            const auto file = entry.toObject();
            const auto hash = file[QStringLiteral("sha256")].toString();
            truthHashes.insert(hash);
            ++kinds[file[QStringLiteral("format")].toString()];
            const auto fate = file[QStringLiteral("fate")].toString();
            ++fates[fate];
            if (fate != QLatin1String("intact") && fate != QLatin1String("present")) continue;
            const auto name = qPrintable(file[QStringLiteral("name")].toString());
            QVERIFY2(byHash.count(hash) == 1, name);
            const auto& found = byHash[hash];
            QCOMPARE(found[QStringLiteral("condition")].toString(), QStringLiteral("whole"));
            QCOMPARE(found[QStringLiteral("taken")].toString().left(19),
                     file[QStringLiteral("taken")].toString());
            QVERIFY2(found[QStringLiteral("format")] == file[QStringLiteral("format")], name);
        }
        for (const auto& entry : saved) {
            const auto file = entry.toObject();
            if (file[QStringLiteral("condition")].toString() != QLatin1String("whole")) continue;
            QVERIFY2(truthHashes.count(file[QStringLiteral("sha256")].toString()) == 1,
                     qPrintable(file[QStringLiteral("saved_as")].toString()));
        }
        // What the scenario promises is on the card.
        QVERIFY(kinds["jpeg"] >= 40);
        // Two of them are twins, written in turns.
        QCOMPARE(kinds["mov"] + kinds["mp4"], 10);
        QVERIFY(kinds["wav"] >= 10);
        QVERIFY(fates["in pieces"] >= 3 && fates["partly overwritten"] >= 1 && fates["present"] >= 3);
    }
};

QTEST_GUILESS_MAIN(TestDemo)
#include "test_demo.moc"
