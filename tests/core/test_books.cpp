// Books that are kept of names and of free bytes: what must hold of them whatever a card says, and against a
// plain model of a card cluster by cluster.
#include <algorithm>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <random>
#include <tuple>

#include "deliver/naming.h"
#include "scan/directory_book.h"
#include "scan/free_space.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Names as a damaged directory may give them: any bytes, and those that mean something among them.
std::string hostileName(std::mt19937& random) {
    static const std::vector<std::string> pieces{
        "..",       "/",  "\\",    ".", " ",    "con", "LPT1", ":",      "\n",   "\x7f", "?",     "a",
        "MILL0001", "%s", "$HOME", "é", "\xff", "~",   "-",    "日本語", ".JPG", "|",    "{date}"};
    std::string name;
    for (auto count = random() % 60; count > 0; --count) name += pieces[random() % pieces.size()];
    return name;
}

bool harmless(const std::string& component) {
    if (component.empty() || component.size() > 120 || component.front() == '.' || component.front() == ' ')
        return false;
    if (component.back() == '.' || component.back() == ' ') return false;
    return std::none_of(component.begin(), component.end(), [](char raw) {
        const auto c = static_cast<unsigned char>(raw);
        return c < 0x20 || c == 0x7f || std::string("/\\:*?\"<>|").find(raw) != std::string::npos;
    });
}

std::vector<std::string> componentsOf(const std::string& path) {
    std::vector<std::string> all;
    for (const auto& part : QString::fromStdString(path).split(QLatin1Char('/')))
        all.push_back(part.toStdString());
    return all;
}

}  // namespace

