// Copies a card sector by sector, the good places first: large reads, stepping over what fails; then smaller
// ones towards the bad places from both sides; then single sectors; then what made the reader stall; then
// more tries of what failed. Everything goes to the copy and its map as it is read.
#pragma once

#include <chrono>
#include <functional>
#include <memory>

#include "base/control.h"
#include "copy/copy_image.h"

namespace dreskel {

struct CopyOptions {
    ByteRange span;          // of the card; length 0: all of it
    int laterTries = 1;      // of each failed sector, after everything else
    double minutesOver = 0;  // on bad places altogether, after the first sweep; 0: no limit
    double stallSeconds = 2.5;
};

enum class CopyStage { Sweep, Narrowing, Stalled, Retrying, Hashing, Done };
std::string_view toWord(CopyStage stage);

struct CopyProgress {
    CopyStage stage = CopyStage::Sweep;
    std::uint64_t position = 0;                                                 // where it reads now
    std::uint64_t read = 0, failed = 0, waiting = 0, stalled = 0, untried = 0;  // bytes of the span
    std::uint64_t errors = 0;                                                   // failed reads, this time
    double bytesPerSecond = 0, bestBytesPerSecond = 0;  // lately, and at its best this time
    double secondsInRead = 0;                           // how long the read in hand has been going on
};

// Adds up what the cells say of a span.
void count(const std::vector<MapCell>& cells, ByteRange span, CopyProgress& into);

class Copier {
  public:
    static constexpr std::size_t kPortion = 4U << 20;  // bytes of a large read
    static constexpr std::size_t kBlock = 64U << 10;   // and of a smaller one

    // Shown every byte from a position on, in order, once: portions that end on multiples of kPortion, from
    // the card or, where it was read before, from the copy. `unread` ranges are zero. In the thread of run().
    using Show = std::function<void(std::uint64_t offset, Bytes bytes, const std::vector<ByteRange>& unread)>;

    Copier(std::shared_ptr<Source> card, std::shared_ptr<CopyImage> image, CopyOptions options);

    // Blocks until all that can be read has been, or `control` stops it (Fault::Interrupted). Fault::Failed
    // when the card has gone away or the copy cannot be written; called again it goes on.
    Status run(Control& control, const Show& show = {}, std::uint64_t showFrom = 0);

    // From any thread.
    CopyProgress progress() const;

  private:
    struct Portion;
    struct Reading {
        std::size_t good = 0;  // bytes
        int error = 0;
        bool slow = false;
    };
    Reading readCard(ByteRange range, MutableBytes into);
    bool fill(Portion& portion, Control& control, const Show& show, std::uint64_t showFrom);
    Status use(Portion& portion, const Show& show);
    Status sweep(Control& control, const Show& show, std::uint64_t showFrom);
    Status narrow(Tried which, Control& control);
    Status trim(ByteRange range, Tried which, std::size_t unit, Control& control);
    Status retry(Control& control);
    // One small read after the sweep; `read` tells whether it succeeded. `onFailure`: what the map then says.
    Status attempt(ByteRange range, Tried onFailure, int tries, Control& control, bool& read);
    bool stillThere();
    Status giveBack();
    Error gone(std::uint64_t at) const;
    void enter(CopyStage stage);

    std::shared_ptr<Source> card_;
    std::shared_ptr<CopyImage> image_;
    std::shared_ptr<Source> known_;  // the copy, to show again what was read before
    CopyOptions options_;

    // Of the sweep; in the reading thread.
    std::uint64_t next_ = 0;
    int failuresInARow_ = 0;
    std::uint64_t stepOver_ = 0;  // bytes to leave out for now, and as what
    Tried stepAs_ = Tried::Waiting;

    bool ranOut_ = false;  // of the time for bad places
    std::chrono::steady_clock::time_point narrowingSince_;
    std::vector<MapCell> doubtful_;  // what was marked since the last good read, as it was before
    std::uint64_t witness_ = 0;      // a sector that could be read
    bool haveWitness_ = false;
    bool gone_ = false;

    mutable std::mutex mutex_;
    CopyProgress progress_;
    std::chrono::steady_clock::time_point readBegan_;
    bool inRead_ = false;
    std::chrono::steady_clock::time_point rateAt_;
    std::uint64_t rateBytes_ = 0;
};

}  // namespace dreskel
