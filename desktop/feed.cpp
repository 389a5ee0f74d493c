#include "desktop/feed.h"

#include <algorithm>

#include "desktop/look/look.h"

namespace dreskel {
namespace {

constexpr int kPollMilliseconds = 100;
constexpr std::size_t kMostAtOnce = 500;

}  // namespace

Feed::Feed(std::shared_ptr<Session> session, QObject* parent)
    : QObject(parent), session_(std::move(session)) {
    connect(&timer_, &QTimer::timeout, this, &Feed::poll);
    timer_.start(kPollMilliseconds);
    poll();
}

void Feed::poll() {
    overview_ = session_->overview();
    const auto changes = session_->changes(since_, kMostAtOnce);
    std::vector<std::int64_t> touched;
    for (const auto& finding : changes) {
        if (!findings_.contains(finding.id)) {
            ids_.insert(std::upper_bound(ids_.begin(), ids_.end(), finding.id), finding.id);
        }
        findings_.insert(finding.id, std::make_shared<const Finding>(finding));
        touched.push_back(finding.id);
    }
    if (!touched.empty()) Q_EMIT changed(touched);
    Q_EMIT progressed();
    // More waits: come back soon, but let everything else have its turn.
    timer_.setInterval(changes.size() == kMostAtOnce ? 5 : kPollMilliseconds);
}

const Finding* Feed::find(std::int64_t id) const {
    const auto found = findings_.constFind(id);
    return found == findings_.constEnd() ? nullptr : found->get();
}

void Feed::setKept(const std::vector<std::int64_t>& ids, bool kept) {
    session_->setKept(ids, kept);
    poll();
}

QString Feed::sentence() const {
    const auto& progress = overview_.progress;
    const auto files =
        QStringLiteral("%1 file%2").arg(look::numberText(overview_.listed), overview_.listed == 1 ? "" : "s");
    if (overview_.trouble) return QString::fromStdString(overview_.trouble->sentence());
    const auto done = look::sizeText(progress.position - progress.span.offset);
    const auto all = look::sizeText(progress.span.length);
    switch (overview_.activity) {
        case Activity::Stopping: return QStringLiteral("Stopping after the step in hand");
        case Activity::Paused: return QStringLiteral("Paused at %1 of %2, %3").arg(done, all, files);
        case Activity::Idle:
            if (progress.state == ScanState::Finished)
                return QStringLiteral("Search finished: %1, all checked").arg(files);
            if (progress.state == ScanState::NotStarted) return QStringLiteral("Not searched yet");
            return QStringLiteral("Stopped at %1 of %2, %3 so far").arg(done, all, files);
        case Activity::Scanning: break;
    }
    if (progress.state == ScanState::Checking) {
        return QStringLiteral("All read; checking what was found, %1 to go, %2 so far")
            .arg(look::numberText(progress.toCheck), files);
    }
    QString left;
    if (progress.bytesPerSecond > 0) {
        const auto seconds =
            static_cast<double>(progress.span.end() - progress.position) / progress.bytesPerSecond;
        left = seconds < 90 ? QStringLiteral(", %1 s left").arg(qRound(seconds))
                            : QStringLiteral(", %1 min left").arg(qRound(seconds / 60));
    }
    return QStringLiteral("Reading %1 of %2, %3%4").arg(done, all, files, left);
}

}  // namespace dreskel