class TestBooks : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    // Of a card in clusters: files whole and broken, blanks, tables; and what of it may hold further pieces.
    struct Model {
        std::uint32_t cluster = 4096;
        std::uint64_t origin = 0;
        std::vector<bool> free;
        Model(std::uint32_t size, std::uint64_t from, std::size_t count)
            : cluster(size), origin(from), free(count, true) {}
        void take(ByteRange range) {
            for (std::size_t i = 0; i < free.size(); ++i) {
                const ByteRange one{origin + i * cluster, cluster};
                if (range.length > 0 && one.offset < range.end() && range.offset < one.end()) free[i] = false;
            }
        }
    };
    static Finding photo(std::int64_t id, ByteRange range, Condition condition) {
        Finding finding;
        finding.id = id;
        finding.kind = Kind::Photo;
        finding.format = "jpeg";
        finding.evidence.family = "jpeg";
        finding.evidence.range = range;
        finding.evidence.condition = condition;
        finding.evidence.proven = condition == Condition::Whole ? range.length : 512;
        finding.evidence.decoded = condition == Condition::Whole ? 1.0 : 0.3;
        return finding;
    }

  private Q_SLOTS:
    void namesAreHarmlessWhateverTheyWere() {
        std::mt19937 random(11);
        for (int i = 0; i < 20000; ++i) {
            const auto name = safeName(hostileName(random));
            QVERIFY2(harmless(name), name.c_str());
            QVERIFY2(safeName(name) == name, name.c_str());
        }
        for (const auto* reserved : {"con", "CON.txt", "Aux", "nul.", "com1.JPG", "LPT9"})
            QVERIFY2(safeName(reserved).front() == '_', reserved);
        for (const auto* plain : {"console", "com", "lpt.JPG", "MILL0001.JPG", "The wheel, from below"})
            QCOMPARE(safeName(plain), std::string(plain));
    }
    // Whatever folder and name a card gives, what is saved stays below where it is saved.
    void pathsStayBelowTheirFolder_data() {
        QTest::addColumn<QString>("word");
        for (const auto* word : {"kind", "date", "camera", "folders", "flat", "dcf"})
            QTest::newRow(word) << word;
    }
    void pathsStayBelowTheirFolder() {
        QFETCH(QString, word);
        const auto layout = layoutFromWord(word.toStdString());
        QVERIFY(layout);
        QCOMPARE(std::string(toWord(*layout)), word.toStdString());
        std::mt19937 random(12);
        NameBook book;
        std::set<std::string> claimed;
        for (int i = 0; i < 3000; ++i) {
            Finding finding = photo(i + 1, {4096ULL * static_cast<std::uint64_t>(i), 4096}, Condition::Whole);
            finding.condition = static_cast<Condition>(random() % 4);
            finding.folder = hostileName(random);
            if (random() % 2 == 0) finding.name = hostileName(random);
            if (random() % 2 == 0) finding.description.camera = hostileName(random);
            finding.description.taken = random() % 2 == 0 ? "2026-05-02T07:41:10" : hostileName(random);
            const auto path = proposePath(finding, *layout);
            for (const auto& component : componentsOf(path)) {
                QVERIFY2(component != ".." && component != "." && !component.empty(), path.c_str());
                QVERIFY2(component.find('\\') == std::string::npos, path.c_str());
            }
            auto lowered = book.claim(path);
            std::transform(lowered.begin(), lowered.end(), lowered.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
            QVERIFY2(claimed.insert(lowered).second, lowered.c_str());
        }
    }
    void aTakenNameIsNumberedBeforeItsExtension() {
        NameBook book;
        QCOMPARE(book.claim("Photos/MILL0001.JPG"), std::string("Photos/MILL0001.JPG"));
        QCOMPARE(book.claim("Photos/mill0001.jpg"), std::string("Photos/mill0001 (2).jpg"));
        QCOMPARE(book.claim("Photos/MILL0001.JPG"), std::string("Photos/MILL0001 (3).JPG"));
        QCOMPARE(book.claim("Sound/MILL0001.JPG"), std::string("Sound/MILL0001.JPG"));
        QCOMPARE(book.claim("By 2.5 mm/notes"), std::string("By 2.5 mm/notes"));
        QCOMPARE(book.claim("By 2.5 mm/notes"), std::string("By 2.5 mm/notes (2)"));
    }
    // A pattern gives a name that a person can tell a file by, or says which word it does not know.
    void patternsNameEveryFile() {
        Finding known = photo(17, {0, 4096}, Condition::Whole);
        known.description.taken = "2026-05-02T07:41:10";
        known.description.camera = "Orrery K2";
        const Finding unknown = photo(18, {81920, 4096}, Condition::Whole);
        const auto named = [](const char* text, const Finding& finding) {
            return NamePattern::from(text).value().nameOf(finding);
        };
        QCOMPARE(named("{year}-{month} {camera}", known), std::string("2026-05 Orrery K2"));
        QCOMPARE(named("{camera} {number}", unknown), std::string("Photo 00018"));
        QCOMPARE(named("{number}", known), std::string("Photo 00017"));
        QCOMPARE(named("{date} {time} {camera}", known), std::string("2026-05-02 07.41.10 Orrery K2"));
        QVERIFY(named("{date} {time} {camera}", unknown).find("81920") != std::string::npos);
        QCOMPARE(named("{date}  {time}  x", unknown), std::string("undated x"));
        for (const auto& [word, example] : NamePattern::words()) {
            const auto text = "{" + std::string(word) + "}";
            for (const auto& finding : {known, unknown}) {
                const auto name = named(text.c_str(), finding);
                QVERIFY2(std::any_of(name.begin(), name.end(),
                                     [](unsigned char c) { return std::isalpha(c) != 0; }),
                         name.c_str());
            }
        }
        for (const auto* wrong : {"{Date}", "{date", "{}", "x {place} y"}) {
            const auto refused = NamePattern::from(wrong);
            QVERIFY(!refused.ok());
            QVERIFY(refused.error().fault == Fault::Usage);
        }
    }
    // Any card of photos on a grid: the grid is found again, and what is free is what no whole file, no table
    // and no blank has, to the cluster.
    void whatIsFreeIsWhatNothingHas_data() {
        QTest::addColumn<std::uint32_t>("cluster");
        QTest::addColumn<std::uint64_t>("origin");
        QTest::newRow("4 KiB") << std::uint32_t{4096} << std::uint64_t{0};
        QTest::newRow("16 KiB behind tables") << std::uint32_t{16384} << std::uint64_t{5 * 2048};
        QTest::newRow("32 KiB") << std::uint32_t{32768} << std::uint64_t{0};
        QTest::newRow("64 KiB behind a partition table") << std::uint32_t{65536} << std::uint64_t{4096};
        QTest::newRow("128 KiB") << std::uint32_t{131072} << std::uint64_t{0};
    }
    void whatIsFreeIsWhatNothingHas() {
        QFETCH(std::uint32_t, cluster);
        QFETCH(std::uint64_t, origin);
        const auto path = dir_.filePath(QStringLiteral("blank.img"));
        writeFile(path, Buffer(4096));
        CardView view(openSource(path.toStdString()).value());
        std::mt19937 random(cluster + static_cast<unsigned>(origin));
        for (int round = 0; round < 30; ++round) {
            constexpr std::size_t kClusters = 400;
            Model model(cluster, origin, kClusters);
            const ByteRange span{0, origin + kClusters * cluster};
            Claims claims(view);
            std::int64_t id = 0;
            std::vector<ByteRange> blank;
            std::size_t at = 0;
            while (at + 12 < kClusters) {
                const auto length = 1 + random() % 9;
                const auto bytes = length * cluster - random() % (cluster / 2);
                const ByteRange range{origin + at * cluster, bytes};
                switch (random() % 4) {
                    case 0: claims.add(photo(++id, range, Condition::Broken)); break;
                    case 1:
                        blank.push_back({range.offset, length * cluster});
                        model.take(blank.back());
                        break;
                    default: claims.add(photo(++id, range, Condition::Whole)); model.take(range);
                }
                at += length + random() % 3;
            }
            claims.settle();
            const std::vector<ByteRange> tables{{0, origin},
                                                {origin + (kClusters - 6) * cluster, 3ULL * cluster}};
            for (const auto& table : tables) model.take(table);
            const auto space =
                freeSpaceOf(claims, span, {tables}, blank, [](const Finding&) { return false; });
            QCOMPARE(space.cluster, cluster);
            QCOMPARE(space.origin % cluster, origin % cluster);
            const auto free = wholeClusters(space, span);
            for (std::size_t i = 0; i < kClusters; ++i) {
                const ByteRange one{origin + i * cluster, cluster};
                QVERIFY2(free.covers(one) == model.free[i],
                         qPrintable(QStringLiteral("round %1, cluster %2").arg(round).arg(i)));
                QCOMPARE(free.intersects(one), model.free[i]);
            }
        }
    }
    // Of few files the beginnings may lie on a coarse grid by chance; the pieces of one that was put together
    // hardly do.
    void piecesTellTheGrid() {
        constexpr std::uint64_t kTrue = 32768;
        const auto path = dir_.filePath(QStringLiteral("pieces.img"));
        writeFile(path, Buffer(4096));
        CardView view(openSource(path.toStdString()).value());
        for (const std::uint64_t off : {std::uint64_t{0}, std::uint64_t{4096}}) {
            Claims claims(view);
            auto clip = photo(1, {3 * kTrue, kTrue}, Condition::Whole);
            clip.evidence.range.length = 12 * kTrue;
            for (const std::uint64_t at : {3, 9, 5, 17, 12, 23, 8, 30, 33, 41, 25, 50})
                clip.evidence.places.push_back({at * kTrue + (at > 20 ? off : 0), kTrue});
            claims.add(clip);
            claims.add(photo(2, {20 * kTrue, 30000}, Condition::Whole));
            claims.settle();
            const auto space =
                freeSpaceOf(claims, {0, 64 * kTrue}, {}, {}, [](const Finding&) { return false; });
            QCOMPARE(space.cluster, off == 0 ? std::uint32_t{kTrue} : std::uint32_t{4096});
        }
    }
    // Three files that by chance lie as they would on a card of larger clusters do not make them larger:
    // pieces would not be found any more.
    void fewFilesDoNotMakeClustersLarge() {
        const auto path = dir_.filePath(QStringLiteral("few.img"));
        writeFile(path, Buffer(4096));
        CardView view(openSource(path.toStdString()).value());
        const auto clusterOf = [&](const std::vector<std::uint64_t>& starts) {
            Claims claims(view);
            std::int64_t id = 0;
            for (const auto start : starts) claims.add(photo(++id, {start * 4096, 30000}, Condition::Whole));
            claims.settle();
            return freeSpaceOf(claims, {0, 1ULL << 30}, {}, {}, [](const Finding&) { return false; }).cluster;
        };
        // Clusters of 32 KiB.
        QVERIFY(clusterOf({64, 1824, 2432}) <= 32768);
        QVERIFY(clusterOf({64, 1824, 2432, 96, 512}) <= 32768);
        std::mt19937 random(3);
        int coarser = 0, right = 0;
        for (int round = 0; round < 300; ++round) {
            std::set<std::uint64_t> starts;
            while (starts.size() < 2 + static_cast<std::size_t>(round) % 24)
                starts.insert(random() % 4000 * 8);
            const auto cluster = clusterOf({starts.begin(), starts.end()});
            coarser += cluster > 32768 ? 1 : 0;
            right += cluster == 32768 ? 1 : 0;
        }
        QVERIFY2(coarser <= 2, qPrintable(QString::number(coarser)));
        QVERIFY2(right >= 130, qPrintable(QString::number(right)));
    }
    // A whole picture that lies off the grid is a frame of a clip in pieces, notes there are a photo's: their
    // bytes are not withheld.
    void whatLiesInsideOfOthersWithholdsNothing() {
        const auto path = dir_.filePath(QStringLiteral("off.img"));
        writeFile(path, Buffer(4096));
        CardView view(openSource(path.toStdString()).value());
        Claims claims(view);
        for (std::int64_t i = 0; i < 20; ++i)
            claims.add(photo(i + 1, {static_cast<std::uint64_t>(i) * 65536, 30000}, Condition::Whole));
        claims.add(photo(21, {20 * 65536 + 1024, 30000}, Condition::Whole));
        auto notes = photo(22, {22 * 65536 + 512, 700}, Condition::Whole);
        notes.kind = Kind::Sidecar;
        claims.add(notes);
        claims.settle();
        const ByteRange span{0, 24 * 65536};
        const auto space = freeSpaceOf(claims, span, {}, {}, [](const Finding&) { return false; });
        const auto free = wholeClusters(space, span);
        QVERIFY(free.covers({20 * 65536, 4 * 65536}));
        QVERIFY(!free.intersects({0, 30000}));
        // One that is doubted withholds nothing either.
        const auto doubted =
            freeSpaceOf(claims, span, {}, {}, [](const Finding& each) { return each.id == 1; });
        QVERIFY(wholeClusters(doubted, span).covers({0, 65536}));
    }

    // What a directory says of a file that was found where it says that one begins.
    void directoriesNameWhatIsThere() {
        DirectoryBook book;
        Remembered said;
        const auto tells = [&](std::string name, std::uint64_t start, std::uint64_t size, Fate fate) {
            RememberedFile file;
            file.name = std::move(name);
            file.folder = "DCIM/100MILL";
            file.size = size;
            file.modified = "2026-05-05T13:25:24";
            file.fate = fate;
            file.places = {{start, size}};
            file.placesKnown = fate == Fate::Present;
            said.files.push_back(file);
        };
        tells("MILL0001.JPG", 4096, 9000, Fate::Deleted);
        tells("MILL0001.MP4", 4096, 9000, Fate::Present);  // of another kind: written over it, or before it
        tells("MILL0002.JPG", 20480, 5000, Fate::Deleted);
        tells("MILL0003.JPG", 40960, 8000, Fate::Present);
        tells("MILL0003.JPG", 40960, 7000, Fate::Deleted);
        tells("NOTES.BIN", 61440, 3000, Fate::Deleted);
        book.add(std::move(said));
        const auto found = [&](std::uint64_t start, std::uint64_t length, Condition condition) {
            Finding finding;
            finding.evidence.family = "jpeg";
            finding.evidence.range = {start, length};
            finding.evidence.proven = length / 2;
            finding.evidence.condition = condition;
            return finding;
        };
        auto named = found(4096, 9000, Condition::Whole);
        QVERIFY(book.apply(named));
        QCOMPARE(named.name, std::string("MILL0001.JPG"));
        QCOMPARE(named.folder, std::string("DCIM/100MILL"));
        QCOMPARE(named.modified, std::string("2026-05-05T13:25:24"));
        QVERIFY(named.byDirectory && named.fate == Fate::Deleted && named.notes.empty());
        // Longer than the deleted entry: it is another photo, written there since.
        auto other = found(20480, 6000, Condition::Whole);
        QVERIFY(!book.apply(other));
        QVERIFY(other.name.empty());
        // Shorter, and whole: the same, with a word on the difference. It is not made longer: what lies
        // behind its end may be anybody's by now.
        auto shorter = found(20480, 4000, Condition::Whole);
        QVERIFY(book.apply(shorter));
        QCOMPARE(shorter.notes.size(), std::size_t{1});
        QCOMPARE(shorter.evidence.range.length, std::uint64_t{4000});
        // Damaged: it ends where the directory says at the latest.
        auto damaged = found(20480, 90000, Condition::Partial);
        QVERIFY(book.apply(damaged));
        QCOMPARE(damaged.evidence.range.length, std::uint64_t{5000});
        QVERIFY(damaged.evidence.proven <= 5000);
        // Of two entries the present one counts, and its bytes behind the picture's end are the file's.
        auto present = found(40960, 7000, Condition::Whole);
        QVERIFY(book.apply(present));
        QVERIFY(present.fate == Fate::Present);
        QCOMPARE(present.evidence.range.length, std::uint64_t{8000});
        // Twice gives no second note.
        QCOMPARE(present.notes.size(), std::size_t{1});
        QVERIFY(book.apply(present));
        QCOMPARE(present.notes.size(), std::size_t{1});
        // A name that is of no format says nothing against one.
        auto nameless = found(61440, 3000, Condition::Whole);
        QVERIFY(book.apply(nameless));
        QCOMPARE(nameless.name, std::string("NOTES.BIN"));
        auto nobodys = found(70000, 1, Condition::Whole);
        QVERIFY(!book.apply(nobodys));
    }

    void lengthsAreThoseOfLostFilesOfTheKind() {
        DirectoryBook book;
        Remembered said;
        for (const auto& [name, size, fate] :
             std::vector<std::tuple<std::string, std::uint64_t, Fate>>{{"A.JPG", 5000, Fate::Deleted},
                                                                       {"B.JPG", 7000, Fate::FormattedOver},
                                                                       {"C.JPG", 9000, Fate::Present},
                                                                       {"D.MP4", 90000, Fate::Deleted}}) {
            RememberedFile file;
            file.name = name;
            file.size = size;
            file.fate = fate;
            file.places = {{8192, size}};
            said.files.push_back(file);
        }
        book.add(std::move(said));
        QCOMPARE(book.lengthAt(8192, "jpeg", 0), std::optional<std::uint64_t>(7000));
        QCOMPARE(book.lengthAt(8192, "jpeg", 6000), std::optional<std::uint64_t>(7000));
        QCOMPARE(book.lengthAt(8192, "jpeg", 7001), std::optional<std::uint64_t>());
        QCOMPARE(book.lengthAt(8192, "isobmff", 0), std::optional<std::uint64_t>(90000));
        QCOMPARE(book.lengthAt(4096, "jpeg", 0), std::optional<std::uint64_t>());
    }

    void piecesAreThoseOfAKnownChain() {
        DirectoryBook book;
        Remembered said;
        RememberedFile chained;
        chained.name = "CLIP.MP4";
        chained.size = 20000;
        chained.places = {{8192, 4096}, {32768, 15904}};
        chained.placesKnown = true;
        auto guessed = chained;
        guessed.name = "GUESS.MP4";
        guessed.places = {{65536, 4096}, {81920, 15904}};
        guessed.placesKnown = false;
        auto moved = chained;
        moved.places = {{131072, 20000}};
        moved.otherStarts = {196608};
        said.files = {chained, guessed, moved};
        book.add(std::move(said));
        QVERIFY(book.placesAt(8192) == chained.places);
        for (const auto start : {32768U, 65536U, 131072U, 196608U}) QVERIFY(book.placesAt(start).empty());
        // One that may begin elsewhere is only taken for what is there when it is as long.
        Finding finding;
        finding.evidence.family = "isobmff";
        finding.evidence.condition = Condition::Whole;
        finding.evidence.range = {196608, 19999};
        QVERIFY(!book.apply(finding));
        finding.evidence.range = {196608, 20000};
        QVERIFY(book.apply(finding));
        // What only a directory knows of.
        const auto promised = DirectoryBook::promised(chained);
        QVERIFY(promised.kind == Kind::Video && promised.condition == Condition::Unchecked);
        QCOMPARE(promised.format, std::string("mp4"));
        QCOMPARE(promised.size(), std::uint64_t{20000});
        QVERIFY(promised.evidence.places == chained.places);
    }
};

QTEST_GUILESS_MAIN(TestBooks)
#include "test_books.moc"
