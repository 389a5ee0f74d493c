// What clips are put together from: the heads of coded pictures, written here bit by bit; samples found again
// where the encoder's own index says that they are; and an index that says what was found.
#include <QTest>
#include <set>

#include "formats/clip/picture_order.h"
#include "formats/isobmff/boxes.h"
#include "rebuild/made_index.h"
#include "rebuild/sample_places.h"
#include "rebuild/sample_walk.h"
#include "tests/support/bits.h"
#include "tests/support/cards.h"
#include "tests/support/pieces.h"

using namespace dreskel;
using namespace dreskel::test;
using isobmff::fourCc;

namespace {

// Zeros that look like a start code are broken by a three (ITU-T H.264, 7.4.1).
Buffer asUnit(const Buffer& header, BitWriter body) {
    body.put(1, 1);
    auto unit = header;
    int zeros = 0;
    for (const auto byte : body.bytes()) {
        if (zeros >= 2 && byte <= 3) {
            unit.push_back(3);
            zeros = 0;
        }
        zeros = byte == 0 ? zeros + 1 : 0;
        unit.push_back(byte);
    }
    return unit;
}

struct AvcStream {
    bool high = false, fields = false;
    int frameBits = 4, orderType = 0, lsbBits = 4;

    Buffer sequence() const {  // 7.3.2.1.1
        BitWriter bits;
        bits.put(high ? 100 : 77, 8);
        bits.put(0, 8);
        bits.put(40, 8);
        bits.golomb(0);
        if (high) {
            bits.golomb(1);
            bits.golomb(0);
            bits.golomb(0);
            bits.put(0, 1);
            bits.put(1, 1);  // scaling lists: one that falls back at once, seven that are not there
            bits.put(1, 1);
            bits.golomb(16);  // -8: the next scale is none
            bits.put(0, 7);
        }
        bits.golomb(static_cast<std::uint32_t>(frameBits - 4));
        bits.golomb(static_cast<std::uint32_t>(orderType));
        if (orderType == 0) bits.golomb(static_cast<std::uint32_t>(lsbBits - 4));
        if (orderType == 1) {
            bits.put(0, 1);
            bits.golomb(3);
            bits.golomb(4);
            bits.golomb(2);
            bits.golomb(5);
            bits.golomb(6);
        }
        bits.golomb(2);
        bits.put(0, 1);
        bits.golomb(19);
        bits.golomb(14);
        bits.put(fields ? 0 : 1, 1);
        if (fields) bits.put(1, 1);
        bits.put(1, 1);
        bits.put(0, 2);
        return asUnit({0x67}, bits);
    }
    Buffer slice(bool instant, std::uint32_t first, std::uint32_t frame, int field, std::uint32_t lsb) const {
        BitWriter bits;  // 7.3.3
        bits.golomb(first);
        bits.golomb(7);
        bits.golomb(0);
        bits.put(frame, frameBits);
        if (fields) bits.put(field == 0 ? 0 : 1, 1);
        if (fields && field != 0) bits.put(field == 2 ? 1 : 0, 1);
        if (instant) bits.golomb(3);
        if (orderType == 0) bits.put(lsb, lsbBits);
        bits.put(0x2aaaaaaa, 31);
        return asUnit({static_cast<std::uint8_t>(instant ? 0x65 : 0x41)}, bits);
    }
};

struct HevcStream {
    bool output = false, separate = false;
    int extra = 0, lsbBits = 8, layers = 1;

