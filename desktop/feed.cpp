#include "desktop/feed.h"

#include <algorithm>
#include <atomic>
#include <QCoreApplication>
#include <set>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

QString filesText(std::uint64_t count) {
    return Text::tr("%1 file(s)", nullptr, static_cast<int>(count)).arg(look::numberText(count));
}

constexpr int kPollMilliseconds = 100;
constexpr std::size_t kMostAtOnce = 2000;

constexpr auto kBefore = [](const std::shared_ptr<const Finding>& finding, std::int64_t id) {
    return finding->id < id;
};

}  // namespace

Feed::Feed(std::shared_ptr<Session> session, QObject* parent)
    : QObject(parent), session_(std::move(session)), queue_(session_) {
    connect(&timer_, &QTimer::timeout, this, &Feed::poll);
    timer_.start(kPollMilliseconds);
    poll();
}

void Feed::poll() {
    overview_ = session_->overview();
    const bool idle = queue_.mayAtOnce(0);
    const auto changes = session_->changes(since_, kMostAtOnce);
    std::vector<std::int64_t> touched;
    // Only this thread gives it to others; when none has it any more, what they read of it is done.
    if (!changes.empty() && files_.use_count() > 1) files_ = std::make_shared<JobFiles>(*files_);
    std::atomic_thread_fence(std::memory_order_acquire);
    auto& files = *files_;
    for (const auto& finding : changes) {
        const auto at = std::lower_bound(files.begin(), files.end(), finding->id, kBefore);
        if (at != files.end() && (*at)->id == finding->id) {
            *at = finding;
        } else {
            files.insert(at, finding);
        }
        touched.push_back(finding->id);
    }
    if (idle && changes.size() < kMostAtOnce) stale_ = false;
    if (!touched.empty()) Q_EMIT changed(touched);
    Q_EMIT progressed();
    // More waits: come back soon, but let everything else have its turn.
    timer_.setInterval(changes.size() == kMostAtOnce ? 5 : kPollMilliseconds);
}

const Finding* Feed::find(std::int64_t id) const {
    const auto at = std::lower_bound(files_->begin(), files_->end(), id, kBefore);
    return at == files_->end() || (*at)->id != id ? nullptr : at->get();
}

// What files were decided before and after it; of those that it changes only, so that taking it back leaves
// the others as they were.
class Feed::DecisionStep : public QUndoCommand {
  public:
    DecisionStep(Feed& feed, const char* what, std::shared_ptr<const Decided> decided, bool stored)
        : QUndoCommand(Text::tr(what, nullptr, static_cast<int>(decided->after.size()))),
          feed_(feed),
          decided_(std::move(decided)),
          stored_(stored) {}
    void redo() override {
        if (!std::exchange(stored_, false)) set(&Decided::after);
    }
    void undo() override { set(&Decided::before); }

  private:
    void set(const Decisions Decided::*which) {
        auto& queue = feed_.queue_;
        const auto& decisions = (*decided_).*which;
        if (!queue.mayAtOnce(decisions.size())) {
            feed_.stale_ = true;
            return queue.later([&queue, which, decided = decided_] { queue.store((*decided).*which); });
        }
        queue.store(decisions);
        feed_.poll();
    }

    Feed& feed_;
    std::shared_ptr<const Decided> decided_;
    bool stored_;  // before it came onto the stack
};

// Of files in the order of their id, those that are meant, in the same order.
std::shared_ptr<const Feed::Decided> Feed::workOut(const JobFiles& files, const Change& change) {
    auto ids = change.ids;
    std::sort(ids.begin(), ids.end());
    const auto meant = [&ids](std::int64_t id) { return std::binary_search(ids.begin(), ids.end(), id); };
    auto decided = std::make_shared<Decided>();
    for (const auto& file : files) {
        const bool belongs =
            change.withBelongings && file->listed() && file->belongsTo && meant(*file->belongsTo);
        if (!belongs && !meant(file->id)) continue;
        auto decision = file->decision;
        change.make(decision);
        if (decision == file->decision) continue;
        decided->before.emplace_hint(decided->before.end(), file->id, file->decision);
        decided->after.emplace_hint(decided->after.end(), file->id, std::move(decision));
    }
    return decided;
}

