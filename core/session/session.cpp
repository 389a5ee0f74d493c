#include "session/session.h"

#include <filesystem>

#include "source/absent_source.h"
#include "source/copy_map.h"

namespace dreskel {

Session::Session(std::shared_ptr<Job> job, std::shared_ptr<Source> source, std::shared_ptr<Copying> copying)
    : job_(std::move(job)), source_(std::move(source)), copying_(std::move(copying)) {
    facts_ = job_->source();
    const auto scan = job_->scan();
    overview_.progress.state = scan.state;
    overview_.progress.span = scan.span;
    overview_.progress.namedOnly = scan.namedOnly;
    overview_.progress.position = scan.position;
    const auto unreadable = job_->unreadable();
    for (const auto& range : unreadable) overview_.progress.unreadable += range.length;
    overview_.progress.unreadableRanges = std::make_shared<std::vector<ByteRange>>(unreadable);
    overview_.progress.surface = std::make_shared<std::vector<std::uint8_t>>(scan.surface);
    overview_.loading = true;
    loading_ = std::thread([this] { load(); });
}

// The first few at once, so that there is something to look at.
void Session::load() {
    std::size_t most = 200;
    for (std::int64_t id = INT64_MIN; !ending_; most = 1000) {
        const auto before = id;
        auto some = job_->findingsAfter(id, most);
        if (id == before) break;
        const std::lock_guard lock(mutex_);
        for (auto& finding : some) note(std::move(finding));
    }
    const std::lock_guard lock(mutex_);
    overview_.loading = false;
    // What was not read to its end does not tell how many there are.
    if (!ending_) storeTally();
    loaded_.notify_all();
}

void Session::awaitLoaded() const {
    std::unique_lock lock(mutex_);
    loaded_.wait(lock, [this] { return !overview_.loading; });
}

// For lists of jobs; an estimate while a scan runs. Whoever calls it holds the mutex.
void Session::storeTally() {
    const Tally tally{overview_.listed, overview_.kept};
    if (job_->tally() == tally) return;
    const auto stored = job_->setTally(tally);
    if (!stored || !job_->commit()) return;  // it is only missed in a list
}

Result<std::shared_ptr<Session>> Session::open(const std::string& sourcePath, const std::string& jobFolder,
                                               const std::string& map) {
    // The source first: a job for a card that cannot be opened must not come into being.
    std::string path = sourcePath;
    if (path.empty()) {
        const auto known = sourcePathOf(jobFolder);
        if (!known) return known.error();
        path = known.value();
    }
    std::error_code failed;
    const auto absolute = std::filesystem::absolute(path, failed);
    const auto where = failed ? path : absolute.string();
    auto source = map.empty() ? openSource(where) : openCopy(where, map);
    if (!source) return source.error();
    return openIn(jobFolder, source.value(), nullptr, Load::First);
}

Result<std::shared_ptr<Session>> Session::open(std::shared_ptr<Source> source, const std::string& jobFolder,
                                               Load load) {
    return openIn(jobFolder, std::move(source), nullptr, load);
}

Result<std::shared_ptr<Source>> Session::absentSourceOf(const std::string& jobFolder) {
    const auto job = Job::open(jobFolder, Job::Access::Read);
    if (!job) return job.error();
    const auto facts = job.value()->source();
    if (!facts)
        return Error{Fault::Failed, "The job has no source yet", jobFolder, "Search a card with it first"};
    return absentSource(facts->path, facts->size, facts->sectorSize);
}

Result<std::shared_ptr<Session>> Session::openIn(const std::string& jobFolder, std::shared_ptr<Source> source,
                                                 std::shared_ptr<Copying> copying, Load load) {
    auto job = Job::open(jobFolder, Job::Access::Write);
    if (!job) return job.error();
    std::shared_ptr<Session> session(
        new Session(std::move(job.value()), std::move(source), std::move(copying)));
    if (load == Load::First) session->awaitLoaded();
    return session;
}

Result<std::shared_ptr<Session>> Session::openCopying(std::shared_ptr<Source> card,
                                                      const CopyRequest& request,
                                                      const std::string& jobFolder) {
    std::error_code failed;
    const auto image = std::filesystem::absolute(request.image, failed).string();
    auto wanted = request;
    if (wanted.options.span.length == 0) {
        // A part that was asked for once is gone on with.
        if (const auto begun = Job::open(jobFolder, Job::Access::Read); begun && begun.value()->source())
            wanted.options.span = begun.value()->scan().span;
    }
    const SourceFacts facts{image, card->size(), card->sectorSize(), card->path(), request.serial};
    auto copying = Copying::begin(std::move(card), wanted);
    if (!copying) return copying.error();
    auto source = copying.value()->image().source();
    if (!source) return source.error();
    auto session = openIn(jobFolder, source.value(), copying.value(), Load::First);
    if (!session) return session;
    auto& job = *session.value()->job_;
    const auto known = job.source();
    if (known && known->path != facts.path) {
        return Error{Fault::Failed, "This job belongs to another source", known->path,
                     "Name another folder for a new job, or the copy that this one was begun with"};
    }
    if (auto stored = job.setSource(facts); !stored) return stored.error();
    if (auto stored = job.commit(); !stored) return stored.error();
    session.value()->facts_ = facts;
    return session;
}

Session::~Session() {
    stop();
    ending_ = true;
    if (thread_.joinable()) thread_.join();
    loading_.join();
}

void Session::startScan(ScanOptions options) {
    // What is not copied will never come.
    if (copying_ && options.span.length == 0) options.span = copying_->span();
    // Nothing of it can be looked at before it is copied, and the copy is made by the pass.
    if (copying_) options.namedOnly = false;
    {
        const std::lock_guard lock(mutex_);
        const auto& progress = overview_.progress;
        const bool goesOn = progress.namedOnly && !options.namedOnly;
        const bool more = goesOn || options.again || !options.references.empty();
        if (running_ || (progress.state == ScanState::Finished && !more)) return;
        if (!source_->isThere()) {
            // Every sector would be noted as unreadable.
            overview_.trouble = Error{Fault::SourceUnusable, "The card is not there", source_->path(),
                                      "Attach it, or open its copy, and open the job again"};
            return;
        }
        running_ = true;
        overview_.activity = Activity::Scanning;
        overview_.trouble.reset();
    }
    if (thread_.joinable()) thread_.join();
    control_ = std::make_unique<Control>();
    thread_ = std::thread([this, options = std::move(options)] {
        awaitLoaded();
        Supply supply;
        std::shared_ptr<const Source> ahead;
        if (copying_) {
            ahead = copying_->ahead();
            supply = [this](ByteRange rest, Control& control, const Pass::Visit& visit) {
                return copying_->run(control, visit, rest.offset);
            };
        }
        Scanner scanner(job_, source_, *this, supply, ahead);
        auto outcome = scanner.run(options, *control_);
        const auto state = job_->scan().state;
        const std::lock_guard lock(mutex_);
        if (!outcome && outcome.error().fault != Fault::Interrupted) overview_.trouble = outcome.error();
        overview_.progress.state = state;
        overview_.activity = Activity::Idle;
        outcome_ = std::move(outcome);
        running_ = false;
        storeTally();
    });
}

Result<Smaller> Session::makeSmall(bool copyToo) {
    {
        const std::lock_guard lock(mutex_);
        if (running_)
            return Error{Fault::Failed, "The card is being searched", job_->folder(),
                         "Stop the search first"};
    }
    return dreskel::makeSmall(*job_, job_->folder(), copyToo);
}

void Session::pause() {
    const std::lock_guard lock(mutex_);
    if (!running_ || overview_.activity != Activity::Scanning) return;
    control_->pause();
    overview_.activity = Activity::Paused;
}

void Session::resume() {
    const std::lock_guard lock(mutex_);
    if (!running_ || overview_.activity != Activity::Paused) return;
    control_->resume();
    overview_.activity = Activity::Scanning;
}

void Session::stop() {
    const std::lock_guard lock(mutex_);
    if (!running_) return;
    control_->stop();
    overview_.activity = Activity::Stopping;
}

Status Session::wait() {
    if (thread_.joinable()) thread_.join();
    const std::lock_guard lock(mutex_);
    return outcome_;
}

Overview Session::overview() const {
    std::shared_ptr<const CopyView> copy;
    if (copying_) {
        copy = std::make_shared<CopyView>(copying_->view());
    } else if (const auto map = source_->map()) {
        copy = std::make_shared<CopyView>(viewOf(*map));
    }
    const std::lock_guard lock(mutex_);
    auto overview = overview_;
    overview.copy = std::move(copy);
    return overview;
}

std::vector<std::shared_ptr<const Finding>> Session::changes(std::uint64_t& since, std::size_t most) const {
    const std::lock_guard lock(mutex_);
    std::vector<std::shared_ptr<const Finding>> changed;
    for (auto at = log_.upper_bound(since); at != log_.end() && changed.size() < most; ++at) {
        changed.push_back(findings_.at(at->second));
        since = at->first;
    }
    return changed;
}

std::vector<std::shared_ptr<const Finding>> Session::everything() const {
    const std::lock_guard lock(mutex_);
    std::vector<std::shared_ptr<const Finding>> all;
    all.reserve(findings_.size());
    for (const auto& [id, finding] : findings_) all.push_back(finding);
    return all;
}

std::optional<Finding> Session::finding(std::int64_t id) const {
    std::unique_lock lock(mutex_);
    auto found = findings_.find(id);
    if (found == findings_.end() && overview_.loading) {
        loaded_.wait(lock, [this] { return !overview_.loading; });
        found = findings_.find(id);
    }
    return found == findings_.end() ? std::nullopt : std::optional(*found->second);
}

std::vector<Finding> Session::listed() const {
    awaitLoaded();
    const std::lock_guard lock(mutex_);
    std::vector<Finding> all;
    for (const auto& [id, finding] : findings_) {
        if (finding->listed()) all.push_back(*finding);
    }
    return all;
}

void Session::tally(const Finding& finding, bool add) {
    const auto count = [add](std::size_t& number) { add ? ++number : --number; };
    if (!finding.wanted) return;
    if (finding.inside) {
        count(overview_.embedded);
        return;
    }
    count(overview_.listed);
    count(overview_.byKind[finding.kind]);
    count(overview_.byCondition[finding.condition]);
    if (finding.decision.kept) {
        count(overview_.kept);
        overview_.keptBytes += add ? finding.size() : 0 - finding.size();
    }
}

void Session::note(Finding finding) {
    const auto id = finding.id;
    const auto known = findings_.find(id);
    if (known != findings_.end()) {
        tally(*known->second, false);
        finding.decision = known->second->decision;
        // Of another picture they say nothing.
        if (finding.size() == known->second->size()) finding.faces = known->second->faces;
    }
    tally(finding, true);
    put(std::make_shared<const Finding>(std::move(finding)));
}

// In place of what was known of it, as its last change.
void Session::put(std::shared_ptr<const Finding> finding) {
    const auto id = finding->id;
    findings_[id] = std::move(finding);
    if (const auto last = changeOf_.find(id); last != changeOf_.end()) log_.erase(last->second);
    changeOf_[id] = ++overview_.changes;
    log_[overview_.changes] = id;
}

void Session::onFindings(const std::vector<Finding>& changed) {
    const std::lock_guard lock(mutex_);
    for (const auto& finding : changed) note(finding);
}

void Session::onProgress(const ScanProgress& progress) {
    const std::lock_guard lock(mutex_);
    overview_.progress = progress;
}

Status Session::setSplice(std::int64_t id, const std::vector<ByteRange>& places) {
    const auto known = finding(id);
    if (!known) return Error{Fault::Usage, "There is no such file", folder(), ""};
    return carryOut([&] {
        return places.empty() ? job_->dropSplice(known->start())
                              : job_->putSplice({known->start(), known->evidence.family, places});
    });
}

Status Session::setLending(const Lending& lending) {
    return carryOut([&] { return job_->putLending(lending); });
}

Status Session::carryOut(const std::function<Status()>& write) {
    {
        const std::lock_guard lock(mutex_);
        if (running_) {
            return Error{Fault::Failed, "A search is running", folder(),
                         "Wait until it is done, or stop it; then keep the picture"};
        }
    }
    if (auto stored = write(); !stored) return stored;
    if (auto kept = job_->commit(); !kept) return kept;
    ScanOptions options;
    options.again = true;
    options.namedOnly = job_->scan().namedOnly;
    startScan(options);
    return Done{};
}

void Session::decide(const std::map<std::int64_t, Decision>& decisions) {
    const std::lock_guard lock(mutex_);
    for (const auto& [id, decision] : decisions) {
        const auto found = findings_.find(id);
        if (found == findings_.end() || found->second->decision == decision) continue;
        if (!job_->setDecision(id, decision)) continue;
        tally(*found->second, false);
        auto decided = std::make_shared<Finding>(*found->second);
        decided->decision = decision;
        tally(*decided, true);
        put(std::move(decided));
    }
    // While a scan runs it commits several times a second; a decision must not wait for one otherwise.
    if (auto stored = job_->commit(); !stored) overview_.trouble = stored.error();
    if (!running_ && !overview_.loading) storeTally();
}

void Session::setFaces(const std::map<std::int64_t, std::uint32_t>& seen) {
    const std::lock_guard lock(mutex_);
    for (const auto& [id, count] : seen) {
        const auto found = findings_.find(id);
        if (found == findings_.end() || !job_->setFaces(id, count)) continue;
        auto looked = std::make_shared<Finding>(*found->second);
        looked->faces = count;
        put(std::move(looked));
    }
    if (auto stored = job_->commit(); !stored) overview_.trouble = stored.error();
}

Status Session::setNote(const std::string& note) {
    auto stored = job_->setNote(note);
    return stored ? job_->commit() : stored;
}

Status Session::setWishes(const std::vector<Wish>& wishes) {
    auto stored = job_->setWishes(wishes);
    return stored ? job_->commit() : stored;
}

Result<DeliverySum> Session::save(const DeliveryRequest& request, Control& control,
                                  const std::function<void(const DeliveryProgress&)>& progress) {
    return deliver(*job_, source_, request, control, progress);
}

Result<std::string> sourcePathOf(const std::string& jobFolder) {
    const auto job = Job::open(jobFolder, Job::Access::Read);
    if (!job) return job.error();
    const auto facts = job.value()->source();
    if (facts) return facts->path;
    return Error{Fault::Failed, "The job does not say which source it belongs to", jobFolder, ""};
}

Inspection inspectSource(const std::shared_ptr<Source>& source) {
    constexpr double kSeconds = 4.5;
    return {{source->path(), source->size(), source->sectorSize()}, lookAtFirst(source, kSeconds)};
}

}  // namespace dreskel
