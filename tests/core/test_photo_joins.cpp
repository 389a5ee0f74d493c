// Joins of photos one by one: where a photo goes on, what is remembered between calls, and what stands
// against a join. On photos by independent encoders, cut and laid out here, without a scan around them.
#include <QTest>

#include "rebuild/photo_joiner.h"
#include "rebuild/photo_splice.h"
#include "tests/support/cards.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;
using rebuild::JoinedPhoto;
using Told = rebuild::JoinedPhoto::Told;

namespace {

constexpr std::size_t kSmallCluster = 4096;

// Stretches of bytes, each from a cluster's beginning on, noise or other things between.
struct Layout {
    Buffer bytes;
    std::vector<ByteRange> places;

    void noise(std::size_t clusters) {
        const auto other = randomBytes(clusters * kSmallCluster, static_cast<unsigned>(bytes.size()));
        bytes.insert(bytes.end(), other.begin(), other.end());
    }
    ByteRange lay(const Buffer& file, std::size_t from, std::size_t to) {
        to = std::min(to, file.size());
        const ByteRange place{bytes.size(), to - from};
        bytes.insert(bytes.end(), file.begin() + static_cast<std::ptrdiff_t>(from),
                     file.begin() + static_cast<std::ptrdiff_t>(to));
        bytes.resize((bytes.size() + kSmallCluster - 1) / kSmallCluster * kSmallCluster, 0);
        return place;
    }
    // The piece of a file between two of its clusters, its next.
    void piece(const Buffer& file, std::size_t from, std::size_t to) {
        places.push_back(lay(file, from * kSmallCluster, to * kSmallCluster));
    }
};

std::size_t clustersOf(const Buffer& file) {
    return (file.size() + kSmallCluster - 1) / kSmallCluster;
}

// A photo with a restart marker at each row's end: what looks like another piece of the same picture is the
// same piece with a row of its own put over the one below the join.
Buffer withARowRepeated(const Buffer& file, std::size_t from) {
    std::vector<std::size_t> markers;
    for (auto at = from; at + 1 < file.size() && markers.size() < 3; ++at) {
        if (file[at] == 0xff && file[at + 1] >= 0xd0 && file[at + 1] <= 0xd7) markers.push_back(at);
    }
    if (markers.size() < 3) qFatal("no restart markers");
    // Rows: [markers 0, 1) and [markers 1, 2), each with its marker in front.
    Buffer changed(file.begin(), file.begin() + static_cast<std::ptrdiff_t>(markers[1] + 2));
    changed.insert(changed.end(), file.begin() + static_cast<std::ptrdiff_t>(markers[0] + 2),
                   file.begin() + static_cast<std::ptrdiff_t>(markers[1]));
    changed.insert(changed.end(), file.begin() + static_cast<std::ptrdiff_t>(markers[2]), file.end());
    return changed;
}

}  // namespace

class TestPhotoJoins : public QObject {
    Q_OBJECT
    Cards cards_;

    // The whole layout is free. `taken`: what others have.
    std::optional<JoinedPhoto> join(const Layout& layout, const std::vector<ByteRange>& taken = {},
                                    const rebuild::PhotoJoinLimits& limits = {},
                                    const std::shared_ptr<rebuild::PhotoTrials>& trials = nullptr) {
        auto view = cards_.viewOf(layout.bytes);
        const Control control;
        rebuild::Pool pool(view, {{0, layout.bytes.size()}}, kSmallCluster, 0, control);
        pool.take(taken);
        return rebuild::joinPhoto(view, layout.places[0].offset, pool, control, limits, trials);
    }
    // Among noise.
    static Layout inTwoPieces(const Buffer& file, std::size_t cut, std::size_t between = 5) {
        Layout layout;
        layout.noise(3);
        layout.piece(file, 0, cut);
        layout.noise(between);
        layout.piece(file, cut, clustersOf(file));
        layout.noise(6);
        return layout;
    }
    static void mustBe(const std::optional<JoinedPhoto>& joined, const std::vector<ByteRange>& places,
                       Told told) {
        QVERIFY(joined.has_value());
        QCOMPARE(joined->places.size(), places.size());
        for (std::size_t i = 0; i < places.size(); ++i) {
            QCOMPARE(joined->places[i].offset, places[i].offset);
            QCOMPARE(joined->places[i].length, places[i].length);
        }
        QVERIFY(joined->told == told);
    }

