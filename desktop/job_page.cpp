#include "desktop/job_page.h"

#include <QApplication>
#include <QBoxLayout>
#include <QFileInfo>
#include <QPointer>
#include <QShortcut>
#include <QThreadPool>

#include "desktop/bytes/leftovers.h"
#include "desktop/job_shelf.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

QString volumeText(const Source& source) {
    const auto survey = surveySource(source);
    for (const auto& volume : survey.volumes) {
        if (volume.state == VolumeSeen::State::Live)
            return QString::fromStdString(volume.facts.kind) + Text::tr(" volume");
    }
    return survey.volumes.empty() ? Text::tr("no volume that can be read") : Text::tr("a damaged volume");
}

}  // namespace

JobPage::JobPage(std::shared_ptr<Session> session, DeviceWatch& watch, QWidget* parent)
    : QWidget(parent),
      feed_(std::move(session)),
      watch_(watch),
      alike_(feed_.sharedSession()),
      people_(feed_.sharedSession()),
      lookAlike_([this](const AlikeRequest& request) { return alike_.answer(request); },
                 [this](const AlikeAnswer& answer) {
                     say(answer.trouble);
                     if (answer.trouble.isEmpty()) choices_->setAmong(answer.ids, answer.what, answer.apart);
                 }) {
    setStyleSheet(look::benchStyle());
    choices_ = new Choices(feed_);
    head_ = buildHead();
    notice_ = buildNotice();
    band_ = new Band(feed_);
    sheet_ = new Sheet(feed_);
    narrow_ = new NarrowPanel;
    narrow_->hide();
    asked_ = new AskedPanel(feed_);
    asked_->hide();
    loupe_ = new Loupe(feed_);
    tray_ = new Tray(feed_);
    splice_ = new SpliceBench(feed_);
    splice_->hide();
    compare_ = new Compare(feed_);
    compare_->hide();
    middle_ = new QSplitter;
    middle_->setHandleWidth(1);
    middle_->setChildrenCollapsible(false);
    middle_->addWidget(narrow_);
    middle_->addWidget(asked_);
    middle_->addWidget(sheet_);
    middle_->addWidget(loupe_);
    middle_->setStretchFactor(2, 5);
    middle_->setStretchFactor(3, 2);
    middle_->setSizes({230, 230, 900, 380});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(head_);
    column->addWidget(notice_);
    column->addWidget(band_);
    column->addWidget(choices_);
    column->addWidget(middle_, 1);
    column->addWidget(tray_);
    column->addWidget(splice_, 1);
    column->addWidget(compare_, 1);

    connect(sheet_, &Sheet::currentChanged, loupe_, &Loupe::setCurrent);
    connect(sheet_, &Sheet::currentChanged, band_, &Band::setCurrent);
    connect(sheet_, &Sheet::opened, this, [this] { showFull(true); });
    connect(sheet_, &Sheet::arranged, this, [this] {
        narrow_->show(sheet_->arrangement(), choices_->filter().chosen);
        refresh();
    });
    connect(choices_, &Choices::filterChanged, this, [this] {
        band_->mark(choices_->filter().span);
        sheet_->setFilter(choices_->filter());
    });
    connect(choices_, &Choices::arrangementChanged, this,
            [this] { sheet_->setArrangement(choices_->arrangedBy(), choices_->orderedBy()); });
    connect(choices_, &Choices::narrowAsked, this, &JobPage::showNarrowing);
    connect(choices_, &Choices::leftoversAsked, this,
            [this] { (new Leftovers(feed_.sharedSession(), this))->show(); });
    connect(narrow_, &NarrowPanel::toggled, choices_, &Choices::toggle);
    connect(narrow_, &NarrowPanel::peopleAsked, this, &JobPage::lookForPeople);
    connect(&people_, &People::looked, this, &JobPage::onLooked);
    connect(choices_, &Choices::askedAsked, this, &JobPage::showAsked);
    connect(asked_, &AskedPanel::changed, this,
            [this] { choices_->askedButton()->setText(asked_->sentence()); });
    connect(asked_, &AskedPanel::answerAsked, this, [this] { asked_->answerWith(sheet_->selection()); });
    connect(asked_, &AskedPanel::filesAsked, this,
            [this](const std::vector<std::int64_t>& ids, const QString& why) {
                choices_->setAmong(QSet<std::int64_t>(ids.begin(), ids.end()), why);
            });
    choices_->askedButton()->setText(asked_->sentence());
    connect(band_, &Band::picked, sheet_, &Sheet::setCurrent);
    connect(band_, &Band::spanMarked, choices_, &Choices::setSpan);
    connect(loupe_, &Loupe::fullAsked, this, &JobPage::showFull);
    connect(loupe_, &Loupe::spliceAsked, this, &JobPage::showSplice);
    connect(compare_, &Compare::left, this, [this](std::int64_t id) {
        showAlone(compare_, false);
        sheet_->setCurrent(id);
    });
    connect(splice_, &SpliceBench::left, this, [this] { showSplice(0); });
    connect(loupe_, &Loupe::keepAsked, sheet_, &Sheet::toggleKept);
    connect(loupe_, &Loupe::leaveOutAsked, sheet_, &Sheet::toggleLeftOut);
    connect(loupe_, &Loupe::rateAsked, sheet_, &Sheet::rate);
    connect(loupe_, &Loupe::noteDone, sheet_, qOverload<>(&QWidget::setFocus));
    connect(loupe_, &Loupe::moveAsked, this, &JobPage::move);
    bindKeys();
    connect(tray_, &Tray::searchAsked, this, &JobPage::startSearch);
    connect(&feed_, &Feed::progressed, this, &JobPage::refresh);
    sheet_->setFocus();
    narrow_->show(sheet_->arrangement(), choices_->filter().chosen);
    if (sheet_->current() != 0) {
        loupe_->setCurrent(sheet_->current());
        band_->setCurrent(sheet_->current());
    }
    refresh();
}

