#include "scan/examiner.h"

#include <sys/resource.h>

#include <algorithm>

#include "base/words.h"
#include "formats/padding.h"
#include "formats/registry.h"
#include "formats/strange_blocks.h"
#include "media/decoder_process.h"
#include "media/thumbnail.h"

namespace dreskel {
namespace {

constexpr std::uint32_t kThumbnailSide = 320;
constexpr std::uint64_t kLastRecord = 4096;

std::uint64_t total(const std::vector<ByteRange>& places) {
    std::uint64_t length = 0;
    for (const auto& place : places) length += place.length;
    return length;
}

}  // namespace

struct Examiner::Worker {
    explicit Worker(std::shared_ptr<Source> source) : decoder(std::move(source)) {}
    media::DecoderProcess decoder;
    std::vector<std::uint8_t> buffer;
    Preview preview;
};

Examiner::Examiner(std::shared_ptr<Source> source, CardView& card, ByteRange span,
                   std::vector<std::string> formats, Control& control)
    : source_(std::move(source)), card_(card), span_(span), formats_(std::move(formats)), control_(control) {
    const auto count = std::clamp(std::thread::hardware_concurrency(), 1U, 8U);
    for (unsigned i = 0; i < count; ++i) threads_.emplace_back([this] { work(true); });
}

Examiner::~Examiner() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        changed_.notify_all();
    }
    for (auto& thread : threads_) thread.join();
}

void Examiner::add(const Candidate& candidate, std::vector<ByteRange> places) {
    const auto* format = familyNamed(candidate.family);
    if (format == nullptr) return;
    const std::lock_guard lock(mutex_);
    if (format->runsOn() && places.empty()) {
        auto& run = runs_[candidate.family];
        if (run.busy) {
            run.waiting.push_back(candidate);
            return;
        }
        run.busy = true;
    }
    enter(candidate, *format, std::move(places));
}

void Examiner::enter(const Candidate& candidate, const Format& format, std::vector<ByteRange> places) {
    auto open = places.empty() ? openFiles_.open(candidate.offset) : nullptr;
    tasks_.emplace(
        candidate.offset,
        Task{candidate, &format, std::move(places), {}, format.measure(), std::nullopt, std::move(open)});
    changed_.notify_all();
}

void Examiner::addRebuilt(const Candidate& candidate, std::vector<Piece> pieces) {
    const auto* format = familyNamed(candidate.family);
    if (format == nullptr) return;
    std::vector<ByteRange> places;
    for (const auto& piece : pieces) {
        if (piece.from == PieceFrom::Card) places.push_back(piece.onCard());
    }
    const std::lock_guard lock(mutex_);
    tasks_.emplace(candidate.offset, Task{candidate, format, std::move(places), std::move(pieces),
                                          format->measure(), std::nullopt, nullptr});
    changed_.notify_all();
}

// What began inside of a stream that has been followed is no other; what began behind it comes next.
void Examiner::leave(const Candidate& candidate, std::uint64_t end) {
    const auto found = runs_.find(candidate.family);
    if (found == runs_.end()) return;
    auto& run = found->second;
    while (!run.waiting.empty()) {
        const auto next = std::move(run.waiting.front());
        run.waiting.pop_front();
        // The last record may reach over the beginning of the next stream.
        if (next.offset + kLastRecord >= end || next.offset < candidate.offset)
            return enter(next, *familyNamed(next.family), {});
        done_.push_back({next, {}, {}, {}, {}});
    }
    run.busy = false;
}

void Examiner::advance(std::uint64_t position) {
    const std::lock_guard lock(mutex_);
    frontier_ = std::max(frontier_, position);
    // Once everything is read there is nothing to give way to any more; on a busy machine the rest would take
    // for ever. A thread that gives way may not be allowed to leave that off: others take its place.
    if (frontier_ >= span_.end() && !relieved_) {
        relieved_ = true;
        for (auto count = threads_.size(); count > 0; --count) threads_.emplace_back([this] { work(false); });
    }
    changed_.notify_all();
}

void leaveUnproven(Measured& measured, std::string why) {
    constexpr double kNearlyAll = 0.9999;  // all of it is reserved for what is proven
    if (measured.condition != Condition::Whole) return;
    measured.condition = Condition::Partial;
    measured.decoded = kNearlyAll;
    measured.why = std::move(why);
}

std::vector<Examined> Examiner::take() {
    const std::lock_guard lock(mutex_);
    return std::exchange(done_, {});
}

bool Examiner::sift(const std::function<bool(Examined&)>& keep) {
    finish();
    if (control_.stopped()) return false;
    for (auto& examined : take()) {
        if (keep(examined)) giveBack(std::move(examined));
    }
    return true;
}

