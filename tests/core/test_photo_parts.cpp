// Small parts of the photo formats, each against what an encoder made for the test says is there.
#include <map>
#include <QTest>

#include "formats/photo/gif_pixels.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Codes of GIF89a, appendix F, from the low end of each byte on.
struct Coder {
    unsigned size;           // bits of a colour
    bool clearFirst = true;  // as the standard wants it, and some leave out
    bool clearFull = true;   // when there is no room for further codes; otherwise they stay as they are
    bool ends = true;        // by the code for it
    std::size_t behind = 0;  // zeros after that

    Buffer code(const Buffer& colours) const {
        Buffer bytes;
        std::uint64_t pending = 0;
        unsigned have = 0;
        const unsigned clear = 1U << size;
        unsigned bits = size + 1;
        unsigned next = clear + 2;
        std::map<Buffer, unsigned> known;
        const auto put = [&](unsigned value) {
            pending |= std::uint64_t{value} << have;
            for (have += bits; have >= 8; have -= 8, pending >>= 8)
                bytes.push_back(static_cast<std::uint8_t>(pending));
        };
        const auto forget = [&] {
            known.clear();
            for (unsigned colour = 0; colour < clear; ++colour)
                known[{static_cast<std::uint8_t>(colour)}] = colour;
            bits = size + 1;
            next = clear + 2;
        };
        forget();
        if (clearFirst) put(clear);
        Buffer run;
        bool first = true;  // of its table: the reader learns one code later
        for (const auto colour : colours) {
            auto longer = run;
            longer.push_back(colour);
            if (known.count(longer) != 0) {
                run = longer;
                continue;
            }
            put(known[run]);
            // The reader knows one code less than the writer here.
            if (!first && next == 1U << bits && bits < 12) ++bits;
            first = false;
            if (next < 4096) {
                known[longer] = next++;
            } else if (clearFull) {
                put(clear);
                forget();
                first = true;
            }
            run = {colour};
        }
        if (!run.empty()) put(known[run]);
        if (next == 1U << bits && bits < 12) ++bits;
        if (ends) put(clear + 1);
        if (have > 0) bytes.push_back(static_cast<std::uint8_t>(pending));
        bytes.insert(bytes.end(), behind, 0);
        return bytes;
    }
};

// Runs and noise in turns, so that codes become long and tables full.
Buffer picture(std::size_t pixels, unsigned size, std::mt19937& random) {
    Buffer colours;
    while (colours.size() < pixels) {
        const auto colour = random() % (1U << size);
        const std::size_t run = random() % 3 == 0 ? 1 + random() % 40 : 1;
        for (std::size_t i = 0; i < run && colours.size() < pixels; ++i)
            colours.push_back(static_cast<std::uint8_t>(colour));
    }
    return colours;
}

// What is wrong with it when it comes in sub-blocks of random lengths; empty when nothing is.
std::string wrongWith(const Buffer& coded, unsigned size, std::uint64_t pixels, std::mt19937& random) {
    GifPixels followed(size, pixels);
    for (std::size_t at = 0; at < coded.size();) {
        const auto length = std::min<std::size_t>(1 + random() % 255, coded.size() - at);
        if (const auto* why = followed.feed(slice(Bytes(coded), at, length))) return why;
        at += length;
    }
    const auto* why = followed.finish();
    return why == nullptr ? std::string() : why;
}

}  // namespace

class TestPhotoParts : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void pixelsOfAGifAreCounted_data() {
        QTest::addColumn<unsigned>("size");
        QTest::addColumn<bool>("clearFirst");
        QTest::addColumn<bool>("clearFull");
        QTest::addColumn<bool>("ends");
        QTest::addColumn<int>("behind");
        for (const unsigned size : {2U, 4U, 7U, 8U}) {
            QTest::addRow("%u bits", size) << size << true << true << true << 0;
            QTest::addRow("%u bits, no clear code first", size) << size << false << true << true << 0;
            QTest::addRow("%u bits, a full table is kept", size) << size << true << false << true << 0;
            QTest::addRow("%u bits, without an end", size) << size << true << true << false << 0;
            QTest::addRow("%u bits, a byte behind the end", size) << size << true << true << true << 1;
        }
    }
    void pixelsOfAGifAreCounted() {
        QFETCH(unsigned, size);
        QFETCH(bool, clearFirst);
        QFETCH(bool, clearFull);
        QFETCH(bool, ends);
        QFETCH(int, behind);
        std::mt19937 random(size);
        const Coder coder{size, clearFirst, clearFull, ends, static_cast<std::size_t>(behind)};
        for (const std::size_t pixels : {1U, 2U, 300U, 60000U}) {
            const auto coded = coder.code(picture(pixels, size, random));
            QCOMPARE(wrongWith(coded, size, pixels, random), std::string());
            // One more or less is noticed, but where the bits that fill up the last byte may be one.
            if (!ends) continue;
            QCOMPARE(wrongWith(coded, size, pixels + 1, random),
                     std::string("a picture of it ends too early"));
            QCOMPARE(wrongWith(coded, size, pixels - 1, random),
                     std::string("more pixels than its picture has"));
        }
    }

    void whatStandsBehindAGifsPictureIsNoticed() {
        std::mt19937 random(3);
        const Coder coder{8};
        auto coded = coder.code(picture(5000, 8, random));
        coded.push_back(0);
        coded.push_back(0);
        QCOMPARE(wrongWith(coded, 8, 5000, random), std::string("its data go on behind a picture's end"));
        coded.pop_back();
        coded.back() = 7;
        QCOMPARE(wrongWith(coded, 8, 5000, random), std::string("its data go on behind a picture's end"));
    }

    void codesThatCannotStandInAGifAreNoticed() {
        std::mt19937 random(4);
        // Clear, then one that nothing stands for yet: nine bits each.
        const unsigned codes = 256U | 300U << 9;
        const Buffer early{static_cast<std::uint8_t>(codes), static_cast<std::uint8_t>(codes >> 8),
                           static_cast<std::uint8_t>(codes >> 16)};
        QCOMPARE(wrongWith(early, 8, 100, random), std::string("a code that cannot stand there"));
        // The one that comes next may stand for itself only when another came before.
        const unsigned itself = 256U | 258U << 9;
        const Buffer alone{static_cast<std::uint8_t>(itself), static_cast<std::uint8_t>(itself >> 8),
                           static_cast<std::uint8_t>(itself >> 16)};
        QCOMPARE(wrongWith(alone, 8, 100, random), std::string("a code that cannot stand there"));
    }

    // Noise in the place of coded pixels, as a foreign cluster is, is found out in every one of a hundred.
    void foreignBytesInAGifAreNoticed() {
        std::mt19937 random(5);
        for (const bool clearFull : {true, false}) {
            const Coder coder{8, true, clearFull};
            const auto coded = coder.code(picture(60000, 8, random));
            for (int i = 0; i < 50; ++i) {
                auto other = coded;
                const auto noise = randomBytes(4096, static_cast<unsigned>(random()));
                const auto from = random() % (other.size() - noise.size());
                std::copy(noise.begin(), noise.end(), other.begin() + static_cast<std::ptrdiff_t>(from));
                QVERIFY(!wrongWith(other, 8, 60000, random).empty());
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestPhotoParts)
#include "test_photo_parts.moc"
