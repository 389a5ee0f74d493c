#include "job/job.h"

#include <fcntl.h>
#include <sys/file.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <map>
#include <mutex>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "base/unique_fd.h"
#include "job/finding_json.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

constexpr int kSchema = 3;
constexpr const char* kDatabase = "job.sqlite";
constexpr std::size_t kReadAtOnce = 1000;

constexpr const char* kTables = R"(
CREATE TABLE IF NOT EXISTS facts (name TEXT PRIMARY KEY, value BLOB);
CREATE TABLE IF NOT EXISTS unreadable (offset INTEGER PRIMARY KEY, length INTEGER NOT NULL);
CREATE TABLE IF NOT EXISTS ranges (kind INTEGER, offset INTEGER, length INTEGER NOT NULL, PRIMARY KEY (kind, offset));
CREATE TABLE IF NOT EXISTS candidates (offset INTEGER PRIMARY KEY, family TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS files (id INTEGER PRIMARY KEY, record TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS decisions (id INTEGER PRIMARY KEY, kept INTEGER NOT NULL, left_out INTEGER NOT NULL DEFAULT 0,
    rating INTEGER NOT NULL DEFAULT 0, note TEXT NOT NULL DEFAULT '');
CREATE TABLE IF NOT EXISTS wishes (place INTEGER PRIMARY KEY, text TEXT NOT NULL, met INTEGER NOT NULL, files TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS splices (start INTEGER PRIMARY KEY, family TEXT NOT NULL, places TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS lendings (start INTEGER PRIMARY KEY, path TEXT NOT NULL, clip INTEGER NOT NULL, carried_out INTEGER NOT NULL);
CREATE TABLE IF NOT EXISTS made (id INTEGER, piece INTEGER, bytes BLOB NOT NULL, PRIMARY KEY (id, piece));
CREATE TABLE IF NOT EXISTS previews (id INTEGER PRIMARY KEY, picture BLOB, peaks BLOB);
CREATE TABLE IF NOT EXISTS faces (id INTEGER PRIMARY KEY, seen INTEGER NOT NULL);
)";

// What brings a job of each schema to the next one; the first from 1 to 2.
constexpr const char* kSteps[] = {
    "ALTER TABLE decisions ADD COLUMN left_out INTEGER NOT NULL DEFAULT 0;"
    "ALTER TABLE decisions ADD COLUMN rating INTEGER NOT NULL DEFAULT 0;"
    "ALTER TABLE decisions ADD COLUMN note TEXT NOT NULL DEFAULT '';",
    ""};  // the table of faces is new
static_assert(std::size(kSteps) == kSchema - 1);

Error failure(const std::string& what, const std::string& where) {
    return {Fault::Failed, what, where, "Check the room and the rights on the drive that holds the job"};
}

std::int64_t signedOf(std::uint64_t value) {
    return static_cast<std::int64_t>(value);
}
std::uint64_t unsignedOf(std::int64_t value) {
    return static_cast<std::uint64_t>(value);
}

}  // namespace

std::string_view toWord(ScanState state) {
    switch (state) {
        case ScanState::NotStarted: return "not started";
        case ScanState::Reading: return "reading";
        case ScanState::Checking: return "checking";
        case ScanState::Finished: return "finished";
    }
    return "unknown";
}

struct Job::Inside {
    std::string folder;
    UniqueFd lock;
    mutable std::mutex mutex;
    std::unique_ptr<SQLite::Database> database;
    std::map<std::string, std::unique_ptr<SQLite::Statement>> statements;
    bool inTransaction = false;
    int schema = kSchema;  // of the job as it lies there; an older one is only brought up to date for writing

    SQLite::Statement& prepared(const std::string& sql) {
        auto& statement = statements[sql];
        if (!statement) statement = std::make_unique<SQLite::Statement>(*database, sql);
        statement->reset();
        statement->clearBindings();
        return *statement;
    }
    void begin() {
        if (inTransaction) return;
        database->exec("BEGIN IMMEDIATE");
        inTransaction = true;
    }
    // Runs a change inside the open transaction.
    template <typename Change>
    Status change(Change&& apply) {
        const std::lock_guard guard(mutex);
        try {
            begin();
            apply();
            return Done{};
        } catch (const SQLite::Exception& problem) {
            return failure(std::string("The job could not be written: ") + problem.what(), folder);
        }
    }
    std::string fact(const std::string& name) {
        auto& query = prepared("SELECT value FROM facts WHERE name = ?");
        query.bind(1, name);
        if (!query.executeStep()) return {};
        const auto column = query.getColumn(0);
        return {static_cast<const char*>(column.getBlob()), static_cast<std::size_t>(column.getBytes())};
    }
    // The bytes of what was made for a file.
    void readMade(Finding& finding) {
        for (std::size_t i = 0; i < finding.pieces.size(); ++i) {
            auto& piece = finding.pieces[i];
            if (piece.from != PieceFrom::Made) continue;
            auto& query = prepared("SELECT bytes FROM made WHERE id = ? AND piece = ?");
            query.bind(1, finding.id);
            query.bind(2, static_cast<std::int64_t>(i));
            if (!query.executeStep()) continue;
            const auto column = query.getColumn(0);
            const auto* bytes = static_cast<const std::uint8_t*>(column.getBlob());
            if (static_cast<std::uint64_t>(column.getBytes()) != piece.length) continue;
            piece.made = std::make_shared<const std::vector<std::uint8_t>>(bytes, bytes + column.getBytes());
        }
        if (!finding.evidence.rebuilt.empty()) finding.evidence.rebuilt = finding.pieces;
    }
    void setFact(const std::string& name, const std::string& value) {
        auto& insert = prepared("INSERT OR REPLACE INTO facts VALUES (?, ?)");
        insert.bind(1, name);
        insert.bind(2, value.data(), static_cast<int>(value.size()));
        insert.exec();
    }
};

Job::Job(std::unique_ptr<Inside> inside) : inside_(std::move(inside)) {}

Job::~Job() {
    if (commit().ok()) return;  // nothing more can be done about it here
}

Result<std::shared_ptr<Job>> Job::open(const std::string& folder, Access access) {
    auto inside = std::make_unique<Inside>();
    std::error_code failed;
    inside->folder = fs::absolute(folder, failed).string();
    const auto path = fs::path(inside->folder) / kDatabase;
    const bool writing = access == Access::Write;
    if (writing) {
        fs::create_directories(inside->folder, failed);
        if (failed) return failure("The job's folder could not be made: " + failed.message(), folder);
        inside->lock =
            UniqueFd(::open((fs::path(inside->folder) / "lock").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644));
        if (!inside->lock)
            return failure(std::string("The job cannot be written: ") + std::strerror(errno), folder);
        if (::flock(inside->lock.get(), LOCK_EX | LOCK_NB) != 0) {
            return Error{Fault::Failed, "This job is being worked on by another Dreskel", folder,
                         "Stop the other one first; listing and saving work meanwhile"};
        }
    } else if (!fs::exists(path, failed)) {
        return Error{Fault::Failed, "There is no job here", folder, "Name a folder that `scan --job` made"};
    }
    try {
        const int flags = writing ? SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE : SQLite::OPEN_READWRITE;
        inside->database = std::make_unique<SQLite::Database>(path.string(), flags, 5000);
        auto& database = *inside->database;
        // Before anything is written: what a newer program made is left as it is.
        const int schema = database.execAndGet("PRAGMA user_version").getInt();
        if (schema > kSchema) {
            return Error{Fault::Failed, "This job was made by a newer Dreskel", folder, "Use that one"};
        }
        if (writing) {
            database.exec("PRAGMA journal_mode = WAL");
            database.exec("PRAGMA synchronous = NORMAL");
            database.exec("BEGIN IMMEDIATE");
            for (int step = schema; step > 0 && step < kSchema; ++step) database.exec(kSteps[step - 1]);
            database.exec(kTables);
            database.exec("PRAGMA user_version = " + std::to_string(kSchema));
            database.exec("COMMIT");
        } else {
            database.exec("PRAGMA query_only = 1");
        }
        if (!writing) inside->schema = schema;
    } catch (const SQLite::Exception& problem) {
        return failure(std::string("The job could not be opened: ") + problem.what(), folder);
    }
    return std::shared_ptr<Job>(new Job(std::move(inside)));
}

const std::string& Job::folder() const {
    return inside_->folder;
}

std::optional<SourceFacts> Job::source() const {
    const std::lock_guard guard(inside_->mutex);
    const auto text = inside_->fact("source");
    const auto json = jsonFrom(text);
    if (!json.is_object()) return std::nullopt;
    return SourceFacts{json.value("path", std::string()), json.value("size", std::uint64_t{0}),
                       json.value("sector_size", 512U), json.value("copy_of", std::string()),
                       json.value("serial", std::string())};
}

Status Job::setSource(const SourceFacts& facts) {
    const nlohmann::json json{{"path", facts.path},
                              {"size", facts.size},
                              {"sector_size", facts.sectorSize},
                              {"copy_of", facts.copyOf},
                              {"serial", facts.serial}};
    return inside_->change([&] { inside_->setFact("source", jsonText(json)); });
}

ScanRecord Job::scan() const {
    const std::lock_guard guard(inside_->mutex);
    ScanRecord record;
    const auto json = jsonFrom(inside_->fact("scan"));
    if (!json.is_object()) return record;
    record.state = static_cast<ScanState>(json.value("state", 0));
    record.span = {json.value("from", std::uint64_t{0}), json.value("length", std::uint64_t{0})};
    record.position = json.value("position", std::uint64_t{0});
    record.formats = json.value("formats", std::vector<std::string>());
    record.skipPresent = json.value("skip_present", false);
    record.namedOnly = json.value("named_only", false);
    record.references = json.value("references", std::vector<std::string>());
    const auto surface = inside_->fact("surface");
    record.surface.assign(surface.begin(), surface.end());
    return record;
}

Status Job::setScan(const ScanRecord& record) {
    const nlohmann::json json{{"state", static_cast<int>(record.state)},
                              {"from", record.span.offset},
                              {"length", record.span.length},
                              {"position", record.position},
                              {"formats", record.formats},
                              {"skip_present", record.skipPresent},
                              {"named_only", record.namedOnly},
                              {"references", record.references}};
    return inside_->change([&] {
        inside_->setFact("scan", jsonText(json));
        inside_->setFact("surface", std::string(record.surface.begin(), record.surface.end()));
    });
}

std::vector<ByteRange> Job::unreadable() const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<ByteRange> ranges;
    auto& query = inside_->prepared("SELECT offset, length FROM unreadable ORDER BY offset");
    while (query.executeStep()) {
        ranges.push_back(
            {unsignedOf(query.getColumn(0).getInt64()), unsignedOf(query.getColumn(1).getInt64())});
    }
    return ranges;
}

Status Job::addUnreadable(const std::vector<ByteRange>& ranges) {
    return inside_->change([&] {
        for (const auto& range : ranges) {
            auto& insert = inside_->prepared("INSERT OR REPLACE INTO unreadable VALUES (?, ?)");
            insert.bind(1, signedOf(range.offset));
            insert.bind(2, signedOf(range.length));
            insert.exec();
        }
    });
}

Status Job::setUnreadable(const std::vector<ByteRange>& ranges) {
    auto cleared = inside_->change([&] { inside_->prepared("DELETE FROM unreadable").exec(); });
    return cleared ? addUnreadable(ranges) : cleared;
}

std::vector<ByteRange> Job::ranges(RangeKind kind) const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<ByteRange> ranges;
    // A job from before there was a ledger has no such table until it is opened for writing.
    if (!inside_->database->tableExists("ranges")) return ranges;
    auto& query = inside_->prepared("SELECT offset, length FROM ranges WHERE kind = ? ORDER BY offset");
    query.bind(1, static_cast<int>(kind));
    while (query.executeStep()) {
        ranges.push_back(
            {unsignedOf(query.getColumn(0).getInt64()), unsignedOf(query.getColumn(1).getInt64())});
    }
    return ranges;
}

