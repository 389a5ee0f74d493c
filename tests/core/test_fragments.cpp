// Fragmented clips: what a fragment says of its samples, against an independent reader; and put together from
// pieces, from one fragment to the next.
#include <algorithm>
#include <QTemporaryDir>
#include <QTest>
#include <random>

#include "formats/isobmff/boxes.h"
#include "formats/isobmff/fragment.h"
#include "tests/support/searches.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kSmall = 4096;

struct TopBox {
    std::uint64_t at = 0, size = 0;
    std::uint32_t type = 0;
};
std::vector<TopBox> boxesOf(const Buffer& file) {
    std::vector<TopBox> boxes;
    for (std::uint64_t at = 0; at + 8 <= file.size();) {
        const auto box = isobmff::readBoxHeader(slice(Bytes(file), at, 16));
        if (!box || box->size < 8) break;
        boxes.push_back({at, box->size, box->type});
        at += box->size;
    }
    return boxes;
}
Bytes insideOf(const Buffer& file, std::uint32_t type) {
    for (const auto& box : boxesOf(file)) {
        if (box.type == type) return slice(Bytes(file), box.at + 8, box.size - 8);
    }
    return {};
}

}  // namespace

class TestFragments : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Searches searches_;

    // The same pictures and sound, written in fragments in several ways.
    Buffer fragmented(const QString& flags) {
        const auto path = dir_.filePath(QStringLiteral("%1.mp4").arg(flags));
        if (!QFile::exists(path)) {
            const auto from = dir_.filePath(QStringLiteral("from.mp4"));
            if (!QFile::exists(from)) writeFile(from, mediaFile(QStringLiteral("h264-last.mp4")));
            const auto run =
                command(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", from, "-c", "copy", "-movflags",
                                                   flags, "-frag_duration", "250000", path});
            if (run.exitCode != 0) qFatal("%s", run.err.constData());
        }
        return readFile(path);
    }
    static void addWays() {
        QTest::addColumn<QString>("flags");
        for (const auto* flags : {"empty_moov", "dash", "empty_moov+separate_moof", "frag_keyframe",
                                  "empty_moov+default_base_moof+negative_cts_offsets"})
            QTest::newRow(flags) << QString::fromLatin1(flags);
    }
    // The file's parts from one border to the next in the order that is given, noise between.
    static Buffer scatter(const Buffer& file, std::vector<std::size_t> borders,
                          const std::vector<std::size_t>& order) {
        auto card = randomBytes(3 * kSmall, 5);
        borders.push_back(file.size());
        for (const auto part : order) {
            const auto from = part == 0 ? 0 : borders[part - 1];
            card.insert(card.end(), file.begin() + static_cast<std::ptrdiff_t>(from),
                        file.begin() + static_cast<std::ptrdiff_t>(borders[part]));
            card.resize((card.size() + kSmall - 1) / kSmall * kSmall, 0);
            const auto noise = randomBytes(2 * kSmall, static_cast<unsigned>(part));
            card.insert(card.end(), noise.begin(), noise.end());
        }
        return card;
    }

  private Q_SLOTS:
    void fragmentsSayWhereTheirSamplesLie_data() { addWays(); }
    void fragmentsSayWhereTheirSamplesLie() {
        QFETCH(QString, flags);
        const auto file = fragmented(flags);
        const auto movie = insideOf(file, isobmff::fourCc("moov"));
        const auto defaults = isobmff::readDefaults(movie);
        QCOMPARE(defaults.size(), std::size_t{2});
        QCOMPARE(isobmff::readTrackNumbers(movie), (std::vector<std::uint32_t>{1, 2}));
        // What an independent reader makes of it: place, size, and whether it can be begun with, by place.
        const auto run = command(QStringLiteral("ffprobe"),
                                 {"-v", "error", "-show_entries", "packet=pos,size,flags,dts,pts", "-of",
                                  "csv=p=0", dir_.filePath(QStringLiteral("%1.mp4").arg(flags))});
        std::map<std::uint64_t, QList<QByteArray>> packets;
        for (const auto& line : run.out.split('\n')) {
            const auto cells = line.trimmed().split(',');
            if (cells.size() >= 5) packets[cells[3].toULongLong()] = cells;
        }
        std::size_t samples = 0;
        std::optional<std::uint32_t> before;
        std::map<std::uint32_t, qint64> moved;
        for (const auto& box : boxesOf(file)) {
            if (box.type != isobmff::fourCc("moof")) continue;
            const auto fragment =
                isobmff::readFragment(slice(Bytes(file), box.at, box.size), box.at, defaults);
            QVERIFY(fragment.has_value());
            if (before) QCOMPARE(fragment->sequence, *before + 1);
            before = fragment->sequence;
            for (const auto& track : fragment->tracks) {
                auto due = static_cast<std::int64_t>(track.begins.value_or(0));
                for (const auto& sample : track.samples) {
                    QVERIFY(packets.contains(sample.offset));
                    const auto& packet = packets[sample.offset];
                    QCOMPARE(packet[2].toUInt(), sample.size);
                    // Times may be moved as a whole.
                    const auto apart = packet[0].toLongLong() - packet[1].toLongLong() - sample.shownLater;
                    QCOMPARE(moved.try_emplace(track.track, apart).first->second, apart);
                    QCOMPARE(packet[4].startsWith('K'), sample.sync);
                    due += sample.duration;
                    ++samples;
                }
                QCOMPARE(due - static_cast<std::int64_t>(track.begins.value_or(0)),
                         static_cast<std::int64_t>(track.length));
            }
            QVERIFY(fragment->media.offset >= box.at + box.size);
        }
        QVERIFY(samples > 100);
    }
    // Whatever is done to the bytes, nothing is read beyond them, and no sample is made up.
    void damagedFragmentsAreRefused() {
        const auto file = fragmented(QStringLiteral("empty_moov"));
        const auto defaults = isobmff::readDefaults(insideOf(file, isobmff::fourCc("moov")));
        const auto boxes = boxesOf(file);
        const auto first = std::find_if(boxes.begin(), boxes.end(), [](const TopBox& box) {
            return box.type == isobmff::fourCc("moof");
        });
        const auto whole = slice(Bytes(file), first->at, first->size);
        QVERIFY(isobmff::readFragment(whole, first->at, defaults).has_value());
        QVERIFY(!isobmff::readFragment(whole, first->at, {}).has_value());
        for (std::size_t length = 0; length < whole.size(); ++length)
            QVERIFY(!isobmff::readFragment(whole.first(length), first->at, defaults).has_value());
        std::mt19937 random(2);
        for (int i = 0; i < 20000; ++i) {
            Buffer bent(whole.begin(), whole.end());
            for (int k = 0; k < 3; ++k)
                bent[8 + random() % (bent.size() - 8)] = static_cast<std::uint8_t>(random());
            const auto read = isobmff::readFragment(bent, first->at, defaults);
            if (!read) continue;
            std::size_t samples = 0;
            for (const auto& track : read->tracks) samples += track.samples.size();
            QVERIFY(samples <= 4000000);
        }
    }
    void piecesAreJoined_data() { addWays(); }
    void piecesAreJoined() {
        QFETCH(QString, flags);
        const auto file = fragmented(flags);
        const auto clusters = file.size() / kSmall;
        std::vector<std::size_t> borders;
        for (const auto part : {1, 2, 3, 4})
            borders.push_back(clusters * static_cast<std::size_t>(part) / 5 * kSmall);
        const auto card = scatter(file, borders, {0, 2, 1, 4, 3});
        const auto found = searches_.of(card);
        const auto clip = std::find_if(found.begin(), found.end(), [](const Finding& finding) {
            return finding.condition == Condition::Whole;
        });
        QVERIFY(clip != found.end());
        QVERIFY(bytesOf(card, *clip) == file);
        QCOMPARE(clip->joins.size(), std::size_t{4});
    }
    // A piece ends within the list of a fragment's samples.
    void aFragmentsListMayLieInTwoPieces() {
        // Free space in front of the fragments moves one of them across a border.
        auto file = fragmented(QStringLiteral("empty_moov+default_base_moof+negative_cts_offsets"));
        const auto boxes = boxesOf(file);
        std::vector<TopBox> lists;
        for (const auto& box : boxes) {
            if (box.type == isobmff::fourCc("moof")) lists.push_back(box);
        }
        const auto list = lists[lists.size() / 2];
        const auto border = (list.at / kSmall + 2) * kSmall;
        const auto room = border - list.at - list.size / 2;
        Buffer space(room, 0);
        for (int i = 0; i < 4; ++i)
            space[static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(room >> (24 - 8 * i));
        const std::string_view name = "free";
        std::copy(name.begin(), name.end(), space.begin() + 4);
        file.insert(file.begin() + static_cast<std::ptrdiff_t>(lists.front().at), space.begin(), space.end());
        const auto card = scatter(file, {border}, {0, 1});
        const auto found = searches_.of(card);
        QCOMPARE(found.size(), std::size_t{1});
        QVERIFY(found.front().condition == Condition::Whole);
        QVERIFY(bytesOf(card, found.front()) == file);
    }
    // The list of the next fragment was overwritten in part: what comes before is not all of it.
    void whatGoesOnIsNotWhole() {
        const auto file = fragmented(QStringLiteral("empty_moov"));
        const auto boxes = boxesOf(file);
        std::vector<std::uint64_t> lists;
        for (const auto& box : boxes) {
            if (box.type == isobmff::fourCc("moof")) lists.push_back(box.at);
        }
        const auto damaged = lists[lists.size() / 2];
        auto bent = file;
        const auto noise = randomBytes(file.size() - damaged - 40, 3);
        std::copy(noise.begin(), noise.end(), bent.begin() + static_cast<std::ptrdiff_t>(damaged) + 40);
        const auto border = damaged / 2 / kSmall * kSmall;
        const auto card = scatter(bent, {border}, {0, 1});
        const auto found = searches_.of(card);
        QVERIFY(!found.empty());
        for (const auto& finding : found) QVERIFY(finding.condition != Condition::Whole);
    }
    // Behind fragments that were overwritten the clip goes on.
    void aLossIsPassedOver() {
        const auto file = fragmented(QStringLiteral("empty_moov"));
        auto lost = file;
        const auto from = file.size() / 3 / kSmall * kSmall;
        const auto noise = randomBytes(file.size() / 4, 4);
        std::copy(noise.begin(), noise.end(), lost.begin() + static_cast<std::ptrdiff_t>(from));
        auto card = randomBytes(2 * kSmall, 5);
        card.insert(card.end(), lost.begin(), lost.end());
        card.resize(card.size() + 100000);
        const auto found = searches_.of(card);
        QCOMPARE(found.size(), std::size_t{1});
        QVERIFY(found.front().condition == Condition::Partial);
        QVERIFY(found.front().size() > file.size() - kSmall);
    }
};

QTEST_GUILESS_MAIN(TestFragments)
#include "test_fragments.moc"
