// How the windows bear a job with a hundred thousand files: from opening to the first pictures, the longest
// stall while it fills, scrolls and narrows, and the memory. Offscreen; see docs/measures.md.
//
//   dreskel-desktop-bench [FILES]
//   dreskel-desktop-bench CLIP     plays that clip in 20 pieces
//   dreskel-desktop-bench X.jpg    moves the joins of that photo in three pieces

#include <cstdio>
#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QScrollBar>
#include <QTemporaryDir>
#include <QTest>

#include "bench/many_files.h"
#include "bench/playing.h"
#include "bench/splicing.h"
#include "desktop/look/look.h"
#include "desktop/main_window.h"

using namespace dreskel;

namespace {

// The longest time that the event loop did not come round, beyond a timer's own millisecond.
class Stalls : public QObject {
  public:
    Stalls() {
        timer_.setTimerType(Qt::PreciseTimer);
        connect(&timer_, &QTimer::timeout, this, [this] { longest_ = std::max(longest_, since_.restart()); });
        timer_.start(1);
        since_.start();
    }
    qint64 take() {
        since_.restart();
        return std::exchange(longest_, 0);
    }

  private:
    QTimer timer_;
    QElapsedTimer since_;
    qint64 longest_ = 0;
};

qint64 residentMegabytes() {
    QFile status(QStringLiteral("/proc/self/status"));
    if (!status.open(QIODevice::ReadOnly)) return 0;
    for (const auto& line : status.readAll().split('\n')) {
        if (line.startsWith("VmHWM:")) return line.mid(6).trimmed().split(' ').first().toLongLong() / 1024;
    }
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(argc, argv);
    look::dress(application);
    if (argc > 1 && QFile::exists(QString::fromLocal8Bit(argv[1]))) {
        const QTemporaryDir folder;
        const auto file = QString::fromLocal8Bit(argv[1]);
        const bool photo = file.endsWith(QLatin1String(".jpg"), Qt::CaseInsensitive);
        return (photo ? bench::moveJoins(file, folder.path()) : bench::playInPieces(file, 20, folder.path()))
                   ? 0
                   : 1;
    }
    const std::size_t files = argc > 1 ? QByteArray(argv[1]).toULongLong() : 100000;
    QTemporaryDir dir;
    qputenv("DRESKEL_JOBS", dir.path().toUtf8());
    const auto folder = dir.filePath(QStringLiteral("SEASON"));
    QElapsedTimer clock;
    clock.start();
    if (!bench::makeManyFiles(folder.toStdString(), files)) return 1;
    std::printf("made a job with %zu files in %.1f s\n", files, static_cast<double>(clock.elapsed()) / 1e3);

    MainWindow window;
    window.resize(1280, 800);
    window.show();
    QTest::qWait(1000);
    Stalls stalls;
    clock.restart();
    window.openJob(folder);
    if (!QTest::qWaitFor([&] { return window.job() != nullptr && window.job()->sheet().shown() > 0; }, 60000))
        return 1;
    auto& sheet = window.job()->sheet();
    sheet.viewport()->repaint();
    std::printf("first screen after %lld ms, longest stall %lld ms\n", clock.elapsed(), stalls.take());
    if (!QTest::qWaitFor([&] { return sheet.shown() == files; }, 120000)) return 1;
    std::printf("all of it after %lld ms, longest stall %lld ms\n", clock.elapsed(), stalls.take());

    auto* bar = sheet.verticalScrollBar();
    for (int i = 0; i < 300; ++i) {
        bar->setValue(i % 60 == 59 ? bar->maximum() * (i / 60) / 5 : bar->value() + bar->singleStep());
        QTest::qWait(10);
    }
    std::printf("scrolling, longest stall %lld ms\n", stalls.take());
    for (int i = 0; i < 60; ++i) {
        QTest::keyClick(&sheet, i % 3 == 0 ? Qt::Key_PageDown : Qt::Key_Right);
        QTest::qWait(10);
    }
    std::printf("going from file to file, longest stall %lld ms\n", stalls.take());

    auto* page = window.job();
    qint64 longest = 0;
    qint64 slowest = 0;
    const auto narrowed = [&](auto&& act) {
        clock.restart();
        const auto before = sheet.shown();
        act();
        if (!QTest::qWaitFor([&] { return sheet.shown() != before; }, 3000))
            std::printf("still shows %zu\n", before);
        slowest = std::max(slowest, clock.elapsed());
        QTest::qWait(200);
        longest = std::max(longest, stalls.take());
    };
    for (const auto* typed : {"k2", "k", "halden", "halden mar", "halden mar >2MB", ""})
        narrowed([&] { page->findField()->setText(QString::fromLatin1(typed)); });
    narrowed([&] { page->choices().toggle(Facet::Camera, QStringLiteral("Orrery K2")); });
    narrowed([&] { page->choices().toggle(Facet::Condition, QStringLiteral("b")); });
    narrowed([&] { page->choices().clear(); });
    narrowed([&] { page->choices().kindButton(Kind::Photo)->click(); });
    narrowed([&] { page->choices().kindButton(Kind::Photo)->click(); });
    page->choices().narrowButton()->click();
    narrowed([&] { page->choices().toggle(Facet::Format, QStringLiteral("dng")); });
    narrowed([&] { page->choices().clear(); });
    std::printf("narrowing, longest stall %lld ms, longest until it showed %lld ms\n", longest, slowest);
    clock.restart();
    for (int i = 0; i < 40; ++i) QTest::keyClick(&sheet, Qt::Key_Space);
    std::printf("deciding about one file, %.1f ms each\n", static_cast<double>(clock.elapsed()) / 40);
    QTest::qWait(300);
    stalls.take();
    sheet.selectAll();
    clock.restart();
    sheet.toggleKept();
    const auto all = [&](std::size_t kept) {
        return QTest::qWaitFor([&] { return page->feed().overview().kept == kept; }, 120000);
    };
    if (!all(sheet.shown())) return 1;
    std::printf("keeping all of them, longest stall %lld ms, done after %lld ms\n", stalls.take(),
                clock.elapsed());
    if (!QTest::qWaitFor([&] { return page->feed().decisions().canUndo(); }, 10000)) return 1;
    clock.restart();
    page->undo();
    if (!all(0)) return 1;
    std::printf("taking that back, longest stall %lld ms, done after %lld ms\n", stalls.take(),
                clock.elapsed());
    std::printf("memory, at most %lld MB\n", residentMegabytes());
    return 0;
}
