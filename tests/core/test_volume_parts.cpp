// Partition tables, boot sectors, allocation tables and names, written by the test field by field: what is
// read is what was written, and what cannot be is refused.
#include <QTemporaryDir>
#include <QTest>

#include "tests/support/support.h"
#include "volume/allocation.h"
#include "volume/directory.h"
#include "volume/names.h"
#include "volume/partition_table.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

void put(Buffer& into, std::size_t at, std::uint64_t value, unsigned bytes) {
    for (unsigned i = 0; i < bytes; ++i) into[at + i] = static_cast<std::uint8_t>(value >> (8 * i));
}
void put(Buffer& into, std::size_t at, std::string_view text) {
    std::copy(text.begin(), text.end(), into.begin() + static_cast<std::ptrdiff_t>(at));
}

// One entry of an MBR, in sectors.
void putEntry(Buffer& sector, std::size_t number, unsigned type, std::uint32_t start, std::uint32_t length) {
    const auto at = 446 + 16 * number;
    sector[at + 4] = static_cast<std::uint8_t>(type);
    put(sector, at + 8, start, 4);
    put(sector, at + 12, length, 4);
}

// A FAT volume of so many clusters of one sector each; `wide`: with the fields of FAT32.
Buffer fatSector(std::uint32_t clusters, bool wide) {
    Buffer sector(512, 0);
    sector[510] = 0x55;
    sector[511] = 0xaa;
    put(sector, 11, 512, 2);
    sector[13] = 1;
    put(sector, 14, 32, 2);  // reserved
    sector[16] = 2;
    put(sector, 17, wide ? 0 : 512, 2);
    sector[21] = 0xf8;
    const std::uint32_t table = clusters / 128 + 1;
    put(sector, wide ? 36 : 22, table, wide ? 4 : 2);
    const auto sectors = 32 + 2 * table + (wide ? 0 : 32) + clusters;
    put(sector, 32, sectors, 4);
    put(sector, 28, 8192, 4);  // hidden
    if (wide) put(sector, 44, 2, 4);
    put(sector, wide ? 67 : 39, 0x20260502, 4);
    put(sector, wide ? 71 : 43, "MILL-07    ");
    return sector;
}

Buffer exFatSector() {
    Buffer sector(512, 0);
    sector[510] = 0x55;
    sector[511] = 0xaa;
    put(sector, 3, "EXFAT   ");
    put(sector, 64, 2048, 8);
    put(sector, 72, 100000, 8);
    put(sector, 80, 128, 4);
    put(sector, 84, 64, 4);
    put(sector, 88, 256, 4);
    put(sector, 92, 1500, 4);
    put(sector, 96, 5, 4);
    put(sector, 100, 0xabcd1234, 4);
    sector[108] = 9;
    sector[109] = 6;
    return sector;
}

// What a table says of each cluster, in the marks of its width.
struct Links {
    std::string kind;
    std::vector<std::uint32_t> next;  // 0: free, 1: the end, 2: bad; otherwise the next, counted from 3

    Buffer table() const {
        const bool twelve = kind == "FAT12", sixteen = kind == "FAT16";
        const std::uint32_t end = twelve ? 0xfff : sixteen ? 0xffff : kind == "FAT32" ? 0x0fffffff : ~0U;
        const std::uint32_t bad = twelve ? 0xff7 : sixteen ? 0xfff7 : kind == "FAT32" ? 0x0ffffff7 : ~8U;
        Buffer bytes((next.size() + 2) * 4 + 4, 0);
        for (std::size_t i = 0; i < next.size(); ++i) {
            const auto cluster = i + 2;
            auto value = next[i] == 0 ? 0 : next[i] == 1 ? end : next[i] == 2 ? bad : next[i] - 1;
            if (kind == "FAT32" && value != 0) value |= 0xa0000000U;  // bits that are not of the number
            if (twelve) {
                const auto at = cluster + cluster / 2;
                const auto both = static_cast<std::uint32_t>(bytes[at] | bytes[at + 1] << 8);
                put(bytes, at, cluster % 2 == 0 ? (both & 0xf000U) | value : (both & 0xfU) | value << 4, 2);
            } else {
                put(bytes, cluster * (sixteen ? 2 : 4), value, sixteen ? 2 : 4);
            }
        }
        return bytes;
    }
};

