// A card with every fixture on it and a damaged photo behind them, opened and searched by the desktop.
#pragma once

#include <QTemporaryDir>
#include <QTest>

#include "desktop/main_window.h"
#include "tests/support/support.h"

namespace dreskel::test {

class MediaCard {
  public:
    // Jobs are kept beside the card.
    void make() {
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        path_ = dir_.filePath(QStringLiteral("BENCH-01.img"));
        ImageBuilder image;
        image.addNoise(100000, 8);
        for (const auto& name : mediaNames()) placed_.emplace_back(name, image.add(mediaFile(name)));
        auto damaged = mediaFile(QStringLiteral("baseline-420.jpg"));
        const auto noise = randomBytes(100000, 3);
        std::copy(noise.begin(), noise.end(), damaged.begin() + 300000);
        image.addGap(8192);
        damagedAt_ = image.add(damaged);
        image.write(path_);
    }
    const QTemporaryDir& folder() const { return dir_; }
    const QString& path() const { return path_; }
    // Of the fixtures; the damaged photo is one more.
    std::size_t files() const { return placed_.size(); }
    std::uint64_t damagedAt() const { return damagedAt_; }
    std::uint64_t offsetOf(const QString& name) const {
        for (const auto& [known, offset] : placed_) {
            if (known == name) return offset;
        }
        return 0;
    }
    static std::int64_t idAt(JobPage& job, std::uint64_t offset) {
        for (const auto& finding : job.feed().session().listed()) {
            if (finding.start() == offset) return finding.id;
        }
        return 0;
    }
    static bool finished(JobPage& job) { return job.feed().overview().progress.state == ScanState::Finished; }
    std::unique_ptr<MainWindow> searched() const {
        auto window = std::make_unique<MainWindow>();
        window->show();
        window->openSource(path_);
        if (!QTest::qWaitFor([&] { return window->job() != nullptr; }, 60000))
            qFatal("the card does not open");
        window->job()->startSearch();
        if (!QTest::qWaitFor([&] { return finished(*window->job()); }, 120000))
            qFatal("the search does not end");
        // A job that was searched before is finished as it opens, and its files come to the sheet after it.
        if (!QTest::qWaitFor([&] { return window->job()->sheet().current() != 0; }, 60000))
            qFatal("the sheet stays empty");
        QTest::qWait(400);
        return window;
    }

  private:
    QTemporaryDir dir_;
    QString path_;
    std::vector<std::pair<QString, std::uint64_t>> placed_;
    std::uint64_t damagedAt_ = 0;
};

}  // namespace dreskel::test