Status Job::addRanges(RangeKind kind, const std::vector<ByteRange>& ranges) {
    return inside_->change([&] {
        for (const auto& range : ranges) {
            auto& insert = inside_->prepared("INSERT OR REPLACE INTO ranges VALUES (?, ?, ?)");
            insert.bind(1, static_cast<int>(kind));
            insert.bind(2, signedOf(range.offset));
            insert.bind(3, signedOf(range.length));
            insert.exec();
        }
    });
}

std::vector<Candidate> Job::openCandidates() const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<Candidate> all;
    auto& query = inside_->prepared("SELECT offset, family FROM candidates ORDER BY offset");
    while (query.executeStep()) {
        all.push_back({unsignedOf(query.getColumn(0).getInt64()), query.getColumn(1).getString()});
    }
    return all;
}

Status Job::addCandidates(const std::vector<Candidate>& candidates) {
    return inside_->change([&] {
        for (const auto& candidate : candidates) {
            auto& insert = inside_->prepared("INSERT OR REPLACE INTO candidates VALUES (?, ?)");
            insert.bind(1, signedOf(candidate.offset));
            insert.bind(2, candidate.family);
            insert.exec();
        }
    });
}

Status Job::closeCandidate(std::uint64_t offset) {
    return inside_->change([&] {
        auto& remove = inside_->prepared("DELETE FROM candidates WHERE offset = ?");
        remove.bind(1, signedOf(offset));
        remove.exec();
    });
}

