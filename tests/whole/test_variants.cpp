// Every fixture cut short, with clusters of something else inside, and with one bit flipped: what is called
// whole must be the very bytes. A few of each here; DRESKEL_VARIANTS=500 in the environment makes as many,
// and the shares that are printed are those in docs/formats.md.
#include <QTemporaryDir>
#include <QTest>

#include "session/session.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kCluster = 4096;
constexpr std::size_t kMostBytes = 96 << 20;  // of one card

enum class Change { Cut, Foreign, Flip };

// Formats that any bytes decode in, or whose runs end where they end: docs/formats.md says so of each.
bool hasNothingToCheckBy(const QString& name) {
    static const QStringList known{"lossless.webp",  "palette.webp", "apple.aiff", "apple.caf",
                                   "stereo.wav",     "deep.wav",     "bytes.wav",  "floating.wav",
                                   "lossless.m4a",   "simple.mpg",   "elder.mpg",  "place.srt",
                                   "camcorder.m2ts", "rating.xmp",   "notes.mid"};
    return known.contains(name);
}

}  // namespace

class TestVariants : public QObject {
    Q_OBJECT

    static std::size_t count() {
        const auto asked = qEnvironmentVariableIntValue("DRESKEL_VARIANTS");
        return asked > 0 ? static_cast<std::size_t>(asked) : 2;
    }
    // `stranger`: a photo that is not the file itself, a copy of whose own stretch may pass; see
    // docs/formats.md.
    static Buffer changed(const Buffer& file, Change change, const QString& stranger, std::mt19937& random) {
        auto bytes = file;
        if (change == Change::Flip) {
            bytes[random() % bytes.size()] ^= static_cast<std::uint8_t>(1U << random() % 8);
            return bytes;
        }
        const auto clusters = bytes.size() / kCluster;
        const auto from = clusters < 2 ? bytes.size() / 2 : (1 + random() % (clusters - 1)) * kCluster;
        const auto other = random() % 2 == 0 ? randomBytes(8 * kCluster, static_cast<unsigned>(random()))
                                             : mediaFile(stranger);
        const auto length = change == Change::Cut ? bytes.size() - from : (1 + random() % 4) * kCluster;
        const auto skip = other.size() > 64 * kCluster ? (1 + random() % 32) * kCluster : 0;
        for (std::size_t i = 0; i < length && from + i < bytes.size(); ++i)
            bytes[from + i] =
                change == Change::Cut && i > 4 * kCluster ? 0 : other[(skip + i) % other.size()];
        return bytes;
    }

    // Adds those of one card, with `each` of every change, that are called whole and are not.
    static void wholeOf(const QString& name, const Buffer& file, std::size_t each, std::mt19937& random,
                        std::map<Change, std::size_t>& wrong) {
        const auto photo = QStringLiteral("baseline-422.jpg");
        const auto stranger = name == photo ? QStringLiteral("other-encoder.jpg") : photo;
        std::map<std::uint64_t, Change> placed;
        ImageBuilder image(kCluster);
        for (std::size_t i = 0; i < each; ++i) {
            for (const auto change : {Change::Cut, Change::Foreign, Change::Flip}) {
                const auto bytes = changed(file, change, stranger, random);
                if (bytes == file) continue;
                placed[image.add(bytes)] = change;
                image.addGap(4 * kCluster);
            }
        }
        const QTemporaryDir dir;
        const auto card = dir.filePath(QStringLiteral("card.img"));
        image.write(card);
        auto session =
            Session::open(card.toStdString(), dir.filePath(QStringLiteral("job")).toStdString()).value();
        ScanOptions options;
        options.rebuild = false;
        session->startScan(options);
        QVERIFY(session->wait().ok());
        for (const auto& finding : session->listed()) {
            const auto from = placed.find(finding.start());
            if (from == placed.end() || finding.condition != Condition::Whole) continue;
            const Bytes all(image.bytes());
            const auto bytes = slice(all, finding.start(), finding.size());
            if (bytes.size() == file.size() && std::equal(bytes.begin(), bytes.end(), file.begin())) continue;
            ++wrong[from->second];
            if (from->second == Change::Flip) continue;
            const auto differs = std::mismatch(bytes.begin(), bytes.end(), file.begin(), file.end()).first;
            qInfo("passed: %zu of %zu bytes, another from byte %td", bytes.size(), file.size(),
                  differs - bytes.begin());
        }
    }

  private Q_SLOTS:
    void onlyTheVeryBytesAreWhole_data() {
        QTest::addColumn<QString>("name");
        for (const auto& name : mediaNames()) QTest::newRow(qPrintable(name)) << name;
    }
    void onlyTheVeryBytesAreWhole() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        // Not qHash: it gives other numbers on another processor.
        const auto letters = name.toLatin1();
        std::seed_seq seed(letters.begin(), letters.end());
        std::mt19937 random(seed);
        const auto onOneCard = kMostBytes / (file.size() + 8 * kCluster);
        std::map<Change, std::size_t> wrong;
        for (std::size_t made = 0; made < count(); made += onOneCard)
            wholeOf(name, file, std::min(onOneCard, count() - made), random, wrong);
        qInfo("whole and not the same: %zu of %zu cut, %zu of %zu with foreign clusters, %zu of %zu flipped",
              wrong[Change::Cut], count(), wrong[Change::Foreign], count(), wrong[Change::Flip], count());
        if (hasNothingToCheckBy(name)) return;
        QCOMPARE(wrong[Change::Cut], std::size_t{0});
        QCOMPARE(wrong[Change::Foreign], std::size_t{0});
    }
};

QTEST_GUILESS_MAIN(TestVariants)
#include "test_variants.moc"
