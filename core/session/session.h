// The one way into the core for the desktop and the command line: a job in hand, with its source, its scan in
// a thread of its own, its findings in memory, and its deliveries.
//
// Every function may be called from any thread. Nothing here calls back into the caller: the interface asks
// for what has changed since it last asked, as much as it wants to handle at a time.
#pragma once

#include <atomic>
#include <condition_variable>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "deliver/delivery.h"
#include "deliver/raw_pieces.h"
#include "job/job.h"
#include "job/ledger.h"
#include "job/small.h"
#include "scan/scanner.h"
#include "scan/unexplained.h"
#include "session/copying.h"
#include "source/source.h"
#include "volume/first_look.h"

namespace dreskel {

enum class Activity { Idle, Scanning, Paused, Stopping };

struct Overview {
    Activity activity = Activity::Idle;
    ScanProgress progress;
    std::optional<Error> trouble;  // why the scan ended, other than by being finished or stopped
    std::uint64_t changes = 0;     // grows with every change of a finding
    std::size_t listed = 0;        // files of their own
    std::size_t embedded = 0;      // previews and pictures inside others, not listed
    std::map<Kind, std::size_t> byKind;
    std::map<Condition, std::size_t> byCondition;
    std::size_t kept = 0;
    std::uint64_t keptBytes = 0;
    bool loading = false;  // of a job that was opened, not all of what is known has been read yet
    std::shared_ptr<const CopyView> copy;  // null unless the source is a copy
};

// The source that a job belongs to.
Result<std::string> sourcePathOf(const std::string& jobFolder);

class Session : private ScanListener {
  public:
    // Whether opening waits until all that is known of the files has been read from the job. What comes
    // behind is told by changes(), and overview() says that it is not all yet; everything else waits for it.
    enum class Load { First, Behind };

    // Opens the source for reading and the job for writing; a new job when the folder holds none. With an
    // empty source path the one that the job remembers is opened. `map`: of a copy, when it does not lie
    // beside it.
    static Result<std::shared_ptr<Session>> open(const std::string& sourcePath, const std::string& jobFolder,
                                                 const std::string& map = {});
    // The same for a source that was opened already.
    static Result<std::shared_ptr<Session>> open(std::shared_ptr<Source> source, const std::string& jobFolder,
                                                 Load load = Load::First);
    // The same for a card that is copied while it is searched: everything is read from it once, by the copy,
    // and looked at from there. A copy and a job that were begun go on. The card may have been opened by
    // another process and may be called otherwise than when the copy was begun.
    static Result<std::shared_ptr<Session>> openCopying(std::shared_ptr<Source> card,
                                                        const CopyRequest& request,
                                                        const std::string& jobFolder);
    // Stands for the source of a job when that is not there: what was found can be looked through.
    static Result<std::shared_ptr<Source>> absentSourceOf(const std::string& jobFolder);
    ~Session() override;

    const std::string& folder() const { return job_->folder(); }
    // What everything but a copy reads: the card, an image, or the copy.
    const std::shared_ptr<Source>& source() const { return source_; }
    // What the job remembers of it: where the card was that it is a copy of, too.
    const std::optional<SourceFacts>& facts() const { return facts_; }
    // Null unless a card is copied here.
    const Copying* copying() const { return copying_.get(); }

    // Starts or goes on with the scan in a thread; does nothing while one is running or when it is finished.
    void startScan(ScanOptions options);
    void pause();
    void resume();
    void stop();    // returns at once
    Status wait();  // until the scan has ended, one way or the other

    Overview overview() const;

