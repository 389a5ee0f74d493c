// A job: one card and all that is known, decided and done about it, in a folder with a database.
//
// One process may have a job open for writing at a time; others may read it meanwhile. What is written
// becomes durable with commit(); a kill between two commits loses what came after the last one and nothing
// else. Safe to use from several threads of one process.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "job/finding.h"

namespace dreskel {

enum class ScanState { NotStarted, Reading, Checking, Finished };
std::string_view toWord(ScanState state);

struct SourceFacts {
    std::string path;  // absolute
    std::uint64_t size = 0;
    std::uint32_t sectorSize = 512;
    std::string copyOf{};  // of a copy made in this job: the path of the card; otherwise empty
    std::string serial{};  // of that card, where it tells one
};

struct ScanRecord {
    ScanState state = ScanState::NotStarted;
    ByteRange span;                       // what is to be searched
    std::uint64_t position = 0;           // everything in the span before it has been read
    std::vector<std::string> formats;     // short names asked for; empty: all
    bool skipPresent = false;             // the space of files that are present is left out
    bool namedOnly = false;               // only what directories name has been asked for so far
    std::vector<std::string> references;  // good files of the same cameras, lent; paths
    std::vector<std::uint8_t> surface;    // share of blank sectors, 0 to 255, of each MiB of the source
};

// A place to be looked at: where a file may begin, by the family of its signature, or a sector of a folder.
struct Candidate {
    std::uint64_t offset = 0;
    std::string family;
    bool anyRecord = false;  // of a stream: its first record here, rather than its beginning
};
constexpr const char* kFolderSector = "folder";

// The pieces of a file as the technician set them, by where it begins.
struct Splice {
    std::uint64_t start = 0;
    std::string family;
    // In order; the first begins at `start`. What is to stay empty has rebuild::kNowhere for its offset.
    std::vector<ByteRange> places;
};

// For a clip that lost its index: the good clip that the technician chose to lend what a new one looks like.
struct Lending {
    std::uint64_t start = 0;  // where the clip begins
    std::string path;         // of one that was lent; empty: it is on the card
    std::uint64_t from = 0;   // where that begins
    bool carriedOut = false;
};

// Something that the client asked for, and whether it was found.
struct Wish {
    std::string text;
    bool met = false;
    std::vector<std::int64_t> files;  // that answer it

    bool operator==(const Wish& other) const = default;
};

struct Tally {
    std::size_t files = 0, kept = 0;

    bool operator==(const Tally& other) const = default;
};

enum class RangeKind { Blank, Structure };

struct Preview {
    std::vector<std::uint8_t> picture;  // a small JPEG; empty when there is none
    std::vector<std::int8_t> peaks;
};

class Job {
  public:
    enum class Access { Read, Write };

    // Opens the job in `folder`; for writing, the folder and the job are made when they are not there.
    static Result<std::shared_ptr<Job>> open(const std::string& folder, Access access);
    ~Job();

    const std::string& folder() const;

    std::optional<SourceFacts> source() const;
    Status setSource(const SourceFacts& facts);

    ScanRecord scan() const;
    Status setScan(const ScanRecord& record);
    std::vector<ByteRange> unreadable() const;
    Status addUnreadable(const std::vector<ByteRange>& ranges);
    Status setUnreadable(const std::vector<ByteRange>& ranges);  // in place of all that were known

    // Stretches of the card that are no file's, for the ledger.
    std::vector<ByteRange> ranges(RangeKind kind) const;
    Status addRanges(RangeKind kind, const std::vector<ByteRange>& ranges);

    std::vector<Candidate> openCandidates() const;
    Status addCandidates(const std::vector<Candidate>& candidates);
    Status closeCandidate(std::uint64_t offset);

    // All findings, in order of id; what cannot be read back is left out and counted in `lost`.
    std::vector<Finding> findings(std::size_t* lost = nullptr) const;
    // At most `most` of those that come after an id, which is moved on; others may use the job between two
    // calls.
    std::vector<Finding> findingsAfter(std::int64_t& id, std::size_t most, std::size_t* lost = nullptr) const;
    // How many files there are and are kept, so that a list of jobs need not read them all; as last told.
    std::optional<Tally> tally() const;
    Status setTally(const Tally& tally);
    Status putFinding(const Finding& finding);
    Status setDecision(std::int64_t id, const Decision& decision);
    Status setFaces(std::int64_t id, std::uint32_t seen);
    std::string note() const;  // the technician's, of the whole job
    Status setNote(const std::string& note);
    std::vector<Wish> wishes() const;  // in the order in which they were written down
    Status setWishes(const std::vector<Wish>& wishes);
    std::vector<Splice> splices() const;
    Status putSplice(const Splice& splice);  // in place of one that begins there
    Status dropSplice(std::uint64_t start);
    std::vector<Lending> lendings() const;
    Status putLending(const Lending& lending);  // in place of an earlier one for that clip
    Status lendingCarriedOut(std::uint64_t start);
    // In place of an earlier one; faces that were seen there are forgotten.
    Status putPreview(std::int64_t id, const Preview& preview);
    Preview preview(std::int64_t id) const;
    // All of them, and the room they took.
    Status forgetPreviews();

    Status commit();

  private:
    struct Inside;
    explicit Job(std::unique_ptr<Inside> inside);
    std::unique_ptr<Inside> inside_;
};

}  // namespace dreskel