void Examiner::giveBack(Examined examined) {
    const std::lock_guard lock(mutex_);
    done_.push_back(std::move(examined));
}

bool Examiner::idle() const {
    const std::lock_guard lock(mutex_);
    return tasks_.empty() && inWork_ == 0;
}

std::size_t Examiner::waiting() const {
    const std::lock_guard lock(mutex_);
    return tasks_.size() + inWork_;
}

void Examiner::finish() const {
    while (!idle() && !control_.stopped()) std::this_thread::sleep_for(std::chrono::milliseconds(2));
}

void Examiner::work(bool givesWay) {
    // Reading comes first: a card that is read through can be taken out, checks can wait. The worker process
    // is started from this thread and inherits it.
    // Not the idle class: beside another program that is at work nothing would be found for as long.
    constexpr int kNice = 10;
    if (givesWay) (void)::setpriority(PRIO_PROCESS, 0, kNice);
    Worker worker(source_);
    std::unique_lock lock(mutex_);
    for (;;) {
        const auto relieved = [&] { return ending_ || (givesWay && relieved_); };
        changed_.wait(lock,
                      [&] { return relieved() || (!tasks_.empty() && tasks_.begin()->first <= frontier_); });
        if (relieved()) {
            // What this thread has put back is another's now, who may be waiting for just that.
            changed_.notify_all();
            return;
        }
        auto task = std::move(tasks_.begin()->second);
        tasks_.erase(tasks_.begin());
        const auto frontier = frontier_;
        ++inWork_;
        if (task.open && !task.walked) task.open->mayReachAnywhere();
        lock.unlock();

        std::optional<std::uint64_t> need;
        const bool going = control_.proceed();
        if (going) need = step(task, worker, frontier);

        lock.lock();
        --inWork_;
        // Interrupted work is thrown away; the candidate is still open in the job.
        if (!going || control_.stopped()) return;
        if (need) {
            if (task.open) task.open->reaches(*need);
            tasks_.emplace(*need, std::move(task));
        } else {
            const bool inOnePiece = task.places.empty();
            const auto end = task.candidate.offset + (task.walked->accepted ? task.walked->length : 0);
            if (task.open) openFiles_.close(task.open);
            openFiles_.add({task.candidate, std::move(*task.walked), std::exchange(worker.preview, {}),
                            std::move(task.places), std::move(task.rebuilt)},
                           done_);
            if (inOnePiece) leave(task.candidate, end);
        }
        openFiles_.release(done_);
    }
}

// How far the pass must have come for the first `length` bytes of a file.
std::uint64_t Examiner::reach(const Task& task, std::uint64_t length) {
    if (task.places.empty()) return task.candidate.offset + length;
    std::uint64_t end = 0;
    for (const auto& place : task.places) {
        const auto part = std::min(length, place.length);
        end = std::max(end, place.offset + part);
        length -= part;
        if (length == 0) break;
    }
    return end;
}

std::vector<Piece> Examiner::piecesOf(const Task& task) const {
    if (!task.rebuilt.empty()) return task.rebuilt;
    if (task.places.empty())
        return card_.pieces({task.candidate.offset, task.walked ? task.walked->length : 0});
    std::vector<Piece> pieces;
    for (const auto& place : task.places) {
        for (auto& piece : card_.pieces(place)) pieces.push_back(std::move(piece));
    }
    return pieces;
}

std::uint64_t Examiner::room(const Task& task) const {
    if (!task.rebuilt.empty()) return totalLength(task.rebuilt);
    return task.places.empty() ? span_.end() - task.candidate.offset : total(task.places);
}

