// Small parts of the photo formats, each against what an encoder made for the test says is there.
#include <algorithm>
#include <cmath>
#include <map>
#include <QTest>
#include <random>

#include "formats/jpeg/lender.h"
#include "formats/jpeg/row_seams.h"
#include "formats/photo/area_check.h"
#include "formats/photo/crx_rows.h"
#include "formats/photo/difference_rows.h"
#include "formats/photo/gif_pixels.h"
#include "formats/photo/tiff_layout.h"
#include "rebuild/block_start.h"
#include "rebuild/headless_photo.h"
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

// Writes a TIFF (TIFF 6.0, section 2), directories behind their data or in front of them.
class TiffWriter {
  public:
    explicit TiffWriter(bool little) : little_(little), bytes_{0, 0, 0, 0, 0, 0, 0, 0} {
        bytes_[0] = bytes_[1] = little ? 'I' : 'M';
        set(2, 42, 2);
    }
    struct Entry {
        std::uint16_t tag = 0, type = 4;  // 3: two bytes each, 4: four
        std::vector<std::uint32_t> values;
    };
    std::uint32_t put(const Buffer& data) {
        if (bytes_.size() % 2 != 0) bytes_.push_back(0);
        const auto at = static_cast<std::uint32_t>(bytes_.size());
        bytes_.insert(bytes_.end(), data.begin(), data.end());
        return at;
    }
    // Gives where it begins, and where the offset of the next one stands.
    std::pair<std::uint32_t, std::size_t> directory(const std::vector<Entry>& entries) {
        const auto at = put(Buffer(2 + 12 * entries.size() + 4));
        set(at, entries.size(), 2);
        for (std::size_t i = 0; i < entries.size(); ++i) {
            const auto& entry = entries[i];
            const std::size_t width = entry.type == 3 ? 2 : 4;
            const auto here = at + 2 + 12 * i;
            set(here, entry.tag, 2);
            set(here + 2, entry.type, 2);
            set(here + 4, entry.values.size(), 4);
            auto into = here + 8;
            if (width * entry.values.size() > 4) {
                into = put(Buffer(width * entry.values.size()));
                set(here + 8, into, 4);
            }
            for (std::size_t n = 0; n < entry.values.size(); ++n)
                set(into + n * width, entry.values[n], width);
        }
        return {at, at + 2 + 12 * entries.size()};
    }
    void set(std::size_t at, std::uint64_t value, std::size_t width) {
        for (std::size_t i = 0; i < width; ++i)
            bytes_[at + (little_ ? i : width - 1 - i)] = static_cast<std::uint8_t>(value >> 8 * i);
    }
    const Buffer& bytes() const { return bytes_; }

  private:
    bool little_;
    Buffer bytes_;
};

tiff::Layout layoutOf(const Buffer& file) {
    tiff::Layout layout;
    while (const auto want = layout.want()) layout.give(slice(Bytes(file), want->offset, want->length));
    return layout;
}

// A photo's coded data, from behind its header on.
std::size_t codedFrom(const Buffer& photo) {
    for (std::size_t at = 2; at + 4 <= photo.size();) {
        const auto length = static_cast<std::size_t>(photo[at + 2]) << 8 | photo[at + 3];
        if (photo[at + 1] == 0xda) return at + 2 + length;
        at += 2 + length;
    }
    return photo.size();
}

std::size_t placeOf(const Buffer& file, std::string_view text) {
    const Buffer wanted(text.begin(), text.end());
    return static_cast<std::size_t>(std::search(file.begin(), file.end(), wanted.begin(), wanted.end()) -
                                    file.begin());
}