// What has to be said of the card and its copy, with the one thing to do about it.
QWidget* JobPage::buildNotice() {
    auto* notice = new QWidget;
    auto* line = new QHBoxLayout(notice);
    line->setContentsMargins(16, 0, 16, 8);
    line->setSpacing(10);
    message_ = look::label({}, 13, look::kText);
    message_->setWordWrap(true);
    goOn_ = new QPushButton(Text::tr("It is; go on with the copy"));
    goOn_->setObjectName(QStringLiteral("next"));
    connect(goOn_, &QPushButton::clicked, this, [this] {
        const auto* device = watch_.at(offered_);
        const CopyRequest request{
            feed_.session().source()->path(), {}, device == nullptr ? std::string() : device->serial, {}};
        Q_EMIT copyAsked(offered_, request, QString::fromStdString(feed_.session().folder()));
    });
    letGo_ = new QPushButton(Text::tr("Let go of the card"));
    connect(letGo_, &QPushButton::clicked, this, &JobPage::letGoAsked);
    line->addWidget(message_, 1);
    line->addWidget(letGo_);
    line->addWidget(goOn_);
    return notice;
}

QString JobPage::cardPath() const {
    const auto facts = feed_.session().facts();
    if (!facts) return QString::fromStdString(feed_.session().source()->path());
    return QString::fromStdString(facts->copyOf.empty() ? facts->path : facts->copyOf);
}

bool JobPage::readsCard() const {
    const auto& overview = feed_.overview();
    if (overview.activity == Activity::Idle) return false;
    if (overview.copy) return overview.copy->underWay;
    return overview.progress.state == ScanState::Reading || overview.progress.state == ScanState::Checking;
}

void JobPage::say(const QString& text) {
    said_ = text;
    refreshCopy();
}

void JobPage::refreshCopy() {
    const auto& overview = feed_.overview();
    const auto facts = feed_.session().facts();
    const bool idle = overview.activity == Activity::Idle;
    offered_.clear();
    bool unfinished = false;
    bool done = false;
    if (overview.copy && facts && !facts->copyOf.empty()) {
        const auto& copy = overview.copy->progress;
        unfinished = copy.untried + copy.waiting + copy.stalled > 0;
        done = !unfinished && !overview.copy->underWay;
        if (unfinished && idle) {
            for (const auto& device : watch_.devices()) {
                const bool fits =
                    device.size == facts->size &&
                    (facts->serial.empty() || device.serial.empty() || device.serial == facts->serial);
                if (fits && device.image != facts->path) offered_ = QString::fromStdString(device.path);
            }
            const auto was = QString::fromStdString(facts->copyOf);
            if (offered_.isEmpty() && !was.startsWith(QLatin1String("/dev/")) && QFileInfo::exists(was))
                offered_ = was;
        }
    }
    QString text = said_;
    if (text.isEmpty() && unfinished && idle) {
        text = offered_.isEmpty()
                   ? Text::tr(
                         "The copy is not finished. Put the card back in and it can go on; what was read "
                         "is kept.")
                   : Text::tr(
                         "The copy is not finished. At %1 is a card of the same size%2. Is it this one? Its "
                         "contents are compared before anything is written.")
                         .arg(offered_, facts->serial.empty() ? QString() : Text::tr(" and serial number"));
    } else if (text.isEmpty() && done && watch_.at(cardPath()) != nullptr) {
        text = Text::tr("The card has been read; everything else works on the copy. It can be taken out.");
    } else if (text.isEmpty()) {
        text = feed_.warning();
    }
    message_->setText(text);
    goOn_->setVisible(!offered_.isEmpty());
    letGo_->setVisible(done && watch_.at(cardPath()) != nullptr);
    notice_->setVisible(!text.isEmpty() && splice_->isHidden());
}

