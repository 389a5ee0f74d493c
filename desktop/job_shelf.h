// The jobs on this computer: where their folders lie, and what each one is, for the front page.
#pragma once

#include <QDateTime>
#include <QString>
#include <vector>

#include "job/job.h"

namespace dreskel {

struct ShelvedJob {
    QString folder;
    QString title;  // of the source: "MILL-07"
    QString sourcePath;
    QDateTime touched;  // when the job was last worked on
    ScanState state = ScanState::NotStarted;
    double share = 0;  // read so far, 0 to 1
    std::size_t files = 0, kept = 0;
    bool sourceThere = false;
};

// $DRESKEL_JOBS, or a folder in the user's data directory.
QString jobsFolder();
// Newest first. Reads each job's database.
std::vector<ShelvedJob> shelvedJobs();
// The job of this source if there is one that fits, otherwise a folder that does not exist yet.
QString jobFolderFor(const QString& sourcePath);
QString titleOf(const QString& sourcePath);

}  // namespace dreskel
