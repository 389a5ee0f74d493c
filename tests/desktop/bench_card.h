// A card with files in pieces, opened and searched by the desktop, for putting one of them on the splice
// bench.
#pragma once

#include <QTemporaryDir>
#include <QTest>

#include "desktop/main_window.h"
#include "tests/support/pieces.h"

namespace dreskel::test {

class BenchCard {
  public:
    // Jobs are kept beside the card. False when the search does not end.
    bool make(const Runs& runs) { return make(writeInPieces(runs)); }
    bool make(PiecesCard card) {
        qputenv("DRESKEL_JOBS", dir_.filePath(QStringLiteral("jobs")).toUtf8());
        card_ = std::move(card);
        const auto path = dir_.filePath(QStringLiteral("BENCH-02.img"));
        writeFile(path, card_.bytes);
        window_ = std::make_unique<MainWindow>();
        window_->resize(1280, 800);
        window_->show();
        window_->openSource(path);
        if (!QTest::qWaitFor([this] { return window_->job() != nullptr; }, 60000)) return false;
        job().startSearch();
        const bool done = searched();
        QTest::qWait(300);
        return done;
    }
    const std::map<QString, std::vector<ByteRange>>& places() const { return card_.places; }
    MainWindow& window() { return *window_; }
    JobPage& job() { return *window_->job(); }
    SpliceBench& bench() { return job().splice(); }
    Finding found(const QString& name) {
        for (const auto& finding : job().feed().session().listed()) {
            if (finding.start() == card_.places.at(name).front().offset) return finding;
        }
        qFatal("the file is not listed");
    }
    bool ready() {
        return QTest::qWaitFor([this] { return bench().ready(); }, 30000);
    }
    bool searched() {
        return QTest::qWaitFor(
            [this] {
                const auto& overview = job().feed().overview();
                return overview.activity == Activity::Idle && overview.progress.state == ScanState::Finished;
            },
            120000);
    }
    // As a person would: chosen on the sheet, then the loupe's button.
    bool openBench(const QString& name) {
        job().sheet().setCurrent(found(name).id);
        if (!job().loupe().spliceButton().isVisible()) return false;
        job().loupe().spliceButton().click();
        return bench().isVisible() && ready();
    }

  private:
    QTemporaryDir dir_;
    PiecesCard card_;
    std::unique_ptr<MainWindow> window_;
};

}  // namespace dreskel::test
