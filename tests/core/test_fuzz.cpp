// A short round over every fuzz target: its seeds, bent at random. scripts/fuzz runs the same targets for
// longer, led by coverage.
#include <QElapsedTimer>
#include <QTest>

#include "tests/fuzz/targets.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kLargestSeed = 192 * 1024;
// For each target. Without the sanitizers only what crashes or takes too long shows.
constexpr qint64 kMilliseconds = kSanitized ? 400 : 100;

// Flips, overwrites with telling numbers, cuts, repeats, swaps.
void bend(Buffer& bytes, std::mt19937& random) {
    if (bytes.empty()) return;
    const auto place = [&] {
        return random() % std::min<std::size_t>(bytes.size(), random() % 2 == 0 ? 512 : SIZE_MAX);
    };
    const int times = 1 + static_cast<int>(random() % 6);
    for (int i = 0; i < times; ++i) {
        switch (random() % 5) {
            case 0: bytes[place()] ^= static_cast<std::uint8_t>(1U << random() % 8); break;
            case 1: bytes[place()] = static_cast<std::uint8_t>(random()); break;
            case 2: {
                constexpr std::array<std::uint32_t, 6> kTelling{0,          1,          0x7fffffff,
                                                                0x80000000, 0xffffffff, 0xfffffff0};
                const auto value = kTelling[random() % kTelling.size()];
                const auto at = place();
                for (std::size_t k = 0; k < 4 && at + k < bytes.size(); ++k)
                    bytes[at + k] = static_cast<std::uint8_t>(value >> (8 * k));
                break;
            }
            case 3: bytes.resize(1 + random() % bytes.size()); break;
            default: {
                const auto from = place();
                const auto to = place();
                const auto count =
                    std::min<std::size_t>({random() % 256, bytes.size() - from, bytes.size() - to});
                std::memmove(bytes.data() + to, bytes.data() + from, count);
            }
        }
    }
}

}  // namespace

class TestFuzz : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void nothingBreaksOnBentSeeds_data() {
        QTest::addColumn<int>("index");
        for (std::size_t i = 0; i < fuzz::targets().size(); ++i)
            QTest::newRow(fuzz::targets()[i].name.c_str()) << static_cast<int>(i);
    }
    void nothingBreaksOnBentSeeds() {
        QFETCH(int, index);
        const auto& target = fuzz::targets()[static_cast<std::size_t>(index)];
        std::vector<Buffer> seeds;
        if (!target.seed.empty()) seeds.push_back(target.seed);
        if (target.name == "directories") {
            const auto card = QDir::temp().filePath(
                QStringLiteral("fuzz-seed-%1.img").arg(QCoreApplication::applicationPid()));
            for (const auto* format : {"mkfs.vfat", "mkfs.exfat"}) {
                writeFile(card, Buffer(8 << 20));
                QCOMPARE(command(QString::fromLatin1(format), {card}).exitCode, 0);
                seeds.push_back(readFile(card));
                seeds.back().resize(3 << 20);
            }
            QFile::remove(card);
        }
        for (const auto& pattern : target.seeds) {
            for (const auto* folder : {"media", "structures"}) {
                const QDir place(QStringLiteral(DRESKEL_FIXTURES "/") + QString::fromLatin1(folder));
                for (const auto& name : place.entryList({QString::fromStdString(pattern)}, QDir::Files)) {
                    auto bytes = readFile(place.filePath(name));
                    if (bytes.size() > kLargestSeed) bytes.resize(kLargestSeed);
                    seeds.push_back(std::move(bytes));
                }
            }
        }
        std::mt19937 random(20261123U + static_cast<unsigned>(index));
        if (seeds.empty()) seeds.push_back(randomBytes(4096, 1));  // what no encoder here writes
        for (const auto& seed : seeds) target.run(seed);
        target.run({});
        QElapsedTimer clock;
        clock.start();
        int rounds = 0;
        while (clock.elapsed() < kMilliseconds) {
            auto bytes = seeds[random() % seeds.size()];
            bend(bytes, random);
            QElapsedTimer one;
            one.start();
            target.run(bytes);
            QVERIFY2(one.elapsed() < 20000, "it takes far too long over so few bytes");
            ++rounds;
        }
        QVERIFY(rounds > 0);
    }
};

QTEST_GUILESS_MAIN(TestFuzz)
#include "test_fuzz.moc"