std::vector<Finding> Job::findings(std::size_t* lost) const {
    std::vector<Finding> all;
    if (lost != nullptr) *lost = 0;
    for (std::int64_t id = INT64_MIN;;) {
        const auto before = id;
        auto some = findingsAfter(id, kReadAtOnce, lost);
        all.insert(all.end(), std::make_move_iterator(some.begin()), std::make_move_iterator(some.end()));
        if (id == before) return all;
    }
}

std::vector<Finding> Job::findingsAfter(std::int64_t& id, std::size_t most, std::size_t* lost) const {
    struct Row {
        std::string record;
        Decision decision;
        std::optional<std::uint32_t> faces;
    };
    std::vector<Row> rows;
    {
        const std::lock_guard guard(inside_->mutex);
        const std::string decisions = inside_->schema < 2 ? "kept, 0, 0, ''" : "kept, left_out, rating, note";
        const bool faces = inside_->schema >= 3;
        auto& query = inside_->prepared(
            "SELECT files.id, record, " + decisions + (faces ? ", seen" : ", NULL") +
            " FROM files LEFT JOIN decisions USING (id)" + (faces ? " LEFT JOIN faces USING (id)" : "") +
            " WHERE files.id > ? ORDER BY files.id LIMIT ?");
        query.bind(1, id);
        query.bind(2, static_cast<std::int64_t>(most));
        while (query.executeStep()) {
            id = query.getColumn(0).getInt64();
            rows.push_back(
                {query.getColumn(1).getString(),
                 {query.getColumn(2).getInt() != 0, query.getColumn(3).getInt() != 0,
                  std::clamp(query.getColumn(4).getInt(), 0, kBestRating), query.getColumn(5).getString()},
                 {}});
            if (const auto seen = query.getColumn(6); !seen.isNull()) rows.back().faces = seen.getUInt();
        }
    }
    // What takes long is done without holding others up.
    std::vector<Finding> some;
    some.reserve(rows.size());
    for (auto& row : rows) {
        auto finding = findingFrom(row.record);
        if (!finding) {
            if (lost != nullptr) ++*lost;
            continue;
        }
        finding->decision = std::move(row.decision);
        finding->faces = row.faces;
        some.push_back(std::move(*finding));
    }
    const std::lock_guard guard(inside_->mutex);
    for (auto& finding : some) inside_->readMade(finding);
    return some;
}