QWidget* JobPage::buildHead() {
    auto* head = new QWidget;
    auto* line = new QHBoxLayout(head);
    line->setContentsMargins(16, 8, 16, 8);
    line->setSpacing(10);
    auto* back = new QPushButton(Text::tr("All cards"));
    back->setToolTip(Text::tr("Back to the cards and jobs; a search goes on when asked to"));
    connect(back, &QPushButton::clicked, this, &JobPage::leaveAsked);
    const auto& source = *feed_.session().source();
    title_ = look::label({}, 16, look::kText, true);
    title_->setText(titleOf(QString::fromStdString(source.path())));
    about_ = look::label({}, 12, look::kDim);
    const auto facts = feed_.session().facts();
    if (facts && !facts->copyOf.empty()) {
        about_->setText(Text::tr("%1, copy of %2")
                            .arg(look::sizeText(source.size()), QString::fromStdString(facts->copyOf)));
    } else {
        about_->setText(Text::tr("%1, opened for reading only").arg(look::sizeText(source.size())));
        // A dying card may take long over its first sectors; the window does not wait for it.
        QThreadPool::globalInstance()->start(
            [opened = feed_.session().source(), about = QPointer<QLabel>(about_)] {
                const auto text = Text::tr("%1, %2, opened for reading only")
                                      .arg(look::sizeText(opened->size()), volumeText(*opened));
                QMetaObject::invokeMethod(qApp, [about, text] {
                    if (about) about->setText(text);
                });
            });
    }
    find_ = new QLineEdit;
    find_->setPlaceholderText(Text::tr("Find: name, camera, date, >2MB"));
    find_->setAccessibleName(Text::tr("Find files"));
    find_->setClearButtonEnabled(true);
    find_->setFixedWidth(240);
    find_->setToolTip(
        Text::tr("Words of a name, folder, camera, format or date, in any order; >2MB, <500KB, "
                 ">30s, <2min; #17 for file 17. Ctrl+F comes here, Esc shows all again"));
    connect(find_, &QLineEdit::textChanged, choices_, &Choices::type);
    connect(find_, &QLineEdit::returnPressed, this, [this] { sheet_->setFocus(); });
    auto* showAll = new QShortcut(QKeySequence(Qt::Key_Escape), find_);
    showAll->setContext(Qt::WidgetShortcut);
    connect(showAll, &QShortcut::activated, this, [this] {
        find_->clear();
        sheet_->setFocus();
    });
    sentence_ = look::label({}, 13, look::kText);
    pause_ = new QPushButton(Text::tr("Pause"));
    stop_ = new QPushButton(Text::tr("Stop"));
    connect(pause_, &QPushButton::clicked, this, [this] {
        if (feed_.overview().activity == Activity::Paused) {
            feed_.session().resume();
        } else {
            feed_.session().pause();
        }
    });
    connect(stop_, &QPushButton::clicked, this, [this] { feed_.session().stop(); });
    line->addWidget(back);
    line->addSpacing(6);
    line->addWidget(title_);
    line->addWidget(about_, 1);
    // Gives way first: the window must not grow with what it says.
    about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    line->addWidget(find_);
    line->addWidget(sentence_);
    line->addWidget(pause_);
    line->addWidget(stop_);
    return head;
}

void JobPage::showNarrowing(bool open) {
    choices_->narrowButton()->setChecked(open);
    narrow_->setVisible(open);
    if (open) {
        narrow_->setFocus();
        if (narrow_->currentItem() == nullptr) narrow_->setCurrentItem(narrow_->topLevelItem(0));
    } else {
        sheet_->setFocus();
    }
}

void JobPage::showAsked(bool open) {
    choices_->askedButton()->setChecked(open);
    asked_->setVisible(open);
    open ? asked_->field().setFocus() : sheet_->setFocus();
}

