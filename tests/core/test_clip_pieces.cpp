// Clips of independent encoders in pieces so small that in many of them no sample begins: whether what lies
// over a join is right, where the pieces are, their index in pieces itself, and what is left without a
// beginning.
#include <QTest>
#include <random>

#include "formats/isobmff/boxes.h"
#include "formats/jpeg/continuity.h"
#include "rebuild/beginless_clip.h"
#include "rebuild/clip_joiner.h"
#include "rebuild/index_in_pieces.h"
#include "rebuild/sample_judge.h"
#include "tests/support/cards.h"
#include "tests/support/pieces.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

constexpr std::size_t kSmall = 4096;

// A file in pieces of one to `most` clusters, in any order within a few of one another, with noise between.
struct Scattered {
    Buffer card;
    std::vector<ByteRange> places;  // in the order of the file
};
Scattered scatter(const Buffer& file, std::size_t cluster, std::size_t most, unsigned seed) {
    std::mt19937 random(seed);
    std::vector<ByteRange> pieces;  // of the file
    for (std::size_t at = 0; at < file.size();) {
        const auto count = std::min(file.size() - at, (1 + random() % most) * cluster);
        pieces.push_back({at, count});
        at += count;
    }
    std::vector<std::size_t> order(pieces.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    // The first stays where it is found.
    for (std::size_t from = 1; from < order.size(); from += 4) {
        const auto to = std::min(order.size(), from + 4);
        std::shuffle(order.begin() + static_cast<std::ptrdiff_t>(from),
                     order.begin() + static_cast<std::ptrdiff_t>(to), random);
    }
    Scattered all{randomBytes(4 * cluster, seed), std::vector<ByteRange>(pieces.size())};
    for (const auto i : order) {
        const auto piece = slice(file, pieces[i].offset, pieces[i].length);
        all.places[i] = {all.card.size(), piece.size()};
        all.card.insert(all.card.end(), piece.begin(), piece.end());
        all.card.resize((all.card.size() + cluster - 1) / cluster * cluster, 0);
        const auto noise = randomBytes(random() % 3 * cluster, static_cast<unsigned>(random()));
        all.card.insert(all.card.end(), noise.begin(), noise.end());
    }
    all.card.resize(all.card.size() + 2 * cluster, 0);
    return all;
}

std::uint64_t indexOf(const Buffer& clip) {
    for (std::uint64_t at = 0; at + 8 <= clip.size();) {
        const auto box = isobmff::readBoxHeader(slice(Bytes(clip), at, 64));
        if (!box || box->size == 0) break;
        if (box->type == isobmff::fourCc("moov")) return at;
        at += box->size;
    }
    return UINT64_MAX;
}

}  // namespace

class TestClipPieces : public QObject {
    Q_OBJECT
    Cards cards_;

    static void addClips(std::initializer_list<const char*> names) {
        QTest::addColumn<QString>("name");
        for (const auto* name : names) QTest::newRow(name) << QString::fromLatin1(name);
    }