  private Q_SLOTS:
    // In a first round only so many beginnings that lie ahead are tried; what was tried is kept for the next.
    void whatLiesAheadIsTriedFirst() {
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto other = mediaFile(QStringLiteral("baseline-420.jpg"));
        constexpr std::size_t kBetween = 10, kCut = 60;
        Layout layout;
        layout.noise(3);
        layout.piece(photo, 0, kCut);
        for (std::size_t i = 0; i < kBetween; ++i) {
            layout.lay(other, (20 + i) * kSmallCluster, (21 + i) * kSmallCluster);
            layout.bytes.resize(layout.bytes.size() + kSmallCluster, 0);
        }
        layout.piece(photo, kCut, clustersOf(photo));
        const auto joinedAhead = [&](std::optional<std::size_t> ahead, const auto& trials) {
            rebuild::PhotoJoinLimits limits;
            limits.ahead = ahead;
            limits.secondBests = 0;
            return join(layout, {}, limits, trials);
        };
        const auto trials = rebuild::newPhotoTrials();
        const auto near = joinedAhead(kBetween / 2, trials);
        QVERIFY(!near || near->told != Told::Whole);
        mustBe(joinedAhead({}, trials), layout.places, Told::Whole);
        mustBe(joinedAhead(2 * kBetween, rebuild::newPhotoTrials()), layout.places, Told::Whole);
    }
    // What may hold a photo's coded data: everything else of a card is not tried at all.
    void thePoolHoldsWhatMayBeCoded() {
        const auto photo = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto rows = mediaFile(QStringLiteral("restart-row.jpg"));
        const auto clusterOf = [](const Buffer& file, std::size_t number) {
            const auto bytes = slice(file, number * kSmallCluster, kSmallCluster);
            return Buffer(bytes.begin(), bytes.end());
        };
        const auto coded = clusterOf(photo, 40);
        auto withMarker = coded;
        withMarker[2000] = 0xff;
        withMarker[2001] = 0xe1;
        auto ending = coded;
        ending[1000] = 0xff;
        ending[1001] = 0xd9;
        std::fill(ending.begin() + 1002, ending.end(), std::uint8_t{0xff});
        Buffer text;
        while (text.size() < kSmallCluster)
            for (const char letter : std::string("Rye by the sack, oats by the bushel.\r\n"))
                text.push_back(static_cast<std::uint8_t>(letter));
        text.resize(kSmallCluster);
        Layout layout;
        std::vector<bool> may;
        const auto add = [&](const Buffer& bytes, bool fits) {
            layout.lay(bytes, 0, kSmallCluster);
            may.push_back(fits);
        };
        add(coded, true);
        add(withMarker, false);
        add(ending, true);
        add(text, false);
        add(Buffer(kSmallCluster, 0), false);
        add(Buffer(kSmallCluster, 0xa5), false);
        const auto firstRows = may.size();
        for (std::size_t cluster = 20; cluster < 40; ++cluster) add(clusterOf(rows, cluster), true);
        auto view = cards_.viewOf(layout.bytes);
        const Control control;
        const rebuild::Pool pool(view, {{0, layout.bytes.size()}}, kSmallCluster, 0, control);
        for (std::size_t i = 0; i < may.size(); ++i) QCOMPARE(pool.fits(i * kSmallCluster), may[i]);
        int numbered = 0;
        for (const auto which : {rebuild::Pool::Which::Beginnings, rebuild::Pool::Which::Others}) {
            pool.visit(which, firstRows * kSmallCluster, [&](const rebuild::Pool::Spot& spot) {
                const auto bytes = slice(layout.bytes, spot.at, kSmallCluster);
                const auto head = pool.head(spot);
                if (head.empty() || !std::equal(head.begin(), head.end(), bytes.begin())) return true;
                auto first = rebuild::Pool::Spot::kNone;
                for (std::size_t at = 0; at + 1 < bytes.size() && first == rebuild::Pool::Spot::kNone; ++at) {
                    if (bytes[at] == 0xff && bytes[at + 1] >= 0xd0 && bytes[at + 1] <= 0xd7)
                        first = static_cast<std::uint8_t>(bytes[at + 1] & 7U);
                }
                numbered += first == rebuild::Pool::Spot::kNone ? 0 : 1;
                return spot.restart != first;
            });
        }
        QVERIFY(numbered >= 8);
    }
    // Forwards from where a photo stopped and round the end of the card, beginnings of stretches first,
    // without what has been taken meanwhile: as a plain list of clusters has it.
    void thePoolIsVisitedForwardsAndRound() {
        Layout layout;
        layout.noise(600);
        // No markers in it.
        std::replace(layout.bytes.begin(), layout.bytes.end(), std::uint8_t{0xff}, std::uint8_t{0xfe});
        auto view = cards_.viewOf(layout.bytes);
        const Control control;
        std::mt19937 random(5);
        std::vector<bool> free(600, false);
        std::vector<ByteRange> stretches;
        for (std::size_t at = random() % 5; at < 590;) {
            const auto length = 1 + random() % 9;
            stretches.push_back({at * kSmallCluster, length * kSmallCluster});
            std::fill_n(free.begin() + static_cast<std::ptrdiff_t>(at), length, true);
            at += length + random() % 4;
        }
        rebuild::Pool pool(view, stretches, kSmallCluster, 0, control);
        for (int round = 0; round < 40; ++round) {
            for (const auto which : {rebuild::Pool::Which::Beginnings, rebuild::Pool::Which::Others}) {
                const auto from = random() % 600;
                std::vector<std::uint64_t> expected, visited;
                for (std::size_t i = 0; i < 600; ++i) {
                    const auto at = (from + i) % 600;
                    const bool beginning = at == 0 || !free[at - 1];
                    if (free[at] && beginning == (which == rebuild::Pool::Which::Beginnings))
                        expected.push_back(at * kSmallCluster);
                }
                QVERIFY(!pool.visit(which, from * kSmallCluster, [&](const rebuild::Pool::Spot& spot) {
                    visited.push_back(spot.at);
                    const auto head = pool.head(spot);
                    return head.size() != 1024 ||
                           !std::equal(head.begin(), head.end(),
                                       layout.bytes.begin() + static_cast<std::ptrdiff_t>(spot.at));
                }));
                QVERIFY(visited == expected);
                // And no further than it is asked.
                if (expected.size() < 2) continue;
                std::size_t seen = 0;
                QVERIFY(pool.visit(which, from * kSmallCluster, [&](const rebuild::Pool::Spot&) {
                    return ++seen == expected.size() / 2;
                }));
                QCOMPARE(seen, expected.size() / 2);
            }
            const ByteRange taken{random() % 590 * kSmallCluster, 1 + random() % (3 * kSmallCluster)};
            bool all = true;
            for (auto at = taken.offset / kSmallCluster; at * kSmallCluster < taken.end(); ++at)
                all = all && free[at];
            QCOMPARE(pool.allFree({taken}), all);
            pool.take({taken});
            for (auto at = taken.offset / kSmallCluster; at * kSmallCluster < taken.end(); ++at)
                free[at] = false;
        }
    }
    // Of the first rows of a picture nothing is known by which a join could be judged but what follows.
    void aPieceMayEndInTheFirstRows_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<std::size_t>("cut");
        for (const auto* name :
             {"baseline-420", "other-encoder", "optimised-444", "restart-row", "four-inks"}) {
            for (const std::size_t cut : {2U, 3U, 5U}) {
                QTest::addRow("%s after %zu clusters", name, cut)
                    << QLatin1String(name) + QStringLiteral(".jpg") << cut;
            }
        }
    }
    void aPieceMayEndInTheFirstRows() {
        QFETCH(QString, name);
        QFETCH(std::size_t, cut);
        const auto layout = inTwoPieces(mediaFile(name), cut, 20);
        mustBe(join(layout), layout.places, Told::Whole);
    }
    // A hole of one cluster holds no more of a photo than that.
    void aPieceMayBeASingleCluster_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"baseline-420", "baseline-422", "other-encoder", "restart-row"})
            QTest::newRow(name) << QLatin1String(name) + QStringLiteral(".jpg");
    }
    void aPieceMayBeASingleCluster() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        const auto cut = clustersOf(file) / 3;
        Layout layout;
        layout.piece(file, 0, cut);
        layout.noise(2);
        layout.piece(file, cut, cut + 1);
        layout.noise(9);
        layout.piece(file, cut + 1, clustersOf(file));
        layout.noise(1);
        const auto joined = join(layout);
        QVERIFY(joined.has_value());
        QVERIFY(joined->told != Told::Part);
        mustBe(joined, layout.places, joined->told);
    }
    // A picture's own edges look like tears; they must not keep its true end from being tried.
    void edgesOfThePictureAreNoEnds() {
        const auto file = mediaFile(QStringLiteral("shelves.jpg"));
        for (const std::size_t cut : {28U, 50U, 62U, 74U, 96U, 108U, 120U}) {
            const auto layout = inTwoPieces(file, cut);
            const auto joined = join(layout);
            QVERIFY2(joined && joined->told != Told::Part, qPrintable(QString::number(cut)));
            mustBe(joined, layout.places, joined->told);
        }
    }
    // Where such an edge lies just at a join, the rows do not go on as rows do. With nothing smoother to go
    // on with it is taken for what it is.
    void anEdgeMayLieAtAJoin() {
        const auto file = mediaFile(QStringLiteral("shelves.jpg"));
        int rough = 0;
        for (const std::size_t cut : {69U, 104U, 124U}) {
            const auto layout = inTwoPieces(file, cut);
            const auto joined = join(layout, {}, {.time = std::chrono::milliseconds(250)});
            if (joined && joined->told != Told::Part) continue;
            const auto again = join(layout, {}, {.time = std::chrono::seconds(4), .rough = true});
            QVERIFY2(again && again->told != Told::Part, qPrintable(QString::number(cut)));
            mustBe(again, layout.places, again->told);
            ++rough;
        }
        QVERIFY(rough > 0);
    }
    // What takes longer to look at is shown while it is looked at, the rest as it was, and last as it is.
    void whatTakesLongIsShownOnTheWay() {
        for (const auto* name : {"baseline-422.jpg", "progressive.jpg"}) {
            const auto file = mediaFile(QString::fromLatin1(name));
            const auto layout = inTwoPieces(file, clustersOf(file) / 4);
            auto view = cards_.viewOf(layout.bytes);
            const Control control;
            const rebuild::Pool pool(view, {}, kSmallCluster, 0, control);
            rebuild::PhotoSplice bench(view, pool, kSmallCluster);
            const auto whole = bench.look(layout.places, 300);
            QVERIFY(whole.complete && !whole.soFar);
            auto moved = layout.places;
            moved[0].length -= kSmallCluster;
            bench.look(moved, 300);
            std::vector<rebuild::SpliceLook> glimpses;
            const auto again =
                bench.look(layout.places, 300, {[&](const auto& look) { glimpses.push_back(look); }, {}});
            QVERIFY(again.complete && !again.soFar);
            QCOMPARE(again.picture.rgb, whole.picture.rgb);
            QVERIFY(glimpses.size() > 2);
            for (std::size_t i = 0; i < glimpses.size(); ++i) {
                QVERIFY(glimpses[i].soFar);
                QVERIFY(i == 0 || glimpses[i].reached >= glimpses[i - 1].reached);
                QCOMPARE(glimpses[i].picture.rgb.size(), whole.picture.rgb.size());
            }
            QCOMPARE(glimpses.back().picture.rgb, whole.picture.rgb);
            // A change that is seen at once is shown once.
            int shown = 0;
            bench.look(moved, 300, {[&](const auto&) { ++shown; }, std::chrono::hours(1)});
            QCOMPARE(shown, 0);
        }
    }
    // What is done once is not done again: a call that may take nearly no time goes on where the last
    // stopped.
    void aFurtherCallGoesOn() {
        const auto file = mediaFile(QStringLiteral("baseline-422.jpg"));
        const auto third = clustersOf(file) / 3;
        Layout layout;
        layout.noise(300);
        layout.piece(file, 0, third);
        layout.noise(40);
        layout.piece(file, third, 2 * third);
        layout.noise(80);
        layout.piece(file, 2 * third, clustersOf(file));
        const auto trials = rebuild::newPhotoTrials();
        const rebuild::PhotoJoinLimits two{.pieces = 2};
        const auto first = join(layout, {}, two, trials);
        QVERIFY(!first || first->told == Told::Part);
        mustBe(join(layout, {}, {}, trials), layout.places, Told::Whole);
        // And does not give what another has taken since.
        const auto without = join(layout, {layout.places[1]}, {}, trials);
        QVERIFY(!without || without->told == Told::Part);
        if (without) {
            for (const auto& place : without->places) QVERIFY(!place.overlaps(layout.places[1]));
        }
    }
    // Another place that fits as well makes a join doubtful, in more pieces than two; the same bytes once
    // more do not.
    void whatFitsAsWellMakesItDoubtful_data() {
        QTest::addColumn<QString>("beside");
        QTest::addColumn<bool>("sure");
        QTest::newRow("nothing") << QString() << true;
        QTest::newRow("a copy of the piece") << QStringLiteral("copy") << true;
        QTest::newRow("the piece with a row of its own repeated") << QStringLiteral("repeated") << false;
    }
    void whatFitsAsWellMakesItDoubtful() {
        QFETCH(QString, beside);
        QFETCH(bool, sure);
        const auto file = mediaFile(QStringLiteral("restart-row.jpg"));
        const auto cut = clustersOf(file) / 3, end = 2 * cut;
        Layout layout;
        layout.piece(file, 0, cut);
        layout.noise(5);
        layout.piece(file, cut, end);
        layout.noise(5);
        layout.piece(file, end, clustersOf(file));
        layout.noise(5);
        if (beside == QStringLiteral("copy")) layout.lay(file, cut * kSmallCluster, end * kSmallCluster);
        if (beside == QStringLiteral("repeated")) {
            const auto changed = withARowRepeated(file, cut * kSmallCluster);
            layout.lay(changed, cut * kSmallCluster, end * kSmallCluster);
        }
        layout.noise(5);
        mustBe(join(layout), layout.places, sure ? Told::Whole : Told::Untold);
    }
    // Its last blocks alone, less than a row of them, could be any photo's.
    void aLastPieceOfAFewBlocksIsNotTold() {
        const auto file = mediaFile(QStringLiteral("baseline-422.jpg"));
        // A comment moves it so that the last cluster holds only its end.
        const auto filling = (kSmallCluster + 40 - file.size() % kSmallCluster) % kSmallCluster;
        QVERIFY(filling > 4);
        Buffer moved(file.begin(), file.begin() + 2);
        for (const auto byte :
             {std::size_t{0xff}, std::size_t{0xfe}, (filling - 2) >> 8, (filling - 2) & 0xff})
            moved.push_back(static_cast<std::uint8_t>(byte));
        moved.resize(2 + filling, 'x');
        moved.insert(moved.end(), file.begin() + 2, file.end());
        const auto clusters = clustersOf(moved);
        QCOMPARE(moved.size() % kSmallCluster, std::size_t{40});
        Layout layout;
        layout.piece(moved, 0, clusters - 1);
        layout.noise(7);
        layout.piece(moved, clusters - 1, clusters);
        layout.noise(7);
        mustBe(join(layout), layout.places, Told::Untold);
    }
    // Without its end a photo is never told, whatever else there is: other photos' ends among it.
    void aPhotoWithoutItsEndIsNotCompleted_data() {
        QTest::addColumn<QString>("name");
        for (const auto* name : {"baseline-420", "restart-row", "other-encoder", "baseline-422"})
            QTest::newRow(name) << QLatin1String(name) + QStringLiteral(".jpg");
    }
    void aPhotoWithoutItsEndIsNotCompleted() {
        QFETCH(QString, name);
        const auto file = mediaFile(name);
        Layout layout;
        layout.piece(file, 0, clustersOf(file) / 2);
        for (const auto* other :
             {"baseline-420", "restart-row", "other-encoder", "restart-five", "baseline-422"}) {
            const auto foreign = mediaFile(QLatin1String(other) + QStringLiteral(".jpg"));
            if (foreign == file) continue;
            layout.noise(4);
            layout.lay(foreign, foreign.size() / 3 / kSmallCluster * kSmallCluster, foreign.size());
        }
        const auto joined = join(layout, {}, {std::chrono::milliseconds(400)});
        QVERIFY(!joined || joined->told == Told::Part);
    }
};

QTEST_GUILESS_MAIN(TestPhotoJoins)
#include "test_photo_joins.moc"
