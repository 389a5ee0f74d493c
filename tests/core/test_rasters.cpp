// Whether the rows of a picture go on over a border, however its samples lie in bytes. Scenes are drawn here,
// with things of every size in them and a sensor's noise; what is foreign is another such scene.
#include <cmath>
#include <QRandomGenerator>
#include <QTest>

#include "formats/photo/raster.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kWidth = 480, kHeight = 400;
constexpr std::size_t kBorder = 4096;
constexpr std::uint64_t kDataAt = 1024;

struct Packed {
    const char* name;
    Raster::Packing packing;
    unsigned bits;
};
constexpr Packed kPackings[] = {
    {"bytes", Raster::Packing::OneByte, 8},       {"little words", Raster::Packing::LittleWords, 16},
    {"big words", Raster::Packing::BigWords, 16}, {"tens", Raster::Packing::Tens, 10},
    {"twelves", Raster::Packing::Twelves, 12},    {"fourteens", Raster::Packing::Fourteens, 14},
    {"sixteens", Raster::Packing::Sixteens, 11},
};

// Of a scene, with as many bits; `noise`: of all there is, in thousandths.
std::vector<unsigned> scene(unsigned seed, unsigned bits, double noise = 4) {
    QRandomGenerator random(seed);
    struct Wave {
        double across, down, phase, strength;
    };
    std::vector<Wave> waves;
    for (int i = 0; i < 24; ++i) {
        const double size = 8 * std::pow(1.2, i);  // samples
        waves.push_back({random.generateDouble() * 6.28 / size, random.generateDouble() * 6.28 / size,
                         random.generateDouble() * 6.28, size});
    }
    double all = 0;
    for (const auto& wave : waves) all += wave.strength;
    const double most = (1U << bits) - 1;
    std::vector<unsigned> samples;
    for (std::size_t y = 0; y < kHeight; ++y) {
        for (std::size_t x = 0; x < kWidth; ++x) {
            double light = 0.5 + (random.generateDouble() - 0.5) * noise / 250;
            for (const auto& wave : waves)
                light += 0.45 * wave.strength / all *
                         std::sin(wave.across * static_cast<double>(x) + wave.down * static_cast<double>(y) +
                                  wave.phase);
            // The colours of a mosaic differ.
            const double share = (x + y) % 2 == 0 ? 1 : 0.6;
            samples.push_back(static_cast<unsigned>(std::clamp(light * share, 0.0, 1.0) * most));
        }
    }
    return samples;
}

void putBits(Buffer& into, std::size_t& at, unsigned value, unsigned count, bool highFirst) {
    for (unsigned i = 0; i < count; ++i, ++at) {
        if (at / 8 == into.size()) into.push_back(0);
        const auto bit = value >> (highFirst ? count - 1 - i : i) & 1;
        into[at / 8] = static_cast<std::uint8_t>(into[at / 8] | bit << (highFirst ? 7 - at % 8 : at % 8));
    }
}

// Sixteen of every other column: the largest, the smallest, their places, the others above it.
void putSixteen(Buffer& into, const unsigned* first) {
    std::array<unsigned, 16> values{};
    for (std::size_t i = 0; i < 16; ++i) values[i] = first[2 * i];
    const auto most = std::max_element(values.begin(), values.end());
    auto least = std::min_element(values.begin(), values.end());
    if (most == least) least = most == values.begin() ? values.begin() + 1 : values.begin();
    unsigned shift = 0;
    while (shift < 4 && 0x80U << shift <= *most - *least) ++shift;
    std::size_t at = into.size() * 8;
    putBits(into, at, *most, 11, false);
    putBits(into, at, *least, 11, false);
    putBits(into, at, static_cast<unsigned>(most - values.begin()), 4, false);
    putBits(into, at, static_cast<unsigned>(least - values.begin()), 4, false);
    for (auto each = values.begin(); each != values.end(); ++each) {
        if (each != most && each != least) putBits(into, at, (*each - *least) >> shift, 7, false);
    }
}

Buffer packed(const std::vector<unsigned>& samples, const Packed& way) {
    Buffer bytes;
    std::size_t at = 0;
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const auto value = samples[i];
        if (way.packing == Raster::Packing::LittleWords) {
            putBits(bytes, at, value, 16, false);
        } else if (way.packing != Raster::Packing::Sixteens) {
            putBits(bytes, at, value, way.bits, true);
        } else if (i % 32 < 2 && i % 2 == 0) {
            putSixteen(bytes, &samples[i]);
            putSixteen(bytes, &samples[i + 1]);
        }
    }
    return bytes;
}

Raster rasterOf(const Packed& way) {
    const auto bits = way.packing == Raster::Packing::Sixteens ? 8 : way.bits;
    const auto row = std::uint64_t{kWidth} * bits / 8;
    return {
        {kDataAt, row * kHeight}, row, 2, way.packing == Raster::Packing::Sixteens ? 1U : 2U, way.packing};
}

// The file's bytes from its samples on, its borders counted from its beginning.
struct Border {
    Bytes before;
    std::uint64_t position;
    std::size_t at;  // among the samples
};
std::vector<Border> bordersOf(const Buffer& bytes, const PlainSamples& samples) {
    std::vector<Border> borders;
    for (auto position = kBorder; position < kDataAt + bytes.size() - kBorder; position += kBorder) {
        const auto at = static_cast<std::size_t>(position - kDataAt);
        const auto front = std::min(at, samples.before() + samples.unit());
        borders.push_back({slice(bytes, at - front, front), position, at});
    }
    return borders;
}

}  // namespace