std::optional<Tally> Job::tally() const {
    const std::lock_guard guard(inside_->mutex);
    const auto json = jsonFrom(inside_->fact("tally"));
    if (!json.is_object()) return std::nullopt;
    return Tally{json.value("files", std::size_t{0}), json.value("kept", std::size_t{0})};
}

Status Job::setTally(const Tally& tally) {
    return inside_->change([&] {
        inside_->setFact("tally", jsonText(nlohmann::json{{"files", tally.files}, {"kept", tally.kept}}));
    });
}

Status Job::putFinding(const Finding& finding) {
    const auto record = recordOf(finding);
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO files VALUES (?, ?)");
        insert.bind(1, finding.id);
        insert.bind(2, record);
        insert.exec();
        for (std::size_t i = 0; i < finding.pieces.size(); ++i) {
            const auto& made = finding.pieces[i].made;
            if (!made) continue;
            auto& keep = inside_->prepared("INSERT OR REPLACE INTO made VALUES (?, ?, ?)");
            keep.bind(1, finding.id);
            keep.bind(2, static_cast<std::int64_t>(i));
            keep.bind(3, made->data(), static_cast<int>(made->size()));
            keep.exec();
        }
    });
}

Status Job::setDecision(std::int64_t id, const Decision& decision) {
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO decisions VALUES (?, ?, ?, ?, ?)");
        insert.bind(1, id);
        insert.bind(2, decision.kept ? 1 : 0);
        insert.bind(3, decision.leftOut ? 1 : 0);
        insert.bind(4, decision.rating);
        insert.bind(5, decision.note);
        insert.exec();
    });
}