    // Findings that changed after `since`, at most `most`; `since` is moved on. Start with 0.
    std::vector<std::shared_ptr<const Finding>> changes(std::uint64_t& since, std::size_t most) const;
    // All of them, in the order of their id.
    std::vector<std::shared_ptr<const Finding>> everything() const;
    std::optional<Finding> finding(std::int64_t id) const;
    std::vector<Finding> listed() const;
    // Reads the whole job; for a thread.
    Ledger ledger() const { return ledgerOf(*job_); }
    // What the ledger does not explain, and what it looks like; reads from the source, for a thread.
    std::vector<Stretch> unexplained(const std::function<bool()>& goOn) const {
        return lookAtUnexplained(*source_, ledger().unexplainedAt, goOn);
    }
    // Where the card holds boot sectors, allocation tables and folders.
    std::vector<ByteRange> structures() const { return job_->ranges(RangeKind::Structure); }
    std::vector<ByteRange> blank() const { return job_->ranges(RangeKind::Blank); }
    Preview preview(std::int64_t id) const { return job_->preview(id); }

    // The pieces of a photo as the technician set them: kept in the job, and carried out by a scan that is
    // started here. Without places: back to what is found without help. Fault::Failed while a scan runs.
    Status setSplice(std::int64_t id, const std::vector<ByteRange>& places);
    // The good clip that lends a clip without an index its settings; the same.
    Status setLending(const Lending& lending);
    // Good files of the same cameras; paths.
    std::vector<std::string> lent() const { return job_->scan().references; }

    void decide(const std::map<std::int64_t, Decision>& decisions);
    // What was seen in small pictures; a guess, see faces/face_finder.h.
    void setFaces(const std::map<std::int64_t, std::uint32_t>& seen);
    std::string note() const { return job_->note(); }
    Status setNote(const std::string& note);
    std::vector<Wish> wishes() const { return job_->wishes(); }
    Status setWishes(const std::vector<Wish>& wishes);

    // See job/small.h. Fault::Failed while a scan runs.
    Result<Smaller> makeSmall(bool copyToo);
    std::string copyMadeHere() const { return copyMadeBy(*job_); }
    // See deliver/raw_pieces.h. Reads the whole job; for a thread.
    std::vector<Finding> rawPieces() const { return rawPiecesOf(*job_); }

    // Blocks; see deliver().
    Result<DeliverySum> save(const DeliveryRequest& request, Control& control,
                             const std::function<void(const DeliveryProgress&)>& progress);

  private:
    Session(std::shared_ptr<Job> job, std::shared_ptr<Source> source, std::shared_ptr<Copying> copying);
    static Result<std::shared_ptr<Session>> openIn(const std::string& jobFolder,
                                                   std::shared_ptr<Source> source,
                                                   std::shared_ptr<Copying> copying, Load load);
    void load();
    void awaitLoaded() const;
    // Writes what was decided to the job and starts a scan that carries it out.
    Status carryOut(const std::function<Status()>& write);
    void storeTally();
    void onFindings(const std::vector<Finding>& changed) override;
    void onProgress(const ScanProgress& progress) override;
    void tally(const Finding& finding, bool add);
    void note(Finding finding);
    void put(std::shared_ptr<const Finding> finding);

    std::shared_ptr<Job> job_;
    std::shared_ptr<Source> source_;
    std::shared_ptr<Copying> copying_;
    std::optional<SourceFacts> facts_;  // as they were when it was opened; asked for many times a second
    std::unique_ptr<Control> control_;
    std::thread thread_;
    std::thread loading_;
    std::atomic<bool> ending_ = false;

    mutable std::mutex mutex_;
    mutable std::condition_variable loaded_;
    Overview overview_;
    Status outcome_ = Done{};
    bool running_ = false;
    std::map<std::int64_t, std::shared_ptr<const Finding>>
        findings_;                                    // shared with who asked; replaced, not changed
    std::map<std::int64_t, std::uint64_t> changeOf_;  // id -> the number of its last change
    std::map<std::uint64_t, std::int64_t> log_;       // that number -> id
};

// What is known of a source without a job.
struct Inspection {
    SourceFacts facts;
    FirstLook look;
};
// Takes some five seconds at most, whatever state the card is in.
Inspection inspectSource(const std::shared_ptr<Source>& source);

}  // namespace dreskel