// A file as the tests' folders hold it.
struct File {
    std::u16string name;
    bool folder = false, deleted = false;
    std::uint32_t cluster = 5;
    std::uint32_t size = 0;
    std::uint16_t date = 0x5ca5, time = 0x6b2c;  // 5 May 2026, 13:25:24
};

// The short name under which a long one hides, with a number: letters and digits only.
Buffer shortOf(const File& file, int number) {
    Buffer eleven(11, ' ');
    const auto text = QStringLiteral("F%1").arg(number, 7, 10, QLatin1Char('0')).toLatin1();
    std::copy(text.begin(), text.end(), eleven.begin());
    if (!file.folder) put(eleven, 8, "JPG");
    return eleven;
}

// FAT, specification 1.03, section 7: a long name in front of each entry, its last part first.
void addToFat(Buffer& folder, const File& file, int number) {
    const auto eleven = shortOf(file, number);
    std::uint8_t sum = 0;
    for (const auto byte : eleven) sum = static_cast<std::uint8_t>(((sum & 1) << 7) + (sum >> 1) + byte);
    const auto parts = (file.name.size() + 12) / 13;
    for (auto part = parts; part-- > 0;) {
        Buffer entry(32, 0xff);
        entry[0] = static_cast<std::uint8_t>((part + 1) | (part + 1 == parts ? 0x40 : 0));
        entry[11] = 0x0f;
        entry[12] = entry[26] = entry[27] = 0;
        entry[13] = sum;
        constexpr std::array<std::size_t, 13> places{1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
        for (std::size_t i = 0; i < places.size(); ++i) {
            const auto letter = part * 13 + i;
            if (letter <= file.name.size())
                put(entry, places[i], letter < file.name.size() ? file.name[letter] : 0, 2);
        }
        if (file.deleted) entry[0] = 0xe5;
        folder.insert(folder.end(), entry.begin(), entry.end());
    }
    Buffer entry(32, 0);
    std::copy(eleven.begin(), eleven.end(), entry.begin());
    entry[11] = file.folder ? 0x10 : 0x20;
    put(entry, 14, file.time, 2);
    put(entry, 16, file.date, 2);
    put(entry, 20, file.cluster >> 16, 2);
    put(entry, 22, file.time, 2);
    put(entry, 24, file.date, 2);
    put(entry, 26, file.cluster & 0xffff, 2);
    put(entry, 28, file.size, 4);
    if (file.deleted) entry[0] = 0xe5;
    folder.insert(folder.end(), entry.begin(), entry.end());
}

// exFAT, section 7.4: a set of entries with a sum over all of them.
void addToExFat(Buffer& folder, const File& file, bool contiguous) {
    const auto names = (file.name.size() + 14) / 15;
    Buffer set((2 + names) * 32, 0);
    set[0] = 0x85;
    set[1] = static_cast<std::uint8_t>(1 + names);
    put(set, 4, file.folder ? 0x10 : 0x20, 2);
    const auto stamp = std::uint32_t{file.date} << 16 | file.time;
    put(set, 8, stamp, 4);
    put(set, 12, stamp, 4);
    set[21] = 150;                 // hundredths of a second that the change adds
    set[22] = set[23] = 0x80 | 8;  // two hours ahead
    set[32] = 0xc0;
    set[33] = contiguous ? 3 : 1;
    set[35] = static_cast<std::uint8_t>(file.name.size());
    put(set, 32 + 8, file.size, 8);
    put(set, 32 + 20, file.cluster, 4);
    put(set, 32 + 24, file.size, 8);
    for (std::size_t part = 0; part < names; ++part) {
        set[64 + 32 * part] = 0xc1;
        for (std::size_t i = 0; i < 15 && part * 15 + i < file.name.size(); ++i)
            put(set, 64 + 32 * part + 2 + 2 * i, file.name[part * 15 + i], 2);
    }
    std::uint16_t sum = 0;
    for (std::size_t i = 0; i < set.size(); ++i) {
        if (i != 2 && i != 3) sum = static_cast<std::uint16_t>(((sum & 1) << 15) + (sum >> 1) + set[i]);
    }
    put(set, 2, sum, 2);
    for (std::size_t i = 0; file.deleted && i < set.size(); i += 32) set[i] &= 0x7f;
    folder.insert(folder.end(), set.begin(), set.end());
}

std::vector<File> filesFor(std::mt19937& random) {
    std::vector<File> files;
    const std::u16string letters = u"abcXYZ 0123_-\u00e4\u03a9\u6c34";
    for (int i = 0; i < 40; ++i) {
        File file;
        const auto length = 1 + random() % 60;
        for (std::size_t n = 0; n < length; ++n) file.name.push_back(letters[random() % letters.size()]);
        file.name.front() = u'F';
        if (length > 1) file.name.back() = u'e';
        file.folder = random() % 5 == 0;
        file.deleted = random() % 3 == 0;
        file.cluster = static_cast<std::uint32_t>(2 + random() % 2000000);
        file.size = file.folder ? 0 : static_cast<std::uint32_t>(1 + random() % 90000000);
        files.push_back(file);
    }
    return files;
}

}  // namespace

