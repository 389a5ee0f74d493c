#include <QTemporaryDir>
#include <QTest>

#include "scan/belongings.h"
#include "scan/claims.h"
#include "scan/open_files.h"
#include "scan/takes.h"
#include "tests/support/support.h"

using namespace dreskel;
using namespace dreskel::test;

class TestClaims : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::shared_ptr<CardView> card_;

    static Finding file(std::int64_t id, Kind kind, ByteRange range, Condition condition,
                        std::uint64_t proven = 0) {
        Finding finding;
        finding.id = id;
        finding.kind = kind;
        finding.format = kind == Kind::Photo ? "jpeg" : kind == Kind::Video ? "mp4" : "wav";
        finding.evidence.range = range;
        finding.evidence.condition = condition;
        finding.evidence.proven = condition == Condition::Whole ? range.length : proven;
        finding.evidence.decoded = condition == Condition::Whole ? 1.0 : 0.5;
        if (kind != Kind::Photo) finding.evidence.mediaData = {{512, range.length - 512}};
        return finding;
    }
    static void noByteTwice(const Claims& claims) {
        RangeSet seen;
        for (const auto& [id, finding] : claims.all()) {
            if (!finding.listed()) continue;
            for (const auto& piece : finding.pieces) {
                if (piece.from != PieceFrom::Card) continue;
                QVERIFY2(!seen.intersects(piece.onCard()),
                         qPrintable(QStringLiteral("file %1 counts bytes again").arg(id)));
                seen.add(piece.onCard());
            }
        }
    }

  private Q_SLOTS:
    // Notes and previews whose place the file states are its own, though its coded data are not all there.
    void whatAPhotoEnclosesStaysInside() {
        const auto insideOf = [&](ByteRange enclosed, Condition condition,
                                  std::vector<ByteRange> places = {}) {
            Claims claims(*card_);
            auto outer = file(1, Kind::Photo, {0, 1 << 20}, Condition::Partial, 4096);
            outer.evidence.enclosed = {enclosed};
            outer.evidence.places = std::move(places);
            claims.add(outer);
            claims.add(file(2, Kind::Sidecar, {8192, 4096}, condition));
            claims.settle();
            return claims.all().at(2).inside.has_value();
        };
        QVERIFY(insideOf({8192, 5000}, Condition::Whole));
        QVERIFY(!insideOf({8192, 4000}, Condition::Whole));
        QVERIFY(!insideOf({7680, 9000}, Condition::Whole));
        QVERIFY(!insideOf({8192, 5000}, Condition::Partial));
        // In pieces it is the file's byte that counts, not the card's.
        const std::vector<ByteRange> pieces{{0, 512}, {4096, 1 << 19}};
        QVERIFY(insideOf({512 + 4096, 5000}, Condition::Whole, pieces));
        QVERIFY(!insideOf({8192, 5000}, Condition::Whole, pieces));
    }
    // A photo's tail was overwritten by what came after it on the card.
    void whatIsNoPreviewIsNotInside() {
        const auto insideOf = [&](Condition outer, Kind kind, ByteRange range) {
            Claims claims(*card_);
            claims.add(file(1, Kind::Photo, {0, 1 << 20}, outer, 900000));
            claims.add(file(2, kind, range, Condition::Whole));
            claims.settle();
            noByteTwice(claims);
            return claims.all().at(2).inside.has_value();
        };
        const ByteRange early{8192, 4096};
        QVERIFY(insideOf(Condition::Partial, Kind::Photo, early));
        QVERIFY(!insideOf(Condition::Partial, Kind::Audio, early));
        QVERIFY(!insideOf(Condition::Unchecked, Kind::Video, early));
        QVERIFY(!insideOf(Condition::Partial, Kind::Photo, {8192, 2 << 20}));
        QVERIFY(insideOf(Condition::Whole, Kind::Audio, early));
    }
    // Bytes that decode whatever they are do not hide a file that is only there in part.
    void plainSamplesHideNothing() {
        const auto insideOf = [&](Notices notices, std::uint64_t proven) {
            Claims claims(*card_);
            auto sound = file(1, Kind::Audio, {0, 1 << 20}, Condition::Whole);
            sound.evidence.notices = notices;
            claims.add(sound);
            claims.add(file(2, Kind::Photo, {65536, 1 << 18}, Condition::Partial, proven));
            claims.settle();
            noByteTwice(claims);
            const auto& all = claims.all();
            return all.at(2).inside.has_value() && all.at(1).condition == Condition::Whole;
        };
        QVERIFY(insideOf(Notices::ForeignBytes, 60000));
        QVERIFY(!insideOf(Notices::ForeignKinds, 60000));
        QVERIFY(!insideOf(Notices::Nothing, 60000));
        QVERIFY(insideOf(Notices::ForeignKinds, 200));
    }
    void sidecarsAreTiedToTheirFiles() {
        std::map<std::int64_t, Finding> files;
        const auto add = [&](Kind kind, const char* format, const char* name, std::uint64_t at) -> Finding& {
            Finding file;
            file.id = static_cast<std::int64_t>(files.size()) + 1;
            file.kind = kind;
            file.format = format;
            file.name = name;
            file.folder = file.name.empty() ? "" : "DCIM/100MILLS";
            file.evidence.range = {at, 1000};
            file.pieces = {{PieceFrom::Card, at, 1000, {}}};
            return files[file.id] = file;
        };
        add(Kind::Photo, "jpeg", "MILL0001.JPG", 0);
        add(Kind::Video, "mp4", "MILL0001.MP4", 1 << 20);
        add(Kind::Sidecar, "xmp", "mill0001.xmp", 2 << 20);
        add(Kind::Photo, "jpeg", "MILL0001.THM", 3 << 20);
        add(Kind::Audio, "wav", "MILL0001.WAV", 4 << 20);
        add(Kind::Audio, "wav", "MILL0002.WAV", 5 << 20);
        add(Kind::Sidecar, "xmp", "MILL0001.JPG.xmp", 6 << 20);
        add(Kind::Video, "mp4", "", 8 << 20).description.duration = 30;
        add(Kind::Video, "mp4", "", 20 << 20).description.duration = 30.4;
        add(Kind::Video, "mp4", "", 10 << 20).description = {};
        add(Kind::Sidecar, "srt", "", 19 << 20).description.duration = 30;
        add(Kind::Sidecar, "srt", "", 9 << 20).description.duration = 300;
        files[10].description.taken = "2026-05-02T07:46:10+02:00";
        auto& thumbnail = add(Kind::Photo, "jpeg", "", 30 << 20);
        thumbnail.description.taken = "2026-05-02T07:46:10";
        thumbnail.description.width = 160;
        const auto ties = belongings(files);
        const auto owner = [&](std::int64_t id) { return ties.contains(id) ? ties.at(id).to : 0; };
        QCOMPARE(owner(3), 1);
        QCOMPARE(owner(4), 2);
        QCOMPARE(owner(5), 1);
        QCOMPARE(owner(6), 0);  // a recording of its own
        QCOMPARE(owner(7), 1);
        QCOMPARE(owner(11), 9);
        QCOMPARE(owner(12), 0);
        QCOMPARE(owner(13), 10);
        QCOMPARE(ties.size(), std::size_t{6});
    }
    void clipsOfOneTakeBelongTogether() {
        std::map<std::int64_t, Finding> files;
        const auto add = [&](const char* taken, double seconds, std::uint32_t width, std::uint64_t bytes) {
            const auto id = static_cast<std::int64_t>(files.size() + 1);
            auto& clip = files[id];
            clip.id = id;
            clip.kind = Kind::Video;
            clip.format = "mp4";
            clip.pieces = {{PieceFrom::Card, static_cast<std::uint64_t>(id) << 32, bytes, {}}};
            clip.description.taken = taken;
            clip.description.duration = seconds;
            clip.description.width = width;
            clip.description.height = width / 16 * 9;
            clip.description.frameRate = 25;
        };
        add("2026-05-02T07:00:00Z", 600.4, 1920, 2000000000);  // 1: a long take in three chapters
        add("2026-05-02T07:10:00Z", 600.4, 1920, 2000000000);
        add("2026-05-02T07:20:01Z", 100.0, 1920, 300000000);
        add("2026-05-02T07:21:50Z", 30.0, 1920, 100000000);  // 4: ten seconds later, another take
        add("2026-05-02T09:00:00Z", 61.0, 3840, 500000000);  // 5: a clip and its proxy
        add("2026-05-02T09:00:00Z", 61.1, 640, 20000000);
        add("2026-05-02T10:00:00Z", 33.0, 2880, 300000000);  // 7: two lenses
        add("2026-05-02T10:00:00Z", 33.0, 2880, 310000000);
        add("2026-05-02T11:00:00Z", 33.0, 2880, 300000000);  // 9: the same second, but not one take
        add("2026-05-02T11:00:00Z", 12.0, 2880, 100000000);
        add("2026-05-02T12:00:00Z", 530.0, 3840, 4000000000);  // 11: all dated alike, cut by size
        add("2026-05-02T12:00:00Z", 530.1, 3840, 4000000000);
        add("2026-05-02T12:00:00Z", 20.0, 3840, 150000000);
        add("", 33.0, 2880, 300000000);
        const auto ties = takes(files);
        std::map<std::int64_t, std::int64_t> owners;
        for (const auto& [id, tie] : ties) owners[id] = tie.to;
        QCOMPARE(owners,
                 (std::map<std::int64_t, std::int64_t>{{2, 1}, {3, 1}, {6, 5}, {8, 7}, {12, 11}, {13, 11}}));
    }
    void init() {
        const auto path = dir_.filePath(QStringLiteral("card.img"));
        writeFile(path, Buffer(1 << 20, 0));
        card_ = std::make_shared<CardView>(openSource(path.toStdString()).value());
    }
    void previewsStayInsideTheirParents() {
        Claims claims(*card_);
        claims.add(file(1, Kind::Photo, {0, 100000}, Condition::Whole));
        claims.add(file(2, Kind::Photo, {1024, 5000}, Condition::Whole));
        claims.settle();
        QVERIFY(!claims.all().at(1).inside);
        QCOMPARE(claims.all().at(2).inside, std::optional<std::int64_t>(1));
        noByteTwice(claims);
    }
    void aWholePhotoInTheDataOfARecordingIsNotTheRecordings() {
        Claims claims(*card_);
        claims.add(file(1, Kind::Audio, {0, 200000}, Condition::Whole));
        claims.add(file(2, Kind::Photo, {40960, 50000}, Condition::Whole));
        claims.settle();
        const auto& recording = claims.all().at(1);
        QVERIFY(recording.condition == Condition::Partial);
        QVERIFY(recording.decoded < 1);
        QVERIFY(!claims.all().at(2).inside);
        QCOMPARE(recording.size(), std::uint64_t{200000});  // what follows keeps its place
        QCOMPARE(recording.pieces.size(), std::size_t{3});
        QVERIFY(recording.pieces[1].from == PieceFrom::Fill);
        QVERIFY(!recording.pieces[1].why.empty());
        noByteTwice(claims);
    }
    void picturesOfAMotionJpegClipAreTheClips() {
        Claims claims(*card_);
        auto clip = file(1, Kind::Video, {0, 200000}, Condition::Whole);
        clip.evidence.holdsPhotos = true;
        claims.add(clip);
        claims.add(file(2, Kind::Photo, {40960, 5000}, Condition::Whole));
        claims.settle();
        QVERIFY(claims.all().at(1).condition == Condition::Whole);
        QVERIFY(claims.all().at(2).inside.has_value());
    }
    void aDamagedPhotoEndsWhereAnotherFileBegins() {
        Claims claims(*card_);
        claims.add(file(1, Kind::Photo, {0, 120000}, Condition::Partial, 70000));
        claims.add(file(2, Kind::Audio, {81920, 30000}, Condition::Whole));
        claims.settle();
        QCOMPARE(claims.all().at(1).size(), std::uint64_t{81920});
        QVERIFY(claims.all().at(2).condition == Condition::Whole);
        noByteTwice(claims);
    }
    void aClipThatCannotBeOpenedEndsWhereAnotherFileBegins() {
        Claims claims(*card_);
        claims.add(file(1, Kind::Video, {0, 900000}, Condition::Broken, 512));
        claims.add(file(2, Kind::Photo, {40960, 60000}, Condition::Whole));
        claims.settle();
        QCOMPARE(claims.all().at(1).size(), std::uint64_t{40960});
        noByteTwice(claims);
    }
    void theOrderOfArrivalDoesNotMatter() {
        std::vector<Finding> files{file(1, Kind::Video, {0, 400000}, Condition::Broken, 512),
                                   file(2, Kind::Photo, {40960, 60000}, Condition::Whole),
                                   file(3, Kind::Photo, {45056, 3000}, Condition::Whole),
                                   file(4, Kind::Photo, {204800, 90000}, Condition::Partial, 50000),
                                   file(5, Kind::Audio, {266240, 50000}, Condition::Whole)};
        std::sort(files.begin(), files.end(), [](const Finding& a, const Finding& b) { return a.id < b.id; });
        std::map<std::int64_t, std::pair<std::uint64_t, std::optional<std::int64_t>>> first;
        do {
            Claims claims(*card_);
            for (const auto& one : files) {
                claims.add(one);
                claims.settle();
                noByteTwice(claims);
            }
            std::map<std::int64_t, std::pair<std::uint64_t, std::optional<std::int64_t>>> now;
            for (const auto& [id, finding] : claims.all()) now[id] = {finding.size(), finding.inside};
            if (first.empty()) first = now;
            QVERIFY(now == first);
        } while (std::next_permutation(files.begin(), files.end(),
                                       [](const Finding& a, const Finding& b) { return a.id < b.id; }));
        QCOMPARE(first.at(3).second, std::optional<std::int64_t>(2));
    }
    void randomOverlapsNeverCountAByteTwice() {
        for (unsigned seed = 0; seed < 200; ++seed) {
            std::mt19937 random(seed);
            Claims claims(*card_);
            for (std::int64_t id = 1; id <= 12; ++id) {
                const ByteRange range{random() % 150 * 4096, 1024 + random() % 300000};
                const auto kind = std::array{Kind::Photo, Kind::Video, Kind::Audio}[random() % 3];
                const auto condition =
                    std::array{Condition::Whole, Condition::Partial, Condition::Broken}[random() % 3];
                claims.add(file(id, kind, range, condition, random() % range.length));
                if (random() % 2 == 0) claims.settle();
            }
            claims.settle();
            noByteTwice(claims);
            for (const auto& [id, finding] : claims.all()) QVERIFY(finding.inside || finding.size() > 0);
        }
    }
    void aFileOfWhichNothingIsLeftIsAnothers() {
        Claims claims(*card_);
        auto stream = file(1, Kind::Video, {300000, 400000}, Condition::Partial, 400000);
        stream.evidence.places = {{300000, 200000}, {0, 200000}};
        claims.add(stream);
        claims.add(file(2, Kind::Video, {0, 150000}, Condition::Partial));
        claims.settle();
        QCOMPARE(claims.all().at(2).inside, std::optional<std::int64_t>(1));
        QCOMPARE(claims.all().at(1).size(), std::uint64_t{400000});
        noByteTwice(claims);
    }
    // A preview that was looked through before the photo around it waits for it; nothing waits for a clip
    // that takes a card's length to be read, nor do more wait than are worth it.
    void whatIsInsideOfAnOpenFileWaits() {
        OpenFiles files;
        std::vector<Examined> done;
        const auto around = files.open(1 << 20);
        const auto add = [&](std::uint64_t start, std::vector<ByteRange> places = {}) {
            files.add({{start, "jpeg"}, {}, {}, std::move(places), {}}, done);
        };
        add(2 << 20);
        QCOMPARE(done.size(), std::size_t{1});  // nobody has begun with the one around
        around->mayReachAnywhere();
        add(2 << 20);
        add(3 << 20, {{3 << 20, 512}});
        add(1 << 20);
        add(0);
        QCOMPARE(done.size(), std::size_t{4});
        around->reaches(2 << 20);  // as far as that it has asked for, not into it
        files.release(done);
        QCOMPARE(done.size(), std::size_t{5});
        around->reaches(4 << 20);
        add((4 << 20) - 512);
        add(4 << 20);
        QCOMPARE(done.size(), std::size_t{6});
        files.close(around);
        QVERIFY(!files.empty());
        files.release(done);
        QVERIFY(files.empty());
        QCOMPARE(done.size(), std::size_t{7});
        QCOMPARE(done.back().candidate.offset, std::uint64_t{(4 << 20) - 512});

        const auto clip = files.open(0);
        clip->mayReachAnywhere();
        clip->walkedTo(OpenFiles::kFurthest);
        add(512);
        QVERIFY(!files.empty());
        clip->walkedTo(OpenFiles::kFurthest + 1);
        files.release(done);
        QVERIFY(files.empty());
        clip->mayReachAnywhere();  // its walk goes on, and holds nothing any more
        add(512);
        QVERIFY(files.empty());
        clip->reaches(OpenFiles::kFurthest);
        for (std::uint64_t i = 1; i <= OpenFiles::kMost; ++i) add(i * 512);
        QVERIFY(!files.empty());
        files.release(done);
        QVERIFY(files.empty());
    }
    void unreadableBytesKeepAFileFromBeingWhole() {
        card_->markUnreadable({5120, 512});
        Claims claims(*card_);
        claims.add(file(1, Kind::Photo, {0, 20000}, Condition::Whole));
        claims.settle();
        QVERIFY(claims.all().at(1).condition == Condition::Partial);
        QCOMPARE(claims.all().at(1).size(), std::uint64_t{20000});
    }
    void sameBytesAreMarked() {
        Claims claims(*card_);  // the card is all zeros: same length means same bytes
        claims.add(file(1, Kind::Photo, {0, 5000}, Condition::Whole));
        claims.add(file(2, Kind::Photo, {8192, 5000}, Condition::Whole));
        claims.add(file(3, Kind::Photo, {16384, 5001}, Condition::Whole));
        claims.settle();
        claims.markDuplicates(*card_);
        QCOMPARE(claims.all().at(2).sameAs, std::optional<std::int64_t>(1));
        QVERIFY(!claims.all().at(3).sameAs);
    }
};

QTEST_GUILESS_MAIN(TestClaims)
#include "test_claims.moc"
