#include <unistd.h>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

#include "deliver/camera_card.h"
#include "deliver/delivered_before.h"
#include "deliver/delivery.h"
#include "deliver/destination.h"
#include "deliver/places.h"
#include "deliver/quota.h"
#include "deliver/selection.h"
#include "deliver/shop.h"
#include "deliver/verification.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Files: more than three batches of 128, which may all be written before the first file is told as done. A
// delivery that is stopped at its third file cannot have come to the end, however fast the drive is.
constexpr std::size_t kMoreThanUnderWay = 600;

}  // namespace

class TestDeliver : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString image_;
    Buffer bytes_;
    std::shared_ptr<Source> source_;
    std::shared_ptr<Job> job_;

    Finding file(std::int64_t id, ByteRange range) {
        Finding finding;
        finding.id = id;
        finding.kind = Kind::Photo;
        finding.format = "jpeg";
        finding.condition = Condition::Whole;
        finding.decoded = 1;
        finding.pieces = {{PieceFrom::Card, range.offset, range.length, {}}};
        finding.evidence.range = range;
        finding.description.taken = "2026-05-02T07:41:10";
        finding.description.camera = "Orrery K2";
        return finding;
    }
    Result<DeliverySum> save(const QString& to, std::vector<Finding> files, Layout layout = Layout::Kind) {
        Control control;
        return deliver(*job_, source_, {to.toStdString(), layout, std::move(files)}, control,
                       [](const DeliveryProgress&) {});
    }
    static QStringList leftovers(const QString& folder) {
        return QDir(folder).entryList({QStringLiteral(".dreskel-writing-*")}, QDir::Files | QDir::Hidden);
    }

  private Q_SLOTS:
    void initTestCase() {
        image_ = dir_.filePath(QStringLiteral("card.img"));
        bytes_ = randomBytes(8 << 20, 21);
        writeFile(image_, bytes_);
        source_ = openSource(image_.toStdString()).value();
        job_ = Job::open(dir_.filePath(QStringLiteral("job")).toStdString(), Job::Access::Write).value();
        QVERIFY(job_->setSource({image_.toStdString(), bytes_.size(), 512}).ok());
        QVERIFY(job_->commit().ok());
    }
    // The page for the client stands alone, says what the manifest says, and shows what a card calls its
    // files as text.
    void aReportTellsAndAddsUp() {
        const auto to = dir_.filePath(QStringLiteral("reported"));
        const auto shopFile = dir_.filePath(QStringLiteral("shop.json"));
        const auto logo = mediaFile(QStringLiteral("picture.png"));
        writeFile(dir_.filePath(QStringLiteral("logo.png")), Buffer(logo.begin(), logo.begin() + 1000));
        const QByteArray shop = R"({"name": "Tide & Mill", "address": "3 Sluice Lane", "logo": "logo.png",
                                    "advice": ["Dry it first."]})";
        writeFile(shopFile, Buffer(shop.begin(), shop.end()));
        auto hostile = file(2, {100000, 5000});
        hostile.name = "<script>x</script>.JPG";
        hostile.condition = Condition::Partial;
        hostile.decoded = 0.5;
        hostile.why = "its lower half is gone";
        auto lost = file(3, {0, 600});
        lost.pieces = {{PieceFrom::Card, bytes_.size() + 4096, 600, {}}};
        DeliveryRequest request{to.toStdString(), Layout::Flat, {file(1, {0, 4096}), hostile, lost}};
        request.report = true;
        request.shop = shopFile.toStdString();
        Control control;
        const auto sum = deliver(*job_, source_, request, control, [](const DeliveryProgress&) {});
        QVERIFY(sum.ok());
        QVERIFY2(sum.value().reportWhyNot.empty(), sum.value().reportWhyNot.c_str());
        const auto read = [](const QString& path) {
            const auto bytes = readFile(path);
            return QString::fromUtf8(reinterpret_cast<const char*>(bytes.data()),
                                     static_cast<qsizetype>(bytes.size()));
        };
        const auto page = read(QString::fromStdString(sum.value().report));
        QVERIFY(page.contains(QStringLiteral("Tide &amp; Mill")) &&
                page.contains(QStringLiteral("Dry it first.")));
        QVERIFY(page.contains(QStringLiteral("data:image/png;base64,")));
        QVERIFY(page.contains(QStringLiteral("&lt;script&gt;")) && !page.contains(QStringLiteral("<script")));
        QVERIFY(page.contains(QStringLiteral("partial, 50 %")) &&
                page.contains(QStringLiteral("its lower half is gone")));
        QVERIFY(page.contains(QStringLiteral("<tr><th>Asked for</th><td>3</td></tr>")));
        QVERIFY(page.contains(
            QStringLiteral("<tr><th>Not saved</th><td>%1</td></tr>").arg(sum.value().notSaved)));
        static const QRegularExpression elsewhere(QStringLiteral("(src|href)=\"(?!data:)"));
        QVERIFY(!page.contains(elsewhere));
        QVERIFY(read(to + QStringLiteral("/pages.html")).contains(QStringLiteral("Pictures to choose from")));
    }
    void aShopThatCannotBeReadIsToldAndCostsNothing() {
        const auto shopFile = dir_.filePath(QStringLiteral("bad-shop.json"));
        for (const auto& text : {QByteArray("[1"), QByteArray(R"({"logo": "nowhere.png"})")}) {
            writeFile(shopFile, Buffer(text.begin(), text.end()));
            const auto shop = readShop(shopFile.toStdString());
            QVERIFY(!shop.ok());
            QVERIFY(!shop.error().advice.empty());
        }
        DeliveryRequest request{
            dir_.filePath(QStringLiteral("no-shop")).toStdString(), Layout::Flat, {file(1, {0, 4096})}};
        request.report = true;
        request.shop = shopFile.toStdString();
        Control control;
        const auto sum = deliver(*job_, source_, request, control, [](const DeliveryProgress&) {});
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().verified, std::size_t{1});
        QVERIFY(!sum.value().reportWhyNot.empty() && !sum.value().report.empty());
        QVERIFY(readShop(dir_.filePath(QStringLiteral("none.json")).toStdString()).value().advice ==
                phrasesIn(usualLanguage()).advice);
    }
    // Read back by another program.
    void theReportIsThereOnPaperToo() {
        const auto to = dir_.filePath(QStringLiteral("on paper"));
        const auto shopFile = dir_.filePath(QStringLiteral("paper-shop.json"));
        auto shop = usualShop();
        shop.name = "Mühle & Wehr \xe6\xb0\xb4\xe8\xbb\x8a";
        shop.language = Language::German;
        shop.advice = {"Erst trocknen."};
        QVERIFY(writeShop(shopFile.toStdString(), shop).ok());
        QVERIFY(readShop(shopFile.toStdString()).value().advice == shop.advice);
        auto damaged = file(2, {4096, 1000});
        damaged.name = "MILL\xff\xfe.JPG";
        damaged.condition = Condition::Partial;
        damaged.decoded = 0.25;
        DeliveryRequest request{to.toStdString(), Layout::Flat, {file(1, {0, 4096}), damaged}};
        request.report = true;
        request.shop = shopFile.toStdString();
        Control control;
        const auto sum = deliver(*job_, source_, request, control, [](const DeliveryProgress&) {});
        QVERIFY(sum.ok());
        QVERIFY2(sum.value().reportWhyNot.empty(), sum.value().reportWhyNot.c_str());
        const auto text = command(QStringLiteral("pdftotext"), {"-layout", to + "/report.pdf", "-"});
        QCOMPARE(text.exitCode, 0);
        const auto words = QString::fromUtf8(text.out);
        for (const auto* expected : {"Dateien von einer Speicherkarte", "Mühle & Wehr", "Erst trocknen.",
                                     "teilweise, 25 %", "Zurückgelesen und gleich"})
            QVERIFY2(words.contains(QString::fromUtf8(expected)), expected);
        const auto pages = command(QStringLiteral("pdfinfo"), {to + "/pages.pdf"});
        QVERIFY(pages.out.contains("A4"));
        // In another language when asked for, with the shop's own advice as it is.
        request.destination = dir_.filePath(QStringLiteral("in English")).toStdString();
        request.language = Language::English;
        QVERIFY(deliver(*job_, source_, request, control, [](const DeliveryProgress&) {}).ok());
        const auto english = command(QStringLiteral("pdftotext"),
                                     {QString::fromStdString(request.destination) + "/report.pdf", "-"});
        QVERIFY(english.out.contains("Read back and found the same") &&
                english.out.contains("Erst trocknen."));
    }
    void clientsChooseByNumber() {
        std::vector<std::int64_t> listed;
        for (std::int64_t id = 1; id <= 50; ++id) listed.push_back(2 * id);
        using Ids = std::set<std::int64_t>;
        QVERIFY(numbersIn("14, 28", listed, listed).value() == (Ids{14, 28}));
        QVERIFY(numbersIn("4-9;p3", listed, listed).value() ==
                (Ids{4, 6, 8, 82, 84, 86, 88, 90, 92, 94, 96, 98, 100}));
        // A span takes what is not on the pages, too: previews inside of others have numbers of their own.
        QVERIFY(numbersIn("4-6", {4, 5, 6, 7}, listed).value() == (Ids{4, 5, 6}));
        QCOMPARE(numbersIn("P1-2", listed, listed).value().size(), std::size_t{40});
        QVERIFY(numbersIn("1-999999999", listed, listed).value().size() == 50);
        QVERIFY(numbersIn("", listed, listed).value().empty() &&
                numbersIn("p9", listed, listed).value().empty());
        for (const auto* wrong : {"all", "3-", "p", "-4", "1-2-3", "99999999999"}) {
            const auto refused = numbersIn(wrong, listed, listed);
            QVERIFY2(!refused.ok(), wrong);
            QVERIFY(refused.error().sentence().find(wrong) != std::string::npos);
        }
    }
    void writesVerifiesAndLists() {
        const auto to = dir_.filePath(QStringLiteral("out"));
        const auto sum = save(to, {file(1, {4096, 3000000}), file(2, {3100672, 77})});
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().verified, std::size_t{2});
        QCOMPARE(sum.value().notSaved, std::size_t{0});
        const auto first = sum.value().items[0];
        QCOMPARE(QString::fromStdString(first.savedAs),
                 QStringLiteral("Photos/2026-05-02 07.41.10 Orrery K2.jpg"));
        const Buffer expected(bytes_.begin() + 4096, bytes_.begin() + 4096 + 3000000);
        QVERIFY(readFile(to + QLatin1Char('/') + QString::fromStdString(first.savedAs)) == expected);
        QCOMPARE(QString::fromStdString(first.sha256), sha256(expected));
        QVERIFY(leftovers(to + QStringLiteral("/Photos")).isEmpty());
        const auto manifest = readFile(to + QStringLiteral("/manifest.json"));
        const auto json = QJsonDocument::fromJson(QByteArray(reinterpret_cast<const char*>(manifest.data()),
                                                             static_cast<qsizetype>(manifest.size())));
        QCOMPARE(json[QStringLiteral("files")].toArray().size(), 2);
        QCOMPARE(json[QStringLiteral("files")][0][QStringLiteral("sha256")].toString(), sha256(expected));
        QVERIFY(json[QStringLiteral("files")][0][QStringLiteral("verified")].toBool());
        const auto csv = readFile(to + QStringLiteral("/manifest.csv"));
        QCOMPARE(std::count(csv.begin(), csv.end(), std::uint8_t{'\n'}), std::ptrdiff_t{3});
    }
    void aCardForACameraIsNumberedByTime() {
        std::vector<Finding> files;
        for (int i = 0; i < 1003; ++i) {
            auto one = file(i + 1, {4096ULL * static_cast<unsigned>(i), 4096});
            one.description.taken =
                "2026-05-02T07:" + std::to_string(10 + i % 50) + ":" + std::to_string(10 + i / 50);
            files.push_back(one);
        }
        files[4].description.taken.clear();  // comes behind all others
        files[7].format = "xmp";
        files[7].kind = Kind::Sidecar;
        files[7].belongsTo = files[2].id;
        files[9].name = "../../EVIL.jpeg";
        const auto paths = cameraPaths(files);
        std::set<std::string> distinct;
        const QRegularExpression shape(QStringLiteral("^DCIM/1\\d\\dSAVED/SAVE\\d{4}\\.[A-Z0-9]{3}$"));
        std::map<std::string, int> perFolder;
        for (const auto& [id, path] : paths) {
            QVERIFY2(shape.match(QString::fromStdString(path)).hasMatch(), path.c_str());
            QVERIFY(distinct.insert(path).second);
            ++perFolder[path.substr(0, 13)];
        }
        QCOMPARE(paths.size(), files.size());
        QCOMPARE(paths.at(1), std::string("DCIM/100SAVED/SAVE0001.JPG"));
        QCOMPARE(paths.at(5), std::string("DCIM/101SAVED/SAVE1002.JPG"));
        // What belongs to a photo has its number.
        QCOMPARE(paths.at(8), paths.at(3).substr(0, paths.at(3).size() - 3) + "XMP");
        QCOMPARE(perFolder.at("DCIM/100SAVED"), 999 + 1);
        const auto to = dir_.filePath(QStringLiteral("for-a-camera"));
        const auto sum = save(to, {files.begin(), files.begin() + 12}, Layout::Dcf);
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().verified, std::size_t{12});
        QVERIFY(QFileInfo::exists(to + QStringLiteral("/DCIM/100SAVED/SAVE0001.JPG")));
        const auto again = save(to, {files[0]}, Layout::Dcf);
        QVERIFY(!again.ok() && again.error().fault == Fault::DestinationRefused);
        files[0].condition = Condition::Partial;
        files[1].format = "png";
        QCOMPARE(cameraDoubts({files[0], files[1]}).size(), std::size_t{2});
        QVERIFY(cameraDoubts({files[2]}).empty());
    }
    // Stopped or killed, it goes on with the same files under the same numbers; with others it would leave
    // gaps.
    void aCardForACameraGoesOn() {
        const auto to = dir_.filePath(QStringLiteral("for-a-camera-twice"));
        std::vector<Finding> files;
        for (std::size_t i = 0; i < kMoreThanUnderWay; ++i) {
            files.push_back(file(static_cast<std::int64_t>(i) + 1, {i * 5000, 4000}));
            files.back().description.taken = "2026-05-02T08:00:" + std::to_string(10 + i % 50);
        }
        Control control;
        const auto begun = deliver(*job_, source_, {to.toStdString(), Layout::Dcf, files}, control,
                                   [&](const DeliveryProgress& at) {
                                       if (at.filesDone >= 3) control.stop();
                                   });
        QVERIFY(begun.ok());
        const auto done = begun.value().verified;
        QVERIFY(done >= 3 && done < files.size());
        // Without one of them the numbers would be others.
        const auto fewer = save(to, {files.begin() + 1, files.end()}, Layout::Dcf);
        QVERIFY(!fewer.ok() && fewer.error().fault == Fault::DestinationRefused);
        const auto sum = save(to, files, Layout::Dcf);
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().before, done);
        QCOMPARE(sum.value().verified, files.size());
        const auto names = QDir(to + QStringLiteral("/DCIM/100SAVED")).entryList(QDir::Files, QDir::Name);
        QCOMPARE(names.size(), static_cast<qsizetype>(files.size()));
        QCOMPARE(names.front(), QStringLiteral("SAVE0001.JPG"));
        QCOMPARE(names.back(), QStringLiteral("SAVE0600.JPG"));
    }
    void aQuotaCountsAsRoom() {
        dqblk answer{};
        QVERIFY(!leftOf(answer));
        answer.dqb_valid = QIF_BLIMITS | QIF_SPACE;
        QVERIFY(!leftOf(answer));      // no limit is set
        answer.dqb_bhardlimit = 1000;  // KiB
        answer.dqb_curspace = 24000;
        QCOMPARE(leftOf(answer), std::optional<std::uint64_t>(1000000));
        answer.dqb_curspace = 2000000;  // above it
        QCOMPARE(leftOf(answer), std::optional<std::uint64_t>(0));
        answer.dqb_bhardlimit = UINT64_MAX;
        QVERIFY(leftOf(answer) > std::uint64_t{1} << 60);
        QVERIFY(!leftByQuota("/nowhere"));
    }
    void aDeliveryCanBeComparedLater() {
        const auto to = dir_.filePath(QStringLiteral("later"));
        auto strange = file(3, {65536, 500});
        strange.name = "a\\b.jpg";
        const auto sum = save(to, {file(1, {4096, 30000}), file(2, {40960, 7000}), strange});
        QVERIFY(sum.ok());
        QCOMPARE(
            command(QStringLiteral("sh"), {"-c", "cd '" + to + "' && sha256sum --strict -c manifest.sha256"})
                .exitCode,
            0);
        Control control;
        const auto silent = [](std::size_t, std::size_t) {};
        auto check = checkDelivery(to.toStdString(), control, silent);
        QVERIFY(check.ok());
        QCOMPARE(check.value().same, std::size_t{3});
        QVERIFY(check.value().wrong.empty());
        const auto first = to + QLatin1Char('/') + QString::fromStdString(sum.value().items[0].savedAs);
        auto bytes = readFile(first);
        bytes[100] ^= 1;
        QVERIFY(QFile::remove(first));
        writeFile(first, bytes);
        QVERIFY(QFile::remove(to + QLatin1Char('/') + QString::fromStdString(sum.value().items[1].savedAs)));
        check = checkDelivery(to.toStdString(), control, silent);
        QVERIFY(check.ok());
        QCOMPARE(check.value().same, std::size_t{1});
        QCOMPARE(check.value().wrong.size(), std::size_t{2});
        QVERIFY(!checkDelivery(dir_.path().toStdString(), control, silent).ok());
        // A manifest from elsewhere leads nowhere.
        const auto evil = dir_.filePath(QStringLiteral("evil"));
        QDir().mkpath(evil);
        const QByteArray text(
            R"({"files": [{"saved_as": "../card.img", "sha256": "00"}, {"saved_as": "/etc/passwd", "sha256": "00"}, 5]})");
        writeFile(evil + QStringLiteral("/manifest.json"), Buffer(text.begin(), text.end()));
        check = checkDelivery(evil.toStdString(), control, silent);
        QVERIFY(check.ok());
        for (const auto& [path, why] : check.value().wrong)
            QCOMPARE(why, std::string("its path leads out of the folder"));
        QCOMPARE(check.value().wrong.size(), std::size_t{2});
    }
    void filesKeepTheirTimes() {
        const auto to = dir_.filePath(QStringLiteral("times"));
        auto named = file(1, {0, 1000});
        named.modified = "2026-05-02T07:41:12";
        auto zoned = file(2, {5000, 1000});
        zoned.description.taken = "2026-05-02T07:41:10+02:00";
        auto bare = file(3, {9000, 1000});
        auto untold = file(4, {12000, 1000});
        untold.description.taken = "2026-13-45T99:00:00";
        const auto before = QDateTime::currentDateTime().addSecs(-5);
        const auto sum = save(to, {named, zoned, bare, untold}).value();
        const auto when = [&](std::size_t i) {
            return QFileInfo(QDir(to).filePath(QString::fromStdString(sum.items[i].savedAs))).lastModified();
        };
        QCOMPARE(when(0), QDateTime(QDate(2026, 5, 2), QTime(7, 41, 12)));
        QCOMPARE(when(1), QDateTime(QDate(2026, 5, 2), QTime(5, 41, 10), Qt::UTC));
        QCOMPARE(when(2), QDateTime(QDate(2026, 5, 2), QTime(7, 41, 10)));
        QVERIFY(when(3) > before);
    }
    // Killed in the middle (nothing of it but its log and a half file), and stopped (a manifest of a part):
    // the same again does the rest, writes nothing twice, and adds up.
    void aDeliveryGoesOn_data() {
        QTest::addColumn<bool>("killed");
        QTest::newRow("stopped") << false;
        QTest::newRow("killed") << true;
    }
    void aDeliveryGoesOn() {
        QFETCH(bool, killed);
        const auto to = dir_.filePath(killed ? QStringLiteral("killed") : QStringLiteral("stopped"));
        std::vector<Finding> files;
        constexpr auto count = kMoreThanUnderWay;
        for (std::size_t i = 0; i < count; ++i)
            files.push_back(file(static_cast<std::int64_t>(i) + 1, {i * 5000, 4000}));
        Control control;
        const auto begun = deliver(*job_, source_, {to.toStdString(), Layout::Kind, files}, control,
                                   [&](const DeliveryProgress& at) {
                                       if (at.filesDone >= 3) control.stop();
                                   });
        QVERIFY(begun.ok());
        const auto done = begun.value().verified;
        QVERIFY(done >= 3 && done < count);
        const auto first = QDir(to).filePath(QString::fromStdString(begun.value().items[0].savedAs));
        if (killed) {
            // As a kill leaves it.
            DeliveredBefore before(to.toStdString(), job_->source(), Layout::Kind);
            for (const auto& item : begun.value().items) {
                if (item.verified)
                    before.add(item.finding, {item.savedAs, item.sha256, item.finding.size(), {}}, false);
            }
            QVERIFY(QFileInfo::exists(to + QStringLiteral("/.dreskel-delivery")));
            for (const auto& name : QDir(to).entryList({QStringLiteral("manifest*")}))
                QFile::remove(QDir(to).filePath(name));
            writeFile(to + QStringLiteral("/Photos/.dreskel-writing-999999999-0"), Buffer(100, 1));
        }
        const auto before = QFileInfo(first).lastModified();
        const auto inode =
            command(QStringLiteral("stat"), {QStringLiteral("-c"), QStringLiteral("%i"), first}).out;
        const auto sum = save(to, files);
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().verified, count);
        QCOMPARE(sum.value().before, done);
        QCOMPARE(sum.value().notSaved, std::size_t{0});
        QVERIFY(leftovers(to).isEmpty());
        QVERIFY(!QFileInfo::exists(to + QStringLiteral("/.dreskel-delivery")));
        QCOMPARE(QDir(to + QStringLiteral("/Photos")).entryList(QDir::Files | QDir::Hidden).size(),
                 static_cast<qsizetype>(count));
        QCOMPARE(QFileInfo(first).lastModified(), before);
        QCOMPARE(command(QStringLiteral("stat"), {QStringLiteral("-c"), QStringLiteral("%i"), first}).out,
                 inode);
        // What was changed meanwhile is not believed; it is saved anew beside.
        auto spoilt = readFile(first);
        spoilt[100] ^= 1;
        writeFile(first, spoilt);
        const auto again = save(to, files);
        QVERIFY(again.ok());
        QCOMPARE(again.value().before, count - 1);
        QCOMPARE(again.value().verified, count);
        QVERIFY(readFile(first) == spoilt);
        // Laid out otherwise it is another delivery.
        Control goesOn;
        const auto other = deliver(*job_, source_, {to.toStdString(), Layout::Flat, files}, goesOn,
                                   [](const DeliveryProgress&) {});
        QVERIFY(other.ok());
        QCOMPARE(other.value().before, std::size_t{0});
    }
    // A drive that was pulled out may keep a half file and lose the log.
    void whatAnotherLeftHalfIsRemoved() {
        const auto to = dir_.filePath(QStringLiteral("halves"));
        QVERIFY(QDir().mkpath(to + QStringLiteral("/Photos")));
        const auto left = to + QStringLiteral("/Photos/.dreskel-writing-999999999-0");
        const auto beingWritten =
            to + QStringLiteral("/Photos/.dreskel-writing-%1-99999").arg(QCoreApplication::applicationPid());
        const auto strange = to + QStringLiteral("/Photos/notes.txt");
        for (const auto& path : {left, beingWritten, strange}) writeFile(path, Buffer(100, 1));
        const auto sum = save(to, {file(1, {0, 4000})});
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().verified, std::size_t{1});
        QVERIFY(!QFileInfo::exists(left));
        QVERIFY(QFileInfo::exists(beingWritten) && QFileInfo::exists(strange));
    }
    void whatBelongsToAFileGoesWithIt() {
        const auto photo = file(1, {0, 1000});
        auto sidecar = file(2, {5000, 300});
        sidecar.kind = Kind::Sidecar;
        sidecar.format = "xmp";
        sidecar.description.taken.clear();
        sidecar.belongsTo = 1;
        auto proxy = file(3, {7000, 500});
        proxy.kind = Kind::Video;
        proxy.format = "mp4";
        proxy.name = "MILL0001.LRV";
        proxy.folder = "DCIM/100MILLS";
        proxy.belongsTo = 1;
        auto alone = sidecar;
        alone.id = 4;
        alone.belongsTo = 99;  // which is not saved
        const auto saved = [&](Layout layout, const char* to) {
            Control control;
            const DeliveryRequest request{
                dir_.filePath(QString::fromLatin1(to)).toStdString(), layout, {photo, sidecar, proxy, alone}};
            const auto sum = deliver(*job_, source_, request, control, [](const DeliveryProgress&) {});
            std::vector<std::string> names;
            for (const auto& item : sum.value().items) names.push_back(item.savedAs);
            return names;
        };
        const auto byKind = saved(Layout::Kind, "together by kind");
        QCOMPARE(byKind[1], std::string("Photos/2026-05-02 07.41.10 Orrery K2.xmp"));
        QCOMPARE(byKind[2], std::string("Photos/MILL0001.LRV"));
        QVERIFY(byKind[3].rfind("Photos/", 0) != 0);
        const auto byDate = saved(Layout::Date, "together by date");
        QCOMPARE(byDate[1], std::string("2026/2026-05-02/2026-05-02 07.41.10 Orrery K2.xmp"));
        // In the client's own folders each stays where it was.
        QCOMPARE(saved(Layout::Folders, "together by folder")[2], std::string("DCIM/100MILLS/MILL0001.LRV"));
    }
    void neverOverwrites() {
        const auto to = dir_.filePath(QStringLiteral("twice"));
        QVERIFY(save(to, {file(1, {0, 1000})}).ok());
        const auto before = readFile(to + QStringLiteral("/manifest.json"));
        const auto again = save(to, {file(1, {5000, 1000}), file(2, {7000, 10})});
        QVERIFY(again.ok());
        QCOMPARE(again.value().verified, std::size_t{2});
        QVERIFY(readFile(to + QStringLiteral("/manifest.json")) == before);
        QVERIFY(QFileInfo::exists(to + QStringLiteral("/manifest-2.json")));
        const Buffer first(bytes_.begin(), bytes_.begin() + 1000);
        QVERIFY(readFile(to + QStringLiteral("/Photos/2026-05-02 07.41.10 Orrery K2.jpg")) == first);
        QVERIFY(QFileInfo::exists(to + QStringLiteral("/Photos/2026-05-02 07.41.10 Orrery K2 (3).jpg")));
    }
    void refusesWithoutRoom() {
        const auto to = dir_.filePath(QStringLiteral("too-small"));
        const auto room = roomAt(to.toStdString());
        QVERIFY(room.ok());
        auto huge = file(1, {0, 1000});
        huge.pieces.push_back({PieceFrom::Fill, 0, room.value().freeBytes + 1, "test"});
        const auto sum = save(to, {huge});
        QVERIFY(!sum.ok());
        QVERIFY(sum.error().fault == Fault::DestinationRefused);
        QVERIFY(!QFileInfo::exists(to));
    }
    void refusesWhatCannotBeWritten() {
        if (::geteuid() == 0) {
            // Root may write anywhere but here.
            QVERIFY(checkDestination(*source_, "/proc/somewhere", 10).error().fault ==
                        Fault::DestinationRefused ||
                    !QFileInfo(QStringLiteral("/proc")).exists());
        } else {
            QVERIFY(checkDestination(*source_, "/usr/somewhere", 10).error().fault ==
                    Fault::DestinationRefused);
        }
        QVERIFY(!checkDestination(*source_, image_.toStdString() + "/inside", 10).ok());
    }
    void allowsADriveThatMerelyHoldsTheImage() {
        QVERIFY(checkDestination(*source_, dir_.path().toStdString(), 10).ok());
    }
    void toldWhenAFullDriveStopsAFile() {
        const auto to = dir_.filePath(QStringLiteral("limited"));
        auto later = file(2, {0, 2000});
        later.description.taken = "2026-05-02T07:50:00";
        QVERIFY(QDir().mkpath(to));
        const auto mounted = command(QStringLiteral("mount"),
                                     {QStringLiteral("-t"), QStringLiteral("tmpfs"), QStringLiteral("-o"),
                                      QStringLiteral("size=3m"), QStringLiteral("none"), to});
        if (mounted.exitCode != 0) QSKIP("no right to mount here");
        // Something else takes the room after the check and before the writing.
        Control control;
        bool taken = false;
        const DeliveryRequest request{to.toStdString(), Layout::Flat, {file(1, {0, 1500000}), later}};
        const auto sum = deliver(*job_, source_, request, control, [&](const DeliveryProgress&) {
            if (std::exchange(taken, true)) return;
            writeFile(to + QStringLiteral("/other"), Buffer(2600000, 1));
        });
        QVERIFY(sum.ok());
        QCOMPARE(sum.value().notSaved, std::size_t{1});
        QCOMPARE(sum.value().verified, std::size_t{1});
        QVERIFY(!sum.value().items[0].whyNot.empty());
        QVERIFY(sum.value().items[0].savedAs.empty());
        QVERIFY(leftovers(to).isEmpty());
        QCOMPARE(QDir(to).entryList({QStringLiteral("*.jpg")}).size(), 1);
        command(QStringLiteral("umount"), {to});
    }
    void placesAreReadFromTheListOfMounts() {
        const auto mounts = mountsIn(
            "36 35 98:0 / /mnt/a\\040b rw,noatime master:1 - ext4 /dev/sda1 rw\n"
            "37 35 8:17 / /media/card ro,nosuid - vfat /dev/sdb1 rw,uid=1000\n"
            "38 35 0:44 / /mnt/nas rw shared:3 - cifs //nas/depot ro,vers=3\n"
            "nonsense\n");
        QCOMPARE(mounts.size(), std::size_t{3});
        QCOMPARE(mounts[0].folder, std::string("/mnt/a b"));
        QCOMPARE(mounts[0].type, std::string("ext4"));
        QVERIFY(!mounts[0].readOnly && mounts[1].readOnly && mounts[2].readOnly);
        for (const auto& place : placesFor(*source_)) {
            QVERIFY(!place.folder.empty() && !place.filesystem.empty());
            QVERIFY(place.freeBytes <= place.totalBytes);
            const bool refused = !checkDestination(*source_, place.folder, 0).ok();
            QCOMPARE(!place.refused.empty(), refused);
        }
    }
    void refusesTheCardItself() {
        // The image attached as a block device and mounted: through the mount, a link and a bind mount.
        const auto card = dir_.filePath(QStringLiteral("ext.img"));
        QFile file(card);
        QVERIFY(file.open(QIODevice::WriteOnly) && file.resize(16 << 20));
        file.close();
        QCOMPARE(command(QStringLiteral("mkfs.ext4"), {QStringLiteral("-q"), card}).exitCode, 0);
        const auto loop =
            QString::fromLocal8Bit(
                command(QStringLiteral("losetup"), {QStringLiteral("-f"), QStringLiteral("--show"), card})
                    .out)
                .trimmed();
        const auto mountPoint = dir_.filePath(QStringLiteral("mounted"));
        QVERIFY(QDir().mkpath(mountPoint));
        if (loop.isEmpty() || command(QStringLiteral("mount"), {loop, mountPoint}).exitCode != 0) {
            if (!loop.isEmpty()) command(QStringLiteral("losetup"), {QStringLiteral("-d"), loop});
            QSKIP("no right to attach and mount an image here");
        }
        const auto link = dir_.filePath(QStringLiteral("link"));
        QVERIFY(QFile::link(mountPoint, link));
        const auto bound = dir_.filePath(QStringLiteral("bound"));
        QVERIFY(QDir().mkpath(bound));
        command(QStringLiteral("mount"), {QStringLiteral("--bind"), mountPoint, bound});
        for (const auto& sourcePath : {card, loop}) {
            const auto source = openSource(sourcePath.toStdString());
            QVERIFY(source.ok());
            for (const auto& to :
                 {mountPoint, mountPoint + QStringLiteral("/deep/er"), link, bound + QStringLiteral("/x")}) {
                const auto allowed = checkDestination(*source.value(), to.toStdString(), 10);
                QVERIFY2(!allowed.ok(), qPrintable(sourcePath + QStringLiteral(" -> ") + to));
                QVERIFY(allowed.error().fault == Fault::DestinationRefused);
            }
            QVERIFY(checkDestination(*source.value(), dir_.path().toStdString(), 10).ok());
        }
        command(QStringLiteral("mount"), {QStringLiteral("-o"), QStringLiteral("remount,ro"), mountPoint});
        QVERIFY(!checkDestination(*source_, mountPoint.toStdString(), 10).ok());
        command(QStringLiteral("umount"), {bound});
        command(QStringLiteral("umount"), {mountPoint});
        command(QStringLiteral("losetup"), {QStringLiteral("-d"), loop});
    }
    void namesFromACardCannotClimbOut_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QString>("name");
        QTest::newRow("up") << "../../../etc"
                            << "passwd.jpg";
        QTest::newRow("root") << "/etc"
                              << "/etc/passwd";
        QTest::newRow("dots") << "."
                              << "..";
        QTest::newRow("device") << "CON"
                                << "aux.jpg";
        QTest::newRow("long") << QString(300, QLatin1Char('a')) << QString(300, QLatin1Char('b')) + ".jpg";
        QTest::newRow("control") << "a\nb"
                                 << "c\td\x01.jpg";
        QTest::newRow("backslash") << "a\\..\\b"
                                   << "c\\d.jpg";
        QTest::newRow("empty") << ""
                               << "...";
    }
    void namesFromACardCannotClimbOut() {
        QFETCH(QString, folder);
        QFETCH(QString, name);
        auto finding = file(1, {0, 100});
        finding.folder = folder.toStdString();
        finding.name = name.toStdString();
        for (const auto layout :
             {Layout::Kind, Layout::Date, Layout::Camera, Layout::Folders, Layout::Flat}) {
            const auto path = QString::fromStdString(proposePath(finding, layout));
            QVERIFY(!path.startsWith(QLatin1Char('/')));
            for (const auto& part : path.split(QLatin1Char('/'))) {
                QVERIFY2(!part.isEmpty() && part != QLatin1String(".") && part != QLatin1String(".."),
                         qPrintable(path));
                QVERIFY(part.toUtf8().size() <= 255);
                for (const auto c : part) QVERIFY(c.unicode() >= 0x20 && c != QLatin1Char('\\'));
            }
            QVERIFY(
                !QDir::cleanPath(QStringLiteral("/dest/") + path).compare(QStringLiteral("/dest/") + path));
        }
    }
    void aPatternNamesWhatHasNoName() {
        const auto named = [&](const char* text, const Finding& finding) {
            const auto pattern = NamePattern::from(text);
            if (!pattern) qFatal("%s", pattern.error().sentence().c_str());
            return QString::fromStdString(proposePath(finding, Layout::Flat, pattern.value()));
        };
        auto some = file(17, {0, 100});
        QCOMPARE(named("", some), QStringLiteral("2026-05-02 07.41.10 Orrery K2.jpg"));
        QCOMPARE(named("{camera}_{year}{month}{day}_{number}", some),
                 QStringLiteral("Orrery K2_20260502_00017.jpg"));
        QCOMPARE(named("mill, {kind} {number}", some), QStringLiteral("mill, Photo 00017.jpg"));
        QCOMPARE(named("{number}", some), QStringLiteral("Photo 00017.jpg"));  // never a bare number
        QCOMPARE(named("../{camera}/{date}", some), QStringLiteral("_Orrery K2_2026-05-02.jpg"));
        some.description.taken.clear();
        some.description.camera.clear();
        QCOMPARE(named("{date} {time} of {camera}", some), QStringLiteral("undated of Photo.jpg"));
        // The usual way tells apart what has no date, also when it is written out.
        for (const auto* text : {"", "{date} {time} {camera}"})
            QCOMPARE(named(text, some), QStringLiteral("Photo, undated, from byte 0.jpg"));
        some.name = "MILL0017.JPG";
        QCOMPARE(named("{number}", some), QStringLiteral("MILL0017.JPG"));  // its own is better
        for (const auto* text : {"{when}", "{date", "a {} b"}) QVERIFY(!NamePattern::from(text).ok());
    }
    void namesMeanSomething() {
        auto finding = file(5, {1048576, 10});
        QCOMPARE(proposePath(finding, Layout::Date),
                 std::string("2026/2026-05-02/2026-05-02 07.41.10 Orrery K2.jpg"));
        QCOMPARE(proposePath(finding, Layout::Camera),
                 std::string("Orrery K2/2026-05-02 07.41.10 Orrery K2.jpg"));
        finding.condition = Condition::Partial;
        QCOMPARE(proposePath(finding, Layout::Flat),
                 std::string("2026-05-02 07.41.10 Orrery K2 (partial).jpg"));
        finding.description = {};
        QCOMPARE(proposePath(finding, Layout::Flat),
                 std::string("Photo, undated, from byte 1048576 (partial).jpg"));
        NameBook book;
        QCOMPARE(book.claim("a/B.jpg"), std::string("a/B.jpg"));
        QCOMPARE(book.claim("a/b.JPG"), std::string("a/b (2).JPG"));
    }
};

QTEST_GUILESS_MAIN(TestDeliver)
#include "test_deliver.moc"