class TestVolumeParts : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;

    std::shared_ptr<Source> sourceOf(const Buffer& bytes) {
        const auto path = dir_.filePath(QString::number(++number_));
        writeFile(path, bytes);
        return openImage(path.toStdString(), 512).value();
    }

  private Q_SLOTS:
    void partitionsOfAnMbr() {
        Buffer card(64 << 10, 0);
        card[510] = 0x55;
        card[511] = 0xaa;
        putEntry(card, 0, 0x0c, 8, 40);
        putEntry(card, 1, 0, 60, 10);     // no type
        putEntry(card, 2, 0x07, 50, 70);  // and it reaches over the end
        putEntry(card, 3, 0x83, 500, 1);  // it begins behind it
        const auto table = readPartitionTable(*sourceOf(card));
        QCOMPARE(table.kind, std::string("MBR"));
        QCOMPARE(table.partitions.size(), std::size_t{2});
        QCOMPARE(table.partitions[0].type, std::string("0x0c"));
        QVERIFY((table.partitions[0].range == ByteRange{8 * 512, 40 * 512}));
        QVERIFY((table.partitions[1].range == ByteRange{50 * 512, 70 * 512}));
        // A mark that no entry has is code, not a table.
        auto code = card;
        code[446 + 16] = 0x31;
        QCOMPARE(readPartitionTable(*sourceOf(code)).kind, std::string("none"));
        auto unsigned_ = card;
        unsigned_[511] = 0;
        QCOMPARE(readPartitionTable(*sourceOf(unsigned_)).kind, std::string("none"));
        QCOMPARE(readPartitionTable(*sourceOf(Buffer(100, 0))).kind, std::string("none"));
        // A volume's own first sector ends with the same mark.
        auto volume = fatSector(5000, false);
        volume.resize(64 << 10, 0);
        putEntry(volume, 0, 0x0c, 8, 40);
        QCOMPARE(readPartitionTable(*sourceOf(volume)).kind, std::string("none"));
    }
    void partitionsOfAGpt() {
        Buffer card(128 << 10, 0);
        card[510] = 0x55;
        card[511] = 0xaa;
        putEntry(card, 0, 0xee, 1, 0xffffffff);
        put(card, 512, "EFI PART");
        put(card, 512 + 72, 2, 8);
        put(card, 512 + 80, 4, 4);
        put(card, 512 + 84, 128, 4);
        const auto entry = [&](Buffer& bytes, std::size_t number, std::uint64_t first, std::uint64_t last) {
            const auto at = 1024 + number * 128;
            for (std::size_t i = 0; i < 16; ++i) bytes[at + i] = static_cast<std::uint8_t>(i + 1);
            put(bytes, at + 32, first, 8);
            put(bytes, at + 40, last, 8);
        };
        entry(card, 0, 40, 99);
        entry(card, 1, 120, 110);            // it ends before it begins
        entry(card, 2, ~0ULL / 512, ~0ULL);  // too far to count
        entry(card, 3, 100, 100);
        const auto table = readPartitionTable(*sourceOf(card));
        QCOMPARE(table.kind, std::string("GPT"));
        QCOMPARE(table.partitions.size(), std::size_t{2});
        QVERIFY((table.partitions[0].range == ByteRange{40 * 512, 60 * 512}));
        QVERIFY((table.partitions[1].range == ByteRange{100 * 512, 512}));
        QCOMPARE(table.partitions[0].type, std::string("04030201-0605-0807-090a-0b0c0d0e0f10"));
        for (const auto& [at, value, bytes] : {std::tuple{512 + 80, 100000ULL, 4U},
                                               {512 + 84, 64ULL, 4U},
                                               {512 + 72, ~0ULL, 8U},
                                               {512, 0ULL, 8U}}) {
            auto bent = card;
            put(bent, static_cast<std::size_t>(at), value, bytes);
            QVERIFY(readPartitionTable(*sourceOf(bent)).partitions.empty());
        }
    }
    // The number of clusters alone tells the three apart.
    void fatsAreToldByTheirClusters_data() {
        QTest::addColumn<quint32>("clusters");
        QTest::addColumn<QString>("kind");
        QTest::newRow("the most of FAT12") << 4084U << "FAT12";
        QTest::newRow("the least of FAT16") << 4085U << "FAT16";
        QTest::newRow("the most of FAT16") << 65524U << "FAT16";
        QTest::newRow("the least of FAT32") << 65525U << "FAT32";
    }
    void fatsAreToldByTheirClusters() {
        QFETCH(quint32, clusters);
        QFETCH(QString, kind);
        const bool wide = kind == QLatin1String("FAT32");
        const auto found = readBootSector(fatSector(clusters, wide));
        QVERIFY(found);
        QCOMPARE(QString::fromStdString(found->kind), kind);
        QCOMPARE(found->clusters, clusters);
        QCOMPARE(found->clusterSize, 512U);
        const auto table = std::uint64_t{clusters / 128 + 1} * 512;
        QCOMPARE(found->tableStart, std::uint64_t{32 * 512});
        QCOMPARE(found->tableLength, table);
        QCOMPARE(found->dataStart, 32 * 512 + 2 * table + (wide ? 0 : 32 * 512));
        QCOMPARE(found->rootLength, std::uint64_t{wide ? 0U : 512U * 32});
        QCOMPARE(found->rootCluster, wide ? 2U : 0U);
        QCOMPARE(found->hiddenBytes, std::uint64_t{8192 * 512});
        QCOMPARE(found->serial, 0x20260502U);
        QCOMPARE(found->label, std::string("MILL-07"));
        QCOMPARE(found->size, found->dataStart + std::uint64_t{clusters} * 512);
    }
    void bootSectorsThatCannotBeAreRefused() {
        const auto good = fatSector(5000, false);
        QVERIFY(readBootSector(good));
        QVERIFY(!readBootSector(Bytes(good).first(511)));
        for (const auto& [at, value, bytes] : {std::tuple{11, 500, 2U},
                                               {11, 8192, 2U},
                                               {11, 0, 2U},
                                               {13, 3, 1U},
                                               {13, 0, 1U},
                                               {14, 0, 2U},
                                               {16, 0, 1U},
                                               {16, 3, 1U},
                                               {21, 0x10, 1U},
                                               {22, 0, 2U},
                                               {22, 60000, 2U},
                                               {32, 0, 4U},
                                               {32, 50, 4U},
                                               {510, 0, 1U}}) {
            auto bent = good;
            put(bent, static_cast<std::size_t>(at), static_cast<std::uint64_t>(value), bytes);
            QVERIFY2(!readBootSector(bent), qPrintable(QString::number(at)));
        }
        const auto large = exFatSector();
        const auto found = readBootSector(large);
        QVERIFY(found);
        QCOMPARE(found->kind, std::string("exFAT"));
        QCOMPARE(found->clusterSize, 32768U);
        QCOMPARE(found->clusters, 1500U);
        QCOMPARE(found->dataStart, std::uint64_t{256 * 512});
        QCOMPARE(found->tableStart, std::uint64_t{128 * 512});
        QCOMPARE(found->tableLength, std::uint64_t{64 * 512});
        QCOMPARE(found->rootCluster, 5U);
        QCOMPARE(found->hiddenBytes, std::uint64_t{2048 * 512});
        for (const auto& [at, value, bytes] :
             {std::tuple{108, 8, 1U}, {108, 13, 1U}, {109, 17, 1U}, {72, 0, 8U}, {92, 0, 4U}, {88, 0, 4U}}) {
            auto bent = large;
            put(bent, static_cast<std::size_t>(at), static_cast<std::uint64_t>(value), bytes);
            QVERIFY2(!readBootSector(bent), qPrintable(QString::number(at)));
        }
    }
    // Every kind of table, against the plain list that it was written from.
    void linksAreRead_data() {
        QTest::addColumn<QString>("kind");
        for (const auto* kind : {"FAT12", "FAT16", "FAT32", "exFAT"}) QTest::newRow(kind) << kind;
    }
    void linksAreRead() {
        QFETCH(QString, kind);
        std::mt19937 random(81);
        Links links{kind.toStdString(), {}};
        constexpr std::uint32_t kClusters = 3000;
        for (std::uint32_t i = 0; i < kClusters; ++i) {
            const auto what = random() % 10;
            links.next.push_back(what < 3 ? static_cast<std::uint32_t>(what)
                                          : static_cast<std::uint32_t>(3 + random() % kClusters));
        }
        // A chain in three runs, and one in a circle.
        const std::vector<std::uint32_t> chain{10, 11, 12, 500, 501, 40, 41, 42, 43};
        for (std::size_t i = 0; i < chain.size(); ++i)
            links.next[chain[i] - 2] = i + 1 < chain.size() ? chain[i + 1] + 1 : 1;
        links.next[700 - 2] = 701 + 1;
        links.next[701 - 2] = 700 + 1;
        links.next[800 - 2] = 0;
        BootSector facts;
        facts.kind = links.kind;
        facts.sectorSize = 512;
        facts.clusterSize = 4096;
        facts.clusters = kClusters;
        facts.tableStart = 2048;
        const auto table = links.table();
        facts.tableLength = table.size();
        facts.dataStart = 32768;
        constexpr std::uint64_t kVolumeAt = 1536;
        Buffer card(kVolumeAt + facts.tableStart, 0x5a);
        card.insert(card.end(), table.begin(), table.end());
        const auto source = sourceOf(card);
        const Allocation allocation(*source, facts, kVolumeAt);
        for (std::uint32_t i = 0; i < kClusters; ++i) {
            const auto entry = allocation.entry(i + 2);
            using Link = Allocation::Link;
            const auto next = links.next[i];
            QVERIFY(entry.link == (next == 0   ? Link::Free
                                   : next == 1 ? Link::End
                                   : next == 2 ? Link::Bad
                                               : Link::Next));
            if (next > 2) QCOMPARE(entry.next, next - 1);
            if (kind != QLatin1String("exFAT")) QCOMPARE(allocation.isFree(i + 2).value(), next == 0);
            QCOMPARE(allocation.clusterAt(allocation.place(i + 2).offset + 4095).value_or(0), i + 2);
        }
        for (const auto none : {0U, 1U, kClusters + 2}) {
            QVERIFY(allocation.entry(none).link == Allocation::Link::Unknown);
            QVERIFY(!allocation.isFree(none));
        }
        QVERIFY(!allocation.clusterAt(kVolumeAt + facts.dataStart - 1));
        QVERIFY(!allocation.clusterAt(allocation.place(kClusters + 1).end()));
        const auto found = allocation.chain(10, 9 * 4096 - 100);
        QVERIFY(found.complete);
        QCOMPARE(found.ranges.size(), std::size_t{3});
        QVERIFY((found.ranges[0] == ByteRange{allocation.place(10).offset, 3 * 4096}));
        QVERIFY((found.ranges[1] == ByteRange{allocation.place(500).offset, 2 * 4096}));
        QVERIFY((found.ranges[2] == ByteRange{allocation.place(40).offset, 4 * 4096 - 100}));
        QVERIFY(!allocation.chain(700, 1ULL << 40).complete);
        QVERIFY(!allocation.chain(800, 2 * 4096).complete);
        QVERIFY(allocation.chain(0, 4096).ranges.empty());
        const auto run = allocation.run(kClusters, 3 * 4096);
        QVERIFY(!run.complete);
        QCOMPARE(run.ranges[0].length, std::uint64_t{2 * 4096});
        QVERIFY(allocation.run(kClusters, 2 * 4096).complete);
        QVERIFY(allocation.run(2, 0).ranges.empty());
    }
    void theBitmapOfExFatSaysWhatIsFree() {
        const auto bits = randomBytes(400, 91);
        BootSector facts;
        facts.kind = "exFAT";
        facts.clusterSize = 4096;
        facts.clusters = 3200;
        // In two pieces, in another order.
        Buffer card(1000, 0);
        card.insert(card.end(), bits.begin() + 150, bits.end());
        card.insert(card.end(), bits.begin(), bits.begin() + 150);
        const auto source = sourceOf(card);
        Allocation allocation(*source, facts, 0);
        QVERIFY(!allocation.isFree(2));
        allocation.setBitmap({{1250, 150}, {1000, 250}});
        for (std::uint32_t i = 0; i < facts.clusters; ++i)
            QCOMPARE(allocation.isFree(i + 2).value(), (bits[i / 8] >> i % 8 & 1) == 0);
        allocation.setBitmap({{1250, 100}});
        QVERIFY(!allocation.isFree(2 + 800));
    }
    // What lies behind the end of a card that was cut short is not known, and not free.
    void aTableThatIsNotThereSaysNothing() {
        BootSector facts;
        facts.kind = "FAT16";
        facts.clusterSize = 4096;
        facts.clusters = 40000;
        facts.tableStart = 512;
        facts.tableLength = 80004;
        const auto source = sourceOf(Buffer(2000, 0));
        const Allocation allocation(*source, facts, 0);
        QVERIFY(allocation.entry(700).link == Allocation::Link::Free);
        QVERIFY(allocation.entry(800).link == Allocation::Link::Unknown);
        QVERIFY(allocation.entry(39999).link == Allocation::Link::Unknown);
        QVERIFY(!allocation.isFree(39999));
    }
    void namesAndTimesOfDirectories() {
        QCOMPARE(utf8From(u"Mühle 水车 \U0001f4f7.jpg"), std::string("Mühle 水车 \U0001f4f7.jpg"));
        QCOMPARE(utf8From(std::u16string{'a', 0xd83d, 'b', 0xdcf7}), std::string("a\ufffdb\ufffd"));
        QCOMPARE(utf8From(std::u16string{0xd83d}), std::string("\ufffd"));
        QCOMPARE(isoFromDos(0x5ca2, 0x3d25, 100), std::string("2026-05-02T07:41:11"));
        QCOMPARE(isoFromDos(0x5ca2, 0x3d25, 0), std::string("2026-05-02T07:41:10"));
        QVERIFY(isoFromDos(0, 0, 0).empty());
        QVERIFY(isoFromDos(0x5ca0, 0, 0).empty());       // no day
        QVERIFY(isoFromDos(0x5da2, 0xc000, 0).empty());  // hour 24, and a thirteenth month
        QVERIFY(isoFromDos(0x5ca2, 0x3fa5, 0).empty());  // minute 61
        const auto* letters = reinterpret_cast<const std::uint8_t*>("MILL0017JPG");
        QCOMPARE(shortName(letters, 0), std::string("MILL0017.JPG"));
        QCOMPARE(shortName(letters, 8), std::string("mill0017.JPG"));
        QCOMPARE(shortName(letters, 16), std::string("MILL0017.jpg"));
        QCOMPARE(shortName(reinterpret_cast<const std::uint8_t*>("DCIM       "), 24), std::string("dcim"));
        QCOMPARE(shortName(reinterpret_cast<const std::uint8_t*>("M\x9aHLE   JP "), 0),
                 std::string("M_HLE.JP"));
    }

    void foldersOfFatAreRead() {
        std::mt19937 random(11);
        for (int round = 0; round < 20; ++round) {
            const auto files = filesFor(random);
            Buffer folder;
            for (std::size_t i = 0; i < files.size(); ++i) addToFat(folder, files[i], static_cast<int>(i));
            folder.resize(folder.size() + 64, 0);
            const auto content = readDirectory(folder, DirectoryKind::Fat);
            QVERIFY(content.ended);
            QCOMPARE(content.entries.size(), files.size());
            for (std::size_t i = 0; i < files.size(); ++i) {
                const auto& entry = content.entries[i];
                QCOMPARE(QString::fromStdString(entry.name), QString::fromStdU16String(files[i].name));
                QCOMPARE(entry.folder, files[i].folder);
                QCOMPARE(entry.deleted, files[i].deleted);
                QVERIFY(entry.checked && !entry.firstLetterLost);
                QCOMPARE(entry.firstCluster, files[i].cluster);
                QCOMPARE(entry.size, std::uint64_t{files[i].size});
                QCOMPARE(entry.modified, std::string("2026-05-05T13:25:24"));
                QCOMPARE(entry.highHalfZeroed, files[i].deleted && files[i].cluster < 65536);
            }
        }
    }
    // What is left of a long name belongs to the entry behind it, or to none.
    void longNamesOfOthersAreNotTaken() {
        File lost{u"A long name of another file.jpg"}, kept{u"F0000002.JPG"};
        Buffer first, folder;
        addToFat(first, lost, 1);
        first.resize(first.size() - 32);  // its own entry was overwritten by what follows
        folder = first;
        Buffer second;
        addToFat(second, kept, 2);
        folder.insert(folder.end(), second.end() - 32, second.end());
        const auto content = readDirectory(folder, DirectoryKind::Fat);
        QCOMPARE(content.entries.size(), std::size_t{1});
        QCOMPARE(content.entries[0].name, std::string("F0000002.JPG"));
        // A deleted short name alone has lost its first letter.
        File gone{u"x", false, true};
        Buffer entries;
        addToFat(entries, gone, 3);
        const auto alone = readDirectory(Bytes(entries).last(32), DirectoryKind::Fat);
        QCOMPARE(alone.entries.size(), std::size_t{1});
        QVERIFY(alone.entries[0].firstLetterLost);
        QCOMPARE(alone.entries[0].name, std::string("?0000003.JPG"));
    }
    void foldersOfExFatAreRead() {
        std::mt19937 random(12);
        for (int round = 0; round < 20; ++round) {
            const auto files = filesFor(random);
            Buffer folder;
            for (std::size_t i = 0; i < files.size(); ++i) addToExFat(folder, files[i], i % 2 == 0);
            folder.resize(folder.size() + 64, 0);
            const auto content = readDirectory(folder, DirectoryKind::ExFat);
            QVERIFY(content.ended);
            QCOMPARE(content.entries.size(), files.size());
            for (std::size_t i = 0; i < files.size(); ++i) {
                const auto& entry = content.entries[i];
                QCOMPARE(QString::fromStdString(entry.name), QString::fromStdU16String(files[i].name));
                QCOMPARE(entry.deleted, files[i].deleted);
                QCOMPARE(entry.folder, files[i].folder);
                QCOMPARE(entry.contiguous, i % 2 == 0);
                QVERIFY(entry.checked);
                QCOMPARE(entry.firstCluster, files[i].cluster);
                QCOMPARE(entry.size, std::uint64_t{files[i].size});
                QCOMPARE(entry.modified, std::string("2026-05-05T13:25:25+02:00"));
                QCOMPARE(entry.created, std::string("2026-05-05T13:25:24+02:00"));
            }
        }
    }
    // A deleted set of which any byte was overwritten is none; the ones around it are still read.
    void damagedSetsOfExFatAreLeftOut() {
        std::mt19937 random(13);
        const File one{u"F one.jpg", false, true, 9, 100},
            two{u"F two, with a longer name.jpg", false, true, 10, 200},
            three{u"F three.jpg", false, true, 11, 300};
        for (int round = 0; round < 200; ++round) {
            Buffer folder;
            addToExFat(folder, one, true);
            const auto from = folder.size();
            addToExFat(folder, two, true);
            const auto to = folder.size();
            addToExFat(folder, three, true);
            // Not the kind of an entry: another of that kind may begin there, or the folder end.
            auto at = from + random() % (to - from);
            if (at % 32 == 0) at += 5;
            folder[at] ^= static_cast<std::uint8_t>(1U << random() % 8);
            std::vector<std::string> names;
            for (const auto& entry : readDirectory(folder, DirectoryKind::ExFat).entries)
                names.push_back(entry.name);
            QCOMPARE(names, (std::vector<std::string>{"F one.jpg", "F three.jpg"}));
        }
    }
};

QTEST_GUILESS_MAIN(TestVolumeParts)
#include "test_volume_parts.moc"
