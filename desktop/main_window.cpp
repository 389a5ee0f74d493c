#include "desktop/main_window.h"

#include <QFileDialog>
#include <QMenuBar>

#include "desktop/job_shelf.h"
#include "desktop/look/look.h"

namespace dreskel {

MainWindow::MainWindow() {
    setWindowTitle(QStringLiteral("Dreskel"));
    resize(1280, 800);
    pages_ = new QStackedWidget;
    front_ = new FrontPage;
    pages_->addWidget(front_);
    setCentralWidget(pages_);
    connect(front_, &FrontPage::sourceChosen, this, &MainWindow::openSource);
    connect(front_, &FrontPage::jobChosen, this, [this](const QString& folder) { openJob({}, folder); });
    buildMenus();
}

void MainWindow::buildMenus() {
    const auto add = [this](QMenu* menu, const QString& text, const QKeySequence& keys, auto&& act) {
        auto* action = menu->addAction(text);
        action->setShortcut(keys);
        connect(action, &QAction::triggered, this, act);
    };
    auto* card = menuBar()->addMenu(QStringLiteral("&Card"));
    add(card, QStringLiteral("&Open an image"), QKeySequence::Open, [this] {
        auto* dialog = new QFileDialog(this, QStringLiteral("Open an image of a card"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, this, &MainWindow::openSource);
        dialog->show();
    });
    add(card, QStringLiteral("&All cards and jobs"), QKeySequence(QStringLiteral("Ctrl+Home")),
        [this] { leaveJob(); });
    card->addSeparator();
    add(card, QStringLiteral("&Quit"), QKeySequence::Quit, [this] { close(); });
    auto* search = menuBar()->addMenu(QStringLiteral("&Search"));
    add(search, QStringLiteral("&Start or go on"), QKeySequence(QStringLiteral("Ctrl+Return")), [this] {
        if (job_ != nullptr) job_->startSearch();
    });
    add(search, QStringLiteral("&Pause or go on"), QKeySequence(QStringLiteral("Ctrl+P")), [this] {
        if (job_ != nullptr) job_->pauseButton()->click();
    });
    add(search, QStringLiteral("S&top"), QKeySequence(QStringLiteral("Ctrl+.")), [this] {
        if (job_ != nullptr) job_->stopButton()->click();
    });
    auto* files = menuBar()->addMenu(QStringLiteral("&Files"));
    add(files, QStringLiteral("&Keep or let go"), QKeySequence(QStringLiteral("Ctrl+K")), [this] {
        if (job_ != nullptr) job_->sheet().toggleKept();
    });
    menuBar()->setStyleSheet(
        QStringLiteral("QMenuBar { background: %1; color: %2; } QMenuBar::item:selected { background: %3; }")
            .arg(look::kRaised.name(), look::kDim.name(), look::kTrough.name()));
}

bool MainWindow::openSource(const QString& path) {
    return openJob(path, jobFolderFor(path));
}

bool MainWindow::openJob(const QString& sourcePath, const QString& folder) {
    leaveJob();
    auto session = Session::open(sourcePath.toStdString(), folder.toStdString());
    if (!session) {
        front_->say(QString::fromStdString(session.error().sentence()));
        return false;
    }
    front_->say({});
    job_ = new JobPage(session.value());
    connect(job_, &JobPage::leaveAsked, this, &MainWindow::leaveJob);
    pages_->addWidget(job_);
    pages_->setCurrentWidget(job_);
    setWindowTitle(QStringLiteral("%1 \u2013 Dreskel")
                       .arg(titleOf(QString::fromStdString(session.value()->source()->path()))));
    job_->sheet().setFocus();
    return true;
}

void MainWindow::leaveJob() {
    if (job_ == nullptr) return;
    pages_->removeWidget(job_);
    delete job_;
    job_ = nullptr;
    setWindowTitle(QStringLiteral("Dreskel"));
    front_->refreshJobs();
    pages_->setCurrentWidget(front_);
}

}  // namespace dreskel
