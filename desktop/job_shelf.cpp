#include "desktop/job_shelf.h"

#include <algorithm>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

namespace dreskel {

QString jobsFolder() {
    const auto chosen = qEnvironmentVariable("DRESKEL_JOBS");
    if (!chosen.isEmpty()) return chosen;
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
           QStringLiteral("/dreskel/jobs");
}

QString titleOf(const QString& sourcePath) {
    const QFileInfo facts(sourcePath);
    const auto simulated = QStringLiteral(".reader.json");
    if (sourcePath.endsWith(simulated)) return facts.fileName().chopped(simulated.size());
    return sourcePath.startsWith(QLatin1String("/dev/")) ? facts.fileName() : facts.completeBaseName();
}

namespace {

// Of a job from before it was told, or that has not been opened since, the files themselves are counted.
Tally tallyOf(const Job& job) {
    if (const auto told = job.tally()) return *told;
    Tally tally;
    for (const auto& finding : job.findings()) {
        tally.files += finding.listed() ? 1 : 0;
        tally.kept += finding.listed() && finding.decision.kept ? 1 : 0;
    }
    return tally;
}

}  // namespace

std::vector<ShelvedJob> shelvedJobs() {
    std::vector<ShelvedJob> jobs;
    const auto folders = QDir(jobsFolder()).entryInfoList(QDir::Dirs | QDir::NoDotAndDotDot);
    for (const auto& folder : folders) {
        const auto job = Job::open(folder.filePath().toStdString(), Job::Access::Read);
        if (!job) continue;
        const auto source = job.value()->source();
        if (!source) continue;
        ShelvedJob shelved;
        shelved.folder = folder.filePath();
        shelved.sourcePath = QString::fromStdString(source->path);
        shelved.title = titleOf(shelved.sourcePath);
        shelved.touched = QFileInfo(folder.filePath() + QStringLiteral("/job.sqlite")).lastModified();
        const auto wal = QFileInfo(folder.filePath() + QStringLiteral("/job.sqlite-wal"));
        if (wal.exists()) shelved.touched = std::max(shelved.touched, wal.lastModified());
        const auto scan = job.value()->scan();
        shelved.state = scan.state;
        if (scan.span.length > 0) {
            shelved.share =
                static_cast<double>(scan.position - scan.span.offset) / static_cast<double>(scan.span.length);
        }
        const auto tally = tallyOf(*job.value());
        shelved.files = tally.files;
        shelved.kept = tally.kept;
        shelved.sourceThere = QFileInfo::exists(shelved.sourcePath);
        jobs.push_back(std::move(shelved));
    }
    std::sort(jobs.begin(), jobs.end(),
              [](const ShelvedJob& a, const ShelvedJob& b) { return a.touched > b.touched; });
    return jobs;
}

QString jobFolderFor(const QString& sourcePath) {
    const auto absolute = QFileInfo(sourcePath).absoluteFilePath();
    const auto size = QFileInfo(absolute).size();
    for (const auto& shelved : shelvedJobs()) {
        if (shelved.sourcePath != absolute) continue;
        const auto job = Job::open(shelved.folder.toStdString(), Job::Access::Read);
        const bool device = absolute.startsWith(QLatin1String("/dev/"));
        // An image of the same name and size is taken to be the same; a device may hold another card by now.
        if (!device && job && job.value()->source()->size == static_cast<std::uint64_t>(size))
            return shelved.folder;
    }
    const auto base = jobsFolder() + QLatin1Char('/') + titleOf(sourcePath) + QLatin1Char(' ') +
                      QDate::currentDate().toString(Qt::ISODate);
    auto folder = base;
    for (int number = 2; QFileInfo::exists(folder); ++number)
        folder = QStringLiteral("%1 (%2)").arg(base).arg(number);
    return folder;
}

}  // namespace dreskel
