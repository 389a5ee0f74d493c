// Small parts that files are measured, described and put together with, on values that the test makes.
#include <cmath>
#include <QTemporaryDir>
#include <QTest>

#include "base/every_core.h"
#include "formats/clip/last_bytes.h"
#include "formats/exif.h"
#include "formats/jpeg/dc_picture.h"
#include "formats/padding.h"
#include "formats/strange_blocks.h"
#include "formats/tiff.h"
#include "rebuild/box_writer.h"
#include "rebuild/carrying.h"
#include "rebuild/clip_anchors.h"
#include "rebuild/clip_pool.h"
#include "rebuild/edit_list.h"
#include "rebuild/piece_edit.h"
#include "rebuild/playing_wav.h"
#include "rebuild/splice.h"
#include "rebuild/text.h"
#include "rebuild/track_samples.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

// Writes TIFF blocks of either byte order, with values behind the directory.
class TiffWriter {
  public:
    explicit TiffWriter(bool little) : little_(little) {
        for (const char letter : {little ? 'I' : 'M', little ? 'I' : 'M'})
            bytes_.push_back(static_cast<std::uint8_t>(letter));
        put(42, 2);
        put(8, 4);
    }
    struct Field {
        std::uint16_t tag, type;
        std::uint32_t count;
        Buffer value;
    };
    Field text(std::uint16_t tag, const std::string& value) const {
        Buffer bytes(value.begin(), value.end());
        bytes.push_back(0);
        return {tag, 2, static_cast<std::uint32_t>(bytes.size()), bytes};
    }
    Field number(std::uint16_t tag, std::uint32_t value) const {
        TiffWriter inner(little_);
        inner.bytes_.clear();
        inner.put(value, 4);
        return {tag, 4, 1, inner.bytes_};
    }
    Field fractions(std::uint16_t tag, const std::vector<std::uint32_t>& values) const {
        TiffWriter inner(little_);
        inner.bytes_.clear();
        for (const auto value : values) inner.put(value, 4);
        return {tag, 5, static_cast<std::uint32_t>(values.size() / 2), inner.bytes_};
    }
    // Where it begins; its values follow it.
    std::uint32_t directory(const std::vector<Field>& fields) {
        const auto at = bytes_.size();
        put(static_cast<std::uint32_t>(fields.size()), 2);
        auto values = at + 2 + 12 * fields.size() + 4;
        Buffer behind;
        for (const auto& field : fields) {
            put(field.tag, 2);
            put(field.type, 2);
            put(field.count, 4);
            if (field.value.size() <= 4) {
                auto value = field.value;
                value.resize(4);
                bytes_.insert(bytes_.end(), value.begin(), value.end());
            } else {
                put(static_cast<std::uint32_t>(values + behind.size()), 4);
                behind.insert(behind.end(), field.value.begin(), field.value.end());
            }
        }
        put(0, 4);
        bytes_.insert(bytes_.end(), behind.begin(), behind.end());
        return static_cast<std::uint32_t>(at);
    }
    void put(std::uint32_t value, int count) {
        for (int i = 0; i < count; ++i)
            bytes_.push_back(static_cast<std::uint8_t>(value >> 8 * (little_ ? i : count - 1 - i)));
    }
    Buffer& bytes() { return bytes_; }

  private:
    bool little_;
    Buffer bytes_;
};

struct Cards {
    QTemporaryDir dir;
    CardView view(const Buffer& bytes) const {
        const auto path = dir.filePath(QStringLiteral("card"));
        writeFile(path, bytes);
        return CardView(openImage(path.toStdString(), 512).value());
    }
};

Buffer readAll(CardView& card, const std::vector<Piece>& pieces) {
    PieceReader reader(card, pieces);
    Buffer bytes(reader.size());
    bytes.resize(reader.read(0, bytes));
    return bytes;
}

}  // namespace