std::string Job::note() const {
    const std::lock_guard guard(inside_->mutex);
    return inside_->fact("note");
}

Status Job::setNote(const std::string& note) {
    return inside_->change([&] { inside_->setFact("note", note); });
}

std::vector<Wish> Job::wishes() const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<Wish> all;
    if (!inside_->database->tableExists("wishes")) return all;
    auto& query = inside_->prepared("SELECT text, met, files FROM wishes ORDER BY place");
    while (query.executeStep()) {
        Wish wish{query.getColumn(0).getString(), query.getColumn(1).getInt() != 0, {}};
        const auto files = jsonFrom(query.getColumn(2).getString());
        if (!files.is_array()) continue;
        for (const auto& file : files) {
            if (file.is_number_integer()) wish.files.push_back(file.get<std::int64_t>());
        }
        all.push_back(std::move(wish));
    }
    return all;
}

Status Job::setWishes(const std::vector<Wish>& wishes) {
    return inside_->change([&] {
        inside_->prepared("DELETE FROM wishes").exec();
        for (std::size_t i = 0; i < wishes.size(); ++i) {
            auto& insert = inside_->prepared("INSERT INTO wishes VALUES (?, ?, ?, ?)");
            insert.bind(1, static_cast<std::int64_t>(i));
            insert.bind(2, wishes[i].text);
            insert.bind(3, wishes[i].met ? 1 : 0);
            insert.bind(4, jsonText(nlohmann::json(wishes[i].files)));
            insert.exec();
        }
    });
}

std::vector<Splice> Job::splices() const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<Splice> all;
    if (!inside_->database->tableExists("splices")) return all;
    auto& query = inside_->prepared("SELECT start, family, places FROM splices ORDER BY start");
    while (query.executeStep()) {
        Splice splice{unsignedOf(query.getColumn(0).getInt64()), query.getColumn(1).getString(), {}};
        const auto places = jsonFrom(query.getColumn(2).getString());
        if (!places.is_array()) continue;
        for (const auto& place : places) {
            if (place.is_array() && place.size() == 2 && place[0].is_number_unsigned() &&
                place[1].is_number_unsigned())
                splice.places.push_back({place[0].get<std::uint64_t>(), place[1].get<std::uint64_t>()});
        }
        if (!splice.places.empty()) all.push_back(std::move(splice));
    }
    return all;
}

Status Job::putSplice(const Splice& splice) {
    auto places = nlohmann::json::array();
    for (const auto& place : splice.places) places.push_back({place.offset, place.length});
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO splices VALUES (?, ?, ?)");
        insert.bind(1, static_cast<std::int64_t>(splice.start));
        insert.bind(2, splice.family);
        insert.bind(3, jsonText(places));
        insert.exec();
    });
}

