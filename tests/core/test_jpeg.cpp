#include <QTemporaryDir>
#include <QTest>

#include "formats/jpeg/continuity.h"
#include "formats/jpeg/huffman.h"
#include "formats/jpeg/lossless_decoder.h"
#include "formats/jpeg/metadata.h"
#include "formats/jpeg/stream_decoder.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;
using jpeg::LosslessDecoder;
using jpeg::StreamDecoder;

class TestJpeg : public QObject {
    Q_OBJECT

    static void addPhotos() {
        QTest::addColumn<QString>("name");
        for (const auto& name : mediaNames(QStringLiteral("*.jpg"))) QTest::newRow(qPrintable(name)) << name;
    }
    static StreamDecoder decoded(const Buffer& bytes, std::size_t portion) {
        StreamDecoder decoder;
        for (std::size_t at = 0; at < bytes.size() && decoder.state() == StreamDecoder::State::Hungry;
             at += portion) {
            const auto part = slice(bytes, at, portion);
            decoder.feed(part, at + part.size() >= bytes.size());
        }
        return decoder;
    }
    static void addLossless() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"left-bgr24", "plane-bgr24", "median-bgr24", "left-yuvj420p"})
            QTest::newRow(name) << QStringLiteral("lossless-%1.jpg").arg(QLatin1String(name));
    }
    static LosslessDecoder followed(const Buffer& bytes, std::size_t portion) {
        LosslessDecoder decoder;
        for (std::size_t at = 0; at < bytes.size() && decoder.state() == LosslessDecoder::State::Hungry;
             at += portion)
            decoder.feed(slice(bytes, at, portion), at + portion >= bytes.size());
        return decoder;
    }

  private Q_SLOTS:
    void followsLosslessData_data() { addLossless(); }
    void followsLosslessData() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        auto longer = bytes;
        const auto tail = randomBytes(5000, 1);
        longer.insert(longer.end(), tail.begin(), tail.end());
        for (const std::size_t portion : {std::size_t{1} << 20, std::size_t{4096}, std::size_t{509}}) {
            const auto decoder = followed(longer, portion);
            QVERIFY2(decoder.state() == LosslessDecoder::State::Ended, decoder.why().c_str());
            QCOMPARE(decoder.offset(), static_cast<std::uint64_t>(bytes.size()));
        }
        // Cut short, and with the end marker gone.
        QVERIFY(followed(Buffer(bytes.begin(), bytes.end() - 3000), 65536).state() ==
                LosslessDecoder::State::Broken);
        QVERIFY(followed(Buffer(bytes.begin(), bytes.end() - 2), 65536).state() ==
                LosslessDecoder::State::Broken);
    }
    // Clusters of noise, of its own data from elsewhere, and of another such file.
    void noticesForeignLosslessData_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"left", "plane", "median"})
            QTest::newRow(name) << QStringLiteral("lossless-%1-bgr24.jpg").arg(QLatin1String(name));
    }
    void noticesForeignLosslessData() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto good = mediaFile(name);
        const auto other = mediaFile(QStringLiteral("lossless-plane-bgr24.jpg"));
        constexpr std::size_t cluster = 32768;
        std::mt19937 random(31);
        for (int round = 0; round < tries(21); ++round) {
            auto bytes = good;
            const auto at = (1 + random() % (good.size() / cluster - 2)) * cluster;
            const auto noise = randomBytes(cluster, 100U + static_cast<unsigned>(round));
            const auto& from = round % 3 == 0 ? noise : round % 3 == 1 ? good : other;
            const auto place = round % 3 == 0 ? 0 : (at / 2 + 777) % (from.size() - cluster);
            std::copy_n(from.begin() + static_cast<std::ptrdiff_t>(place), cluster,
                        bytes.begin() + static_cast<std::ptrdiff_t>(at));
            const auto decoder = followed(bytes, 65536);
            QVERIFY2(decoder.state() == LosslessDecoder::State::Broken, qPrintable(QString::number(round)));
            QVERIFY(decoder.offset() + 60000 > at);
        }
    }
    // A saved state goes on with the right bytes after a wrong road.
    void losslessDataGoOnFromASavedState() {
        const auto bytes = mediaFile(QStringLiteral("lossless-median-bgr24.jpg"));
        const auto stop = bytes.size() / 2 / 4096 * 4096;
        LosslessDecoder decoder;
        QVERIFY(decoder.feed(slice(bytes, 0, stop), false) == LosslessDecoder::State::Hungry);
        auto wrong = decoder;
        QVERIFY(wrong.feed(randomBytes(262144, 9), true) == LosslessDecoder::State::Broken);
        QVERIFY(decoder.feed(slice(bytes, stop, bytes.size()), true) == LosslessDecoder::State::Ended);
        QCOMPARE(decoder.offset(), static_cast<std::uint64_t>(bytes.size()));
    }
    void decodesToTheLastByte_data() { addPhotos(); }
    void decodesToTheLastByte() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        // Bytes behind the end must not be taken for part of it.
        auto longer = bytes;
        const auto tail = randomBytes(5000, 1);
        longer.insert(longer.end(), tail.begin(), tail.end());
        for (const std::size_t portion : {std::size_t{1} << 20, std::size_t{4096}, std::size_t{511}}) {
            const auto decoder = decoded(longer, portion);
            QVERIFY2(decoder.state() == StreamDecoder::State::Ended, decoder.breakPoint().why.c_str());
            QCOMPARE(decoder.offset(), static_cast<std::uint64_t>(bytes.size()));
            QCOMPARE(decoder.decodedShare(), 1.0);
        }
    }
    // One sample a block, as another decoder shows the picture at an eighth of its size.
    void blocksAreAsBrightAsAnotherDecoderShowsThem() {
        const QTemporaryDir dir;
        const auto small = dir.filePath(QStringLiteral("small.pgm"));
        int photos = 0;
        for (const auto& name : mediaNames(QStringLiteral("*.jpg"))) {
            const auto path = QStringLiteral(DRESKEL_FIXTURES "/media/") + name;
            const auto run =
                command(QStringLiteral("djpeg"), {"-scale", "1/8", "-grayscale", "-outfile", small, path});
            if (run.exitCode != 0) continue;  // inks
            const auto shown = readFile(small);
            const auto words =
                QByteArray(reinterpret_cast<const char*>(shown.data()), 20).simplified().split(' ');
            const auto width = words[1].toUInt(), height = words[2].toUInt();
            const auto* theirs = shown.data() + shown.size() - std::size_t{width} * height;
            jpeg::DcPlanes planes;
            StreamDecoder decoder(&planes);
            decoder.feed(mediaFile(name), true);
            QVERIFY(decoder.state() == StreamDecoder::State::Ended);
            const auto& plane = planes.planes[0];
            QVERIFY(plane.width >= width && plane.height >= height);
            // The last bit of a progressive photo's levels comes in a later scan.
            const int off = decoder.frame().progressive ? 1 + plane.quant / 8 + 1 : 1;
            for (std::uint32_t y = 0; y < height; ++y) {
                for (std::uint32_t x = 0; x < width; ++x) {
                    const auto dc = int{plane.dc[std::size_t{y} * plane.width + x]} * int{plane.quant};
                    const auto ours = std::clamp((dc + 4) / 8 + 128, 0, 255);
                    QVERIFY2(std::abs(ours - int{theirs[std::size_t{y} * width + x]}) <= off,
                             qPrintable(QStringLiteral("%1 at %2, %3").arg(name).arg(x).arg(y)));
                }
            }
            ++photos;
        }
        QVERIFY(photos >= 8);
    }
    void goesOnFromASavedState_data() { addPhotos(); }
    void goesOnFromASavedState() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        constexpr std::size_t kCluster = 4096;
        const auto stop = bytes.size() / kCluster / 2 * kCluster;
        StreamDecoder decoder;
        decoder.feed(slice(bytes, 0, stop), false);
        QVERIFY(decoder.state() == StreamDecoder::State::Hungry);
        // Down a wrong road first; the saved state must not notice.
        auto wrong = decoder;
        const auto noise = randomBytes(64 * kCluster, 9);
        wrong.feed(noise, true);
        QVERIFY(wrong.state() == StreamDecoder::State::Broken);
        decoder.feed(slice(bytes, stop, bytes.size()), true);
        QVERIFY(decoder.state() == StreamDecoder::State::Ended);
        QCOMPARE(decoder.offset(), static_cast<std::uint64_t>(bytes.size()));
    }
    void saysWhereForeignDataBegins_data() { addPhotos(); }
    void saysWhereForeignDataBegins() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        auto bytes = mediaFile(name);
        const auto at = bytes.size() / 4096 * 3 / 5 * 4096;
        const auto noise = randomBytes(bytes.size() - at, 5);
        std::copy(noise.begin(), noise.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
        const auto decoder = decoded(bytes, 4096);
        QVERIFY(decoder.state() == StreamDecoder::State::Broken);
        const auto& found = decoder.breakPoint();
        QVERIFY2(found.byte >= at - 8, qPrintable(QString::number(found.byte)));
        // Random bytes hold a forbidden marker within some hundred bytes at the very latest.
        QVERIFY2(found.byte < at + 8192, qPrintable(QString::number(found.byte - at)));
        // Of a progressive photo the first scan covers all of the picture; detail is what is missing.
        QVERIFY(decoder.decodedShare() < 1.0 || decoder.frame().progressive);
        QVERIFY(!found.why.empty());
    }
    // Coded data of another photo are full of good codes; where they go wrong the decoder may have few bits
    // at hand, and must not wait for more.
    void whatIsWrongIsSaidAtOnce_data() { addPhotos(); }
    void whatIsWrongIsSaidAtOnce() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        constexpr std::size_t kCluster = 4096, kGiven = 3 * kCluster, kStep = kSanitized ? 192 : 64;
        const auto bytes = mediaFile(name);
        const auto stop = bytes.size() / kCluster / 3 * kCluster;
        StreamDecoder before;
        before.feed(slice(bytes, 0, stop), false);
        for (const auto* other : {"fine.jpg", "baseline-422.jpg", "optimised-444.jpg"}) {
            const auto foreign = mediaFile(QString::fromLatin1(other));
            for (std::size_t at = 2 * kCluster; at + kGiven <= foreign.size(); at += kStep) {
                auto decoder = before;
                for (std::size_t from = 0; from < kGiven; from += kCluster)
                    decoder.feed(slice(foreign, at + from, kCluster), false);
                if (decoder.state() != StreamDecoder::State::Hungry) continue;
                QVERIFY2(decoder.offset() + kCluster > stop + kGiven,
                         qPrintable(QStringLiteral("%1 at %2").arg(QString::fromLatin1(other)).arg(at)));
            }
        }
    }
    void everyCutIsNoticed_data() { addPhotos(); }
    void everyCutIsNoticed() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        for (std::size_t part = 1; part < 40; ++part) {
            const auto length = bytes.size() * part / 40;
            const auto decoder =
                decoded(Buffer(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(length)), 65536);
            QVERIFY(decoder.state() == StreamDecoder::State::Broken);
            QVERIFY(decoder.offset() <= length);
        }
    }
    void aMissingClusterIsNoticed_data() { addPhotos(); }
    void aMissingClusterIsNoticed() {
        if (rowIsLeftOut()) QSKIP("tried without sanitizers");
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        const auto clusters = bytes.size() / 4096;
        for (std::size_t drop = 2; drop + 2 < clusters; drop += std::max<std::size_t>(1, clusters / 12)) {
            auto shorter = bytes;
            const auto from = shorter.begin() + static_cast<std::ptrdiff_t>(drop * 4096);
            shorter.erase(from, from + 4096);
            QVERIFY(measureWith("jpeg", shorter).condition != Condition::Whole);
        }
    }
    // Damaged bytes of every kind: no crash, no hang, no claim past the end.
    void survivesDamage_data() { addPhotos(); }
    void survivesDamage() {
        QFETCH(QString, name);
        const auto bytes = mediaFile(name);
        for (unsigned seed = 0; seed < 60; ++seed) {
            auto damaged = bytes;
            std::mt19937 random(seed);
            // Headers are where hostile numbers are.
            const auto reach = seed % 2 == 0 ? std::size_t{700} : damaged.size();
            for (int i = 0; i < 6; ++i)
                damaged[random() % std::min(reach, damaged.size())] = static_cast<std::uint8_t>(random());
            const auto measured = measureWith("jpeg", damaged);
            QVERIFY(measured.length <= damaged.size());
            QVERIFY(measured.proven <= measured.length);
            QVERIFY(measured.decoded >= 0 && measured.decoded <= 1);
        }
    }
    void oneDamagedSectorDoesNotCostTheRest() {
        auto bytes = mediaFile(QStringLiteral("baseline-422.jpg"));
        std::fill_n(bytes.begin() + 400000, 512, std::uint8_t{0xff});
        const auto measured = measureWith("jpeg", bytes);
        QVERIFY(measured.condition == Condition::Partial);
        QVERIFY(measured.proven >= 399990 && measured.proven < 400600);
        QVERIFY(measured.length <= bytes.size());
        auto odd = mediaFile(QStringLiteral("baseline-422.jpg"));
        std::copy_n(odd.begin() + 100000, 4096, odd.begin() + 400000);
        const auto other = measureWith("jpeg", odd);
        QVERIFY(other.condition == Condition::Partial);
        QCOMPARE(other.length, static_cast<std::uint64_t>(odd.size()));
    }
    // What was never written behind the data of a photo is no part of it, though zeros decode by most tables.
    void zerosBehindTheDataAreNoPicture() {
        for (const auto* name : {"baseline-420.jpg", "baseline-422.jpg", "grey.jpg"}) {
            auto bytes = mediaFile(QString::fromLatin1(name));
            bytes.resize(bytes.size() * 6 / 10);
            const auto there = decoded(bytes, 1 << 20).decodedShare();
            bytes.resize(bytes.size() + 300000);
            for (const std::size_t portion : {std::size_t{1} << 20, std::size_t{65536}}) {
                const auto decoder = decoded(bytes, portion);
                QVERIFY(decoder.state() == StreamDecoder::State::Broken);
                QVERIFY2(
                    std::abs(decoder.decodedShare() - there) < 0.08,
                    qPrintable(
                        QStringLiteral("%1: %2 of %3").arg(name).arg(decoder.decodedShare()).arg(there)));
            }
        }
    }
    // A picture of one colour by tables made for it is zeros, and is whole.
    void aBlackPictureIsWhole() {
        QTemporaryDir dir;
        const auto ppm = dir.filePath(QStringLiteral("black.ppm"));
        auto pixels = Buffer(4000U * 3000U * 3U);
        const std::string head = "P6\n4000 3000\n255\n";
        pixels.insert(pixels.begin(), head.begin(), head.end());
        writeFile(ppm, pixels);
        const auto run = command(QStringLiteral("cjpeg"), {"-optimize", ppm});
        QCOMPARE(run.exitCode, 0);
        const Buffer bytes(run.out.begin(), run.out.end());
        const Buffer blank(16384);
        QVERIFY(std::search(bytes.begin(), bytes.end(), blank.begin(), blank.end()) != bytes.end());
        const auto decoder = decoded(bytes, 1 << 20);
        QVERIFY2(decoder.state() == StreamDecoder::State::Ended, decoder.breakPoint().why.c_str());
        QCOMPARE(decoder.decodedShare(), 1.0);
    }
    void piecesInTheWrongOrderAreNoticed() {
        // All blocks are there and decode; only the picture says that something is wrong.
        auto bytes = mediaFile(QStringLiteral("baseline-422.jpg"));
        constexpr std::ptrdiff_t kPiece = 65536;
        std::swap_ranges(bytes.begin() + 5 * kPiece, bytes.begin() + 6 * kPiece, bytes.begin() + 12 * kPiece);
        const auto measured = measureWith("jpeg", bytes);
        QVERIFY(measured.condition == Condition::Partial);
        QCOMPARE(measured.length, static_cast<std::uint64_t>(bytes.size()));
    }
    void refusesWhatIsNoPhoto() {
        for (unsigned seed = 0; seed < 200; ++seed) {
            auto bytes = randomBytes(30000, seed);
            const std::uint8_t head[] = {0xff, 0xd8, 0xff, 0xe0, 0x00, 0x10, 'J', 'F', 'I', 'F', 0};
            std::copy(std::begin(head), std::end(head), bytes.begin());
            QVERIFY(!measureWith("jpeg", bytes).accepted);
        }
    }
    void severalCodesAreSkippedAsOneByOne() {
        // Codes of 1 to 16 bits: ends of blocks, runs, coefficients of all sizes, and what is impossible.
        const Buffer counts{0, 1, 1, 1, 1, 2, 2, 2, 3, 3, 2, 2, 2, 2, 4, 6};
        const Buffer symbols{0x01, 0x00, 0x02, 0x11, 0x03, 0x21, 0x31, 0x04, 0xf0, 0x12, 0x05, 0x41,
                             0x51, 0x06, 0x22, 0x61, 0x71, 0x13, 0x07, 0x20, 0x81, 0x91, 0x08, 0x32,
                             0xa1, 0x14, 0xb1, 0x09, 0xc1, 0x0a, 0xd1, 0xf1, 0x40, 0x1f};
        const auto table = jpeg::HuffmanTable::make(counts, symbols);
        QVERIFY(table);
        const auto bits = randomBytes(40000, 7);
        int several = 0;
        int ends = 0;
        for (std::size_t at = 0; at + 8 <= bits.size(); at += 4) {
            std::uint64_t word = 0;
            for (std::size_t i = 0; i < 8; ++i) word = word << 8 | bits[at + i];
            const auto step = table->step(static_cast<std::uint32_t>(word >> 32));
            int used = 0;
            unsigned passed = 0;
            int codes = 0;
            while (used < step.bits && passed < jpeg::HuffmanTable::kEndOfBlock) {
                const auto top = static_cast<std::uint32_t>(word << used >> 32);
                auto code = table->look(top);
                if (code.length == 0) code = table->slow(top);
                QVERIFY(code.length > 0);
                QVERIFY(code.symbol == 0 || code.symbol == 0xf0 || (code.symbol & 15) != 0);
                used += code.length + (code.symbol & 15);
                passed += code.symbol == 0 ? jpeg::HuffmanTable::kEndOfBlock : (code.symbol >> 4) + 1U;
                ++codes;
            }
            QCOMPARE(used, int{step.bits});
            QCOMPARE(passed, unsigned{step.advance});
            QVERIFY(step.bits <= jpeg::HuffmanTable::kMostBits);
            if (codes > 1) ++several;
            if (passed >= jpeg::HuffmanTable::kEndOfBlock) ++ends;
        }
        QVERIFY2(several > 1000 && ends > 1000, qPrintable(QStringLiteral("%1 %2").arg(several).arg(ends)));
    }
    void aDifferenceIsReadInOneStepAsInTwo() {
        const Buffer counts{0, 1, 5, 1, 1, 1, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0};
        const Buffer symbols{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11};
        const auto table = jpeg::HuffmanTable::make(counts, symbols);
        QVERIFY(table);
        int steps = 0;
        for (std::uint32_t top = 0; top < 1U << 16; ++top) {
            const auto step = table->dcStep(top << 16);
            const auto code = table->look(top << 16);
            if (code.length == 0 || code.length + code.symbol > jpeg::HuffmanTable::kLookBits) {
                QCOMPARE(step.bits, 0);
                continue;
            }
            const auto raw = static_cast<int>(top << code.length & 0xffff) >> (16 - code.symbol);
            QCOMPARE(step.bits, code.length + code.symbol);
            QCOMPARE(step.difference, code.symbol == 0 ? 0 : jpeg::difference(raw, code.symbol));
            ++steps;
        }
        QVERIFY(steps > 10000);
    }
    // While it is decoded, too: in the first rows there are none yet to say what is usual in this picture.
    void aPhotosOwnRowsFitFromTheFirst_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"baseline-420", "baseline-422", "other-encoder", "restart-row", "fine",
                                 "grey", "optimised-444", "four-inks"})
            QTest::newRow(name) << QLatin1String(name) + QStringLiteral(".jpg");
    }
    void aPhotosOwnRowsFitFromTheFirst() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        jpeg::DcPlanes planes;
        StreamDecoder decoder(&planes);
        int told = 0;
        for (std::size_t fed = 0; fed < std::min<std::size_t>(file.size(), 300000); fed += 4096) {
            decoder.feed(slice(file, fed, 4096), false);
            for (std::size_t i = 0; i < planes.marks.size(); ++i) {
                if (planes.marks[i] > 3 * decoder.frame().mcusWide) break;
                const auto byte = (decoder.codedDataAt() / 4096 + 1 + i) * 4096;
                const auto look = jpeg::lookAtSeam(decoder.frame(), planes, decoder.codedDataAt(), byte);
                QVERIFY2(look.seam != jpeg::Seam::DoesNotFit,
                         qPrintable(QStringLiteral("%1 of %2: %3").arg(byte).arg(fed).arg(look.strain)));
                told += look.seam == jpeg::Seam::Fits ? 1 : 0;
            }
        }
        QVERIFY2(told > 20, qPrintable(QString::number(told)));
    }
    // Rows of another place are given up within the row, the photo's own never; and what is said of a whole
    // row is what is said when it is looked at for the first time.
    void aSeamIsWatchedWhileItIsDecoded_data() { aPhotosOwnRowsFitFromTheFirst_data(); }
    void aSeamIsWatchedWhileItIsDecoded() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        jpeg::DcPlanes planes;
        StreamDecoder decoder(&planes);
        int told = 0, wrong = 0, early = 0;
        const auto last = std::min<std::size_t>(file.size(), 300000) / 4096 - 8;
        for (std::size_t cut = 4096; cut < last * 4096; cut += 4096) {
            if (decoder.feed(slice(file, cut - 4096, 4096), false) != StreamDecoder::State::Hungry) break;
            if (decoder.codedDataAt() == 0 || decoder.codedDataAt() + 4096 > cut) continue;
            const auto place = planes.place();
            for (const std::size_t elsewhere : {std::size_t{0}, last * 2048}) {
                planes.goBackTo(place);
                auto trial = decoder;
                jpeg::SeamWatch watch(planes, cut);
                jpeg::SeamLook look{jpeg::Seam::NotYetDecoded};
                std::size_t fed = 0;
                const auto from = elsewhere == 0 ? cut : (cut + elsewhere) % (last * 4096);
                for (; fed < 8 * 4096 && look.seam == jpeg::Seam::NotYetDecoded && look.strain == 0;
                     fed += 512) {
                    if (trial.feed(slice(file, from + fed, 512), false) != StreamDecoder::State::Hungry)
                        break;
                    look = watch.look(trial);
                }
                const bool own = elsewhere == 0;
                // Rougher than usual it may be, until the rows behind it are there.
                QVERIFY2(!own || look.strain < 1.5,
                         qPrintable(QStringLiteral("%1: %2 after %3").arg(cut).arg(look.strain).arg(fed)));
                told += own && look.seam == jpeg::Seam::Fits ? 1 : 0;
                wrong += !own && look.strain > 1 ? 1 : 0;
                early += !own && look.strain > 1 && look.seam == jpeg::Seam::NotYetDecoded ? 1 : 0;
                if (fed % 4096 != 0 || look.seam == jpeg::Seam::NotYetDecoded) continue;
                const auto again = jpeg::lookAtSeam(trial.frame(), planes, trial.codedDataAt(), cut);
                if (again.seam != jpeg::Seam::NotYetDecoded) QCOMPARE(again.seam, look.seam);
            }
        }
        QVERIFY2(told > 10 && wrong > 5 && early > 0,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(told).arg(wrong).arg(early)));
    }
    // In its own order it fits wherever anything can be told; with some clusters left out it does not.
    void laterScansOfAProgressivePhotoShowASeam() {
        const auto file = mediaFile(QStringLiteral("patchy.jpg"));
        const auto countFrom = [&](std::size_t cut, std::size_t leftOut, jpeg::Seam& atCut) {
            jpeg::DcPlanes planes;
            StreamDecoder decoder(&planes);
            decoder.feed(slice(file, 0, cut), false);
            decoder.feed(slice(file, cut + leftOut, file.size()), true);
            std::array<int, 2> fitting{};
            for (std::size_t byte = planes.marks.size() * 4096 + 8192; byte < file.size(); byte += 4096) {
                const auto seam = jpeg::seamAt(decoder.frame(), planes, decoder.codedDataAt(), byte, true);
                if (byte == cut) atCut = seam;
                if (seam == jpeg::Seam::Fits) ++fitting[0];
                if (seam == jpeg::Seam::DoesNotFit) ++fitting[1];
            }
            return fitting;
        };
        auto atCut = jpeg::Seam::CannotTell;
        const auto own = countFrom(file.size(), 0, atCut);
        QVERIFY2(own[0] >= 30 && own[1] == 0, qPrintable(QStringLiteral("%1 %2").arg(own[0]).arg(own[1])));
        int noticed = 0, passed = 0;
        for (std::size_t cut = 8 * 4096; cut + 8 * 4096 < file.size(); cut += 4096) {
            atCut = jpeg::Seam::CannotTell;
            countFrom(cut, 2 * 4096, atCut);
            noticed += atCut == jpeg::Seam::DoesNotFit ? 1 : 0;
            passed += atCut == jpeg::Seam::Fits ? 1 : 0;
        }
        QVERIFY2(noticed > 2 * passed, qPrintable(QStringLiteral("%1 %2").arg(noticed).arg(passed)));
    }
    // One that ends between two of its scans is shown by any decoder, a little coarse; it is not all there.
    void aProgressivePhotoHasAllOfItsScans() {
        for (const auto* name : {"progressive.jpg", "progressive-restart.jpg"}) {
            const auto photo = mediaFile(QString::fromLatin1(name));
            std::vector<std::size_t> ends;  // of scans, but the last
            bool inScan = false;
            for (std::size_t at = 2; at + 1 < photo.size(); ++at) {
                if (photo[at] != 0xff || photo[at + 1] == 0 ||
                    (photo[at + 1] >= 0xd0 && photo[at + 1] <= 0xd7))
                    continue;
                if (photo[at + 1] == 0xd9) break;
                if (inScan) ends.push_back(at);
                inScan = photo[at + 1] == 0xda;
                if (photo[at + 1] >= 0xc0) at += 1 + (std::size_t{photo[at + 2]} << 8 | photo[at + 3]);
            }
            QVERIFY(ends.size() > 5);
            QVERIFY(measureWith("jpeg", photo).condition == Condition::Whole);
            for (const auto end : ends) {
                Buffer shorter(photo.begin(), photo.begin() + static_cast<std::ptrdiff_t>(end));
                shorter.insert(shorter.end(), {0xff, 0xd9});
                const auto found = measureWith("jpeg", shorter);
                QVERIFY(found.accepted && found.condition == Condition::Partial);
                QCOMPARE(found.length, std::uint64_t{shorter.size()});
            }
        }
    }
    void metadataIsBounded() {
        // An Exif block whose directory points at itself and beyond its end.
        Buffer bytes{0xff, 0xd8, 0xff, 0xe1, 0x00, 0x40, 'E',  'x',  'i',  'f',  0,    0, 'I',
                     'I',  42,   0,    8,    0,    0,    0,    2,    0,    0x0f, 0x01, 2, 0,
                     0xff, 0xff, 0xff, 0xff, 0xf0, 0xff, 0xff, 0xff, 0x69, 0x87, 4,    0, 1,
                     0,    0,    0,    8,    0,    0,    0,    0,    0,    0,    0};
        const auto found = jpeg::readMetadata(bytes);
        QVERIFY(found.exif);
        QVERIFY(found.description.camera.empty());
    }
    void furtherPicturesBelongToTheFile() {
        // A multi-picture file (CIPA DC-007): the index in APP2 names a second picture behind the first.
        const auto first = mediaFile(QStringLiteral("fine.jpg"));
        const auto second = mediaFile(QStringLiteral("grey.jpg"));
        const std::uint32_t app2 = 4 + 4 + 8 + 2 + 12 + 4 + 32;
        Buffer file{0xff, 0xd8, 0xff, 0xe2, 0,   static_cast<std::uint8_t>(app2 - 2),
                    'M',  'P',  'F',  0,    'M', 'M',
                    0,    42,   0,    0,    0,   8,
                    0,    1,    0xb0, 0x02, 0,   7,
                    0,    0,    0,    32,   0,   0,
                    0,    26,   0,    0,    0,   0};
        const auto put = [&](std::uint64_t value) {
            for (int shift = 24; shift >= 0; shift -= 8)
                file.push_back(static_cast<std::uint8_t>(value >> shift));
        };
        const auto firstSize = first.size() + app2;
        constexpr std::size_t kHeader = 10;  // of the file, up to the index's own start
        put(0x20030000), put(firstSize), put(0), put(0);
        put(0x00010002), put(second.size()), put(firstSize + 100 - kHeader), put(0);
        file.insert(file.end(), first.begin() + 2, first.end());
        QCOMPARE(file.size(), firstSize);
        file.resize(file.size() + 100, 0);
        file.insert(file.end(), second.begin(), second.end());
        const auto whole = file.size();
        const auto noise = randomBytes(3000, 2);
        file.insert(file.end(), noise.begin(), noise.end());
        const auto measured = measureWith("jpeg", file);
        QVERIFY(measured.condition == Condition::Whole);
        QCOMPARE(measured.length, static_cast<std::uint64_t>(whole));
        file.resize(whole - 2000);
        QVERIFY(measureWith("jpeg", file).condition == Condition::Partial);
    }
};

QTEST_GUILESS_MAIN(TestJpeg)
#include "test_jpeg.moc"