class TestRasters : public QObject {
    Q_OBJECT

    void addPackings() {
        QTest::addColumn<int>("number");
        for (int i = 0; i < static_cast<int>(std::size(kPackings)); ++i)
            QTest::newRow(kPackings[i].name) << i;
    }

    // In portions of odd lengths, as a reader may give them.
    static std::string complaintOf(const PlainSamples& samples, const Buffer& bytes) {
        const auto check = samples.check();
        for (std::size_t at = 0; at < bytes.size(); at += 10007) check->feed(slice(bytes, at, 10007));
        return check->finish();
    }

  private Q_SLOTS:
    void rowsGoOnOverBorders_data() { addPackings(); }
    void rowsGoOnOverBorders() {
        QFETCH(int, number);
        const auto& way = kPackings[number];
        const auto samples = samplesOf(rasterOf(way), 1 << 20);
        QVERIFY(samples);
        const auto one = packed(scene(1, way.bits), way), other = packed(scene(2, way.bits), way);
        const auto noise = randomBytes(kBorder, 3);
        int judged = 0, right = 0, wrong = 0, foreign = 0;
        for (const auto& border : bordersOf(one, *samples)) {
            const auto phase = static_cast<std::size_t>((border.position - kDataAt) % samples->unit());
            const auto seam = samples->seam(border.before, slice(one, border.at, kBorder), phase);
            if (!seam) continue;
            ++judged;
            right +=
                seam->jump < samples->bounds().goesOn && seam->mismatch < samples->bounds().joins ? 1 : 0;
            const auto against = samples->seam(border.before, slice(other, border.at, kBorder), phase);
            wrong += against && against->mismatch > samples->bounds().joins ? 1 : 0;
            const auto noisy = samples->seam(border.before, noise, phase);
            foreign += noisy && noisy->jump > samples->bounds().goesOnAtOnce ? 1 : 0;
            const auto smoothest = samples->smoothestSeam(border.before, slice(one, border.at, kBorder));
            QVERIFY(smoothest && smoothest->roughness <= seam->roughness);
        }
        QVERIFY(judged > 20);
        QCOMPARE(right, judged);
        QVERIFY(wrong >= judged * 95 / 100);
        QCOMPARE(foreign, judged);
    }
    // Only the first rows have too little above them to be compared with.
    void tooLittleIsNotJudged() {
        const auto samples = samplesOf(rasterOf(kPackings[0]), 1 << 20);
        const auto bytes = packed(scene(1, 8), kPackings[0]);
        const auto few = samples->before() - 8;
        QVERIFY(!samples->seam(slice(bytes, 0, few), slice(bytes, few, kBorder), 0));
        QVERIFY(!samples->seam(slice(bytes, 0, 8192), slice(bytes, 8192, 16), 0));
        QVERIFY(samples->seam(slice(bytes, 0, 8192), slice(bytes, 8192, kBorder), 0));
    }
    void whatLiesCannotBeJudged() {
        QVERIFY(!samplesOf({{0, 1000}, 16, 1, 1, Raster::Packing::OneByte}, 1000));
        QVERIFY(!samplesOf({{0, 1 << 30}, 1 << 20, 1, 1, Raster::Packing::OneByte}, 1 << 30));
        QVERIFY(!samplesOf({{0, 10000}, 1000, 1, 1, Raster::Packing::Twelves}, 10000));
    }

    // Some clusters of another scene in the middle, or all of the rest.
    void anotherSceneIsNoticed_data() { addPackings(); }
    void anotherSceneIsNoticed() {
        QFETCH(int, number);
        const auto& way = kPackings[number];
        const auto samples = samplesOf(rasterOf(way), 1 << 20);
        // Of eight bits, a scene without noise has none that shows.
        const auto one = packed(scene(3, way.bits, 20), way), other = packed(scene(4, way.bits, 20), way);
        QCOMPARE(complaintOf(*samples, one), std::string());
        int noticed = 0, all = 0;
        for (auto first = 10 * kBorder; first + 10 * kBorder < one.size(); first += 2 * kBorder) {
            for (const auto count : {3 * kBorder, one.size()}) {
                auto mixed = one;
                const auto from = static_cast<std::ptrdiff_t>(first - kDataAt);
                const auto until = std::min(from + static_cast<std::ptrdiff_t>(count),
                                            static_cast<std::ptrdiff_t>(one.size()));
                std::copy(other.begin() + from, other.begin() + until, mixed.begin() + from);
                const auto complaint = complaintOf(*samples, mixed);
                ++all;
                noticed += complaint.find("does not go on") != std::string::npos ? 1 : 0;
            }
        }
        // Not near the edges of rows, nor where the scenes are alike.
        QVERIFY(all > 5);
        QVERIFY(noticed >= all / 2);
    }
    // Boxes on white, as in a drawing, begin where they like.
    void drawingsAreNotDoubted() {
        const auto& way = kPackings[0];
        const auto samples = samplesOf(rasterOf(way), 1 << 20);
        std::vector<unsigned> drawn(kWidth * kHeight, 255);
        for (std::size_t y = 0; y < kHeight; ++y) {
            for (std::size_t x = 0; x < kWidth; ++x) {
                const auto place = kDataAt + y * kWidth + x;
                // Each begins just at a border.
                if (place / kBorder % 3 == 1 && y / 7 % 2 == 0) drawn[y * kWidth + x] = 40;
            }
        }
        QCOMPARE(complaintOf(*samples, packed(drawn, way)), std::string());
    }
};

QTEST_GUILESS_MAIN(TestRasters)
#include "test_rasters.moc"
