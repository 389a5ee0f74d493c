// What pieces of streams are told apart by: the tables of transport streams, the times and the pictures in
// their packets, of independent encoders and written here.
#include <map>
#include <QTest>
#include <random>

#include "formats/clip/packed_pictures.h"
#include "formats/clip/picture_clock.h"
#include "formats/clip/program_tables.h"
#include "formats/registry.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kTsPacket = 188;

void put16(Buffer& to, unsigned value) {
    to.push_back(static_cast<std::uint8_t>(value >> 8));
    to.push_back(static_cast<std::uint8_t>(value));
}

// A section (ISO/IEC 13818-1, 2.4.4.1) as the payload of one packet; nobody looks at its check sum.
Buffer section(std::uint8_t id, const Buffer& inside) {
    Buffer bytes{0, id};  // it begins at once
    put16(bytes, 0xb000U | static_cast<unsigned>(5 + inside.size() + 4));
    for (const unsigned value : {0U, 1U}) put16(bytes, value);
    bytes.push_back(0);
    bytes.insert(bytes.end(), inside.begin(), inside.end());
    bytes.resize(bytes.size() + 4);
    return bytes;
}

Buffer programs(const std::vector<std::pair<unsigned, unsigned>>& all) {
    Buffer inside;
    for (const auto& [number, pid] : all) {
        put16(inside, number);
        put16(inside, 0xe000U | pid);
    }
    return section(0, inside);
}

Buffer map(unsigned clock, const std::vector<std::pair<std::uint8_t, unsigned>>& streams,
           std::size_t described = 0) {
    Buffer inside;
    put16(inside, 0xe000U | clock);
    put16(inside, 0xf000U | static_cast<unsigned>(described));
    inside.resize(inside.size() + described, 0x55);
    for (const auto& [type, pid] : streams) {
        inside.push_back(type);
        put16(inside, 0xe000U | pid);
        put16(inside, 0xf003);
        for (int i = 0; i < 3; ++i) inside.push_back(7);
    }
    return section(2, inside);
}

struct Packet {
    std::uint16_t pid = 0;
    bool begins = false;
    Bytes payload;
};

std::vector<Packet> packetsOf(const Buffer& stream) {
    std::vector<Packet> all;
    for (std::size_t at = 0; at + kTsPacket <= stream.size(); at += kTsPacket) {
        const auto packet = slice(stream, at, kTsPacket);
        if ((packet[3] & 0x10) == 0) continue;
        const std::size_t extra = (packet[3] & 0x20) != 0 ? 1U + packet[4] : 0U;
        all.push_back({static_cast<std::uint16_t>((packet[1] & 31) << 8 | packet[2]), (packet[1] & 0x40) != 0,
                       slice(packet, 4 + extra, kTsPacket)});
    }
    return all;
}

// A packet of a packetised stream that tells when its picture is decoded, and shown `later`; both in ticks.
Buffer timed(std::uint64_t decoded, std::uint64_t later) {
    Buffer bytes{0, 0, 1, 0xe0, 0, 0, 0x80, static_cast<std::uint8_t>(later > 0 ? 0xc0 : 0x80), 10};
    const auto put = [&](unsigned mark, std::uint64_t ticks) {
        bytes.push_back(static_cast<std::uint8_t>(mark << 4 | (ticks >> 30 & 7) << 1 | 1));
        put16(bytes, static_cast<unsigned>((ticks >> 15 & 0x7fff) << 1 | 1));
        put16(bytes, static_cast<unsigned>((ticks & 0x7fff) << 1 | 1));
    };
    if (later > 0) put(3, decoded + later);
    put(later > 0 ? 1 : 2, decoded);
    bytes.resize(40);
    return bytes;
}

}  // namespace

