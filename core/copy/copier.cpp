#include "copy/copier.h"

#include <algorithm>
#include <array>
#include <cerrno>

#include "base/aligned_buffer.h"
#include "base/conveyor.h"
#include "source/tolerant_read.h"

namespace dreskel {
namespace {

using Clock = std::chrono::steady_clock;

constexpr std::size_t kPortionsUnderWay = 2;  // all that a kill can cost to read again
constexpr int kFailuresBeforeDoubt = 4;       // in a row, until the card is asked for something it had
constexpr int kFailuresBeforeStep = 3;        // in a row, until what follows is left out for now
constexpr std::uint64_t kLargestStep = 64ULL << 20;
constexpr double kSlowFactor = 8;  // times the usual duration of a read

double secondsSince(Clock::time_point from) {
    return std::chrono::duration<double>(Clock::now() - from).count();
}

bool meansGone(int error) {
    return error == ENODEV || error == ENXIO || error == ENOMEDIUM || error == ESHUTDOWN;
}

}  // namespace

struct Copier::Portion {
    AlignedBuffer buffer{kPortion};
    ByteRange range;
    std::vector<ByteRange> fresh;   // read from the card just now
    std::vector<MapCell> missed;    // not read, and what the map is to say of it
    std::vector<ByteRange> unread;  // all that is zero because it is not known
    bool show = false;