    Buffer sequence() const {  // H.265, 7.3.2.2.1 and 7.3.3
        BitWriter bits;
        bits.put(0, 4);
        bits.put(static_cast<std::uint32_t>(layers - 1), 3);
        bits.put(1, 1);
        bits.put(0x0160000003000003, 64);
        bits.put(0x00000078, 32);  // 96 bits of profile and level
        for (int i = 1; i < layers; ++i) bits.put(3, 2);
        if (layers > 1) {
            for (int i = layers - 1; i < 8; ++i) bits.put(0, 2);
        }
        for (int i = 1; i < layers; ++i) {
            bits.put(0x0123456789abcd, 64);
            bits.put(0, 24);
            bits.put(93, 8);
        }
        bits.golomb(0);
        bits.golomb(separate ? 3 : 1);
        if (separate) bits.put(1, 1);
        bits.golomb(1920);
        bits.golomb(1088);
        bits.put(1, 1);
        for (int i = 0; i < 4; ++i) bits.golomb(i == 3 ? 4 : 0);
        bits.golomb(0);
        bits.golomb(0);
        bits.golomb(static_cast<std::uint32_t>(lsbBits - 4));
        bits.put(0, 40);
        return asUnit({0x42, 1}, bits);
    }
    Buffer picture() const {  // 7.3.2.3.1
        BitWriter bits;
        bits.golomb(0);
        bits.golomb(0);
        bits.put(0, 1);
        bits.put(output ? 1 : 0, 1);
        bits.put(static_cast<std::uint32_t>(extra), 3);
        bits.put(0, 20);
        return asUnit({0x44, 1}, bits);
    }
    Buffer slice(unsigned type, bool first, std::uint32_t lsb) const {  // 7.3.6.1
        BitWriter bits;
        bits.put(first ? 1 : 0, 1);
        if (type >= 16 && type <= 23) bits.put(0, 1);
        bits.golomb(0);
        bits.put(0, extra);
        bits.golomb(2);
        if (output) bits.put(1, 1);
        if (separate) bits.put(1, 2);
        if (type != 19 && type != 20) bits.put(lsb, lsbBits);
        bits.put(0x2aaaaaaa, 31);
        return asUnit({static_cast<std::uint8_t>(type << 1), 1}, bits);
    }
};

// The inside of a box at the top of a clip, and where it begins.
std::pair<Bytes, std::uint64_t> boxOf(const Buffer& clip, std::uint32_t type) {
    for (std::uint64_t at = 0; at + 8 <= clip.size();) {
        const auto box = isobmff::readBoxHeader(slice(Bytes(clip), at, 64));
        if (!box || box->size == 0) break;
        if (box->type == type)
            return {slice(Bytes(clip), at + box->headerSize, box->size - box->headerSize),
                    at + box->headerSize};
        at += box->size;
    }
    return {};
}

}  // namespace

class TestClipParts : public QObject {
    Q_OBJECT
    Cards cards_;