// Where the sensor data of a raw file lie.
Area sensorOf(const Buffer& file) {
    if (startsWith(slice(file, 4, 8), "ftypcrx ")) {
        const auto data = placeOf(file, {"\xff\1\0\10", 4});
        const auto coding = readCrxCoding(slice(file, placeOf(file, "CMP1") + 4, 60));
        if (!coding) return {};
        return {{data, file.size() - data},
                Area::Coding::Sensor,
                UINT32_MAX,
                std::make_shared<const CrxCoding>(*coding)};
    }
    const auto layout = layoutOf(file);
    for (const auto& area : layout.areas()) {
        if (area.sensor) return area;
    }
    return {};
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

    // Strips and tiles of several pictures, in a chain and in a tree of directories.
    void dataOfATiffAreWhereItsDirectoriesSay_data() {
        QTest::addColumn<bool>("little");
        QTest::addColumn<bool>("tiles");
        for (const bool little : {true, false}) {
            for (const bool tiles : {true, false})
                QTest::addRow("%s, %s", little ? "II" : "MM", tiles ? "tiles" : "strips") << little << tiles;
        }
    }
    void dataOfATiffAreWhereItsDirectoriesSay() {
        QFETCH(bool, little);
        QFETCH(bool, tiles);
        std::mt19937 random(little ? 1 : 2);
        for (int round = 0; round < 40; ++round) {
            TiffWriter tiff(little);
            std::vector<ByteRange> truth;
            std::uint32_t widest = 0;
            std::vector<std::uint32_t> subs;
            std::size_t next = 4;  // where the offset of the next directory of the chain stands
            const auto pictures = 1 + random() % 4;
            for (std::size_t picture = 0; picture < pictures; ++picture) {
                std::vector<std::uint32_t> at, lengths;
                const auto pieces = 1 + random() % 9;
                for (std::size_t i = 0; i < pieces; ++i) {
                    const auto data = randomBytes(2 * (1 + random() % 2000), static_cast<unsigned>(random()));
                    at.push_back(tiff.put(data));
                    lengths.push_back(static_cast<std::uint32_t>(data.size()));
                    truth.push_back({at.back(), data.size()});
                }
                const auto wide = static_cast<std::uint32_t>(100 + random() % 4000);
                widest = std::max(widest, wide);
                const std::uint16_t narrow = tiles ? 4 : 3;
                std::vector<TiffWriter::Entry> entries{
                    {0x100, 4, {wide}},
                    {0x101, 3, {wide}},
                    {0x103, 3, {1}},
                    {static_cast<std::uint16_t>(tiles ? 0x144 : 0x111), 4, at},
                    {static_cast<std::uint16_t>(tiles ? 0x145 : 0x117), narrow, lengths}};
                // Every other one hangs below the chain's next.
                if (picture % 2 != 0 || (!subs.empty() && random() % 2 == 0)) {
                    subs.push_back(tiff.directory(entries).first);
                    continue;
                }
                if (!subs.empty()) entries.push_back({0x14a, 4, std::exchange(subs, {})});
                const auto [from, behind] = tiff.directory(entries);
                tiff.set(next, from, 4);
                next = behind;
            }
            if (!subs.empty()) {
                const auto [from, behind] =
                    tiff.directory({{0x100, 4, {1}}, {0x101, 4, {1}}, {0x14a, 4, subs}});
                tiff.set(next, from, 4);
                next = behind;
            }
            const auto layout = layoutOf(tiff.bytes());
            QVERIFY(layout.holds());
            QCOMPARE(layout.format(), std::string("tiff"));
            QCOMPARE(layout.width(), widest);
            QVERIFY(layout.asTheyAre());
            std::sort(truth.begin(), truth.end(),
                      [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
            QCOMPARE(layout.areas().size(), truth.size());
            for (std::size_t i = 0; i < truth.size(); ++i) QVERIFY(layout.areas()[i].range == truth[i]);
            QCOMPARE(layout.end(), std::uint64_t{tiff.bytes().size()});
        }
    }
    // Directories that lead back to themselves, and more of them than any file has.
    void directoriesOfATiffDoNotGoRound() {
        TiffWriter tiff(true);
        const auto data = tiff.put(randomBytes(500, 1));
        const std::vector<TiffWriter::Entry> entries{
            {0x100, 4, {10}}, {0x101, 4, {10}}, {0x111, 4, {data}}, {0x117, 4, {500}}};
        std::size_t next = 4;
        std::uint32_t first = 0;
        for (int i = 0; i < 500; ++i) {
            const auto [from, behind] = tiff.directory(entries);
            if (i == 0) first = from;
            tiff.set(next, from, 4);
            next = behind;
        }
        tiff.set(next, first, 4);
        const auto layout = layoutOf(tiff.bytes());
        QVERIFY(layout.holds());
        QCOMPARE(layout.areas().size(), std::size_t{1});
        QVERIFY((layout.areas()[0].range == ByteRange{data, 500}));
    }
    // Two pictures that claim the same bytes in part: what is known of them is nothing.
    void dataThatTwoClaimAreOfNoKnownCoding() {
        TiffWriter tiff(false);
        const auto data = tiff.put(randomBytes(4000, 1));
        const auto [from, behind] = tiff.directory(
            {{0x100, 4, {10}}, {0x101, 4, {10}}, {0x111, 4, {data, data + 1500}}, {0x117, 4, {2000, 2500}}});
        tiff.set(4, from, 4);
        const auto layout = layoutOf(tiff.bytes());
        QCOMPARE(layout.areas().size(), std::size_t{1});
        QVERIFY((layout.areas()[0].range == ByteRange{data, 4000}));
        QVERIFY(layout.areas()[0].coding == Area::Coding::Unknown);
    }

    // The coded data of photos among text, blanks and noise, without what stood in front of them.
    // Sensor data of every coding that is known: to the end in any portions, a copy goes on as the original
    // does.
    void sensorDataAreFollowed_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"lossless.nef", "lossy.nef", "other.nef", "codes.pef", "other.pef",
                                 "adapting.orf", "other.orf", "planes.cr3", "other.cr3"})
            QTest::newRow(name) << QString(name);
    }
    void sensorDataAreFollowed() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto area = sensorOf(file);
        QVERIFY(area.coding == Area::Coding::Sensor);
        const auto data = slice(file, area.range.offset, area.range.length);
        for (const std::size_t portion : {std::size_t{65536}, std::size_t{4096}, std::size_t{777}}) {
            AreaCheck check(area);
            for (std::size_t at = 0; at < data.size(); at += portion) {
                if (at / portion == 20) check = AreaCheck(check);
                check.give(slice(data, at, portion), at + portion >= data.size());
            }
            QVERIFY2(check.why().empty(), check.why().c_str());
            QCOMPARE(check.taken(), std::uint64_t{data.size()});
        }
        // Cut, or with more behind it than writers fill up with.
        AreaCheck cut(area), longer(area);
        cut.give(data.first(data.size() - 2000), true);
        QVERIFY(!cut.why().empty());
        Buffer more(data.begin(), data.end());
        more.resize(more.size() + 70000, 0x11);
        longer.give(more, true);
        QVERIFY(!longer.why().empty());
    }
    // Noise soon leaves what samples can be; another photo's data do not, but its rows have nothing to do
    // with those above, which a close look notices at once.
    void foreignSensorDataAreNoticed_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("another");
        QTest::newRow("differences") << QStringLiteral("lossless.nef") << QStringLiteral("other.nef");
        QTest::newRow("codes of its own") << QStringLiteral("codes.pef") << QStringLiteral("other.pef");
        QTest::newRow("codes that adapt") << QStringLiteral("adapting.orf") << QStringLiteral("other.orf");
        QTest::newRow("planes") << QStringLiteral("planes.cr3") << QStringLiteral("other.cr3");
    }
    void foreignSensorDataAreNoticed() {
        QFETCH(QString, name);
        QFETCH(QString, another);
        constexpr std::size_t kPlace = 300000;
        const auto file = mediaFile(name);
        const auto other = mediaFile(another);
        const auto area = sensorOf(file);
        const auto foreignArea = sensorOf(other);
        const auto data = slice(file, area.range.offset, area.range.length);
        const auto foreign = slice(other, foreignArea.range.offset, foreignArea.range.length);
        const auto followed = [&](Bytes behind, bool closely) {
            AreaCheck check(area);
            check.give(data.first(kPlace), false);
            check.lookClosely(closely);
            check.give(behind, false);
            return check;
        };
        for (unsigned round = 0; round < 20; ++round) {
            const auto noise = followed(randomBytes(100000, round), false);
            QVERIFY(!noise.why().empty());
            QVERIFY(noise.taken() >= kPlace - 4000 && noise.taken() < kPlace + 60000);
            const auto wrong = followed(slice(foreign, 100000 + 10000 * round, 100000), true);
            QVERIFY(!wrong.why().empty());
            QVERIFY2(wrong.taken() < kPlace + 20000, qPrintable(QString::number(wrong.taken())));
        }
        const auto own = followed(data.subspan(kPlace, 100000), true);
        QVERIFY2(own.why().empty(), own.why().c_str());
    }
    // Rows of a sensor with grain: what goes on from above is none but this picture's; an edge that lies
    // across the border is no border's; rows of tiles are too short to tell.
    void rowsThatDoNotGoOnAreNoticed() {
        constexpr int kRows = 60, kAlike = 2;
        constexpr std::uint64_t kByte = 4096;
        std::mt19937 random(3);
        std::vector<int> grain(1 << 16);
        for (auto& each : grain) each = static_cast<int>(random() % 25);
        // `edge`: the sample from which on the rest of its row and the rows below it are brighter.
        const auto foreign = [&](int width, bool another, int edge, bool closely) {
            const auto value = [&](int at, double phase) {
                const auto wave =
                    std::sin(at % width / 90.0 + phase) + std::cos(at / width / 20.0 + 2 * phase);
                return static_cast<int>(1000 + 300 * wave) +
                       grain[static_cast<std::size_t>(at * 7 & 0xffff)] + (edge > 0 && at >= edge ? 800 : 0);
            };
            jpeg::RowSeams seams;
            seams.setRow(static_cast<std::uint32_t>(width), static_cast<std::uint32_t>(kAlike * width));
            seams.lookClosely(closely);
            const auto border = (kRows - 12) * width + width / 3;
            for (int at = 0; at < kRows * width; ++at) {
                if (at == border) seams.border(kByte);
                const auto above = at - kAlike * width;
                const bool of = another && at >= border;
                seams.add(above < 0
                              ? 0
                              : value(at, of ? 1.5 : 0) - value(above, another && above >= border ? 1.5 : 0));
            }
            return seams.foreign();
        };
        for (const bool closely : {false, true}) {
            QVERIFY(!foreign(1500, false, 0, closely));
            QCOMPARE(foreign(1500, true, 0, closely), std::optional(kByte));
            QVERIFY(!foreign(1500, false, 48 * 1500, closely));
            QVERIFY(!foreign(300, true, 0, closely));
        }
    }
    // A maker's note that is damaged says nothing, and one of samples that are stored in another way.
    void whatIsNotStatedIsNotFollowed() {
        const auto file = mediaFile(QStringLiteral("lossless.nef"));
        const Bytes note = Bytes(file).subspan(placeOf(file, "Nikon"), 400);
        QVERIFY(readNikonCoding(note, 1200, 450, 14));
        QVERIFY(!readNikonCoding(note, 1200, 450, 16));
        for (std::size_t length = 0; length < 60; ++length)
            QVERIFY(!readNikonCoding(note.first(length), 1200, 450, 14));
        Buffer plain(note.begin(), note.end());
        // The first entry's value: samples as they are.
        plain[10 + 8 + 2 + 9] = 2;
        QVERIFY(!readNikonCoding(plain, 1200, 450, 14));

        const auto own = mediaFile(QStringLiteral("codes.pef"));
        const auto at = placeOf(own, {"AOC\0II", 6});
        const auto codes = [&](Bytes from) {
            return readPentaxCoding(from, at, Endian::Little, 1200, 450, 12);
        };
        Buffer pentax(own.begin() + static_cast<std::ptrdiff_t>(at),
                      own.begin() + static_cast<std::ptrdiff_t>(at) + 90);
        QVERIFY(codes(pentax));
        for (std::size_t length = 0; length < 70; ++length) QVERIFY(!codes(Bytes(pentax).first(length)));
        // The first code as the second, so that one is two.
        constexpr std::size_t kFirstCode = 6 + 2 + 12 + 4 + 14;
        pentax[kFirstCode] = pentax[kFirstCode + 2];
        pentax[kFirstCode + 1] = pentax[kFirstCode + 3];
        QVERIFY(!codes(pentax));

        const auto boxes = mediaFile(QStringLiteral("planes.cr3"));
        Buffer coding(boxes.begin() + static_cast<std::ptrdiff_t>(placeOf(boxes, "CMP1")) + 4, boxes.end());
        coding.resize(60);
        QVERIFY(readCrxCoding(coding));
        for (std::size_t length = 0; length < 32; ++length)
            QVERIFY(!readCrxCoding(Bytes(coding).first(length)));
        QVERIFY(!readCrxCoding(coding)->wavelets);
        // Tiles of which the last is too narrow to hold a plane, with records that say otherwise.
        auto narrow = *readCrxCoding(coding);
        narrow.width = narrow.tileWidth + 1;
        narrow.head = 12 * 18;
        Buffer head;
        const auto put = [&](std::initializer_list<std::uint8_t> some) { head.insert(head.end(), some); };
        for (int tile = 0; tile < 2; ++tile) {
            put({0xff, 1, 0, 8, 0, 0, 4, 0, 0, 0, 0, 0});
            for (std::uint8_t plane = 0; plane < 4; ++plane) {
                put({0xff, 2, 0, 8, 0, 0, 1, 0, static_cast<std::uint8_t>(plane << 4), 0, 0, 0});
                put({0xff, 3, 0, 8, 0, 0, 1, 0, 8, 0, 0, 0});
            }
        }
        QCOMPARE(head.size(), std::size_t{narrow.head});
        QVERIFY(narrow.rows(0)->feed(head, false) == SensorRows::State::NotUnderstood);
        narrow.width = narrow.tileWidth * 2;
        QVERIFY(narrow.rows(0)->feed(head, false) == SensorRows::State::Hungry);
        coding[26] = 3;  // levels of wavelets
        QVERIFY(readCrxCoding(coding)->wavelets);
        coding[24] = 16;  // bits
        QVERIFY(!readCrxCoding(coding));
    }
    void runsOfCodedDataAreFound() {
        constexpr std::size_t step = 4096;
        Buffer card(8 * step, 0);
        std::vector<ByteRange> truth;
        for (const auto* name : {"baseline-420.jpg", "baseline-422.jpg", "restart-row.jpg", "fine.jpg"}) {
            const auto photo = mediaFile(QString::fromLatin1(name));
            const auto from = (codedFrom(photo) / step + 3) * step;  // some of its data are gone, too
            truth.push_back({card.size(), photo.size() - from});
            card.insert(card.end(), photo.begin() + static_cast<std::ptrdiff_t>(from), photo.end());
            card.resize((card.size() / step + 1) * step, 0);
            for (int i = 0; i < 20000; ++i)
                card.push_back(static_cast<std::uint8_t>("site notes of the mill\n"[i % 23]));
            card.resize((card.size() / step + 2) * step, 0);
        }
        // One that its header stands in front of.
        const auto whole = mediaFile(QStringLiteral("grey.jpg"));
        card.insert(card.end(), whole.begin(), whole.end());
        card.resize((card.size() / step + 2) * step, 0);
        const auto read = [&](std::uint64_t at, MutableBytes into) {
            const auto some = slice(Bytes(card), at, into.size());
            std::copy(some.begin(), some.end(), into.begin());
            return some.size();
        };
        const Control control;
        const auto runs = rebuild::findCodedRuns(read, {0, card.size()}, control);
        QCOMPARE(runs.size(), truth.size());
        for (std::size_t i = 0; i < truth.size(); ++i) {
            QCOMPARE(runs[i].place.offset, truth[i].offset);
            QCOMPARE(runs[i].place.length, truth[i].length);
            QVERIFY(runs[i].hasEnd);
        }
    }

    // Near the run's front with the photo's own tables, and nowhere with others'.
    void blocksBeginWhereTheyAreFound_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"baseline-420.jpg", "baseline-422.jpg", "optimised-444.jpg", "fine.jpg"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void blocksBeginWhereTheyAreFound() {
        QFETCH(QString, name);
        const auto photo = mediaFile(name);
        const auto coded = codedFrom(photo);
        const auto lender = jpeg::Lender::read(slice(Bytes(photo), 0, coded), "itself");
        QVERIFY(lender);
        const Control control;
        for (const std::size_t share : {3U, 5U, 7U}) {
            const auto from = coded + (photo.size() - coded) * share / 10;
            const auto run = slice(Bytes(photo), from, photo.size() - from);
            if (run.size() < 2 * rebuild::kLeastCoded) continue;
            const auto start = rebuild::findBlockStart(run, *lender, control);
            QVERIFY(start);
            QVERIFY(start->byte < 4096);
            QVERIFY(start->bit >= 0 && start->bit < 8);
            QVERIFY(start->phase >= 0 && start->phase < lender->blocksOfMcu());
        }
        // Tables of another photo do not fit, and noise is no photo's.
        const auto other = mediaFile(QStringLiteral("optimised-444.jpg"));
        if (name == QLatin1String("optimised-444.jpg")) return;
        const auto stranger = jpeg::Lender::read(slice(Bytes(other), 0, codedFrom(other)), "another");
        QVERIFY(stranger);
        const auto run = slice(Bytes(photo), coded + 40000, 200000);
        QVERIFY(!rebuild::findBlockStart(run, *stranger, control));
        QVERIFY(!rebuild::findBlockStart(randomBytes(100000, 3), *lender, control));
    }
};

QTEST_GUILESS_MAIN(TestPhotoParts)
#include "test_photo_parts.moc"