Status Job::dropSplice(std::uint64_t start) {
    return inside_->change([&] {
        auto& drop = inside_->prepared("DELETE FROM splices WHERE start = ?");
        drop.bind(1, static_cast<std::int64_t>(start));
        drop.exec();
    });
}

std::vector<Lending> Job::lendings() const {
    const std::lock_guard guard(inside_->mutex);
    std::vector<Lending> all;
    if (!inside_->database->tableExists("lendings")) return all;
    auto& query = inside_->prepared("SELECT start, path, clip, carried_out FROM lendings ORDER BY start");
    while (query.executeStep())
        all.push_back({unsignedOf(query.getColumn(0).getInt64()), query.getColumn(1).getString(),
                       unsignedOf(query.getColumn(2).getInt64()), query.getColumn(3).getInt() != 0});
    return all;
}

Status Job::putLending(const Lending& lending) {
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO lendings VALUES (?, ?, ?, ?)");
        insert.bind(1, signedOf(lending.start));
        insert.bind(2, lending.path);
        insert.bind(3, signedOf(lending.from));
        insert.bind(4, lending.carriedOut ? 1 : 0);
        insert.exec();
    });
}

Status Job::lendingCarriedOut(std::uint64_t start) {
    return inside_->change([&] {
        auto& update = inside_->prepared("UPDATE lendings SET carried_out = 1 WHERE start = ?");
        update.bind(1, signedOf(start));
        update.exec();
    });
}

Status Job::setFaces(std::int64_t id, std::uint32_t seen) {
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO faces VALUES (?, ?)");
        insert.bind(1, id);
        insert.bind(2, static_cast<std::int64_t>(seen));
        insert.exec();
    });
}

Status Job::putPreview(std::int64_t id, const Preview& preview) {
    return inside_->change([&] {
        auto& insert = inside_->prepared("INSERT OR REPLACE INTO previews VALUES (?, ?, ?)");
        insert.bind(1, id);
        insert.bind(2, preview.picture.data(), static_cast<int>(preview.picture.size()));
        insert.bind(3, preview.peaks.data(), static_cast<int>(preview.peaks.size()));
        insert.exec();
        auto& drop = inside_->prepared("DELETE FROM faces WHERE id = ?");
        drop.bind(1, id);
        drop.exec();
    });
}

Preview Job::preview(std::int64_t id) const {
    const std::lock_guard guard(inside_->mutex);
    Preview preview;
    auto& query = inside_->prepared("SELECT picture, peaks FROM previews WHERE id = ?");
    query.bind(1, id);
    if (!query.executeStep()) return preview;
    const auto picture = query.getColumn(0);
    const auto* bytes = static_cast<const std::uint8_t*>(picture.getBlob());
    if (bytes != nullptr) preview.picture.assign(bytes, bytes + picture.getBytes());
    const auto peaks = query.getColumn(1);
    const auto* values = static_cast<const std::int8_t*>(peaks.getBlob());
    if (values != nullptr) preview.peaks.assign(values, values + peaks.getBytes());
    return preview;
}

Status Job::forgetPreviews() {
    if (auto done = commit(); !done) return done;
    const std::lock_guard guard(inside_->mutex);
    try {
        for (auto& [sql, statement] : inside_->statements) statement->reset();
        inside_->database->exec("DELETE FROM previews");
        inside_->database->exec("VACUUM");
        inside_->database->exec("PRAGMA wal_checkpoint(TRUNCATE)");
        return Done{};
    } catch (const SQLite::Exception& problem) {
        return failure(std::string("The job could not be made smaller: ") + problem.what(), inside_->folder);
    }
}

Status Job::commit() {
    const std::lock_guard guard(inside_->mutex);
    if (!inside_->inTransaction) return Done{};
    try {
        // A statement still stepping would keep the transaction from ending.
        for (auto& [sql, statement] : inside_->statements) statement->reset();
        inside_->database->exec("COMMIT");
        inside_->inTransaction = false;
        return Done{};
    } catch (const SQLite::Exception& problem) {
        return failure(std::string("The job could not be written: ") + problem.what(), inside_->folder);
    }
}

}  // namespace dreskel