    MutableBytes part(ByteRange of) {
        return buffer.bytes().subspan(static_cast<std::size_t>(of.offset - range.offset),
                                      static_cast<std::size_t>(of.length));
    }
    void miss(ByteRange what, Tried state) {
        const auto bytes = part(what);
        std::fill(bytes.begin(), bytes.end(), std::uint8_t{0});
        missed.push_back({what, state, 0});
        unread.push_back(what);
    }
};

std::string_view toWord(CopyStage stage) {
    constexpr std::array<std::string_view, 6> words{"copying",  "narrowing", "stalled places",
                                                    "retrying", "hashing",   "done"};
    return words.at(static_cast<std::size_t>(stage));
}

Copier::Copier(std::shared_ptr<Source> card, std::shared_ptr<CopyImage> image, CopyOptions options)
    : card_(std::move(card)), image_(std::move(image)), options_(options) {
    if (options_.span.length == 0) options_.span = {0, card_->size()};
    const auto sector = std::uint64_t{card_->sectorSize()};
    const auto from = std::min(options_.span.offset, card_->size()) / sector * sector;
    const auto wish = (options_.span.end() + sector - 1) / sector * sector;
    options_.span = {from, std::min(wish, card_->size()) - from};
    card_->avoidCache();
    rateAt_ = Clock::now();
}

CopyProgress Copier::progress() const {
    CopyProgress now;
    {
        const std::lock_guard lock(mutex_);
        now = progress_;
        now.secondsInRead = inRead_ ? secondsSince(readBegan_) : 0;
    }
    count(image_->map().cells(), options_.span, now);
    return now;
}

void count(const std::vector<MapCell>& cells, ByteRange span, CopyProgress& into) {
    for (const auto& cell : cells) {
        const auto from = std::max(cell.range.offset, span.offset);
        const auto to = std::min(cell.range.end(), span.end());
        if (to <= from) continue;
        switch (cell.state) {
            case Tried::Untried: into.untried += to - from; break;
            case Tried::Waiting: into.waiting += to - from; break;
            case Tried::Stalled: into.stalled += to - from; break;
            case Tried::Failed: into.failed += to - from; break;
            case Tried::Read: into.read += to - from; break;
        }
    }
}

void Copier::enter(CopyStage stage) {
    const std::lock_guard lock(mutex_);
    progress_.stage = stage;
}

Copier::Reading Copier::readCard(ByteRange range, MutableBytes into) {
    {
        const std::lock_guard lock(mutex_);
        progress_.position = range.offset;
        readBegan_ = Clock::now();
        inRead_ = true;
    }
    const auto outcome = card_->read(range.offset, into);
    const std::size_t sector = card_->sectorSize();
    Reading reading;
    reading.good = outcome.count == into.size() ? outcome.count : outcome.count / sector * sector;
    reading.error = outcome.error;

    const std::lock_guard lock(mutex_);
    inRead_ = false;
    const double took = secondsSince(readBegan_);
    const double usual = progress_.bestBytesPerSecond > 0
                             ? static_cast<double>(range.length) / progress_.bestBytesPerSecond
                             : 0;
    reading.slow = took > options_.stallSeconds && took > usual * kSlowFactor;
    if (reading.good < into.size()) ++progress_.errors;
    rateBytes_ += reading.good;
    if (const double since = secondsSince(rateAt_); since >= 0.5) {
        const double lately = static_cast<double>(rateBytes_) / since;
        progress_.bytesPerSecond =
            progress_.bytesPerSecond == 0 ? lately : 0.5 * progress_.bytesPerSecond + 0.5 * lately;
        progress_.bestBytesPerSecond = std::max(progress_.bestBytesPerSecond, progress_.bytesPerSecond);
        rateAt_ = Clock::now();
        rateBytes_ = 0;
    }
    if (reading.good > 0) {
        witness_ = range.offset / sector * sector;
        haveWitness_ = true;
    }
    return reading;
}

// Asks for a sector that could be read before.
bool Copier::stillThere() {
    if (!haveWitness_) return true;
    const AlignedBuffer buffer(card_->sectorSize());
    return card_->read(witness_, buffer.bytes().first(card_->sectorSize())).count > 0;
}

Error Copier::gone(std::uint64_t at) const {
    return {Fault::Failed, "The card has gone away in the middle of the copy",
            card_->path() + ", byte " + std::to_string(at),
            "Take it out, put it in again and go on: what was read is kept, and the place where it happened "
            "is left for last"};
}

bool Copier::fill(Portion& portion, Control& control, const Show& show, std::uint64_t showFrom) {
    std::vector<MapCell> untried;
    for (;;) {
        if (gone_ || next_ >= options_.span.end() || !control.proceed()) return false;
        const auto end = std::min(options_.span.end(), (next_ / kPortion + 1) * kPortion);
        portion.range = {next_, end - next_};
        portion.show = show && end > showFrom;
        next_ = end;
        untried = image_->map().cells(Tried::Untried, portion.range);
        if (!untried.empty() || portion.show) break;
    }
    portion.fresh.clear();
    portion.missed.clear();
    portion.unread.clear();
    const bool allNew = untried.size() == 1 && untried[0].range == portion.range;
    if (portion.show && !allNew) {
        for (const auto& hole : readTolerant(*known_, portion.range.offset, portion.part(portion.range))) {
            RangeSet rest;
            rest.add(hole);
            for (const auto& cell : untried) rest.remove(cell.range);
            for (const auto& range : rest.ranges()) portion.unread.push_back(range);
        }
    }
    for (const auto& [range, state, tries] : untried) {
        if (gone_ || stepOver_ > 0) {
            stepOver_ -= std::min(stepOver_, range.length);
            portion.miss(range, gone_ ? Tried::Untried : stepAs_);
            doubtful_.push_back({range, Tried::Untried, 0});
            continue;
        }
        const auto reading = readCard(range, portion.part(range));
        if (reading.good > 0) {
            portion.fresh.push_back({range.offset, reading.good});
            doubtful_.clear();
        }
        const ByteRange rest{range.offset + reading.good, range.length - reading.good};
        if (rest.length == 0) {
            failuresInARow_ = 0;
            if (reading.slow) {
                stepOver_ = kPortion;
                stepAs_ = Tried::Stalled;
            }
            continue;
        }
        ++failuresInARow_;
        doubtful_.push_back({rest, Tried::Untried, 0});
        if (meansGone(reading.error) || (failuresInARow_ >= kFailuresBeforeDoubt && !stillThere())) {
            gone_ = true;
        } else if (failuresInARow_ >= kFailuresBeforeStep) {
            stepAs_ = reading.slow ? Tried::Stalled : Tried::Waiting;
            stepOver_ = std::min(
                kLargestStep, std::uint64_t{kPortion} << std::min(failuresInARow_ - kFailuresBeforeStep, 8));
        }
        portion.miss(rest, reading.slow ? Tried::Stalled : Tried::Waiting);
    }
    return true;
}

Status Copier::use(Portion& portion, const Show& show) {
    for (const auto& range : portion.fresh) {
        if (auto written = image_->write(range.offset, portion.part(range)); !written) return written;
    }
    for (const auto& cell : portion.missed) {
        if (auto marked = image_->mark(cell.range, cell.state); !marked) return marked;
    }
    if (portion.show) {
        std::sort(portion.unread.begin(), portion.unread.end(),
                  [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
        show(portion.range.offset, portion.part(portion.range), portion.unread);
    }
    return Done{};
}

Status Copier::sweep(Control& control, const Show& show, std::uint64_t showFrom) {
    enter(CopyStage::Sweep);
    if (show) {
        auto known = image_->source();
        if (!known) return known.error();
        known_ = known.value();
    }
    next_ = options_.span.offset;
    failuresInARow_ = 0;
    doubtful_.clear();
    stepOver_ = 0;
    gone_ = false;
    Status outcome = Done{};
    convey<Portion>(
        kPortionsUnderWay, [&](Portion& portion) { return fill(portion, control, show, showFrom); },
        [&](Portion& portion) {
            outcome = use(portion, show);
            return outcome.ok();
        });
    if (!outcome || !gone_) return outcome;
    return giveBack();
}

// The card went away: whether what failed since the last good read is bad was never seen, so it is as it was
// before. Only where it began is suspect, and is left for last.
Status Copier::giveBack() {
    if (doubtful_.empty()) return gone(next_);
    const auto first = doubtful_.front();
    for (auto cell = doubtful_.rbegin(); cell != doubtful_.rend(); ++cell) {
        if (auto marked = image_->mark(cell->range, cell->state, cell->tries); !marked) return marked;
    }
    if (first.state != Tried::Failed) {
        if (auto marked = image_->mark(first.range, Tried::Stalled); !marked) return marked;
    }
    doubtful_.clear();
    return gone(first.range.offset);
}

Status Copier::attempt(ByteRange range, Tried onFailure, int tries, Control& control, bool& read) {
    read = false;
    if (options_.minutesOver > 0 && secondsSince(narrowingSince_) > options_.minutesOver * 60) {
        ranOut_ = true;
        return Done{};
    }
    if (!control.proceed()) return Error{Fault::Interrupted, "Stopped", image_->path(), ""};
    const AlignedBuffer buffer(static_cast<std::size_t>(range.length));
    const auto bytes = buffer.bytes().first(static_cast<std::size_t>(range.length));
    const auto reading = readCard(range, bytes);
    if (reading.good == bytes.size()) {
        read = true;
        failuresInARow_ = 0;
        doubtful_.clear();
        return image_->write(range.offset, bytes);
    }
    ++failuresInARow_;
    for (const auto state : {Tried::Waiting, Tried::Stalled, Tried::Failed}) {
        for (const auto& cell : image_->map().cells(state, range)) doubtful_.push_back(cell);
    }
    if (auto marked = image_->mark(range, onFailure, tries); !marked) return marked;
    const bool doubt = failuresInARow_ % kFailuresBeforeDoubt == 0;
    if (!meansGone(reading.error) && !(doubt && !stillThere())) return Done{};
    return giveBack();
}

Status Copier::trim(ByteRange range, Tried which, std::size_t unit, Control& control) {
    const bool single = unit == card_->sectorSize();
    const auto onFailure = single ? Tried::Failed : which;
    const int tries = single ? 1 : 0;
    auto from = range.offset;
    bool read = true;
    while (read && from < range.end()) {
        const auto length = std::min<std::uint64_t>(unit - from % unit, range.end() - from);
        if (auto tried = attempt({from, length}, onFailure, tries, control, read); !tried) return tried;
        if (ranOut_) return Done{};
        from += length;
    }
    // The failing one at the front has been passed; now towards it from the back.
    read = true;
    for (auto to = range.end(); read && to > from;) {
        const auto start = std::max(from, (to - 1) / unit * unit);
        if (auto tried = attempt({start, to - start}, onFailure, tries, control, read); !tried) return tried;
        if (ranOut_) return Done{};
        to = start;
    }
    return Done{};
}

Status Copier::narrow(Tried which, Control& control) {
    const auto left = [&] { return image_->map().cells(which, options_.span); };
    const std::size_t sector = card_->sectorSize();
    // Towards the bad places in blocks, from both ends of each.
    for (const auto& cell : left()) {
        if (auto done = trim(cell.range, which, kBlock, control); !done || ranOut_) return done;
    }
    // What lies between two bad ends: their outermost blocks have just failed, the inner ones were not tried.
    for (const auto& cell : left()) {
        auto at = (cell.range.offset / kBlock + 1) * kBlock;
        for (bool read = false; at + kBlock < cell.range.end(); at += kBlock) {
            if (auto done = attempt({at, kBlock}, which, 0, control, read); !done || ranOut_) return done;
        }
    }
    // Into each block, sector by sector from both ends, then the sectors in the middle.
    for (const auto& cell : left()) {
        for (auto at = cell.range.offset; at < cell.range.end();) {
            const auto end = std::min(cell.range.end(), (at / kBlock + 1) * kBlock);
            if (auto done = trim({at, end - at}, which, sector, control); !done || ranOut_) return done;
            at = end;
        }
    }
    for (const auto& cell : left()) {
        bool read = false;
        for (auto at = cell.range.offset; at < cell.range.end(); at += sector) {
            const auto length = std::min<std::uint64_t>(sector, cell.range.end() - at);
            if (auto done = attempt({at, length}, Tried::Failed, 1, control, read); !done || ranOut_)
                return done;
        }
    }
    return Done{};
}

Status Copier::retry(Control& control) {
    const std::uint64_t sector = card_->sectorSize();
    for (int round = 1; round <= options_.laterTries; ++round) {
        std::vector<MapCell> sectors;
        for (const auto& cell : image_->map().cells(Tried::Failed, options_.span)) {
            if (cell.tries > round) continue;
            for (auto at = cell.range.offset; at < cell.range.end(); at += sector)
                sectors.push_back({{at, std::min(sector, cell.range.end() - at)}, cell.state, cell.tries});
        }
        // Some readers get over a place from the other side.
        if (round % 2 == 1) std::reverse(sectors.begin(), sectors.end());
        bool read = false;
        for (const auto& cell : sectors) {
            if (auto done = attempt(cell.range, Tried::Failed, cell.tries + 1, control, read);
                !done || ranOut_)
                return done;
        }
    }
    return Done{};
}

Status Copier::run(Control& control, const Show& show, std::uint64_t showFrom) {
    auto outcome = sweep(control, show, showFrom);
    narrowingSince_ = Clock::now();
    ranOut_ = false;
    if (outcome && !control.stopped()) {
        enter(CopyStage::Narrowing);
        outcome = narrow(Tried::Waiting, control);
    }
    if (outcome && !control.stopped() && !ranOut_) {
        enter(CopyStage::Stalled);
        outcome = narrow(Tried::Stalled, control);
    }
    if (outcome && !control.stopped() && !ranOut_) {
        enter(CopyStage::Retrying);
        outcome = retry(control);
    }
    // Whatever ended it: what was read must not be lost.
    if (auto flushed = image_->flush(); !flushed && outcome) outcome = flushed;
    if (!outcome) return outcome;
    if (control.stopped())
        return Error{Fault::Interrupted, "Stopped; the copy goes on when asked to", image_->path(), ""};
    enter(CopyStage::Done);
    return Done{};
}

}  // namespace dreskel
