// One scan of a source into a job: the pass, the examination of what it found, and the settling of claims.
// Everything is written to the job as it becomes known, so that a stopped or killed scan goes on where it
// was.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "base/control.h"
#include "job/job.h"
#include "scan/free_space.h"
#include "scan/pass.h"
#include "source/source.h"

namespace dreskel {

struct Examined;

struct ScanOptions {
    std::vector<std::string> formats;  // short names; empty: all that are known
    ByteRange span;                    // length 0: the whole source
    bool rebuild = true;               // put together what lies in pieces
    bool skipPresent = false;          // leave out the space of the files that are present
    bool namedOnly = false;            // look at the files that directories name, and read nothing else
    bool again = false;  // a finished scan carries out what was decided on the splice bench since
    std::vector<std::string> references;  // good files of the same cameras, lent to rebuild others; paths
};

struct ScanProgress {
    ScanState state = ScanState::NotStarted;
    ByteRange span;
    bool namedOnly = false;        // see ScanOptions; a scan without it goes on from there
    std::uint64_t position = 0;    // read up to here
    std::uint64_t unreadable = 0;  // bytes
    std::size_t toCheck = 0;       // candidates not examined yet
    double bytesPerSecond = 0;     // of the pass, lately
    bool joining = false;          // files in pieces are being put together
    std::size_t toJoin = 0;        // how many are still to be tried, in this round
    std::size_t joined = 0;
    // Shared with whoever looks; never null. Shares of blank sectors, 0 to 255, of each MiB; and what could
    // not be read.
    std::shared_ptr<const std::vector<std::uint8_t>> surface = std::make_shared<std::vector<std::uint8_t>>();
    std::shared_ptr<const std::vector<ByteRange>> unreadableRanges =
        std::make_shared<std::vector<ByteRange>>();
};

// Told of what happens, in the thread that runs the scan.
class ScanListener {
  public:
    virtual ~ScanListener() = default;
    virtual void onFindings(const std::vector<Finding>& changed) = 0;
    virtual void onProgress(const ScanProgress& progress) = 0;
};

// Where the pass takes its bytes from: shows the visitor everything in the range, in order, and gives Done or
// why it could not; Done too when it was stopped.
using Supply = std::function<Status(ByteRange rest, Control& control, const Pass::Visit& visit)>;

class Scanner {
  public:
    // The bytes come from the source, unless a copy that is being made of a card shows them as it reads them;
    // `source` is then that copy, what it could not read at first is looked at when it can, and directories
    // are read through `ahead` before anything is copied.
    Scanner(std::shared_ptr<Job> job, std::shared_ptr<Source> source, ScanListener& listener,
            Supply supply = {}, std::shared_ptr<const Source> ahead = {});

    // Blocks until the scan is finished or `control` stops it (Fault::Interrupted: call again later to go
    // on). The options count for a new scan only; one that is going on keeps its own, but
    // for `namedOnly`: without it a scan that was begun with it goes on to the whole card.
    Status run(const ScanOptions& options, Control& control);

  private:
    struct Running;
    Status prepare(const ScanOptions& options, ScanRecord& record);
    // Of what could not be read when the pass came by, what can be read now.
    std::vector<ByteRange> recovered() const;
    // Reads the directories, and lists what only they know of until its bytes are seen.
    Status readDirectories(Running& running, Control& control);
    // Has the files that directories name examined without waiting for the pass.
    Status lookAtNamed(Running& running);
    // What no signature was found for in the end: kept, or taken off the list.
    Status settlePromises(Running& running);
    // Folders without a volume, once all that can confirm them is known.
    Status readOrphans(Running& running);
    Status lookAgain(Running& running, const std::vector<ByteRange>& ranges);
    FreeSpace freeSpace(const Running& running, bool withBlanks = false) const;
    // What the technician put together.
    Status carryOutSplices(Running& running, Control& control);
    // What goes on behind whole files and structures that lie in its way.
    Status rebuildAround(Running& running, Control& control);
    // Clips in pieces whose index is there, and photos in pieces, once everything that is whole is known.
    Status rebuildClips(Running& running, Control& control);
    Status rebuildPictures(Running& running, Control& control);
    Status rebuildPhotos(Running& running, Control& control);
    // What is checked record by record.
    Status rebuildWalked(Running& running, Control& control);
    // Streams without a length of their own.
    Status rebuildStreams(Running& running, Control& control);
    // The same whose beginning is gone.
    Status rebuildBeheaded(Running& running, Control& control);
    Status rebuildPlain(Running& running, Control& control);
    Status rebuildBare(Running& running, Control& control);
    // Clips that have no index any more, after the template of good ones.
    Status rebuildUnindexed(Running& running, Control& control);
    // Clips whose beginning is gone, though their index is there.
    Status rebuildBeginless(Running& running, Control& control);
    // Photos whose beginning is gone, with the header of a good one.
    Status rebuildHeadless(Running& running, Control& control);
    // What comes of a file that lies in these places, if it is whole; taken out of the examiner.
    std::optional<Examined> wholeIn(Running& running, const Candidate& candidate,
                                    const std::vector<ByteRange>& places);
    Status store(Running& running, bool final);
    void tell(Running& running);

    std::shared_ptr<Job> job_;
    std::shared_ptr<Source> source_;
    ScanListener& listener_;
    Supply supply_;
    std::shared_ptr<const Source> ahead_;
};

}  // namespace dreskel
