// Looks into candidates: walks each by its format, and has clips and sound decoded by the worker. Runs behind
// the pass and never reads ahead of it, so that the card is read in one direction.
#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

#include "base/control.h"
#include "job/job.h"
#include "scan/examined.h"
#include "scan/open_files.h"
#include "source/card_view.h"

namespace dreskel {

// A file that decodes from end to end is not called whole: `why` says what is not proven.
void leaveUnproven(Measured& measured, std::string why);

class Examiner {
  public:
    // `span` bounds what files may reach into. `formats`: short names asked for, empty for all; files of
    // other formats are walked, since others may lie inside them, but not decoded.
    Examiner(std::shared_ptr<Source> source, CardView& card, ByteRange span, std::vector<std::string> formats,
             Control& control);
    ~Examiner();  // waits for its threads; call finish() or stop the control first

    // `places`: where the file lies when it is known to be in pieces.
    void add(const Candidate& candidate, std::vector<ByteRange> places = {});
    // Everything before `position` has been read.
    void advance(std::uint64_t position);
    // A file as it was rebuilt, with bytes that were made for it; it begins where the candidate does.
    void addRebuilt(const Candidate& candidate, std::vector<Piece> pieces);

    // What has been examined since the last call; any thread.
    std::vector<Examined> take();
    // Something taken, to be taken again by another.
    void giveBack(Examined examined);
    // Waits for all that was added, and leaves of it what `keep` says, which may change what is told of a
    // file. False when it was stopped before.
    [[nodiscard]] bool sift(const std::function<bool(Examined&)>& keep);
    bool idle() const;  // nothing waiting, nothing in work
    std::size_t waiting() const;
    // Until nothing is waiting or in work, or it is stopped.
    void finish() const;

  private:
    struct Task {
        Candidate candidate;
        const Format* format;  // of the candidate's family; lives as long as the program
        std::vector<ByteRange> places;
        std::vector<Piece> rebuilt;
        std::unique_ptr<Measure> measure;
        std::optional<Measured> walked;         // set once only decoding is left
        std::shared_ptr<OpenFiles::Open> open;  // of one that lies in one piece
    };
    struct Worker;
    // Candidates of a family that runs on (Format::runsOn) wait for the one before: most begin inside of it.
    struct Run {
        bool busy = false;
        std::deque<Candidate> waiting;
    };

    void work(bool givesWay);
    // Both with the lock held.
    void enter(const Candidate& candidate, const Format& format, std::vector<ByteRange> places);
    void leave(const Candidate& candidate, std::uint64_t end);
    static std::uint64_t reach(const Task& task, std::uint64_t length);
    // How much of it there may be.
    std::uint64_t room(const Task& task) const;
    std::vector<Piece> piecesOf(const Task& task) const;
    // Nothing when the task is done; otherwise the position that the pass must reach first.
    std::optional<std::uint64_t> step(Task& task, Worker& worker, std::uint64_t frontier);
    void lookIntoPadding(Task& task, Worker& worker);
    // Where nothing in the coding shows that bytes are foreign; see formats/strange_blocks.h.
    void lookForStrangeBlocks(Task& task, Worker& worker);
    void lookForStrangeSamples(Task& task, Worker& worker);
    bool goesOnFromBefore(const Task& task, Worker& worker);
    void decode(Measured& measured, Preview& preview, std::vector<Piece> pieces, Worker& worker);
    bool wanted(const Measured& measured) const;

    std::shared_ptr<Source> source_;
    CardView& card_;
    ByteRange span_;
    std::vector<std::string> formats_;
    Control& control_;

    mutable std::mutex mutex_;
    std::condition_variable changed_;
    std::multimap<std::uint64_t, Task> tasks_;  // by the position they need
    std::map<std::string, Run> runs_;           // by family
    std::vector<Examined> done_;
    OpenFiles openFiles_;
    std::uint64_t frontier_ = 0;
    std::size_t inWork_ = 0;
    bool ending_ = false;
    bool relieved_ = false;  // those who give way end, others have begun
    std::vector<std::thread> threads_;
};

}  // namespace dreskel