// Single letters, so that one hand does for triage; a field where text is typed keeps them for itself.
void JobPage::bindKeys() {
    const auto bind = [this](const QKeySequence& keys, auto&& act) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, [this, act] {
            if (splice_->isHidden() && compare_->isHidden()) act();
        });
    };
    bind(Qt::Key_Q, [this] { showAsked(asked_->isHidden()); });
    bind(Qt::Key_N, [this] { showNarrowing(narrow_->isHidden()); });
    bind(Qt::Key_L, [this] { showAlike(); });
    bind(Qt::Key_P, [this] { loupe_->togglePlaying(); });
    bind(Qt::Key_J, [this] { loupe_->playNextJoin(); });
    bind(Qt::Key_C, [this] { compare(); });
    bind(Qt::Key_W, [this] { move(-1); });
    bind(Qt::Key_E, [this] { move(1); });
    bind(Qt::Key_D, [this] { goToNextDamaged(); });
    bind(Qt::Key_G, [this] { sheet_->goToHeading(1); });
    bind(Qt::SHIFT | Qt::Key_G, [this] { sheet_->goToHeading(-1); });
    bind(Qt::Key_V, [this] { showFull(!loupe_->isFull()); });
    bind(Qt::Key_S, [this] {
        const auto* finding = feed_.find(sheet_->current());
        if (finding != nullptr && canBeSpliced(*finding)) showSplice(finding->id);
    });
}

void JobPage::move(int by) {
    const auto& ids = sheet_->shownIds();
    const auto at = std::find(ids.begin(), ids.end(), sheet_->current());
    if (at == ids.end()) return;
    const auto next = (at - ids.begin()) + by;
    if (next >= 0 && next < static_cast<std::ptrdiff_t>(ids.size()))
        sheet_->setCurrent(ids[static_cast<std::size_t>(next)]);
}

JobPage::Place JobPage::place() const {
    return {find_->text(), asked_->field().text(), tray_->destination(), sheet_->current()};
}

void JobPage::goTo(const Place& place) {
    find_->setText(place.words);
    asked_->field().setText(place.wish);
    tray_->setDestination(place.destination);
    sheet_->setCurrent(place.file);
}

void JobPage::startSearch(bool namedOnly) {
    ScanOptions options;
    options.namedOnly = namedOnly;
    feed_.session().startScan(options);
}

void JobPage::lend(const QString& path) {
    if (feed_.overview().activity != Activity::Idle)
        return say(Text::tr("A file can be lent when the search has stopped or finished."));
    const auto lent = openSource(path.toStdString());
    if (!lent) return say(Text::ofCore(lent.error()));
    say(Text::tr("%1 is tried on clips without an index and photos without a beginning.")
            .arg(QFileInfo(path).fileName()));
    ScanOptions options;
    options.references = {QFileInfo(path).absoluteFilePath().toStdString()};
    feed_.session().startScan(options);
}

void JobPage::find() {
    find_->setFocus();
    find_->selectAll();
}

void JobPage::undo() {
    if (splice_->isVisible()) return splice_->step(-1);
    feed_.settle();
    const auto what = feed_.decisions().undoText();
    say(what.isEmpty() ? Text::tr("Nothing to take back") : Text::tr("Taken back: ") + what);
    feed_.decisions().undo();
}

void JobPage::redo() {
    if (splice_->isVisible()) return splice_->step(1);
    feed_.settle();
    const auto what = feed_.decisions().redoText();
    say(what.isEmpty() ? Text::tr("Nothing was taken back") : Text::tr("Done again: ") + what);
    feed_.decisions().redo();
}

void JobPage::goToNextDamaged() {
    const auto& ids = sheet_->shownIds();
    if (ids.empty()) return;
    const auto here = std::find(ids.begin(), ids.end(), sheet_->current());
    const auto from = here == ids.end() ? std::size_t{0} : static_cast<std::size_t>(here - ids.begin()) + 1;
    for (std::size_t i = 0; i < ids.size(); ++i) {
        const auto id = ids[(from + i) % ids.size()];
        const auto* finding = feed_.find(id);
        if (finding != nullptr && finding->condition != Condition::Whole) return sheet_->setCurrent(id);
    }
}

void JobPage::showAlike() {
    if (sheet_->current() == 0) return;
    say(Text::tr("Comparing pictures ..."));
    lookAlike_.ask({feed_.files(), sheet_->current(), {}});
}

void JobPage::lookForPeople() {
    if (people_.looking()) return people_.stop();
    if (narrow_->isHidden()) showNarrowing(true);
    narrow_->setLooking(true, Text::tr("looking"));
    people_.look(feed_.files());
}