void Feed::decide(Change change) {
    if (queue_.mayAtOnce(change.ids.size())) {
        // What has just been decided behind the window comes onto the stack before this.
        takeSteps();
        auto decided = stale_ ? workOut(session_->everything(), change) : workOut(*files_, change);
        if (!decided->after.empty())
            decisions_.push(new DecisionStep(*this, change.what, std::move(decided), false));
        return;
    }
    stale_ = true;
    queue_.later([this, change = std::move(change)] {
        // As the files are when those before have been decided.
        const auto decided = workOut(session_->everything(), change);
        if (decided->after.empty()) return;
        queue_.store(decided->after);
        QMetaObject::invokeMethod(this, [this, what = change.what, decided] {
            decisions_.push(new DecisionStep(*this, what, decided, true));
        });
    });
}

void Feed::settle() {
    queue_.settle();
    takeSteps();
}

void Feed::takeSteps() {
    QCoreApplication::sendPostedEvents(this, QEvent::MetaCall);
}

void Feed::setKept(const std::vector<std::int64_t>& ids, bool kept) {
    decide({ids,
            kept ? QT_TRANSLATE_N_NOOP("dreskel::Text", "keeping %n file(s)")
                 : QT_TRANSLATE_N_NOOP("dreskel::Text", "letting go of %n file(s)"),
            [kept](Decision& decision) {
                decision.kept = kept;
                if (kept) decision.leftOut = false;
            },
            true});
}

void Feed::setLeftOut(const std::vector<std::int64_t>& ids, bool leftOut) {
    decide({ids,
            leftOut ? QT_TRANSLATE_N_NOOP("dreskel::Text", "leaving out %n file(s)")
                    : QT_TRANSLATE_N_NOOP("dreskel::Text", "taking in again %n file(s)"),
            [leftOut](Decision& decision) {
                decision.leftOut = leftOut;
                if (leftOut) decision.kept = false;
            },
            true});
}

void Feed::rate(const std::vector<std::int64_t>& ids, int rating) {
    decide({ids, QT_TRANSLATE_N_NOOP("dreskel::Text", "rating %n file(s)"),
            [rating](Decision& decision) { decision.rating = rating; }, false});
}

void Feed::setNote(std::int64_t id, const QString& note) {
    decide({{id},
            QT_TRANSLATE_N_NOOP("dreskel::Text", "the note of %n file(s)"),
            [text = note.trimmed().toStdString()](Decision& decision) { decision.note = text; },
            false});
}

QString Feed::copySentence(const CopyView& copy) const {
    const auto& progress = copy.progress;
    const auto missing = progress.failed + progress.waiting + progress.stalled;
    const auto all = look::sizeText(progress.read + missing + progress.untried);
    const auto files = filesText(overview_.listed);
    const auto bad = missing == 0 ? QString() : Text::tr(", %1 not read yet").arg(look::sizeText(missing));
    const auto errors = progress.errors == 0
                            ? QString()
                            : Text::tr(", %1 error(s)", nullptr, static_cast<int>(progress.errors))
                                  .arg(look::numberText(progress.errors));
    switch (progress.stage) {
        case CopyStage::Sweep: {
            QString left;
            if (progress.bytesPerSecond > 0) {
                const auto seconds = static_cast<double>(progress.untried) / progress.bytesPerSecond;
                left = seconds < 90 ? Text::tr(", %1 s left").arg(qRound(seconds))
                                    : Text::tr(", %1 min left").arg(qRound(seconds / 60));
            }
            return Text::tr("Copying, %1 of %2 at %3/s%4%5; %6")
                .arg(look::sizeText(progress.read), all,
                     look::sizeText(static_cast<std::uint64_t>(progress.bytesPerSecond)), errors, left,
                     files);
        }
        case CopyStage::Narrowing:
            return Text::tr("Going closer to the bad places: %1 read%2%3")
                .arg(look::sizeText(progress.read), bad, errors);
        case CopyStage::Stalled:
            return Text::tr("Reading where the card stalled: %1 read%2")
                .arg(look::sizeText(progress.read), bad);
        case CopyStage::Retrying:
            return Text::tr("Trying bad sectors again: %1 missing").arg(look::sizeText(missing));
        case CopyStage::Hashing: return Text::tr("Copied; making the checksum of the copy; %1").arg(files);
        case CopyStage::Done: break;
    }
    return {};
}