std::optional<std::uint64_t> Examiner::step(Task& task, Worker& worker, std::uint64_t frontier) {
    const auto start = task.candidate.offset;
    while (!task.walked) {
        const auto want = task.measure->want();
        if (!want) {
            task.walked = task.measure->finish();
            break;
        }
        const auto all = room(task);
        const auto from = std::min(want->offset, all);
        const auto length = static_cast<std::size_t>(std::min<std::uint64_t>(want->length, all - from));
        const auto end = reach(task, from + length);
        if (end > frontier) return end;
        if (task.open) task.open->walkedTo(end);
        if (worker.buffer.size() < length) worker.buffer.resize(length);
        const auto into = MutableBytes(worker.buffer).first(length);
        const auto got = task.places.empty() ? card_.read(start + from, into)
                                             : PieceReader(card_, piecesOf(task)).read(from, into);
        const auto bytes = Bytes(worker.buffer).first(got);
        // A reader that gives other bytes the second time must not lead a walk astray.
        if (from == 0 && want->length >= Format::kHead && !task.candidate.anyRecord &&
            !task.format->matches(slice(bytes, 0, Format::kHead))) {
            task.walked = Measured{};
            return std::nullopt;
        }
        task.measure->give(bytes);
        if (worker.buffer.size() > (8U << 20)) worker.buffer = {};
        if (!control_.proceed()) return frontier;
    }
    auto& measured = *task.walked;
    if (!measured.accepted) return std::nullopt;
    const auto most = room(task);
    if (measured.length > most && task.places.empty() && measured.why.empty()) {
        measured.condition = Condition::Partial;
        measured.why = "the card ends before the file does";
    }
    measured.length = std::min(measured.length, most);
    measured.proven = std::min(measured.proven, measured.length);
    if (task.open) task.open->reaches(task.candidate.offset + measured.length);
    if (reach(task, measured.length) > frontier) return reach(task, measured.length);
    // A file's own end counts, within what the directory knows of it.
    if (task.rebuilt.empty()) cutTo(task.places, measured.length);
    if (measured.thumbnail)
        worker.preview.picture = media::encodeThumbnail(*measured.thumbnail, kThumbnailSide);
    measured.thumbnail.reset();
    if (measured.needsDecoder && wanted(measured)) {
        decode(measured, worker.preview, piecesOf(task), worker);
    }
    if (measured.condition == Condition::Whole) lookIntoPadding(task, worker);
    if (measured.condition == Condition::Whole && measured.notices != Notices::ForeignBytes)
        lookForStrangeBlocks(task, worker);
    if (measured.condition == Condition::Whole && measured.samples) lookForStrangeSamples(task, worker);
    if (measured.condition == Condition::Whole && goesOnFromBefore(task, worker))
        leaveUnproven(measured, "it goes on from what is before it: its beginning was not found");
    return std::nullopt;
}

// Any table of a stream may look like its beginning. Where its counters and its clock go on across it, what
// is in front is the same recording, of which this is a piece.
bool Examiner::goesOnFromBefore(const Task& task, Worker& worker) {
    constexpr std::uint64_t back = 8 << 10, look = 64 << 10;  // bytes, and those behind its beginning
    const auto start = task.candidate.offset;
    const auto before = static_cast<std::size_t>(std::min(back, start - std::min(start, span_.offset)));
    if (!task.format->runsOn() && !task.format->isStream()) return false;
    if (before == 0) return false;
    if (task.places.empty() && !task.format->isStream()) {
        if (worker.buffer.size() < before) worker.buffer.resize(before);
        const auto got = card_.read(start - before, MutableBytes(worker.buffer).first(before));
        return got == before && task.format->goesOnFrom(Bytes(worker.buffer).first(before));
    }
    if (!task.format->isStream()) return false;
    if (!task.places.empty() && task.places.front().length < look) return false;
    if (worker.buffer.size() < before + look) worker.buffer.resize(before + look);
    const auto got = card_.read(start - before, MutableBytes(worker.buffer).first(before + look));
    const auto bytes = Bytes(worker.buffer).first(got);
    const auto first = got > before ? task.format->firstRecordIn(bytes.first(before)) : std::nullopt;
    if (!first) return false;
    const auto measure = task.format->measure();
    if (!measure->hasClock() || !measure->giveSome(bytes.subspan(*first))) return false;
    constexpr double longestStep = 1;  // second
    const auto join = before - *first;
    return measure->sound() && measure->misfits() == 0 && measure->longestStep() < longestStep &&
           measure->reached() > join + (got - before) / 2;
}

void Examiner::lookIntoPadding(Task& task, Worker& worker) {
    constexpr std::uint64_t most = 4U << 20;  // bytes of one stretch
    auto& measured = *task.walked;
    if (measured.padding.empty()) return;
    PieceReader reader(card_, piecesOf(task));
    for (const auto& range : measured.padding) {
        const auto length = static_cast<std::size_t>(std::min(range.length, most));
        if (worker.buffer.size() < length) worker.buffer.resize(length);
        const auto got = reader.read(range.offset, MutableBytes(worker.buffer).first(length));
        const auto foreign = foreignInPadding(Bytes(worker.buffer).first(got), range.offset);
        if (!foreign) continue;
        return leaveUnproven(measured,
                             "other data lie in what it leaves blank, at byte " + grouped(*foreign));
    }
}