class TestSmallParts : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    // The same facts in either byte order.
    void exifIsRead_data() {
        QTest::addColumn<bool>("little");
        QTest::newRow("II") << true;
        QTest::newRow("MM") << false;
    }
    void exifIsRead() {
        QFETCH(bool, little);
        TiffWriter writer(little);
        // The main directory must come first: what it points at is written behind it, in the same places.
        const auto build = [&](std::uint32_t exifAt, std::uint32_t gpsAt) {
            TiffWriter out(little);
            out.directory({out.text(0x010f, "Orrery"), out.text(0x0110, "Orrery K2"),
                           out.number(0x0112, little ? 6U : 6U << 16),
                           out.text(0x0132, "2026:05:02 09:00:00"), out.number(0x8769, exifAt),
                           out.number(0x8825, gpsAt)});
            const auto exif =
                out.directory({out.text(0x9003, "2026:05:02 07:41:10"), out.text(0x9011, "+02:00")});
            const auto gps = out.directory({out.text(1, "S"), out.fractions(2, {59, 1, 16, 1, 2676, 100}),
                                            out.text(3, "W"), out.fractions(4, {10, 1, 24, 1, 26, 1})});
            writer = out;
            return std::pair(exif, gps);
        };
        const auto [exif, gps] = build(0, 0);
        build(exif, gps);
        Description about;
        // Orientation is a short in files; as a long it counts, too.
        QVERIFY(readExif(writer.bytes(), about));
        QCOMPARE(about.camera, std::string("Orrery K2"));
        QCOMPARE(about.taken, std::string("2026-05-02T07:41:10+02:00"));
        QVERIFY(about.position);
        QVERIFY(std::abs(about.position->latitude + 59.27410) < 1e-6);
        QVERIFY(std::abs(about.position->longitude + 10.40722) < 1e-5);
        // Cut off anywhere it says less, and reads nothing that is not there.
        for (std::size_t length = 0; length < writer.bytes().size(); ++length) {
            const Buffer part(writer.bytes().begin(),
                              writer.bytes().begin() + static_cast<std::ptrdiff_t>(length));
            Description less;
            readExif(part, less);
            QVERIFY(less.camera.empty() || less.camera == about.camera || less.camera == "Orrery");
        }
    }
    void datesAndPlacesThatAreNoneAreLeftOut() {
        for (const auto* date : {"0000:00:00 00:00:00", "2026:05:02", "someday at noon 12:00"}) {
            TiffWriter out(true);
            out.directory({out.text(0x0132, date)});
            Description about;
            QVERIFY(readExif(out.bytes(), about));
            QVERIFY2(about.taken.empty(), date);
        }
        const auto exif = [&](const char* text) {
            TiffWriter out(true);
            out.directory({out.number(0x8769, 26)});
            out.directory({out.text(0x9003, "2026:05:02 07:41:10"), out.text(0x9011, text)});
            Description about;
            readExif(out.bytes(), about);
            return about.taken;
        };
        QCOMPARE(exif("later!"), std::string("2026-05-02T07:41:10"));
        QCOMPARE(exif("-01:30"), std::string("2026-05-02T07:41:10-01:30"));
    }
    void placesOfClipsAreRead_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("latitude");  // 99: none
        QTest::addColumn<double>("longitude");
        QTest::newRow("degrees") << "+59.2741+010.4072/" << 59.2741 << 10.4072;
        QTest::newRow("with a height") << "-33.8568+151.2153+012.000/" << -33.8568 << 151.2153;
        QTest::newRow("west") << "+47.5916-003.0640" << 47.5916 << -3.0640;
        QTest::newRow("whole") << "+12-034/" << 12.0 << -34.0;
        QTest::newRow("nowhere") << "+00.0000+000.0000/" << 99.0 << 0.0;
        QTest::newRow("too far") << "+95.0000+010.0000/" << 99.0 << 0.0;
        QTest::newRow("no sign") << "59.2741+010.4072/" << 99.0 << 0.0;
        QTest::newRow("one number") << "+59.2741/" << 99.0 << 0.0;
        QTest::newRow("no number") << "+north+east" << 99.0 << 0.0;
        QTest::newRow("two signs") << "+-5.0+010.0" << 99.0 << 0.0;
        QTest::newRow("nothing") << "" << 99.0 << 0.0;
    }
    void placesOfClipsAreRead() {
        QFETCH(QString, text);
        QFETCH(double, latitude);
        QFETCH(double, longitude);
        const auto found = positionFrom(text.toStdString());
        QCOMPARE(found.has_value(), latitude < 99);
        if (!found) return;
        QCOMPARE(found->latitude, latitude);
        QCOMPARE(found->longitude, longitude);
    }
    void directoriesAreBounded() {
        TiffWriter out(false);
        out.directory({out.text(0x010f, "Halden"),
                       {0x0110, 99, 4, {1, 2, 3, 4}},
                       {0x0111, 4, 1U << 30, {0, 0, 0, 9, 9}}});
        const auto block = tiff::Block::open(out.bytes());
        QVERIFY(block);
        const auto directory = block->directory(block->first());
        QVERIFY(directory);
        // Of no known type, and with more values than there are bytes: as if they were not there.
        QCOMPARE(directory->size(), std::size_t{1});
        QCOMPARE(directory->find(0x010f)->text(), std::string("Halden"));
        QVERIFY(directory->find(0x0110) == nullptr && directory->find(0x0111) == nullptr);
        QVERIFY(!directory->find(0x010f)->number());
        QVERIFY(!block->directory(0xffffffff));
        QVERIFY(!block->directory(static_cast<std::uint32_t>(out.bytes().size() - 1)));
        QVERIFY(!tiff::Block::open(Buffer{'I', 'I', 42, 0, 8}));
        QVERIFY(!tiff::Block::open(Buffer{'I', 'M', 42, 0, 8, 0, 0, 0}));
        QVERIFY(!tiff::Block::open(Buffer{'I', 'I', 43, 0, 8, 0, 0, 0}));
        // Thousands of entries are no directory of a photo.
        auto many = out.bytes();
        many[8] = 0x40;
        QVERIFY(!tiff::Block::open(many)->directory(8));
    }
    // Bytes changed inside of pieces of every kind, against a plain copy.
    void bytesOfPiecesAreReplaced() {
        std::mt19937 random(101);
        const Cards cards;
        const auto bytes = randomBytes(5000, 102);
        auto card = cards.view(bytes);
        for (int round = 0; round < 200; ++round) {
            std::vector<Piece> pieces;
            for (auto count = 1 + random() % 6; count > 0; --count) {
                const auto length = 1 + random() % 300;
                if (random() % 3 == 0) {
                    pieces.push_back(madePiece(randomBytes(length, static_cast<unsigned>(random())), "made"));
                } else {
                    pieces.push_back({PieceFrom::Card, random() % 4000, length, {}, {}});
                }
            }
            auto expected = readAll(card, pieces);
            const auto at = random() % expected.size();
            const auto with = randomBytes(1 + random() % (expected.size() - at), 7);
            std::copy(with.begin(), with.end(), expected.begin() + static_cast<std::ptrdiff_t>(at));
            rebuild::replaceBytes(pieces, at, with, "why not");
            QCOMPARE(readAll(card, pieces), expected);
            const auto made = std::find_if(pieces.begin(), pieces.end(),
                                           [](const Piece& piece) { return piece.why == "why not"; });
            QVERIFY(made != pieces.end() && made->length == with.size());
            for (const auto& piece : pieces) QVERIFY(piece.length > 0);
            const auto length = random() % (expected.size() + 20);
            rebuild::cutAt(pieces, length);
            expected.resize(std::min(expected.size(), static_cast<std::size_t>(length)));
            QCOMPARE(readAll(card, pieces), expected);
        }
    }
    // A stretch goes out to the borders of its clusters, over pieces, and leaves nothing or a gap.
    void stretchesAreTakenOutOfAWay() {
        using namespace rebuild;
        constexpr std::uint64_t kCluster = 1000;
        const std::vector<ByteRange> way{{10000, 4000}, {30000, 2500}};
        const auto out = [&](std::uint64_t from, std::uint64_t length, LeftBehind left) {
            return takeOut(way, {from, length}, kCluster, left);
        };
        const auto within = out(2300, 900, LeftBehind::Nothing);
        QVERIFY(within.way == (std::vector<ByteRange>{{10000, 2000}, {30000, 2500}}));
        QCOMPARE(within.before, std::size_t{1});
        const auto middle = out(1500, 400, LeftBehind::Nothing);
        QVERIFY(middle.way == (std::vector<ByteRange>{{10000, 1000}, {12000, 2000}, {30000, 2500}}));
        const auto across = out(3000, 2000, LeftBehind::Gap);
        QVERIFY(across.way ==
                (std::vector<ByteRange>{{10000, 3000}, {kNowhere, 1000}, {kNowhere, 1000}, {31000, 1500}}));
        QCOMPARE(across.before, std::size_t{1});
        const auto tail = out(6200, 5000, LeftBehind::Gap);
        QVERIFY(tail.way == (std::vector<ByteRange>{{10000, 4000}, {30000, 2000}, {kNowhere, 500}}));
        QCOMPARE(tail.before, std::size_t{2});
        // What a file begins with is its own; and nothing is nothing.
        const auto head = out(0, 1, LeftBehind::Nothing);
        QVERIFY(head.way == way);
        QCOMPARE(head.before, way.size());
        QVERIFY(out(2000, 0, LeftBehind::Nothing).way == way);
        const std::vector<ByteRange> gap{{10000, 1000}, {kNowhere, 3000}};
        QVERIFY(takeOut(gap, {1000, 2000}, kCluster, LeftBehind::Gap).way == gap);
    }
    void aWavIsGivenItsLengths() {
        const Cards cards;
        const auto wav = mediaFile(QStringLiteral("stereo.wav"));
        const auto whole = [&](const Buffer& bytes) {
            auto card = cards.view(bytes);
            return rebuild::makePlayingWav(card, card.pieces({0, bytes.size()}));
        };
        // True already: there is nothing to make.
        QVERIFY(whole(wav).ok() && whole(wav).value().empty());
        auto open = wav;
        const auto data = std::search(open.begin(), open.end(), std::begin("data"), std::begin("data") + 4);
        std::fill_n(open.begin() + 4, 4, std::uint8_t{0});
        std::fill_n(data + 4, 4, std::uint8_t{0});
        open.resize(300000);
        auto card = cards.view(open);
        const auto made = rebuild::makePlayingWav(card, card.pieces({0, open.size()}));
        QVERIFY(made.ok());
        const auto bytes = readAll(card, made.value());
        QCOMPARE(bytes.size(), open.size());
        const auto at = static_cast<std::size_t>(data - open.begin());
        QCOMPARE(ByteReader(slice(bytes, 4, 4), Endian::Little).u32(), std::uint32_t{300000 - 8});
        QCOMPARE(ByteReader(slice(bytes, at + 4, 4), Endian::Little).u32(),
                 static_cast<std::uint32_t>(300000 - at - 8));
        // As another program measures it.
        const auto measured = measureWith("wav", bytes);
        QCOMPARE(measured.length, std::uint64_t{300000});
        QVERIFY(!whole(Buffer(wav.begin(), wav.begin() + 40)).ok());
        QVERIFY(!whole(randomBytes(4000, 3)).ok());
    }
    void editListsAreWrittenAsTheyAreRead() {
        for (const auto& edits : {rebuild::EditList{0, 0}, rebuild::EditList{0, 1024},
                                  rebuild::EditList{600, 0}, rebuild::EditList{1ULL << 40, 1ULL << 35}}) {
            const auto body = rebuild::writeEdits(edits, 5000);
            const auto read = rebuild::readEdits(body);
            QCOMPARE(read.wait, edits.wait);
            QCOMPARE(read.start, edits.start);
        }
        // Of 32 bits: waiting twice, then a part, then another that is not looked at.
        rebuild::BoxBytes body;
        rebuild::put(body, 0, 4);
        rebuild::put(body, 4, 4);
        for (const auto& [length, at] : {std::pair{100U, ~0U}, {50U, ~0U}, {900U, 77U}, {1U, 5U}}) {
            rebuild::put(body, length, 4);
            rebuild::put(body, at, 4);
            rebuild::put(body, 0x10000, 4);
        }
        const auto read = rebuild::readEdits(body);
        QCOMPARE(read.wait, std::uint64_t{150});
        QCOMPARE(read.start, std::uint64_t{77});
        QCOMPARE(rebuild::readEdits(slice(body, 0, 20)).start, std::uint64_t{0});
        QCOMPARE(rebuild::readEdits({}).wait, std::uint64_t{0});
    }
    // Round the card from anywhere, each free cluster once, and none of which a part is taken.
    void freeClustersAreShownOnce() {
        std::mt19937 random(111);
        for (int round = 0; round < 100; ++round) {
            constexpr std::uint32_t kCluster = 512;
            const auto origin = random() % kCluster;
            std::vector<ByteRange> stretches;
            std::uint64_t at = 0;
            for (int i = 0; i < 8; ++i) {
                at += random() % 4000;
                stretches.push_back({at, random() % 5000});
                at = stretches.back().end() + 1;
            }
            rebuild::ClipPool pool(stretches, kCluster, origin);
            const auto expected = [&](std::uint64_t cluster) {
                return std::any_of(stretches.begin(), stretches.end(), [&](const ByteRange& stretch) {
                    return stretch.covers({cluster, kCluster});
                });
            };
            const auto from = random() % at;
            std::vector<std::uint64_t> shown;
            QVERIFY(!pool.visit(from, [&](std::uint64_t cluster) {
                shown.push_back(cluster);
                return false;
            }));
            std::vector<std::uint64_t> all;
            for (auto cluster = origin; cluster < at; cluster += kCluster) {
                if (!expected(cluster)) continue;
                QVERIFY(pool.free(cluster));
                all.push_back(cluster);
            }
            const auto turn = std::lower_bound(all.begin(), all.end(), from);
            std::rotate(all.begin(), turn, all.end());
            QCOMPARE(shown, all);
            // The nearest first, however they lie.
            std::vector<std::uint64_t> near;
            QVERIFY(!pool.visitNear(from, [&](std::uint64_t cluster) {
                near.push_back(cluster);
                return false;
            }));
            const auto away = [from](std::uint64_t cluster) {
                return cluster >= from ? cluster - from : from - std::min(from, cluster + kCluster);
            };
            QVERIFY(std::is_sorted(near.begin(), near.end(),
                                   [&](auto one, auto other) { return away(one) < away(other); }));
            std::sort(near.begin(), near.end());
            QVERIFY(std::is_permutation(near.begin(), near.end(), all.begin(), all.end()));
            if (all.empty()) continue;
            const auto last = all.back();
            QVERIFY(pool.visit(from, [last](std::uint64_t cluster) { return cluster == last; }));
            pool.take({{last, 1}});
            QVERIFY(!pool.free(last));
        }
    }
    void foreignDataInPaddingAreTold() {
        std::mt19937 random(9);
        const auto noise = randomBytes(3 * 4096, 4);
        for (int i = 0; i < 200; ++i) {
            const std::uint64_t from = random() % 20000;
            Buffer padding(20000 + random() % 40000, static_cast<std::uint8_t>(i % 3 == 0 ? 0xff : 0));
            QCOMPARE(foreignInPadding(padding, from), std::optional<std::uint64_t>());
            // A maker's note at its front, that ends anywhere but at a border.
            const auto note = 1 + random() % 3000;
            auto noted = padding;
            std::copy_n(noise.begin(), note, noted.begin());
            if ((from + note) % 4096 > 64 && (from + note) % 4096 < 4032)
                QCOMPARE(foreignInPadding(noted, from), std::optional<std::uint64_t>());
            // Foreign clusters, from a border on; and others' blank ones.
            const auto border = (from / 4096 + 1 + random() % 3) * 4096;
            const auto inside = static_cast<std::ptrdiff_t>(border - from);
            const auto length = static_cast<std::ptrdiff_t>(1 + random() % 2) * 4096;
            auto foreign = padding;
            std::copy_n(noise.begin(), std::min(length, std::ssize(foreign) - inside),
                        foreign.begin() + inside);
            const auto found = foreignInPadding(foreign, from);
            QVERIFY(found);
            QVERIFY(*found == border ||
                    (inside < 16 && *found == border + static_cast<std::uint64_t>(length)));
            auto other = padding;
            std::fill_n(other.begin() + inside, std::min(length, std::ssize(other) - inside),
                        std::uint8_t{0xe5});
            QVERIFY(foreignInPadding(other, from));
        }
    }
    void clustersThatAreNoSamplesAreTold() {
        std::mt19937 random(12);
        const auto strange = [](const Buffer& samples, std::uint64_t from, std::size_t portion) {
            StrangeBlocks blocks(from);
            for (std::size_t at = 0; at < samples.size(); at += portion)
                blocks.add(slice(samples, at, std::min(portion, samples.size() - at)));
            return blocks.finish();
        };
        using At = std::optional<std::uint64_t>;
        for (int i = 0; i < 200; ++i) {
            const std::uint64_t from = random() % 9000;
            const std::size_t portion = 1 + random() % 20000;
            Buffer samples(60000);
            for (auto& sample : samples) sample = static_cast<std::uint8_t>(40 + random() % 80);
            QCOMPARE(strange(samples, from, portion), At());
            // What is black or white in a picture begins and ends anywhere.
            const std::uint8_t value = i % 2 == 0 ? 0 : 0xff;
            auto dark = samples;
            const auto row = 4100 + random() % 4000;
            if ((from + row) % 4096 != 0) {
                std::fill(dark.begin() + static_cast<std::ptrdiff_t>(row), dark.end() - 9, value);
                QCOMPARE(strange(dark, from, portion), At());
                std::fill(dark.end() - 9, dark.end(), value);
                QCOMPARE(strange(dark, from, portion), At());
            }
            // Clusters of the card do not: some of them, and all that are left.
            const auto border = (from / 4096 + 1 + random() % 4) * 4096;
            const auto inside = static_cast<std::ptrdiff_t>(border - from);
            auto blank = samples;
            std::fill_n(blank.begin() + inside, 4096 * (1 + random() % 3), value);
            QCOMPARE(strange(blank, from, portion), At(border));
            std::fill(blank.begin() + inside, blank.end(), value);
            QCOMPARE(strange(blank, from, portion), At(border));
            auto written = samples;
            const std::string line = "The sluice was opened at seven, and the wheel began to turn.\n";
            for (std::ptrdiff_t k = 0; k < 4096; ++k)
                written[static_cast<std::size_t>(inside + k)] =
                    static_cast<std::uint8_t>(line[static_cast<std::size_t>(k) % line.size()]);
            QCOMPARE(strange(written, from, portion), At(border));
        }
    }
    void textIsToldFromCodedData() {
        const std::string english = "The sluice was opened at seven, and the wheel began to turn.\n\t";
        const std::string german =
            "Das Wehr wurde um sieben geöffnet, und das Mühlrad drehte sich größer.\r\n";
        for (const auto& line : {english, german}) {
            Buffer block;
            while (block.size() < 4096) block.insert(block.end(), line.begin(), line.end());
            QVERIFY(rebuild::isText(block));
            block[2000] = 0;
            QVERIFY(!rebuild::isText(block));
        }
        QVERIFY(!rebuild::isText(randomBytes(4096, 1)));
        QVERIFY(!rebuild::isText(Buffer(4096, 0xaa)));
    }
    // Tables of samples, written and read again: of any sizes, in chunks or not, with every kind of timing.
    void tablesOfSamplesGoBothWays() {
        using rebuild::TimedSample;
        std::mt19937 random(121);
        rebuild::BoxBytes described;
        rebuild::putBox(described, 0x73747364, Buffer{0, 0, 0, 0, 0, 0, 0, 2, 1, 2, 3, 4});  // stsd
        for (int round = 0; round < 200; ++round) {
            std::vector<TimedSample> samples;
            std::uint64_t at = round % 5 == 0 ? 1ULL << 33 : 4096;
            const bool allSync = random() % 3 == 0, evenSize = random() % 4 == 0, later = random() % 2 == 0;
            for (auto count = 1 + random() % 300; count > 0; --count) {
                TimedSample sample;
                if (random() % 6 == 0) at += 1 + random() % 5000;
                sample.offset = at;
                sample.size = evenSize ? 417 : static_cast<std::uint32_t>(1 + random() % 3000);
                sample.duration = random() % 9 == 0 ? static_cast<std::uint32_t>(random() % 5000) : 1001;
                sample.shownLater = later ? static_cast<std::int32_t>(random() % 3000) - 1000 : 0;
                sample.sync = allSync || random() % 12 == 0;
                sample.description = random() % 50 == 0 ? 2 : 1;
                at += sample.size;
                samples.push_back(sample);
            }
            auto like = described;
            if (later) rebuild::putBox(like, 0x63747473, Buffer{1, 0, 0, 0, 0, 0, 0, 0});  // ctts, signed
            const auto table = rebuild::writeTimedSamples(like, samples);
            const auto read = rebuild::readTimedSamples(table);
            QVERIFY(read);
            QCOMPARE(read->size(), samples.size());
            const bool noSync = std::none_of(samples.begin(), samples.end(),
                                             [](const TimedSample& sample) { return sample.sync; });
            for (std::size_t i = 0; i < samples.size(); ++i) {
                QCOMPARE((*read)[i].offset, samples[i].offset);
                QCOMPARE((*read)[i].size, samples[i].size);
                QCOMPARE((*read)[i].duration, samples[i].duration);
                QCOMPARE((*read)[i].shownLater, samples[i].shownLater);
                QCOMPARE((*read)[i].description, samples[i].description);
                if (!noSync) QCOMPARE((*read)[i].sync, samples[i].sync);
            }
            // Cut off, it is damaged, and nothing is read beyond it.
            QVERIFY(!rebuild::readTimedSamples(Bytes(table).first(table.size() - 1 - random() % 20)));
        }
        QVERIFY(!rebuild::readTimedSamples({}));
    }
    // Against boxes summed up one by one.
    // Whatever changes: as a plain comparison counts.
    void bytesThatComeAgainAreCounted() {
        std::mt19937 random(28);
        LastBytes last;
        Buffer before;
        for (int round = 0; round < 400; ++round) {
            auto now = before;
            now.resize(random() % 3 == 0 ? random() % 20000 : before.size());
            if (!now.empty() && random() % 4 != 0) now[random() % now.size()] ^= 1;
            const auto same = std::mismatch(now.begin(), now.end(), before.begin(), before.end()).first;
            QCOMPARE(last.replace(now), static_cast<std::size_t>(same - now.begin()));
            QCOMPARE(last.size(), now.size());
            QCOMPARE(last.replace(now), now.size());
            before = now;
        }
    }
    // Foreign data carry a picture on by chance, the right place until its piece ends: with long pieces it is
    // told wherever it lies, with short ones where it is near.
    void theRightPlaceCarriesAPictureFurther() {
        std::mt19937 random(7);
        const auto tell = [&](double usual, std::uint64_t right, int at, int places) {
            rebuild::Carrying carrying;
            std::exponential_distribution<double> foreign(1 / usual);
            for (int i = 0; i < places && !carrying.certain(); ++i) {
                const auto bytes = i == at ? right : static_cast<std::uint64_t>(foreign(random));
                carrying.count(bytes);
                const auto number = static_cast<std::uint64_t>(i);
                if (bytes >= 4096) carrying.take({0, number, bytes, 0});
            }
            return carrying.best().empty() ? -1 : static_cast<int>(carrying.best().front().at);
        };
        int far = 0, near = 0;
        for (int round = 0; round < 200; ++round) {
            const auto at = static_cast<int>(random() % 900);
            far += tell(4000, 120000, at, 900) == at ? 1 : 0;
            near += tell(4000, 33000, at % 12, 900) == at % 12 ? 1 : 0;
        }
        // One of nine hundred foreign ones goes as far as is certain in e^-6 (1 + 1/2 + ... + 1/900) of the
        // rounds, 2 of 100.
        QVERIFY2(far >= 190, qPrintable(QString::number(far)));
        QVERIFY2(near >= 170, qPrintable(QString::number(near)));
        // Where more is known, what goes better with the picture above wins, wherever it is.
        rebuild::Carrying carrying;
        for (const double strain : {0.8, 0.2, 0.5}) {
            carrying.count(500000);
            carrying.take({0, static_cast<std::uint64_t>(strain * 10), 500000, strain});
        }
        QCOMPARE(carrying.best().size(), std::size_t{1});
        QCOMPARE(carrying.best().front().at, std::uint64_t{2});
        QVERIFY(carrying.likely() && !carrying.certain());
    }
    // A clip's pieces say how large the card's clusters are, when there are enough of them.
    void aClipsPiecesTellTheGrid() {
        std::mt19937 random(9);
        for (int round = 0; round < 400; ++round) {
            const std::uint64_t cluster = std::uint64_t{4096} << random() % 6;
            const rebuild::ClipPool pool({{0, 1ULL << 30}}, 4096, 0);
            rebuild::ClusterMap map(pool);
            const auto pieces = 1 + random() % 24;
            std::uint64_t number = 0;
            for (std::uint64_t i = 0; i < pieces; ++i) {
                const auto at = random() % 4000 * cluster;
                for (std::uint64_t k = 0; k < cluster / 4096; ++k, ++number) map.set(number, at + k * 4096);
            }
            const auto grid = map.grid();
            QVERIFY2(grid <= cluster, qPrintable(QStringLiteral("%1 > %2").arg(grid).arg(cluster)));
            if (pieces == 24) QCOMPARE(grid, cluster);
            if (pieces < 3) QCOMPARE(grid, std::uint64_t{4096});
        }
    }
    void partsAreDoneOnceOnEveryCore() {
        for (const std::size_t parts : {0, 1, 2, 7, 300}) {
            std::vector<std::atomic<int>> done(parts);
            std::atomic<bool> wrong = false;
            std::size_t told = 0;
            bool fell = false;
            onEveryCore(
                parts,
                [&](std::size_t part, std::size_t thread) {
                    wrong = wrong || thread >= threadsFor(parts);
                    ++done[part];
                    if (parts < 10) std::this_thread::sleep_for(std::chrono::milliseconds(20));
                },
                [&](std::size_t ready) {
                    fell = fell || ready < told || ready > parts;
                    told = ready;
                });
            QVERIFY(!wrong && !fell);
            QVERIFY(std::ranges::all_of(done, [](const auto& times) { return times == 1; }));
        }
    }
    void smallPicturesAreMeansOfBlocks() {
        std::mt19937 random(131);
        for (int round = 0; round < 40; ++round) {
            jpeg::Frame frame;
            frame.precision = 8;
            frame.width = static_cast<std::uint32_t>(1 + random() % 3000);
            frame.height = static_cast<std::uint32_t>(1 + random() % 2000);
            jpeg::Component component;
            component.blocksWide = (frame.width + 7) / 8;
            component.blocksHigh = (frame.height + 7) / 8;
            frame.components = {component};
            jpeg::DcPlanes planes;
            jpeg::DcPlanes::Plane plane{component.blocksWide + 3, component.blocksHigh, {}, 16};
            for (std::size_t i = 0; i < std::size_t{plane.width} * plane.height; ++i)
                plane.dc.push_back(static_cast<std::int16_t>(static_cast<int>(random() % 120) - 60));
            planes.planes = {plane};
            const auto side = static_cast<std::uint32_t>(1 + random() % 100);
            const auto picture = jpeg::pictureOf(frame, planes, side, false);
            QVERIFY(picture);
            QVERIFY(picture->width >= 1 && picture->width <= side && picture->height >= 1 &&
                    picture->height <= side);
            QCOMPARE(picture->rgb.size(), std::size_t{3} * picture->width * picture->height);
            for (std::uint32_t y = 0; y < picture->height; ++y) {
                for (std::uint32_t x = 0; x < picture->width; ++x) {
                    const auto span = [](std::uint32_t pixel, std::uint32_t pixels, std::uint32_t blocks) {
                        const auto from = std::uint64_t{pixel} * blocks / pixels;
                        return std::pair(from,
                                         std::max(from + 1, std::uint64_t{pixel + 1} * blocks / pixels));
                    };
                    const auto [left, right] = span(x, picture->width, component.blocksWide);
                    const auto [top, bottom] = span(y, picture->height, component.blocksHigh);
                    double sum = 0;
                    for (auto row = top; row < bottom; ++row) {
                        for (auto column = left; column < right; ++column)
                            sum += plane.dc[static_cast<std::size_t>(row * plane.width + column)];
                    }
                    const auto mean = sum / static_cast<double>((right - left) * (bottom - top)) * 2 + 128;
                    const auto* pixel = &picture->rgb[3 * (std::size_t{y} * picture->width + x)];
                    QVERIFY(std::abs(pixel[0] - std::clamp(mean, 0.0, 255.0)) <= 1.0);
                    QVERIFY(pixel[0] == pixel[1] && pixel[1] == pixel[2]);
                }
            }
        }
        QVERIFY(!jpeg::pictureOf({}, {}, 320, false));
    }
};

QTEST_GUILESS_MAIN(TestSmallParts)
#include "test_small_parts.moc"
