#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <SQLiteCpp/SQLiteCpp.h>

#include <nlohmann/json.hpp>

#include "job/finding_json.h"
#include "job/job.h"
#include "job/rows.h"

using namespace dreskel;

class TestJob : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    static Finding sample(std::int64_t id) {
        Finding finding;
        finding.id = id;
        finding.kind = Kind::Photo;
        finding.format = "jpeg";
        finding.pieces = {{PieceFrom::Card, 4096, 1000, {}},
                          {PieceFrom::Fill, 0, 512, "unreadable"},
                          {PieceFrom::Card, 9000, 77, {}}};
        finding.condition = Condition::Partial;
        finding.decoded = 0.75;
        finding.why = "a wrong restart number";
        finding.bySignature = true;
        finding.description.width = 3000;
        finding.description.height = 2000;
        finding.description.taken = "2026-05-02T07:41:10";
        finding.description.camera = "Orrery K2";
        finding.description.orientation = 6;
        finding.decodedMap = {255, 128, 0};
        finding.joins = {{1000, 0.9, "edges fit"}};
        finding.notes = {"a note"};
        finding.sameAs = 3;
        finding.evidence.range = {4096, 1589};
        finding.evidence.proven = 1000;
        finding.evidence.condition = Condition::Partial;
        finding.evidence.mediaData = {{600, 989}};
        return finding;
    }

  private Q_SLOTS:
    void whatWasSetOnTheBenchComesBack() {
        QTemporaryDir dir;
        const auto folder = dir.filePath(QStringLiteral("job")).toStdString();
        {
            auto job = Job::open(folder, Job::Access::Write);
            QVERIFY(job.ok());
            QVERIFY(job.value()->putLending({81920, "", 4096, false}).ok());
            QVERIFY(job.value()->putLending({40960, "/media/other/GOOD.MP4", 0, false}).ok());
            QVERIFY(job.value()->lendingCarriedOut(81920).ok());
            QVERIFY(job.value()->putSplice({12288, "jpeg", {{12288, 4096}, {65536, 100}}}).ok());
            QVERIFY(job.value()->commit().ok());
        }
        {
            auto job = Job::open(folder, Job::Access::Write);
            const auto lendings = job.value()->lendings();
            QCOMPARE(lendings.size(), std::size_t{2});
            QCOMPARE(lendings[0].path, std::string("/media/other/GOOD.MP4"));
            QVERIFY(!lendings[0].carriedOut);
            QVERIFY(lendings[1].start == 81920 && lendings[1].from == 4096 && lendings[1].carriedOut);
            const auto splices = job.value()->splices();
            QCOMPARE(splices.size(), std::size_t{1});
            QVERIFY(splices[0].places == (std::vector<ByteRange>{{12288, 4096}, {65536, 100}}));
            // Chosen anew, it is to be carried out again.
            QVERIFY(job.value()->putLending({81920, "", 8192, false}).ok());
            QVERIFY(job.value()->dropSplice(12288).ok());
            QVERIFY(job.value()->commit().ok());
        }
        const auto job = Job::open(folder, Job::Access::Read);
        QVERIFY(job.value()->splices().empty());
        const auto again = job.value()->lendings();
        QVERIFY(again.size() == 2 && again[1].from == 8192 && !again[1].carriedOut);
    }
    void findingsComeBackAsTheyWere() {
        const auto before = sample(7);
        const auto after = findingFrom(recordOf(before));
        QVERIFY(after.has_value());
        QVERIFY(after->pieces == before.pieces);
        QVERIFY(after->condition == before.condition);
        QCOMPARE(after->description.orientation, 6);
        QCOMPARE(after->description.camera, before.description.camera);
        QCOMPARE(after->why, before.why);
        QVERIFY(after->decodedMap == before.decodedMap);
        QCOMPARE(after->sameAs, before.sameAs);
        QVERIFY(!after->inside && !after->description.duration);
        QVERIFY(after->evidence.mediaData == before.evidence.mediaData);
        QCOMPARE(after->joins.size(), std::size_t{1});
        QVERIFY(!findingFrom("{\"id\": 1}"));
        QVERIFY(!findingFrom("not json"));
    }
    void entriesAreAsPromised() {
        const auto entry = entryOf(sample(7));
        for (const auto* key :
             {"id", "kind", "format", "size", "pieces", "condition", "decoded", "name", "folder", "found_by",
              "taken", "camera", "width", "height", "duration", "joins", "inside", "same_as", "notes"}) {
            QVERIFY2(entry.contains(key), key);
        }
        QVERIFY(entry["name"].is_null());
        QVERIFY(entry["duration"].is_null());
        QCOMPARE(entry["size"].get<std::uint64_t>(), std::uint64_t{1589});
        QCOMPARE(entry["pieces"][1]["from"].get<std::string>(), std::string("fill"));
        QVERIFY(entry["pieces"][1].contains("why"));
        QCOMPARE(entry["notes"][0].get<std::string>(), std::string("a wrong restart number"));
    }
    void keepsEverythingOverReopening() {
        const auto folder = dir_.filePath(QStringLiteral("one")).toStdString();
        {
            auto job = Job::open(folder, Job::Access::Write);
            QVERIFY(job.ok());
            auto& open = *job.value();
            QVERIFY(open.setSource({"/cards/a.img", 1 << 30, 512}).ok());
            ScanRecord record;
            record.state = ScanState::Reading;
            record.span = {512, 4096};
            record.position = 1024;
            record.formats = {"jpeg"};
            record.surface = {1, 2, 255};
            QVERIFY(open.setScan(record).ok());
            QVERIFY(open.addUnreadable({{1024, 512}}).ok());
            QVERIFY(open.addCandidates({{512, "jpeg"}, {~std::uint64_t{0} >> 1, "wav"}}).ok());
            QVERIFY(open.closeCandidate(512).ok());
            QVERIFY(open.putFinding(sample(1)).ok());
            QVERIFY(open.setDecision(1, {true, false, 4, "the miller’s wheel"}).ok());
            QVERIFY(open.setNote("wants the wheel most").ok());
            QVERIFY(open.setWishes({{"the wheel", true, {1}}, {"the sluice at dusk", false, {}}}).ok());
            QVERIFY(open.putPreview(1, {{1, 2, 3}, {-5, 5}}).ok());
            QVERIFY(open.commit().ok());
            // Found again in another state: the decision stays.
            auto changed = sample(1);
            changed.condition = Condition::Whole;
            QVERIFY(open.putFinding(changed).ok());
        }
        const auto job = Job::open(folder, Job::Access::Read);
        QVERIFY(job.ok());
        QCOMPARE(job.value()->source()->size, std::uint64_t{1} << 30);
        const auto record = job.value()->scan();
        QVERIFY(record.state == ScanState::Reading);
        QCOMPARE(record.position, std::uint64_t{1024});
        QVERIFY(record.surface == (std::vector<std::uint8_t>{1, 2, 255}));
        QCOMPARE(job.value()->unreadable().size(), std::size_t{1});
        QCOMPARE(job.value()->openCandidates().size(), std::size_t{1});
        const auto findings = job.value()->findings();
        QCOMPARE(findings.size(), std::size_t{1});
        QVERIFY(findings[0].decision == (Decision{true, false, 4, "the miller’s wheel"}));
        QCOMPARE(job.value()->note(), std::string("wants the wheel most"));
        QVERIFY(job.value()->wishes() ==
                (std::vector<Wish>{{"the wheel", true, {1}}, {"the sluice at dusk", false, {}}}));
        QVERIFY(findings[0].condition == Condition::Whole);
        QVERIFY(job.value()->preview(1).peaks == (std::vector<std::int8_t>{-5, 5}));
    }
    void rowsAreWhereTheyDecoded() {
        Finding photo;
        photo.kind = Kind::Photo;
        photo.condition = Condition::Partial;
        photo.decoded = 0.25;
        QCOMPARE(rowsThere(photo).from, 0.0);
        QCOMPARE(rowsThere(photo).to, 0.25);
        photo.decodedMap = {255, 0, 0, 0};
        QCOMPARE(rowsThere(photo).to, 0.25);
        photo.decodedMap = {0, 0, 51, 255};  // without its beginning
        photo.decoded = 0.3;
        QVERIFY(std::abs(rowsThere(photo).from - 0.7) < 1e-9);
        QCOMPARE(rowsThere(photo).to, 1.0);
        photo.description.codec = "JPEG, progressive";
        QCOMPARE(rowsThere(photo).from, 0.0);
        photo.description.codec.clear();
        photo.condition = Condition::Whole;
        QCOMPARE(rowsThere(photo).from, 0.0);
    }
    // A job as the first schema had it: read as it is, brought up to date when it is written.
    void anOlderJobIsTakenUp() {
        const auto folder = dir_.filePath(QStringLiteral("older")).toStdString();
        {
            auto job = Job::open(folder, Job::Access::Write);
            QVERIFY(job.ok() && job.value()->putFinding(sample(1)).ok());
        }
        {
            SQLite::Database database(folder + "/job.sqlite", SQLite::OPEN_READWRITE);
            database.exec(
                "DROP TABLE decisions; DROP TABLE wishes;"
                "CREATE TABLE decisions (id INTEGER PRIMARY KEY, kept INTEGER NOT NULL);"
                "INSERT INTO decisions VALUES (1, 1); PRAGMA user_version = 1");
        }
        {
            const auto seen = Job::open(folder, Job::Access::Read);
            QVERIFY(seen.ok());
            QVERIFY(seen.value()->findings().at(0).decision.kept);
            QVERIFY(seen.value()->wishes().empty());
        }
        const auto job = Job::open(folder, Job::Access::Write);
        QVERIFY(job.ok());
        QVERIFY(job.value()->findings().at(0).decision.kept);
        QVERIFY(job.value()->setDecision(1, {false, true, 2, "blurred"}).ok());
        QVERIFY(job.value()->findings().at(0).decision == (Decision{false, true, 2, "blurred"}));
        QVERIFY(job.value()->setWishes({{"one", false, {}}}).ok());
    }
    // What a newer one may mean is not known: it is neither read nor touched.
    void aNewerJobIsLeftAlone() {
        const auto folder = dir_.filePath(QStringLiteral("newer")).toStdString();
        QVERIFY(Job::open(folder, Job::Access::Write).ok());
        SQLite::Database(folder + "/job.sqlite", SQLite::OPEN_READWRITE).exec("PRAGMA user_version = 99");
        for (const auto access : {Job::Access::Read, Job::Access::Write})
            QVERIFY(!Job::open(folder, access).ok());
        QCOMPARE(SQLite::Database(folder + "/job.sqlite").execAndGet("PRAGMA user_version").getInt(), 99);
    }
    void oneWriterManyReaders() {
        const auto folder = dir_.filePath(QStringLiteral("two")).toStdString();
        auto writer = Job::open(folder, Job::Access::Write);
        QVERIFY(writer.ok());
        const auto second = Job::open(folder, Job::Access::Write);
        QVERIFY(!second.ok());
        QVERIFY(!second.error().advice.empty());
        QVERIFY(writer.value()->putFinding(sample(1)).ok());
        const auto reader = Job::open(folder, Job::Access::Read);
        QVERIFY(reader.ok());
        QCOMPARE(reader.value()->findings().size(), std::size_t{0});  // not committed yet
        QVERIFY(writer.value()->commit().ok());
        QCOMPARE(reader.value()->findings().size(), std::size_t{1});
    }
    void refusesWhatIsNoJob() {
        QVERIFY(!Job::open(dir_.filePath(QStringLiteral("none")).toStdString(), Job::Access::Read).ok());
        const auto folder = dir_.filePath(QStringLiteral("junk"));
        QVERIFY(QDir().mkpath(folder));
        QFile junk(folder + QStringLiteral("/job.sqlite"));
        QVERIFY(junk.open(QIODevice::WriteOnly));
        junk.write(QByteArray(8192, 'x'));
        junk.close();
        const auto job = Job::open(folder.toStdString(), Job::Access::Write);
        QVERIFY(!job.ok());
        QVERIFY(!job.error().what.empty());
    }
};

QTEST_GUILESS_MAIN(TestJob)
#include "test_job.moc"