void JobPage::onLooked(std::size_t done, std::size_t all, const QString& trouble) {
    const auto state = Text::tr("%1 of %2").arg(look::numberText(done), look::numberText(all));
    narrow_->setLooking(people_.looking(), state);
    if (people_.looking()) return;
    if (!trouble.isEmpty()) return say(trouble);
    say(done < all ? Text::tr("Stopped looking for faces after %1; what was seen stays.").arg(state)
                   : Text::tr("Looked for faces in %1 photos. It is a guess: who looks away is missed.")
                         .arg(look::numberText(done)));
}

void JobPage::lookForFile(const QString& path) {
    say(Text::tr("Looking for %1 ...").arg(QFileInfo(path).fileName()));
    lookAlike_.ask({feed_.files(), 0, path});
}

void JobPage::refresh() {
    refreshCopy();
    const auto& overview = feed_.overview();
    sentence_->setText(feed_.sentence());
    const bool running = overview.activity != Activity::Idle;
    pause_->setVisible(running);
    stop_->setVisible(running);
    pause_->setText(overview.activity == Activity::Paused ? Text::tr("Go on") : Text::tr("Pause"));
    pause_->setEnabled(overview.activity != Activity::Stopping);
    stop_->setEnabled(overview.activity != Activity::Stopping);

    choices_->tell(sheet_->arrangement(), sheet_->shown());
    refreshLedger();
}

// Every sector of the card in one account, once all of it is known.
void JobPage::refreshLedger() {
    const bool finished = feed_.overview().progress.state == ScanState::Finished;
    if (ledgerAsked_ == finished) return;
    ledgerAsked_ = finished;
    choices_->leftoversButton()->setVisible(false);
    if (!finished) return;
    QThreadPool::globalInstance()->start([session = feed_.sharedSession(), page = QPointer<JobPage>(this)] {
        const auto ledger = session->ledger();
        QMetaObject::invokeMethod(qApp, [ledger, page] {
            if (!page) return;
            page->choices_->leftoversButton()->setText(
                Text::tr("%1 unexplained").arg(look::sizeText(ledger.unexplained)));
            page->choices_->leftoversButton()->setVisible(true);
            page->choices_->leftoversButton()->setToolTip(
                Text::tr("The whole card: %1 in files, %2 filesystem, %3 blank, %4 unreadable, "
                         "%5 unexplained, %6 not looked at; together %7")
                    .arg(look::sizeText(ledger.files), look::sizeText(ledger.structures),
                         look::sizeText(ledger.blank), look::sizeText(ledger.unreadable),
                         look::sizeText(ledger.unexplained), look::sizeText(ledger.notLookedAt),
                         look::sizeText(ledger.total())));
        });
    });
}

void JobPage::showSplice(std::int64_t id) {
    if (id != 0) splice_->open(id);
    showAlone(splice_, id != 0);
}

void JobPage::showAlone(QWidget* page, bool on) {
    // Never both at once: the window would grow to hold them.
    if (!on) page->hide();
    for (QWidget* part :
         {static_cast<QWidget*>(head_), static_cast<QWidget*>(band_), static_cast<QWidget*>(choices_),
          static_cast<QWidget*>(middle_), static_cast<QWidget*>(tray_)})
        part->setVisible(!on);
    page->setVisible(on);
    if (on) {
        notice_->hide();
        page->setFocus();
    } else {
        refreshCopy();
        sheet_->setFocus();
    }
}

void JobPage::compare() {
    if (compare_->isVisible() || splice_->isVisible()) return;
    const auto isPhoto = [this](std::int64_t id) {
        const auto* finding = feed_.find(id);
        return finding != nullptr && finding->kind == Kind::Photo;
    };
    std::vector<std::int64_t> photos;
    std::copy_if(sheet_->shownIds().begin(), sheet_->shownIds().end(), std::back_inserter(photos), isPhoto);
    const auto current = sheet_->current();
    const auto here = std::find(photos.begin(), photos.end(), current);
    if (here == photos.end() || photos.size() < 2)
        return say(Text::tr("Two photos are needed to compare them."));
    auto other = std::next(here) == photos.end() ? *std::prev(here) : *std::next(here);
    for (const auto id : sheet_->selection()) {
        if (id != current && isPhoto(id)) other = id;
    }
    compare_->open(std::move(photos), current, other);
    showAlone(compare_, true);
}

void JobPage::showFull(bool full) {
    loupe_->setFull(full);
    for (QWidget* part :
         {static_cast<QWidget*>(sheet_), static_cast<QWidget*>(band_), static_cast<QWidget*>(choices_)})
        part->setVisible(!full);
    narrow_->setVisible(!full && choices_->narrowButton()->isChecked());
    asked_->setVisible(!full && choices_->askedButton()->isChecked());
    if (!full) sheet_->setFocus();
}

}  // namespace dreskel
