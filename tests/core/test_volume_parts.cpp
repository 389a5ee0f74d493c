// Partition tables, boot sectors, allocation tables and names, written by the test field by field: what is
// read is what was written, and what cannot be is refused.
#include <QTemporaryDir>
#include <QTest>

#include "tests/support/support.h"
#include "volume/allocation.h"
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
};

QTEST_GUILESS_MAIN(TestVolumeParts)
#include "test_volume_parts.moc"