void Examiner::lookForStrangeBlocks(Task& task, Worker& worker) {
    constexpr std::size_t portion = 1U << 20;
    auto& measured = *task.walked;
    PieceReader reader(card_, piecesOf(task));
    if (worker.buffer.size() < portion) worker.buffer.resize(portion);
    for (const auto& range : measured.mediaData) {
        StrangeBlocks blocks(range.offset);
        for (auto at = range.offset; at < range.end();) {
            const auto length = static_cast<std::size_t>(std::min<std::uint64_t>(range.end() - at, portion));
            const auto got = reader.read(at, MutableBytes(worker.buffer).first(length));
            if (got == 0 || control_.stopped()) break;
            blocks.add(Bytes(worker.buffer).first(got));
            at += got;
        }
        if (const auto foreign = blocks.finish(&range != &measured.mediaData.back()))
            return leaveUnproven(measured, "other data lie in it, at byte " + grouped(*foreign));
    }
}

// Where the samples of others lie among its own; see formats/plain_samples.h.
void Examiner::lookForStrangeSamples(Task& task, Worker& worker) {
    constexpr std::size_t portion = 1U << 20;
    auto& measured = *task.walked;
    const auto check = measured.samples->check();
    if (!check) return;
    const auto range = measured.samples->range();
    PieceReader reader(card_, piecesOf(task));
    if (worker.buffer.size() < portion) worker.buffer.resize(portion);
    for (auto at = range.offset; at < range.end();) {
        const auto length = static_cast<std::size_t>(std::min<std::uint64_t>(range.end() - at, portion));
        const auto got = reader.read(at, MutableBytes(worker.buffer).first(length));
        if (got == 0 || control_.stopped()) return;
        check->feed(Bytes(worker.buffer).first(got));
        at += got;
    }
    if (const auto wrong = check->finish(); !wrong.empty()) leaveUnproven(measured, wrong);
}

bool Examiner::wanted(const Measured& measured) const {
    return formats_.empty() || std::find(formats_.begin(), formats_.end(), measured.format) != formats_.end();
}

void Examiner::decode(Measured& measured, Preview& preview, std::vector<Piece> pieces, Worker& worker) {
    const auto outcome = worker.decoder.check(pieces, measured.format, &control_);
    if (measured.onlyIfItDecodes && (!outcome || !outcome.value().opened || outcome.value().errors > 0)) {
        measured.accepted = false;
        return;
    }
    if (!outcome) {
        measured.condition = Condition::Unchecked;
        measured.why = outcome.error().what;
        measured.notes.emplace_back("could not be checked: the decoder gave up on it");
        return;
    }
    const auto& report = outcome.value();
    if (report.thumbnail) preview.picture = media::encodeThumbnail(*report.thumbnail, kThumbnailSide);
    preview.peaks = report.peaks;
    auto& about = measured.description;
    if (about.codec.empty()) about.codec = report.codec;
    if (about.taken.empty()) about.taken = report.taken;
    if (about.camera.empty()) about.camera = report.camera;
    // A coding in which a decoder notices little; see docs/formats.md.
    if (about.codec.rfind("ALAC", 0) == 0 && measured.notices == Notices::ForeignBytes)
        measured.notices = Notices::ForeignKinds;
    if (report.duration) about.duration = report.duration;
    if (report.frameRate && *report.frameRate > 0) about.frameRate = report.frameRate;
    if (report.width && *report.width > 0) {
        about.width = report.width;
        about.height = report.height;
    }
    // The walk may know of damage that decodes without complaint: of the two the worse counts.
    const bool walkedFine =
        measured.condition == Condition::Unchecked || measured.condition == Condition::Whole;
    if (report.noDecoder && report.errors == 0) {
        // What of it can be decoded does; of the rest nothing can be said.
        measured.notes.emplace_back("it, or a part of it, is in a coding that cannot be checked here");
        if (walkedFine) {
            measured.condition = Condition::Unchecked;
            measured.decoded = 0;
        } else if (measured.decoded == 0 && measured.length > 0) {
            measured.decoded =
                std::min(0.9999, static_cast<double>(measured.proven) / static_cast<double>(measured.length));
        }
        return;
    }
    const bool decodesFine = report.opened && report.errors == 0;
    if (walkedFine && decodesFine) {
        measured.condition = Condition::Whole;
        measured.decoded = 1.0;
        measured.decodedMap = report.decodedMap;
        return;
    }
    if (!decodesFine && measured.why.empty()) measured.why = report.firstError;
    if (!decodesFine || measured.decodedMap.empty()) {
        measured.decoded = std::min(report.decoded, 0.9999);
        measured.decodedMap = report.decodedMap;
    }
    // A decoder does not miss what it was never shown.
    if (measured.lost > 0)
        measured.decoded *= 1 - static_cast<double>(measured.lost) / static_cast<double>(measured.length);
    const bool some = report.opened && measured.decoded > 0.002;
    measured.condition = some ? Condition::Partial : Condition::Broken;
}

}  // namespace dreskel
