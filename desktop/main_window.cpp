#include "desktop/main_window.h"

#include <algorithm>
#include <QActionGroup>
#include <QApplication>
#include <QFileDialog>
#include <QMenuBar>
#include <QPointer>
#include <QSettings>
#include <QThreadPool>

#include "desktop/delivery/later_check.h"
#include "desktop/delivery/shop_panel.h"
#include "desktop/delivery/small_panel.h"
#include "desktop/job_shelf.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "udisks/udisks.h"

namespace dreskel {

namespace {

const auto kGeometry = QStringLiteral("window/geometry");
const auto kScheme = QStringLiteral("window/colours");

QString menuStyle() {
    return QStringLiteral(
               "QMenuBar { background: %1; color: %2; } QMenuBar::item:selected { background: %3; }")
        .arg(look::kRaised.name(), look::kDim.name(), look::kTrough.name());
}

}  // namespace

MainWindow::MainWindow() {
    text::speak();
    setWindowTitle(QStringLiteral("Dreskel"));
    resize(1280, 800);
    restoreGeometry(QSettings().value(kGeometry).toByteArray());
    look::wear(static_cast<look::Scheme>(std::clamp(QSettings().value(kScheme, 0).toInt(), 0, 2)));
    pages_ = new QStackedWidget;
    buildFront();
    setCentralWidget(pages_);
    buildMenus();
}

void MainWindow::buildFront() {
    front_ = new FrontPage(watch_);
    pages_->addWidget(front_);
    connect(front_, &FrontPage::sourceChosen, this, &MainWindow::openSource);
    connect(front_, &FrontPage::jobChosen, this, &MainWindow::openJob);
    connect(front_, &FrontPage::copyAsked, this,
            [this](const QString& path, const CopyRequest& request) { copyCard(path, request); });
}

void MainWindow::closeEvent(QCloseEvent* event) {
    QSettings().setValue(kGeometry, saveGeometry());
    QMainWindow::closeEvent(event);
}

void MainWindow::buildMenus() {
    const auto add = [this](QMenu* menu, const QString& text, const QKeySequence& keys, auto&& act) {
        auto* action = menu->addAction(text);
        action->setShortcut(keys);
        connect(action, &QAction::triggered, this, act);
    };
    auto* card = menuBar()->addMenu(Text::tr("&Card"));
    add(card, Text::tr("&Open an image"), QKeySequence::Open, [this] {
        auto* dialog = new QFileDialog(this, Text::tr("Open an image of a card"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, this, &MainWindow::openSource);
        dialog->show();
    });
    add(card, Text::tr("&All cards and jobs"), QKeySequence(QStringLiteral("Ctrl+Home")),
        [this] { leaveJob(); });
    add(card, Text::tr("&Let go of the card"), QKeySequence(QStringLiteral("Ctrl+E")), [this] { letGo(); });
    card->addSeparator();
    add(card, Text::tr("&Quit"), QKeySequence::Quit, [this] { close(); });
    auto* search = menuBar()->addMenu(Text::tr("&Search"));
    add(search, Text::tr("&Start or go on"), QKeySequence(QStringLiteral("Ctrl+Return")), [this] {
        if (job_ != nullptr) job_->startSearch();
    });
    add(search, Text::tr("&Pause or go on"), QKeySequence(QStringLiteral("Ctrl+P")), [this] {
        if (job_ != nullptr) job_->pauseButton()->click();
    });
    add(search, Text::tr("S&top"), QKeySequence(QStringLiteral("Ctrl+.")), [this] {
        if (job_ != nullptr) job_->stopButton()->click();
    });
    add(search, Text::tr("&Lend a good clip or photo"), QKeySequence(QStringLiteral("Ctrl+L")), [this] {
        if (job_ == nullptr) return;
        auto* dialog = new QFileDialog(this, Text::tr("A good file of the same camera and settings"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, job_, &JobPage::lend);
        dialog->show();
    });
    add(search, Text::tr("&Formats of your own"), {}, [this] { makeOwnPanel()->show(); });
    auto* files = menuBar()->addMenu(Text::tr("&Files"));
    add(files, Text::tr("&Find"), QKeySequence::Find, [this] {
        if (job_ != nullptr) job_->find();
    });
    add(files, Text::tr("&Compare two photos\tC"), {}, [this] {
        if (job_ != nullptr) job_->compare();
    });
    add(files, Text::tr("&More like this one\tL"), {}, [this] {
        if (job_ != nullptr) job_->showAlike();
    });
    add(files, Text::tr("Look for a file that you &have"), {}, [this] {
        if (job_ == nullptr) return;
        auto* dialog =
            new QFileDialog(this, Text::tr("A file, or a picture in any size, that may be on the card"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, job_, &JobPage::lookForFile);
        dialog->show();
    });
    add(files, Text::tr("Look for &people"), {}, [this] {
        if (job_ != nullptr) job_->lookForPeople();
    });
    // The sheet takes Ctrl+A itself, so that it stays the field's own where text is typed.
    add(files, Text::tr("Select &all that is shown\tCtrl+A"), {}, [this] {
        if (job_ != nullptr) job_->sheet().selectAll();
    });
    add(files, Text::tr("The file &before\tW"), {}, [this] {
        if (job_ != nullptr) job_->move(-1);
    });
    add(files, Text::tr("The ne&xt file\tE"), {}, [this] {
        if (job_ != nullptr) job_->move(1);
    });
    add(files, Text::tr("&Next that is not whole\tD"), {}, [this] {
        if (job_ != nullptr) job_->goToNextDamaged();
    });
    add(files, Text::tr("The next &shoot or heading\tG"), {}, [this] {
        if (job_ != nullptr) job_->sheet().goToHeading(1);
    });
    // The page takes P itself, so that it stays a letter where text is typed.
    add(files, Text::tr("&Play or stand still\tP"), {}, [this] {
        if (job_ != nullptr) job_->loupe().togglePlaying();
    });
    add(files, Text::tr("Play from just before the next &join\tJ"), {}, [this] {
        if (job_ != nullptr) job_->loupe().playNextJoin();
    });
    add(files, Text::tr("Lar&ge, and back\tV"), {}, [this] {
        if (job_ != nullptr) job_->showFull(!job_->loupe().isFull());
    });
    add(files, Text::tr("&Keep or let go"), QKeySequence(QStringLiteral("Ctrl+K")), [this] {
        if (job_ != nullptr) job_->sheet().toggleKept();
    });
    // So do the sheet and the page with what follows.
    add(files, Text::tr("Lea&ve out or take in again\tX"), {}, [this] {
        if (job_ != nullptr) job_->sheet().toggleLeftOut();
    });
    auto* rating = files->addMenu(Text::tr("&Rate"));
    for (int stars = 0; stars <= kBestRating; ++stars) {
        const auto text =
            stars == 0 ? Text::tr("No rating\t0") : Text::tr("%1 of %2\t%1").arg(stars).arg(kBestRating);
        add(rating, text, {}, [this, stars] {
            if (job_ != nullptr) job_->sheet().rate(stars);
        });
    }
    files->addSeparator();
    add(files, Text::tr("Narro&w what is shown\tN"), {}, [this] {
        if (job_ != nullptr) job_->choices().narrowButton()->toggle();
    });
    add(files, Text::tr("What was as&ked for, and notes\tQ"), {}, [this] {
        if (job_ != nullptr) job_->choices().askedButton()->toggle();
    });
    files->addSeparator();
    add(files, Text::tr("&Undo"), QKeySequence::Undo, [this] {
        if (job_ != nullptr) job_->undo();
    });
    add(files, Text::tr("&Redo"), QKeySequence::Redo, [this] {
        if (job_ != nullptr) job_->redo();
    });
    auto* delivery = menuBar()->addMenu(Text::tr("&Delivery"));
    add(delivery, Text::tr("Your &shop, for reports"), {}, [this] { (new ShopPanel(this))->show(); });
    add(delivery, Text::tr("&Compare an earlier delivery"), {}, [this] { (new LaterCheck(this))->show(); });
    add(delivery, Text::tr("&Keep this job small"), {}, [this] {
        if (job_ == nullptr) return;
        auto* panel = new SmallPanel(job_->feed().sharedSession(), this);
        connect(panel, &SmallPanel::made, this, &MainWindow::onMadeSmall);
        panel->show();
    });
    auto* view = menuBar()->addMenu(Text::tr("&View"));
    auto* schemes = new QActionGroup(this);
    const std::pair<look::Scheme, const char*> offered[] = {
        {look::Scheme::Mixed, QT_TRANSLATE_NOOP("dreskel::Text", "Dark where &pictures are")},
        {look::Scheme::Dark, QT_TRANSLATE_NOOP("dreskel::Text", "&Dark throughout")},
        {look::Scheme::Light, QT_TRANSLATE_NOOP("dreskel::Text", "&Light throughout")}};
    for (const auto& [scheme, text] : offered) {
        auto* action = view->addAction(Text::tr(text));
        action->setCheckable(true);
        action->setChecked(scheme == look::worn());
        schemes->addAction(action);
        connect(action, &QAction::triggered, this, [this, scheme = scheme] { wear(scheme); });
    }
    auto* speech = view->addMenu(Text::tr("&Language"));
    auto* languages = new QActionGroup(this);
    auto offeredLanguages = text::languages();
    offeredLanguages.prepend({QString(), Text::tr("The computer's own")});
    for (const auto& [word, name] : offeredLanguages) {
        auto* action = speech->addAction(name);
        action->setCheckable(true);
        action->setChecked(word == text::chosen());
        languages->addAction(action);
        // Later: the menu that was chosen from is made anew.
        connect(action, &QAction::triggered, this,
                [this, word = word] { QTimer::singleShot(0, this, [this, word] { speak(word); }); });
    }
    auto* help = menuBar()->addMenu(Text::tr("&Help"));
    add(help, Text::tr("&Keys"), QKeySequence::HelpContents, [this] {
        if (keys_ == nullptr) keys_ = new KeysPage(this);
        keys_->show();
        keys_->raise();
    });
    menuBar()->setStyleSheet(menuStyle());
}

void MainWindow::openSource(const QString& path) {
    if (path.endsWith(QLatin1String(".reader.json"))) {
        leaveJob();
        front_->addStandIn(path);
        return;
    }
    openLater(
        [path]() -> Opened {
            auto source = openReadOnly(QFileInfo(path).absoluteFilePath());
            if (!source) return source.error();
            return Session::open(source.value(), jobFolderFor(path).toStdString(), Session::Load::Behind);
        },
        false);
}

void MainWindow::copyCard(const QString& path, const CopyRequest& request, const QString& folder) {
    openLater(
        [path, request, folder]() -> Opened {
            auto card = openReadOnly(path);
            if (!card) return card.error();
            const auto into = folder.isEmpty() ? jobFolderFor(QString::fromStdString(request.image)) : folder;
            return Session::openCopying(card.value(), request, into.toStdString());
        },
        true);
}

void MainWindow::openJob(const QString& folder) {
    openLater(
        [folder]() -> Opened {
            const auto path = sourcePathOf(folder.toStdString());
            if (!path) return path.error();
            auto source = openReadOnly(QString::fromStdString(path.value()));
            // What was found can be read without the card.
            if (!source) source = Session::absentSourceOf(folder.toStdString());
            if (!source) return source.error();
            return Session::open(source.value(), folder.toStdString(), Session::Load::Behind);
        },
        false);
}

void MainWindow::openLater(std::function<Opened()> make, bool start) {
    if (opening_) return;
    leaveJob();
    opening_ = true;
    front_->say(Text::tr("Opening ..."));
    QThreadPool::globalInstance()->start(
        [make = std::move(make), start, window = QPointer<MainWindow>(this)] {
            const auto opened = std::make_shared<Opened>(make());
            QMetaObject::invokeMethod(qApp, [opened, start, window] {
                if (window) window->onOpened(*opened, start);
            });
        });
}

void MainWindow::onOpened(const Opened& opened, bool start) {
    opening_ = false;
    if (!opened) {
        front_->say(Text::ofCore(opened.error()));
        return;
    }
    front_->say({});
    showJob(opened.value());
    if (start) job_->startSearch();
}

// A delivery goes on in the window that began it.
bool MainWindow::isSaving() const {
    if (job_ == nullptr || !job_->tray().saving()) return false;
    job_->say(Text::tr("Files are being saved; the windows can be made anew after that."));
    return true;
}

void MainWindow::wear(look::Scheme scheme) {
    if (isSaving()) return;
    look::wear(scheme);
    QSettings().setValue(kScheme, static_cast<int>(scheme));
    menuBar()->setStyleSheet(menuStyle());
    buildAnew();
}

void MainWindow::speak(const QString& language) {
    if (isSaving()) return;
    text::choose(language);
    text::speak();
    delete std::exchange(keys_, nullptr);
    menuBar()->clear();
    buildMenus();
    buildAnew();
}

void MainWindow::buildAnew() {
    const auto session = job_ == nullptr ? nullptr : job_->feed().sharedSession();
    const auto place = job_ == nullptr ? JobPage::Place() : job_->place();
    leaveJob();
    pages_->removeWidget(front_);
    delete std::exchange(front_, nullptr);
    buildFront();
    pages_->setCurrentWidget(front_);
    if (!session) return;
    showJob(session);
    job_->goTo(place);
}

void MainWindow::showJob(std::shared_ptr<Session> session) {
    const auto path = QString::fromStdString(session->source()->path());
    job_ = new JobPage(std::move(session), watch_);
    connect(job_, &JobPage::leaveAsked, this, &MainWindow::leaveJob);
    connect(job_, &JobPage::letGoAsked, this, &MainWindow::letGo);
    connect(job_, &JobPage::copyAsked, this, &MainWindow::copyCard, Qt::QueuedConnection);
    pages_->addWidget(job_);
    pages_->setCurrentWidget(job_);
    setWindowTitle(QStringLiteral("%1 \u2013 Dreskel").arg(titleOf(path)));
    job_->sheet().setFocus();
    if (!job_->feed().session().source()->isThere())
        job_->say(
            Text::tr("The card is not there: what was found can be looked through, nothing can be "
                     "searched or saved until it is attached and the job opened again."));
}

// The card of the job in hand; refused in words while it is read.
void MainWindow::letGo() {
    if (job_ == nullptr) return;
    const auto path = job_->cardPath();
    const auto* device = watch_.at(path);
    if (job_->readsCard()) {
        job_->say(Text::tr("The card is still being read. Stop that first."));
    } else if (device == nullptr) {
        job_->say(Text::tr("This job reads an image; no card is held by it."));
    } else {
        job_->say({});
        QThreadPool::globalInstance()->start([device = *device, window = QPointer<MainWindow>(this)] {
            const auto done = std::make_shared<Status>(letGoOf(device));
            QMetaObject::invokeMethod(qApp, [done, window] {
                if (!window || window->job_ == nullptr) return;
                window->job_->say(*done ? Text::tr("The card can be pulled out now.")
                                        : Text::ofCore(done->error()));
            });
        });
    }
}

// What is shown now is not what is kept any more.
void MainWindow::onMadeSmall() {
    if (job_ == nullptr) return;
    const auto folder = QString::fromStdString(job_->feed().session().folder());
    leaveJob();
    openJob(folder);
}

OwnPanel* MainWindow::makeOwnPanel() {
    auto source = job_ == nullptr ? nullptr : job_->feed().session().source();
    return new OwnPanel(std::move(source), this);
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