    static void addClips() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"h264-last.mp4", "h264-first.mp4", "h264-cavlc.mov", "hevc.mp4",
                                 "interlaced.mov", "pictures.mov"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }

  private Q_SLOTS:
    void slicesOfH264AreRead_data() {
        QTest::addColumn<bool>("high");
        QTest::addColumn<bool>("fields");
        QTest::addColumn<int>("orderType");
        for (const bool high : {false, true}) {
            for (const bool fields : {false, true}) {
                for (int type = 0; type < 3; ++type)
                    QTest::addRow("high %d, fields %d, order %d", high, fields, type)
                        << high << fields << type;
            }
        }
    }
    void slicesOfH264AreRead() {
        QFETCH(bool, high);
        QFETCH(bool, fields);
        QFETCH(int, orderType);
        std::mt19937 random(7);
        for (int round = 0; round < 60; ++round) {
            const AvcStream stream{high, fields, 4 + static_cast<int>(random() % 13), orderType,
                                   4 + static_cast<int>(random() % 13)};
            PictureOrder order(PictureCoding::Avc);
            const bool instant = random() % 4 == 0;
            const auto frame = static_cast<std::uint32_t>(random() % (1U << stream.frameBits));
            const auto lsb = static_cast<std::uint32_t>(random() % (1U << stream.lsbBits));
            const int field = fields ? static_cast<int>(random() % 3) : 0;
            const auto unit = stream.slice(instant, 0, frame, field, lsb);
            // Without its set a slice is still one, and the first of its picture.
            QVERIFY(!order.ready());
            const auto bare = order.read(unit);
            QVERIFY(bare && bare->first && bare->sync == instant && !bare->lsb);
            order.learn(stream.sequence());
            QVERIFY(order.ready());
            const auto read = order.read(unit);
            QVERIFY(read);
            QVERIFY(read->first);
            QCOMPARE(read->sync, instant);
            QCOMPARE(read->resets, instant);
            QCOMPARE(read->field, field != 0);
            QCOMPARE(read->bottom, field == 2);
            QCOMPARE(read->frame, frame);
            QCOMPARE(read->lsb.has_value(), orderType == 0);
            if (read->lsb) QCOMPARE(*read->lsb, lsb);
            const auto further = order.read(stream.slice(instant, 40, frame, field, lsb));
            QVERIFY(further && !further->first);
        }
    }

    void slicesOfHevcAreRead() {
        std::mt19937 random(8);
        for (int round = 0; round < 200; ++round) {
            const HevcStream stream{random() % 2 == 0, random() % 2 == 0, static_cast<int>(random() % 3),
                                    4 + static_cast<int>(random() % 13), 1 + static_cast<int>(random() % 3)};
            PictureOrder order(PictureCoding::Hevc);
            order.learn(stream.sequence());
            QVERIFY(!order.ready());
            order.learn(stream.picture());
            QVERIFY(order.ready());
            constexpr std::array<unsigned, 6> types{0, 1, 9, 19, 20, 21};
            const auto type = types[random() % types.size()];
            const auto lsb = static_cast<std::uint32_t>(random() % (1U << stream.lsbBits));
            const auto read = order.read(stream.slice(type, true, lsb));
            QVERIFY(read && read->first);
            const bool instant = type == 19 || type == 20;
            QCOMPARE(read->sync, type >= 16);
            QCOMPARE(read->resets, instant);
            QVERIFY(read->lsb);
            QCOMPARE(*read->lsb, instant ? 0 : lsb);
            const auto further = order.read(stream.slice(type, false, lsb));
            QVERIFY(further && !further->first);
        }
    }

    void unitsThatCannotBeAreTold() {
        using Kind = UnitKind;
        const auto avc = [](unsigned first) {
            return unitKind(PictureCoding::Avc, Buffer{static_cast<std::uint8_t>(first), 0x80});
        };
        QVERIFY(avc(0x65) == Kind::Slice && avc(0x41) == Kind::Slice && avc(0x01) == Kind::Slice);
        QVERIFY(avc(0x67) == Kind::Leading && avc(0x68) == Kind::Leading && avc(0x06) == Kind::Leading);
        // The forbidden bit; a set, and an instant picture, that nothing refers to; what is for others' use.
        for (const auto first : {0xe5U, 0x07U, 0x05U, 0x66U, 0x00U, 0x7fU})
            QVERIFY(avc(first) == Kind::Impossible);
        const auto hevc = [](unsigned first, unsigned second) {
            return unitKind(PictureCoding::Hevc,
                            Buffer{static_cast<std::uint8_t>(first), static_cast<std::uint8_t>(second)});
        };
        QVERIFY(hevc(0x26, 1) == Kind::Slice && hevc(0x02, 1) == Kind::Slice &&
                hevc(0x40, 1) == Kind::Leading);
        QVERIFY(hevc(0x26, 0) == Kind::Impossible && hevc(0xa6, 1) == Kind::Impossible);
        QVERIFY(hevc(0x26, 0x09) == Kind::Impossible && hevc(0x14, 1) == Kind::Impossible);
    }

    // With its own index as the template, and the media data alone: the pictures are where the encoder says.
    // What the tests below take for the truth is what another program reads, too.
    void samplesAreThoseOfAnotherReader_data() {
        addClips();
        for (const auto* name : {"phone.3gp", "simple.mp4", "av1.mp4", "music.m4a", "placed.mov"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void samplesAreThoseOfAnotherReader() {
        QFETCH(QString, name);
        const auto clip = mediaFile(name);
        const auto tracks = isobmff::readSamples(boxOf(clip, fourCc("moov")).first);
        QVERIFY(tracks);
        std::vector<std::set<std::pair<std::uint64_t, std::uint32_t>>> told(tracks->size());
        for (const auto& packet : packetsOf(name)) {
            if (packet.stream < told.size()) told[packet.stream].emplace(packet.offset, packet.size);
        }
        std::size_t compared = 0;
        for (std::size_t track = 0; track < told.size(); ++track) {
            const auto& ours = (*tracks)[track];
            // Plain samples are read several at a time, each reader as it likes.
            const bool coded =
                ours.kind == isobmff::TrackKind::Video ||
                (ours.kind == isobmff::TrackKind::Audio && ours.sound != isobmff::SoundCoding::Plain);
            if (!coded) continue;
            std::set<std::pair<std::uint64_t, std::uint32_t>> all;
            for (const auto& sample : ours.samples) all.emplace(sample.offset, sample.size);
            QVERIFY2(all == told[track], qPrintable(QString::number(track)));
            compared += all.size();
        }
        QVERIFY(compared > 20);
    }
    void samplesAreFoundWithoutTheIndex_data() { addClips(); }
    void samplesAreFoundWithoutTheIndex() {
        QFETCH(QString, name);
        const auto clip = mediaFile(name);
        const auto movie = boxOf(clip, fourCc("moov")).first;
        const auto [media, mediaAt] = boxOf(clip, fourCc("mdat"));
        const auto truth = isobmff::readSamples(movie);
        const auto like = rebuild::readTemplate(movie, "itself");
        QVERIFY(truth && like);
        QCOMPARE(like->tracks.size(), truth->size());
        auto view = cards_.viewOf(clip);
        PieceReader reader(view, {{PieceFrom::Card, 0, clip.size(), {}}});
        // How long frames of AAC are is the decoder's to tell; here the encoder's index does.
        const auto lengths = [&](ByteRange part, Bytes) {
            std::vector<std::uint32_t> found;
            for (const auto& track : *truth) {
                auto at = part.offset;
                for (const auto& sample : track.samples) {
                    const bool sound = track.kind == isobmff::TrackKind::Audio;
                    if (!sound || sample.offset != at || at + sample.size > part.end()) continue;
                    found.push_back(sample.size);
                    at += sample.size;
                }
            }
            return found;
        };
        const Control control;
        const auto walked = rebuild::walkSamples(*like, reader, {mediaAt, media.size()}, lengths, control);
        QVERIFY(walked);
        QCOMPARE(walked->tracks.size(), truth->size());
        for (std::size_t i = 0; i < truth->size(); ++i) {
            if (!walked->pictures[i]) continue;
            const auto& found = walked->tracks[i];
            const auto& told = (*truth)[i].samples;
            QCOMPARE(found.size(), told.size());
            for (std::size_t n = 0; n < told.size(); ++n) {
                QCOMPARE(found[n].offset, told[n].offset);
                QCOMPARE(found[n].size, told[n].size);
            }
            QVERIFY(found[0].sync);
        }
        // What is written of them is read as it was found.
        const auto index = rebuild::makeIndex(*like, *walked, 4096);
        QVERIFY(index.size() > 8);
        const auto again = isobmff::readSamples(Bytes(index).subspan(8));
        QVERIFY(again);
        std::size_t next = 0;
        for (std::size_t i = 0; i < walked->tracks.size(); ++i) {
            if (walked->tracks[i].empty()) continue;
            QVERIFY(next < again->size());
            const auto& track = (*again)[next++];
            if (!walked->pictures[i]) continue;
            QCOMPARE(track.samples.size(), walked->tracks[i].size());
            for (std::size_t n = 0; n < track.samples.size(); ++n) {
                QCOMPARE(track.samples[n].offset, walked->tracks[i][n].offset + 4096);
                QCOMPARE(track.samples[n].size, walked->tracks[i][n].size);
            }
        }
    }

    // On a card where the clip lies in pieces, noise and another clip between: each sample's true cluster is
    // among its places, and every place is one that a look cluster by cluster gives, too.
    void placesOfSamplesAreThoseOfAPlainSearch_data() {
        addClips();
        QTest::newRow("simple.mp4") << QStringLiteral("simple.mp4");
    }
    void placesOfSamplesAreThoseOfAPlainSearch() {
        QFETCH(QString, name);
        const auto other = name == QLatin1String("h264-last.mp4") ? QStringLiteral("h264-first.mp4")
                                                                  : QStringLiteral("h264-last.mp4");
        const auto clip = mediaFile(name);
        const auto movie = boxOf(clip, fourCc("moov")).first;
        const auto card =
            writeInPieces({{name, 7}, {other, 9}, {name, 12}, {QString(), 3}, {other, -1}, {name, -1}});
        auto index = std::make_shared<rebuild::LooseIndex>();
        index->tracks = *isobmff::readSamples(movie);
        auto view = cards_.viewOf(card.bytes);
        const rebuild::ClipPool pool({{0, card.bytes.size()}}, kCluster, 0);
        const Control control;
        const rebuild::SamplePlaces places(view, pool, {index}, control);
        const auto onCard = [&](std::uint64_t inFile) {
            for (const auto& place : card.places.at(name)) {
                if (inFile < place.length) return place.offset + inFile;
                inFile -= place.length;
            }
            return std::uint64_t{0};
        };
        int looked = 0;
        for (const auto& track : index->tracks) {
            using Coding = isobmff::SampleTrack::Coding;
            if (track.coding == Coding::Other) continue;
            for (std::size_t n = 0; n < track.samples.size(); n += 7) {
                const auto& sample = track.samples[n];
                if (sample.size <= rebuild::kTellsNothing) continue;
                const auto byte = sample.offset % kCluster;
                std::vector<std::uint64_t> plain;
                for (std::uint64_t cluster = 0; cluster + kCluster <= card.bytes.size();
                     cluster += kCluster) {
                    std::uint64_t asked = 0;
                    const auto looks =
                        isobmff::looksLikeSample(track, sample, [&](std::uint64_t from, std::size_t count) {
                            asked = from;
                            return slice(Bytes(card.bytes), cluster + byte + from, count);
                        });
                    const bool within = looks == isobmff::Looks::Begins && byte + asked < kCluster;
                    if (looks != isobmff::Looks::Foreign && !within) plain.push_back(cluster);
                }
                const auto& found = places.of(sample);
                QCOMPARE(found, plain);
                const auto at = onCard(sample.offset);
                if (byte + 8 <= kCluster)
                    QVERIFY(std::find(found.begin(), found.end(), at / kCluster * kCluster) != found.end());
                ++looked;
            }
        }
        QVERIFY(looked > 0);
    }
};

QTEST_GUILESS_MAIN(TestClipParts)
#include "test_clip_parts.moc"