  private Q_SLOTS:
    void picturesOverJoinsAreJudged_data() {
        addClips({"h264-last.mp4", "h264-cavlc.mov", "hevc.mp4", "interlaced.mov", "pictures.mov"});
    }
    void picturesOverJoinsAreJudged() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto all = scatter(file, kSmall, 6, 21);
        auto view = cards_.viewOf(all.card);
        auto index = rebuild::parseIndex(slice(Bytes(file), indexOf(file), file.size()));
        QVERIFY(index);
        rebuild::SampleJudge judge(view, *index);
        int certain = 0, wrong = 0;
        std::uint64_t join = 0;
        for (std::size_t i = 0; i + 2 < all.places.size(); ++i) {
            join += all.places[i].length;
            const auto good = judge.judge(all.places, join - 1, join + 1);
            QVERIFY(!good.wrong);
            certain += good.certain ? 1 : 0;
            if (!good.certain) continue;  // no picture lies over it
            // With the piece behind the next in its place, or noise.
            for (const auto& other : {all.places[i + 2], ByteRange{0, kSmall}}) {
                auto places = all.places;
                places[i + 1].offset = other.offset;
                const auto bad = judge.judge(places, join - 1, join + 1);
                if (!bad.wrong) continue;
                ++wrong;
                QVERIFY2(bad.reached >= join, qPrintable(QStringLiteral("%1 %2").arg(bad.reached).arg(join)));
            }
            // And what was right is right again.
            QVERIFY(judge.judge(all.places, join - 1, join + 1).certain);
        }
        QVERIFY(certain > 10);
        QVERIFY2(wrong * 100 >= certain * 2 * 98,
                 qPrintable(QStringLiteral("%1 of %2").arg(wrong).arg(certain * 2)));
    }

    // Of Motion JPEG, what decodes is not enough: pictures of one clip have the same tables.
    void aPictureGoesOnBehindItsJoin() {
        const auto file = mediaFile(QStringLiteral("pictures.mov"));
        const auto index = rebuild::parseIndex(slice(Bytes(file), indexOf(file), file.size()));
        QVERIFY(index);
        auto view = cards_.viewOf(file);
        rebuild::SampleJudge judge(view, *index);
        const auto& samples = index->tracks[0].samples;
        int strained = 0, looked = 0;
        for (std::size_t i = 0; i + 3 < samples.size(); i += 2) {
            const auto join = (samples[i].offset + samples[i].size / 2) / kSmall * kSmall;
            const auto right = judge.judge({{0, join}, {join, file.size() - join}}, join - 1, join + 1);
            QCOMPARE(right.strain, 0.0);  // it is no join
            // The same place of a picture further on, shifted to a cluster.
            const auto other = join + (samples[i + 3].offset - samples[i].offset) / kSmall * kSmall;
            if (other + kSmall > file.size()) break;
            const std::vector<ByteRange> wrong{{0, join}, {other, file.size() - other}};
            const auto bad = judge.judge(wrong, join - 1, join + 1);
            ++looked;
            strained += bad.strain >= 1 || (bad.wrong && bad.reached < join + kSmall) ? 1 : 0;
        }
        QVERIFY(looked > 5);
        QVERIFY2(strained * 2 > looked, qPrintable(QStringLiteral("%1 of %2").arg(strained).arg(looked)));
    }

    // A stream inside another file has its marks where the file's clusters are.
    void marksOfAPictureWithinAFile() {
        const auto photo = mediaFile(QStringLiteral("baseline-420.jpg"));
        const auto marksWith = [&](std::uint64_t phase) {
            jpeg::DcPlanes planes;
            planes.phase = phase;
            jpeg::StreamDecoder decoder(&planes);
            decoder.feed(photo, true);
            QTest::qVerify(decoder.state() == jpeg::StreamDecoder::State::Ended, "", "", __FILE__, __LINE__);
            const auto first = planes.steps(decoder.codedDataAt()) + 1;
            return std::tuple(planes.marks, planes.byteOf(first), decoder.codedDataAt());
        };
        const auto [plain, firstByte, codedAt] = marksWith(0);
        QCOMPARE(firstByte % kSmall, std::uint64_t{0});
        for (const std::uint64_t phase : {std::uint64_t{1}, std::uint64_t{1000}, std::uint64_t{4095}}) {
            const auto [marks, byte, at] = marksWith(phase);
            QCOMPARE((byte + phase) % kSmall, std::uint64_t{0});
            QVERIFY(byte > at && byte <= at + kSmall);
            QCOMPARE(at, codedAt);
            QVERIFY(std::is_sorted(marks.begin(), marks.end()));
            QVERIFY(marks.size() + 1 >= plain.size() && marks.size() <= plain.size() + 1);
            // Between the two around it of the other marks.
            if (byte > firstByte) QVERIFY(marks[0] >= plain[0]);
            if (byte < firstByte) QVERIFY(marks[0] <= plain[0]);
        }
    }

    void piecesWithoutSamplesAreFound_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<bool>("known");
        for (const auto* name :
             {"h264-last.mp4", "h264-first.mp4", "hevc.mp4", "h264-cavlc.mov", "pictures.mov"})
            QTest::newRow(name) << QString(name) << true;
        // A card of few files does not say how large its clusters are; the clip's pieces do.
        for (const auto* name : {"h264-last.mp4", "hevc.mp4"})
            QTest::addRow("%s, clusters unknown", name) << QString(name) << false;
    }
    void piecesWithoutSamplesAreFound() {
        QFETCH(QString, name);
        QFETCH(bool, known);
        const auto file = mediaFile(name);
        for (unsigned seed = 1; seed <= 3; ++seed) {
            // So that most pictures lie in several pieces.
            const std::size_t cluster = (file.size() > 1000000 ? 4 * kSmall : kSmall) * (known ? 1 : 2);
            const auto all = scatter(file, cluster, 3, seed);
            auto view = cards_.viewOf(all.card);
            const Control control;
            rebuild::ClipPool pool({{0, all.card.size()}},
                                   static_cast<std::uint32_t>(known ? cluster : kSmall), 0);
            const auto start = all.places[0].offset;
            std::shared_ptr<const rebuild::LooseIndex> index;
            for (const auto at : rebuild::findIndexes(view, pool.stretches(), control).movies) {
                if (auto found = rebuild::readIndex(view, at, pool, control))
                    index = std::make_shared<const rebuild::LooseIndex>(std::move(*found));
            }
            QVERIFY(index);
            auto head = rebuild::readClipHead(view, start);
            if (!head) head = rebuild::readClipHead(view, start, *index);
            QVERIFY(head);
            const rebuild::SamplePlaces samples(view, pool, {index}, control);
            rebuild::SampleJudge judge(view, *index);
            const auto decode = [&](const std::vector<ByteRange>& places, std::uint64_t from,
                                    std::uint64_t to) {
                const auto verdict = judge.judge(places, from, to);
                if (verdict.wrong) return rebuild::Trial{1, verdict.strain, verdict.reached};
                // Where no picture lies over a join a player's decoder would be asked.
                return rebuild::Trial{0, verdict.strain, 0};
            };
            rebuild::ClipJoinLimits limits;
            limits.strayPieces = true;
            std::size_t tried = 0;
            const auto joined =
                rebuild::joinClip(view, *head, *index, pool, samples, decode, control, limits, tried);
            QVERIFY(joined);
            QCOMPARE(joined->reasons.size() + 1, joined->places.size());
            QVERIFY(joined->missing.empty());
            const auto bytes = bytesAt(all.card, joined->places);
            QVERIFY(bytes.size() >= file.size());
            // Where no picture lies over a border, as within sound, none is there to tell.
            std::size_t wrong = 0;
            for (std::size_t at = 0; at < file.size(); at += cluster) {
                const auto count = std::min(cluster, file.size() - at);
                wrong += std::equal(file.begin() + static_cast<std::ptrdiff_t>(at),
                                    file.begin() + static_cast<std::ptrdiff_t>(at + count),
                                    bytes.begin() + static_cast<std::ptrdiff_t>(at))
                             ? 0
                             : 1;
            }
            QVERIFY2(wrong * 50 <= file.size() / cluster,
                     qPrintable(QStringLiteral("%1 clusters, seed %2").arg(wrong).arg(seed)));
        }
    }

    // Cut anywhere, with the rest of it further on, behind noise.
    void anIndexInPiecesIsRead_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("cluster");
        QTest::newRow("small clusters") << QStringLiteral("h264-last.mp4") << 512;
        QTest::newRow("a short index") << QStringLiteral("h264-cavlc.mov") << 512;
        // Boxes that say nothing of their inside must not fill a cluster.
        QTest::newRow("long settings") << QStringLiteral("hevc.mp4") << 2048;
    }
    void anIndexInPiecesIsRead() {
        QFETCH(QString, name);
        QFETCH(int, cluster);
        const auto file = mediaFile(name);
        const auto boxAt = indexOf(file);
        const auto box =
            slice(Bytes(file), boxAt, isobmff::readBoxHeader(slice(Bytes(file), boxAt, 64))->size);
        const auto whole = rebuild::parseIndex(box);
        QVERIFY(whole);
        const auto size = static_cast<std::size_t>(cluster);
        std::mt19937 random(4);
        int read = 0, tried = 0;
        for (std::size_t border = size; border + 16 < box.size(); border += size) {
            // It begins anywhere in its cluster.
            const auto into = random() % (size / 2);
            const auto first = border - into;
            auto card = randomBytes(4 * size + into, 5);
            const auto at = card.size();
            card.insert(card.end(), box.begin(), box.begin() + static_cast<std::ptrdiff_t>(first));
            const auto noise = randomBytes((1 + random() % 5) * size, static_cast<unsigned>(random()));
            card.insert(card.end(), noise.begin(), noise.end());
            const auto second = card.size();
            card.insert(card.end(), box.begin() + static_cast<std::ptrdiff_t>(first), box.end());
            card.resize((card.size() / size + 3) * size, 0);
            auto view = cards_.viewOf(card);
            const rebuild::ClipPool pool({{0, card.size()}}, static_cast<std::uint32_t>(size), 0);
            const auto found = rebuild::readIndex(view, at, pool, Control());
            ++tried;
            // As much as can be read of it where it is cut short is all that there is otherwise.
            if (!found || found->places.size() < 2) continue;
            QVERIFY(bytesAt(card, found->places) == Buffer(box.begin(), box.end()));
            QCOMPARE(found->places.back().offset, static_cast<std::uint64_t>(second));
            QCOMPARE(found->firstByte, whole->firstByte);
            QCOMPARE(found->lastByte, whole->lastByte);
            QCOMPARE(found->tracks.size(), whole->tracks.size());
            for (std::size_t i = 0; i < whole->tracks.size(); ++i)
                QCOMPARE(found->tracks[i].samples.size(), whole->tracks[i].samples.size());
            ++read;
        }
        QVERIFY(tried > 1);
        QVERIFY2(read * 10 >= tried * 8, qPrintable(QStringLiteral("%1 of %2").arg(read).arg(tried)));
    }
    void aClipWithoutItsBeginningGetsAnother_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<std::size_t>("tenths");
        for (const auto* name : {"h264-last.mp4", "hevc.mp4", "pictures.mov"}) {
            for (const std::size_t tenths : {1, 8})
                QTest::addRow("%s, %zu of 10 lost", name, tenths) << QString::fromLatin1(name) << tenths;
        }
    }
    void aClipWithoutItsBeginningGetsAnother() {
        QFETCH(QString, name);
        QFETCH(std::size_t, tenths);
        const auto file = mediaFile(name);
        // Other data lie over its first clusters.
        const auto lost = file.size() * tenths / 10 / kSmall * kSmall;
        auto card = randomBytes(8 * kSmall, 5);
        const auto start = card.size();
        card.insert(card.end(), file.begin(), file.end());
        const auto noise = randomBytes(lost, 6);
        std::copy(noise.begin(), noise.end(), card.begin() + static_cast<std::ptrdiff_t>(start));
        card.resize((card.size() / kSmall + 3) * kSmall, 0);
        auto view = cards_.viewOf(card);
        const Control control;
        const rebuild::ClipPool pool({{0, card.size()}}, kSmall, 0);
        auto loose = rebuild::readIndex(view, start + indexOf(file), pool, control);
        QVERIFY(loose);
        const auto index = std::make_shared<const rebuild::LooseIndex>(std::move(*loose));
        const rebuild::SamplePlaces samples(view, pool, {index}, control);
        const auto clip = rebuild::withoutBeginning(view, *index, pool, samples, control);
        QVERIFY(clip);
        QVERIFY(clip->at >= start + lost && clip->at < start + lost + file.size() / 10);
        // The bytes that are left are its own and in their place; nothing of the noise is.
        PieceReader reader(view, clip->pieces);
        Buffer made(static_cast<std::size_t>(reader.size()));
        QCOMPARE(reader.read(0, made), made.size());
        QVERIFY(made.size() <= file.size() && made.size() >= file.size() - kSmall);
        std::uint64_t own = 0;
        for (const auto& piece : clip->pieces) {
            if (piece.from != PieceFrom::Card) continue;
            QVERIFY(piece.offset >= start + lost);
            own += piece.length;
        }
        QVERIFY(own >= (file.size() - lost) * 95 / 100);
        const auto tail = (file.size() - lost) / 2;
        QVERIFY(std::equal(file.end() - static_cast<std::ptrdiff_t>(tail), file.end(),
                           made.end() - static_cast<std::ptrdiff_t>(tail)));
        // It is a clip again.
        const auto measured = measureWith("isobmff", made);
        QVERIFY(measured.accepted);
        QCOMPARE(measured.length, static_cast<std::uint64_t>(made.size()));
        QVERIFY(measured.description.width > 0);
    }
};

QTEST_APPLESS_MAIN(TestClipPieces)
#include "test_clip_pieces.moc"