class TestStreamParts : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void tablesSayWhoseAPacketIs() {
        ProgramTables tables;
        QVERIFY(tables.mayHold(0x123));  // nothing is known
        QVERIFY(!tables.take(0, true, programs({{0, 0x10}, {1, 0x100}})));
        QVERIFY(tables.mayHold(0x123));  // the map has not come
        QVERIFY(!tables.take(0x100, true, map(0x201, {{0x1b, 0x200}, {0x0f, 0x202}}, 9)));
        for (const unsigned pid : {0x0U, 0x10U, 0x11U, 0x100U, 0x200U, 0x201U, 0x202U, 0x1fffU})
            QVERIFY(tables.mayHold(static_cast<std::uint16_t>(pid)));
        QVERIFY(!tables.mayHold(0x203));
        QVERIFY(tables.codingOf(0x200) == PictureCoding::Avc);
        QVERIFY(!tables.codingOf(0x202));
        QVERIFY(!tables.codingOf(0x203));
        // The same once more is no other; another program is.
        QVERIFY(!tables.take(0, true, programs({{0, 0x10}, {1, 0x100}})));
        QVERIFY(tables.take(0, true, programs({{1, 0x300}})));
        QVERIFY(tables.mayHold(0x203));  // its map has not come
        tables.take(0x300, true, map(0x1fff, {{0x24, 0x301}}));
        QVERIFY(tables.codingOf(0x301) == PictureCoding::Hevc);
        QVERIFY(!tables.mayHold(0x203));
    }
    void aTableInPartSaysNothing() {
        ProgramTables tables;
        tables.take(0, true, programs({{1, 0x100}}));
        auto cut = map(0x200, {{0x1b, 0x200}});
        cut.resize(cut.size() - 6);
        tables.take(0x100, true, cut);
        QVERIFY(tables.mayHold(0x999));
        std::mt19937 random(3);
        for (int round = 0; round < 2000; ++round) {  // whatever comes
            auto noise = randomBytes(random() % 184, static_cast<unsigned>(random()));
            if (noise.size() > 2) noise[0] = static_cast<std::uint8_t>(random() % 8);
            if (noise.size() > 2) noise[1] = static_cast<std::uint8_t>(random() % 3);
            tables.take(random() % 2 == 0 ? 0 : 0x100, random() % 4 != 0, noise);
        }
    }
    void tablesOfAnEncoderNameAllStreams() {
        ProgramTables tables;
        std::set<std::uint16_t> seen;
        const auto stream = mediaFile(QStringLiteral("h264.ts"));
        for (const auto& packet : packetsOf(stream)) {
            QVERIFY(!tables.take(packet.pid, packet.begins, packet.payload));
            QVERIFY(tables.mayHold(packet.pid));
            seen.insert(packet.pid);
        }
        QVERIFY(std::any_of(seen.begin(), seen.end(),
                            [&](auto pid) { return tables.codingOf(pid) == PictureCoding::Avc; }));
        QVERIFY(!tables.mayHold(0x1234));
    }
    void picturesInPacketsAreLookedAt() {
        ProgramTables tables;
        PackedPictures good(PictureCoding::Avc), bent(PictureCoding::Avc), idle(PictureCoding::Avc);
        int right = 0, wrong = 0, told = 0;
        Buffer foreign;
        std::size_t number = 0;
        const auto stream = mediaFile(QStringLiteral("h264.ts"));
        for (const auto& packet : packetsOf(stream)) {
            tables.take(packet.pid, packet.begins, packet.payload);
            if (!tables.codingOf(packet.pid)) continue;
            if (const auto found = good.take(packet.begins, packet.payload)) {
                QVERIFY(*found);
                ++right;
            }
            good.lookAtThisOne(true);
            // Behind the first picture, every fortieth packet is of something else.
            foreign = randomBytes(packet.payload.size(), static_cast<unsigned>(number));
            const bool other = ++number % 40 == 0 && right > 1 && !packet.begins;
            if (const auto found = bent.take(packet.begins, other ? Bytes(foreign) : packet.payload)) {
                ++told;
                wrong += *found ? 0 : 1;
            }
            bent.lookAtThisOne(true);
            QVERIFY(!idle.take(packet.begins, packet.payload));
        }
        QVERIFY(right > 50);
        QVERIFY(wrong > 10);
        QVERIFY(wrong < told);
    }
    void decodingTimesGoOn() {
        PictureClock clock;
        std::uint64_t now = (std::uint64_t{1} << 32) + 12345;
        for (int i = 0; i < 20; ++i) clock.take(timed(now += 3600, i % 3 * 3600ULL));
        QCOMPARE(clock.jumps(), std::uint64_t{0});
        clock.forget();
        QCOMPARE(clock.misfit(), 0.0);
        clock.take(timed(now += 3600, 0));
        QVERIFY(clock.misfit() < 1e-6);
        clock.forget();
        clock.take(timed(now += 3 * 3600, 0));  // two are missing
        QVERIFY(std::abs(clock.misfit() - 0.08) < 1e-6);
        clock.take(timed(now += 3600, 0));  // only the first step tells
        QVERIFY(std::abs(clock.misfit() - 0.08) < 1e-6);
        clock.take(timed(now - 90000, 0));
        QCOMPARE(clock.jumps(), std::uint64_t{1});
        clock.take(timed(now + 300000, 0));
        QCOMPARE(clock.jumps(), std::uint64_t{2});
        const auto before = clock.jumps();
        clock.take({});
        clock.take(Buffer{0, 0, 1, 0xe0, 0, 0, 0x80, 0, 0});
        QCOMPARE(clock.jumps(), before);
    }
    // The time of arrival in front of each packet of a camcorder's stream.
    void timesOfArrivalGoOn() {
        const auto stream = mediaFile(QStringLiteral("h264.ts"));
        const auto timedStream = [&](std::uint32_t jump) {
            Buffer bytes;
            std::uint32_t when = 0x3fff0000;  // it wraps
            const auto packets = stream.size() / kTsPacket;
            for (std::size_t i = 0; i < packets; ++i) {
                when += i == packets / 2 ? jump : 5000;
                put16(bytes, when >> 16 & 0x3fff);
                put16(bytes, when & 0xffff);
                const auto packet = slice(stream, i * kTsPacket, kTsPacket);
                bytes.insert(bytes.end(), packet.begin(), packet.end());
            }
            const auto measure = familyNamed("transport")->measure();
            measure->giveSome(bytes);
            return measure->misfits();
        };
        QCOMPARE(timedStream(5000), std::uint64_t{0});
        QCOMPARE(timedStream(60000000), std::uint64_t{1});
        QCOMPARE(timedStream(0U - 60000000U), std::uint64_t{1});
    }
    // An index at the end of an AVI that is something else's bytes.
    void theIndexOfAnAviIsLookedInto() {
        const auto clip = mediaFile(QStringLiteral("pictures.avi"));
        const auto sane = measureWith("avi", clip);
        QVERIFY2(sane.why.empty(), sane.why.c_str());
        constexpr std::string_view kName = "idx1";
        const auto index = static_cast<std::size_t>(
            std::find_end(clip.begin(), clip.end(), kName.begin(), kName.end()) - clip.begin());
        QVERIFY(index > 0 && index < clip.size());
        for (const std::size_t from : {index + 8, index + 24, (index + clip.size()) / 2}) {
            auto bent = clip;
            const auto noise = randomBytes(clip.size() - from, 4);
            std::copy(noise.begin(), noise.end(), bent.begin() + static_cast<std::ptrdiff_t>(from));
            const auto told = measureWith("avi", bent);
            QCOMPARE(told.length, sane.length);
            QVERIFY(told.condition == Condition::Partial);
            QVERIFY(!told.why.empty());
            std::fill(bent.begin() + static_cast<std::ptrdiff_t>(from), bent.end(), std::uint8_t{0});
            QVERIFY(measureWith("avi", bent).condition == Condition::Partial);
        }
    }
};

QTEST_APPLESS_MAIN(TestStreamParts)
#include "test_stream_parts.moc"