QString Feed::warning() const {
    constexpr double kSilent = 3;  // seconds
    if (overview_.activity != Activity::Scanning) return {};
    if (!overview_.copy) {
        if (overview_.progress.unreadable == 0) return {};
        return Text::tr(
                   "This card is failing: %1 could not be read. Stop, and copy it first; every further "
                   "read may be its last.")
            .arg(look::sizeText(overview_.progress.unreadable));
    }
    const auto& copy = overview_.copy->progress;
    if (!overview_.copy->underWay) return {};
    if (copy.secondsInRead > kSilent) {
        return Text::tr(
                   "The reader has not answered for %1 s, at byte %2. Wait: pulling the card out now may "
                   "be the end of it.")
            .arg(qRound(copy.secondsInRead))
            .arg(look::numberText(copy.position));
    }
    const bool slower = copy.bytesPerSecond > 0 && copy.bytesPerSecond < copy.bestBytesPerSecond / 4;
    if (copy.errors > 4 && copy.stage == CopyStage::Sweep) {
        return Text::tr(
                   "This card is failing: %1 errors so far%2. Leave it in until the copy is through, and "
                   "work on the copy only.")
            .arg(look::numberText(copy.errors), slower ? Text::tr(", and it has become slower") : QString());
    }
    return {};
}

QString Feed::sentence() const {
    const auto& progress = overview_.progress;
    const auto files = filesText(overview_.listed);
    if (overview_.trouble) return Text::ofCore(*overview_.trouble);
    const auto done = look::sizeText(progress.position - progress.span.offset);
    const auto all = look::sizeText(progress.span.length);
    switch (overview_.activity) {
        case Activity::Stopping: return Text::tr("Stopping after the step in hand");
        case Activity::Paused: return Text::tr("Paused at %1 of %2, %3").arg(done, all, files);
        case Activity::Idle:
            if (overview_.loading) return Text::tr("Opening the job, %1 so far").arg(files);
            if (progress.state == ScanState::Finished && progress.namedOnly)
                return Text::tr("Named files checked: %1; nothing else was read").arg(files);
            if (progress.state == ScanState::Finished)
                return Text::tr("Search finished: %1, all checked").arg(files);
            if (progress.state == ScanState::NotStarted) return Text::tr("Not searched yet");
            return Text::tr("Stopped at %1 of %2, %3 so far").arg(done, all, files);
        case Activity::Scanning: break;
    }
    if (overview_.copy && overview_.copy->underWay) {
        if (auto text = copySentence(*overview_.copy); !text.isEmpty()) return text;
    }
    if (progress.joining) {
        return Text::tr("Putting files in pieces together, %1 done, %2 to try, %3 so far")
            .arg(look::numberText(progress.joined), look::numberText(progress.toJoin), files);
    }
    if (progress.state == ScanState::Checking && progress.namedOnly) {
        return Text::tr("Checking what folders name, %1 to go, %2 so far")
            .arg(look::numberText(progress.toCheck), files);
    }
    if (progress.state == ScanState::Checking) {
        return Text::tr("All read; checking what was found, %1 to go, %2 so far")
            .arg(look::numberText(progress.toCheck), files);
    }
    QString left;
    if (progress.bytesPerSecond > 0) {
        const auto seconds =
            static_cast<double>(progress.span.end() - progress.position) / progress.bytesPerSecond;
        left = seconds < 90 ? Text::tr(", %1 s left").arg(qRound(seconds))
                            : Text::tr(", %1 min left").arg(qRound(seconds / 60));
    }
    return Text::tr("Reading %1 of %2, %3%4").arg(done, all, files, left);
}

}  // namespace dreskel
