// Takes the screenshots of docs/screenshots from the demo card, driving the real windows. Run by
// scripts/screenshots.
#include <cstdio>
#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QFileInfo>
#include <QMenu>
#include <QPainter>
#include <QTest>

#include "desktop/bytes/leftovers.h"
#include "desktop/front/source_card.h"
#include "desktop/look/look.h"
#include "desktop/main_window.h"

using namespace dreskel;

namespace {

void waitFor(const std::function<bool()>& reached, int milliseconds) {
    QElapsedTimer clock;
    clock.start();
    while (!reached() && clock.elapsed() < milliseconds) QTest::qWait(20);
}

// A copy under way on the failing reader, with the search on top of it.
void shootCopy(MainWindow& window, const QString& reader, const QDir& folder) {
    window.front().addStandIn(reader);
    auto* card = window.front().cardAt(reader);
    waitFor([&] { return !card->looking(); }, 8000);
    card->copyButton()->click();
    card->copyRow().imagePath()->setText(QDir::tempPath() + QStringLiteral("/depot/MILL-09.img"));
    waitFor([&] { return card->copyRow().startButton()->isEnabled(); }, 3000);
    card->copyRow().startButton()->click();
    waitFor([&] { return window.job() != nullptr; }, 10000);
    if (window.job() == nullptr) return;
    auto& feed = window.job()->feed();
    waitFor([&] { return feed.overview().activity == Activity::Scanning; }, 5000);
    const auto past = [&](std::uint64_t bytes) {
        return feed.overview().copy && feed.overview().copy->progress.read > bytes;
    };
    waitFor([&] { return past(90000000) || feed.overview().activity == Activity::Idle; }, 60000);
    QTest::qWait(200);
    window.grab().save(folder.filePath(QStringLiteral("copy-under-way.png")));
    waitFor([&] { return feed.overview().activity == Activity::Idle; }, 120000);
    QTest::qWait(600);
    window.grab().save(folder.filePath(QStringLiteral("copy-done.png")));
}

// The places that files could be saved to, over the window as a person has them.
void shootPlaces(MainWindow& window, const QDir& folder) {
    auto* menu = window.job()->tray().placesMenu();
    auto* button = window.job()->tray().placesButton();
    menu->popup(button->mapToGlobal(QPoint(0, 0)) - QPoint(0, menu->sizeHint().height()));
    QTest::qWait(300);
    auto picture = window.grab();
    QPainter(&picture).drawPixmap(window.mapFromGlobal(button->mapToGlobal(QPoint(button->width(), 0))) -
                                      QPoint(menu->width(), menu->height()),
                                  menu->grab());
    picture.save(folder.filePath(QStringLiteral("where-to-save.png")));
    menu->close();
}

// A photo that was put together, taken apart where a join is, and put together again.
void shootSplice(JobPage& job, const std::function<void(const QString&)>& shoot) {
    std::int64_t id = 0;
    for (const auto& finding : job.feed().session().listed()) {
        const bool joined = !finding.joins.empty() && finding.condition == Condition::Whole;
        if (canBeSpliced(finding) && finding.kind == Kind::Photo && joined) id = finding.id;
    }
    if (id == 0) return;
    job.sheet().setCurrent(id);
    QTest::qWait(300);
    job.loupe().spliceButton().click();
    auto& bench = job.splice();
    waitFor([&] { return bench.ready(); }, 20000);
    bench.earlierJoinButton().click();
    waitFor([&] { return bench.ready(); }, 20000);
    Q_EMIT bench.picture().pointed({bench.picture().row(), Pointing::Stretch::kToTheEnd});
    QTest::qWait(200);
    waitFor([&] { return bench.ready(); }, 20000);
    if (!bench.followers().empty()) bench.followers().front()->setFocus();
    shoot(QStringLiteral("splice-what-could-follow"));
    if (!bench.followers().empty()) bench.followers().front()->click();
    waitFor([&] { return bench.ready(); }, 20000);
    bench.setFocus();
    shoot(QStringLiteral("splice-complete"));
    bench.leaveButton().click();
}

// A clip in many pieces, with its end taken off at a moment.
void shootClipSplice(JobPage& job, std::int64_t clip, const std::function<void(const QString&)>& shoot) {
    if (clip == 0) return;
    job.sheet().setCurrent(clip);
    QTest::qWait(300);
    job.loupe().spliceButton().click();
    auto& bench = job.splice();
    waitFor([&] { return bench.ready(); }, 20000);
    Q_EMIT bench.frames().pointed({bench.lookOfIt().extent * 3 / 5, Pointing::Stretch::kToTheEnd});
    QTest::qWait(200);
    waitFor([&] { return bench.ready(); }, 20000);
    if (!bench.followers().empty()) bench.followers().front()->setFocus();
    shoot(QStringLiteral("splice-clip"));
    bench.leaveButton().click();
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    look::dress(application);
    if (argc < 3) {
        std::fprintf(stderr, "usage: shots IMAGE FOLDER\n");
        return 2;
    }
    const QString image = QString::fromLocal8Bit(argv[1]);
    const QDir folder(QString::fromLocal8Bit(argv[2]));
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    const auto shoot = [&](const QString& name) {
        QTest::qWait(400);
        window.grab().save(folder.filePath(name + QStringLiteral(".png")));
    };
    const QString reader = argc > 3 ? QString::fromLocal8Bit(argv[3]) : QString();
    if (!reader.isEmpty()) {
        shootCopy(window, reader, folder);
        window.leaveJob();
        waitFor(
            [&] {
                return window.front().cardAt(reader) != nullptr && !window.front().cardAt(reader)->looking();
            },
            8000);
    }
    window.openSource(image);
    waitFor([&] { return window.job() != nullptr; }, 10000);
    if (window.job() == nullptr) return 1;
    auto* job = window.job();
    job->startSearch();
    waitFor([&] { return job->feed().overview().listed > 26; }, 60000);
    QTest::qWait(150);
    window.grab().save(folder.filePath(QStringLiteral("search-under-way.png")));
    waitFor([&] { return job->feed().overview().progress.state == ScanState::Finished; }, 120000);
    QTest::qWait(800);

    // Something is kept, and a damaged photo is looked at.
    std::vector<std::int64_t> keep;
    std::int64_t damaged = 0;
    std::int64_t clip = 0;
    std::int64_t sound = 0;
    std::int64_t photo = 0;
    for (const auto& finding : job->feed().session().listed()) {
        if (finding.condition == Condition::Whole && keep.size() < 24) keep.push_back(finding.id);
        if (finding.kind == Kind::Photo && finding.condition == Condition::Partial && damaged == 0)
            damaged = finding.id;
        // One of two that were recorded together, in turns.
        const bool inTurns = finding.joins.size() >= 5 && finding.condition == Condition::Whole;
        if (finding.kind == Kind::Video && inTurns && clip == 0) clip = finding.id;
        if (finding.kind == Kind::Audio && finding.condition == Condition::Partial) sound = finding.id;
        if (finding.kind == Kind::Photo && finding.condition == Condition::Whole &&
            finding.start() > 60000000 && photo == 0)
            photo = finding.id;
    }
    // A damaged photo; when all could be put together, one of those.
    for (const auto& finding : job->feed().session().listed()) {
        if (damaged == 0 && finding.kind == Kind::Photo && !finding.joins.empty()) damaged = finding.id;
    }
    job->feed().setKept(keep, true);
    job->tray().setDestination(QStringLiteral("/tmp/depot/client-0412"));
    job->sheet().setCurrent(damaged);
    QTest::qWait(1500);
    // The same once more on a screen with four times the pixels; see scripts/screenshots.
    if (window.devicePixelRatioF() > 1) {
        QTest::qWait(1500);
        shoot(QStringLiteral("search-finished-2560x1600"));
        return 0;
    }
    shoot(QStringLiteral("search-finished"));
    job->sheet().setCurrent(clip);
    QTest::qWait(2500);
    // Standing still in the middle, so that the picture does not depend on the moment.
    const auto stand = [&](double at) {
        auto& playback = job->loupe().playback();
        job->loupe().togglePlaying();
        waitFor([&] { return playback.position() > 0; }, 5000);
        job->loupe().togglePlaying();
        playback.seek(at);
        QTest::qWait(800);
    };
    stand(1.4);
    shoot(QStringLiteral("clip"));
    job->sheet().setCurrent(sound);
    stand(2.0);
    shoot(QStringLiteral("recording"));
    auto* arrange = job->choices().arrangeBox();
    arrange->setCurrentIndex(arrange->findData(static_cast<int>(ArrangeBy::Folder)));
    job->sheet().setCurrent(photo);
    QTest::qWait(800);
    job->choices().leftoversButton()->click();
    auto* leftovers = job->findChild<Leftovers*>();
    waitFor([&] { return leftovers->list().topLevelItemCount() > 0; }, 10000);
    QTest::qWait(500);
    job->choices().narrowButton()->click();
    job->choices().toggle(Facet::Camera, QStringLiteral("Orrery K2"));
    job->choices().toggle(Facet::Condition, QStringLiteral("a"));
    QTest::qWait(500);
    shoot(QStringLiteral("narrowed"));
    job->choices().clear();
    job->choices().narrowButton()->click();
    auto* own = window.makeOwnPanel();
    own->show();
    QTest::qWait(300);
    own->grab().save(folder.filePath(QStringLiteral("own-formats.png")));
    own->close();
    leftovers->grab().save(folder.filePath(QStringLiteral("unexplained.png")));
    leftovers->close();
    shootSplice(*job, shoot);
    shootClipSplice(*job, clip, shoot);
    job->sheet().setCurrent(photo);
    QTest::qWait(1500);
    job->compare();
    QTest::qWait(1500);
    shoot(QStringLiteral("compared"));
    QTest::keyClick(&job->comparison(), Qt::Key_Escape);
    job->sheet().setCurrent(photo);
    QTest::qWait(1500);
    QTest::keyClick(&job->sheet(), Qt::Key_Return);
    QTest::qWait(300);
    shoot(QStringLiteral("photo-large"));
    QTest::keyClick(&job->loupe(), Qt::Key_Escape);
    shootPlaces(window, folder);
    // Where a file stands in the way of a folder, what belongs there cannot be saved.
    QFile inTheWay(QDir::tempPath() + QStringLiteral("/depot/mill/Sound"));
    QDir().mkpath(QFileInfo(inTheWay).path());
    if (inTheWay.open(QIODevice::WriteOnly)) inTheWay.close();
    job->tray().setDestination(QFileInfo(inTheWay).path());
    job->tray().nextButton()->click();
    waitFor([&] { return !job->tray().saving(); }, 120000);
    shoot(QStringLiteral("saved"));
    window.wear(look::Scheme::Light);
    job = window.job();
    waitFor([&] { return job->sheet().shown() > 40; }, 10000);
    job->sheet().setCurrent(photo);
    QTest::qWait(2000);
    shoot(QStringLiteral("light"));
    window.wear(look::Scheme::Mixed);
    window.leaveJob();
    shoot(QStringLiteral("front-page"));
    return 0;
}
