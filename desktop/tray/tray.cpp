#include "desktop/tray/tray.h"

#include <algorithm>
#include <QBoxLayout>
#include <QDesktopServices>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QPainter>
#include <QPlainTextEdit>
#include <QSettings>
#include <QUrl>
#include <QWidgetAction>

#include "deliver/camera_card.h"
#include "deliver/destination.h"
#include "deliver/places.h"
#include "deliver/shop.h"
#include "deliver/version.h"
#include "desktop/job_shelf.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

const auto kLastFolder = QStringLiteral("save/folder");
const auto kPattern = QStringLiteral("save/names");

}  // namespace

Tray::Tray(Feed& feed, QWidget* parent) : QWidget(parent), feed_(feed) {
    setAccessibleName(Text::tr("Tray"));
    kept_ = look::label({}, 15, look::kText, true);
    message_ = look::label({}, 12, look::kDim, false);
    message_->setWordWrap(true);
    room_ = look::label({}, 12, look::kDim, false);
    destination_ = new QLineEdit;
    destination_->setPlaceholderText(Text::tr("A folder on another drive"));
    destination_->setAccessibleName(Text::tr("Where to save"));
    destination_->setMinimumWidth(200);
    choose_ = new QPushButton(Text::tr("Where"));
    choose_->setToolTip(Text::tr("The drives that are there, with their room, and any other folder"));
    places_ = new QMenu(this);
    places_->setToolTipsVisible(true);
    choose_->setMenu(places_);
    connect(places_, &QMenu::aboutToShow, this, &Tray::offerPlaces);
    versions_ = new QCheckBox(Text::tr("versions that open"));
    versions_->setChecked(true);
    versions_->setToolTip(Text::tr(
        "Beside each file of which a part is lost, one that opens everywhere: a photo with the rest plainly "
        "marked, a clip playing through its gaps, a recording with true lengths. The file itself is saved as "
        "it is"));
    connect(versions_, &QCheckBox::toggled, this, [this] {
        sum_.reset();
        refresh();
    });
    layout_ = new QComboBox;
    layout_->setAccessibleName(Text::tr("How the files are laid out"));
    const std::pair<Layout, const char*> layouts[] = {
        {Layout::Kind, QT_TRANSLATE_NOOP("dreskel::Text", "by kind")},
        {Layout::Date, QT_TRANSLATE_NOOP("dreskel::Text", "by day")},
        {Layout::Camera, QT_TRANSLATE_NOOP("dreskel::Text", "by camera")},
        {Layout::Folders, QT_TRANSLATE_NOOP("dreskel::Text", "client's folders")},
        {Layout::Flat, QT_TRANSLATE_NOOP("dreskel::Text", "one folder")},
        {Layout::Dcf, QT_TRANSLATE_NOOP("dreskel::Text", "for a camera")}};
    for (const auto& [layout, words] : layouts) layout_->addItem(Text::tr(words), static_cast<int>(layout));
    report_ = new QPushButton(Text::tr("Report"));
    report_->setToolTip(Text::tr("The page for the client, with what was found, saved and not saved"));
    details_ = new QPushButton(Text::tr("What was not saved"));
    otherSearch_ = new QPushButton;
    next_ = new QPushButton;
    next_->setObjectName(QStringLiteral("next"));
    next_->setMinimumWidth(150);

    auto* words = new QVBoxLayout;
    words->setSpacing(2);
    words->addStretch();
    words->addWidget(kept_);
    words->addWidget(message_);
    words->addStretch();
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(16, 8, 16, 8);
    line->setSpacing(10);
    line->addLayout(words, 3);
    line->addWidget(details_);
    line->addWidget(report_);
    line->addWidget(versions_);
    line->addWidget(makeNaming());
    line->addWidget(layout_);
    line->addWidget(destination_, 2);
    line->addWidget(choose_);
    line->addWidget(room_);
    line->addWidget(otherSearch_);
    line->addWidget(next_);
    setFixedHeight(66);

    connect(next_, &QPushButton::clicked, this, &Tray::doNext);
    connect(otherSearch_, &QPushButton::clicked, this,
            [this] { Q_EMIT searchAsked(step() == Step::Search); });
    connect(choose_, &QPushButton::clicked, this, &Tray::choose);
    connect(layout_, &QComboBox::currentIndexChanged, this, [this] {
        // The same files laid out otherwise are another delivery.
        sum_.reset();
        refresh();
    });
    connect(report_, &QPushButton::clicked, this, [this] {
        if (sum_) QDesktopServices::openUrl(QUrl::fromLocalFile(QString::fromStdString(sum_->report)));
    });
    connect(destination_, &QLineEdit::textChanged, this, [this] { refresh(); });
    connect(&feed_, &Feed::progressed, this, &Tray::refresh);
    connect(details_, &QPushButton::clicked, this, [this] {
        if (!sum_) return;
        auto* list = new QPlainTextEdit;
        list->setAttribute(Qt::WA_DeleteOnClose);
        list->setReadOnly(true);
        list->setWindowTitle(Text::tr("Not saved"));
        for (const auto& item : sum_->items) {
            if (!item.whyNot.empty())
                list->appendPlainText(
                    Text::tr("File %1: %2").arg(item.finding.id).arg(Text::ofCore(item.whyNot)));
            if (!item.version.whyNot.empty())
                list->appendPlainText(Text::tr("File %1 was saved as it is; no version that opens: %2")
                                          .arg(item.finding.id)
                                          .arg(Text::ofCore(item.version.whyNot)));
        }
        list->resize(720, 320);
        list->show();
    });
    timer_.setInterval(150);
    connect(&timer_, &QTimer::timeout, this, &Tray::refresh);
    refresh();
}

QWidget* Tray::makeNaming() {
    naming_ = new QPushButton(Text::tr("Names"));
    naming_->setToolTip(Text::tr("What files are called whose name no folder knows"));
    auto* menu = new QMenu(naming_);
    auto* inside = new QWidget;
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(14, 12, 14, 12);
    column->setSpacing(6);
    column->addWidget(look::label(Text::tr("Files without a name of their own are called"), 12, look::kText));
    pattern_ =
        new QLineEdit(QSettings().value(kPattern, QString::fromUtf8(NamePattern::kUsual.data())).toString());
    pattern_->setAccessibleName(Text::tr("Pattern of names"));
    pattern_->setMinimumWidth(420);
    column->addWidget(pattern_);
    QStringList words;
    for (const auto& [word, becomes] : NamePattern::words())
        words << QStringLiteral("{%1}: %2")
                     .arg(QString::fromUtf8(word.data(), static_cast<qsizetype>(word.size())),
                          Text::ofCore(std::string(becomes)));
    column->addWidget(look::label(words.join(QLatin1Char('\n')), 12, look::kDim));
    patternShown_ = look::label({}, 12, look::kText);
    column->addWidget(patternShown_);
    auto* action = new QWidgetAction(menu);
    action->setDefaultWidget(inside);
    menu->addAction(action);
    naming_->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, &Tray::tellNames);
    connect(pattern_, &QLineEdit::returnPressed, menu, &QMenu::close);
    connect(pattern_, &QLineEdit::textChanged, this, [this] {
        if (NamePattern::from(pattern_->text().toStdString()))
            QSettings().setValue(kPattern, pattern_->text());
        tellNames();
        refresh();
    });
    return naming_;
}

NamePattern Tray::names() const {
    const auto pattern = NamePattern::from(pattern_->text().toStdString());
    return pattern ? pattern.value() : NamePattern();
}

// On files of this card, before anything is saved.
void Tray::tellNames() {
    const auto pattern = NamePattern::from(pattern_->text().toStdString());
    if (!pattern)
        return patternShown_->setText(
            Text::tr("%1. The usual one is taken.").arg(Text::ofCore(pattern.error().what)));
    QStringList shown;
    for (const auto& finding : feed_.files()) {
        if (!finding->decision.kept || !finding->listed() || !finding->name.empty()) continue;
        shown << QString::fromStdString(proposePath(*finding, Layout::Flat, pattern.value()));
        if (shown.size() == 4) break;
    }
    patternShown_->setText(shown.isEmpty() ? Text::tr("Every kept file has a name of its own.")
                                           : shown.join(QLatin1Char('\n')));
}

void Tray::setDestination(const QString& folder) {
    destination_->setText(folder);
}

Tray::Step Tray::step() const {
    if (task_) return Step::Stop;
    const auto& overview = feed_.overview();
    const bool searched = overview.progress.state == ScanState::Finished;
    // A delivery that is done stays done until something else is kept, or another place is chosen.
    if (sum_ && savedTo_ == destination_->text().trimmed() && savedIds_ == keptIds()) return Step::Show;
    if (overview.kept > 0) return destination_->text().trimmed().isEmpty() ? Step::Choose : Step::Save;
    if (overview.activity == Activity::Idle && !searched) return Step::Search;
    const auto whole = overview.byCondition.find(Condition::Whole);
    if (whole != overview.byCondition.end() && whole->second > 0) return Step::KeepWhole;
    return Step::Wait;
}

std::vector<std::int64_t> Tray::keptIds() const {
    std::vector<std::int64_t> ids;
    for (const auto& finding : feed_.files()) {
        if (finding->decision.kept && finding->listed()) ids.push_back(finding->id);
    }
    return ids;
}

Layout Tray::layout() const {
    return static_cast<Layout>(layout_->currentData().toInt());
}

QString Tray::example() const {
    for (const auto& finding : feed_.files()) {
        if (!finding->decision.kept || !finding->listed()) continue;
        if (layout() == Layout::Dcf) return QString::fromStdString(cameraPaths({*finding}).at(finding->id));
        return QString::fromStdString(proposePath(*finding, layout(), names()));
    }
    return {};
}

void Tray::checkRoom() {
    const auto path = destination_->text().trimmed();
    const auto bytes = feed_.overview().keptBytes;
    if (path == checkedPath_ && bytes == checkedBytes_) return;
    checkedPath_ = path;
    checkedBytes_ = bytes;
    refusal_.clear();
    free_ = total_ = 0;
    largestKept_ = 0;
    versionsFit_ = false;
    for (const auto& finding : feed_.files()) {
        if (!finding->decision.kept || !finding->listed()) continue;
        largestKept_ = std::max(largestKept_, finding->size());
        versionsFit_ = versionsFit_ || VersionMaker::fits(*finding);
    }
    largestAllowed_.reset();
    if (path.isEmpty()) return;
    largestAllowed_ = largestFileAt(path.toStdString());
    if (const auto room = roomAt(path.toStdString())) {
        free_ = room.value().freeBytes;
        total_ = room.value().totalBytes;
    }
    if (const auto allowed = checkDestination(*feed_.session().source(), path.toStdString(), bytes);
        !allowed) {
        refusal_ = Text::ofCore(allowed.error().what) + QStringLiteral(". ") +
                   Text::ofCore(allowed.error().advice) + QLatin1Char('.');
    }
}

void Tray::refresh() {
    const auto& overview = feed_.overview();
    checkRoom();
    const auto now = step();
    const auto wholeEntry = overview.byCondition.find(Condition::Whole);
    const auto whole = wholeEntry == overview.byCondition.end() ? std::size_t{0} : wholeEntry->second;
    kept_->setText(overview.kept == 0
                       ? Text::tr("Nothing kept yet")
                       : Text::tr("%1 kept, %2")
                             .arg(look::numberText(overview.kept), look::sizeText(overview.keptBytes)));
    QString message;
    if (task_) {
        const auto progress = task_->progress();
        message = Text::tr("Saving: %1 of %2 files checked, %3 of %4 written")
                      .arg(look::numberText(progress.filesDone), look::numberText(progress.files),
                           look::sizeText(progress.bytesDone), look::sizeText(progress.bytes));
    } else if (now == Step::Show) {
        message = sum_->notSaved == 0
                      ? Text::tr("Saved %1 files, %2, each read back and found the same%3")
                            .arg(look::numberText(sum_->verified), look::sizeText(sum_->bytes),
                                 sum_->versions == 0
                                     ? QString()
                                     : Text::tr("; and %1 that open").arg(look::numberText(sum_->versions)))
                      : Text::tr("Saved and verified %1 of %2 files; %3 not saved")
                            .arg(sum_->verified)
                            .arg(sum_->items.size())
                            .arg(sum_->notSaved);
        if (!sum_->manifestWhyNot.empty())
            message += Text::tr("; without its list: %1").arg(Text::ofCore(sum_->manifestWhyNot));
    } else if (!refusal_.isEmpty()) {
        message = refusal_;
    } else if (overview.kept == 0 && overview.listed > 0) {
        message = Text::tr("Space keeps the file that is outlined");
    } else if (overview.kept > 0 && !limitsText().isEmpty()) {
        message = limitsText();
    } else if (overview.kept > 0) {
        message = Text::tr("To be saved and read back, the first as %1").arg(example());
    }
    message_->setText(message);
    QPalette ink = message_->palette();
    ink.setColor(QPalette::WindowText, now == Step::Show || !refusal_.isEmpty() ? look::kText : look::kDim);
    message_->setPalette(ink);
    const auto wanting = [](const DeliveryItem& item) {
        return !item.whyNot.empty() || !item.version.whyNot.empty();
    };
    details_->setVisible(now == Step::Show && std::any_of(sum_->items.begin(), sum_->items.end(), wanting));
    const auto state = overview.progress.state;
    const bool restLeft = state == ScanState::Finished && overview.progress.namedOnly && !task_;
    otherSearch_->setVisible(overview.activity == Activity::Idle &&
                             (restLeft || (now == Step::Search && state == ScanState::NotStarted)));
    otherSearch_->setText(restLeft ? Text::tr("Search the rest of the card")
                                   : Text::tr("Only what folders name"));
    otherSearch_->setToolTip(
        restLeft ? Text::tr("Reads all of it, for what no folder knows of any more")
                 : Text::tr("For a card that was only emptied: checks the files that its folders still "
                            "know of and reads nothing else. The whole card can be searched after it"));
    const bool choosing = overview.kept > 0 && !task_;
    layout_->setVisible(choosing);
    naming_->setVisible(choosing && layout() != Layout::Dcf);
    versions_->setVisible(choosing && versionsFit_ && layout() != Layout::Dcf);
    report_->setVisible(now == Step::Show && !sum_->report.empty());
    destination_->setVisible(choosing);
    choose_->setVisible(choosing);
    room_->setVisible(choosing && total_ > 0);
    room_->setText(Text::tr("%1 free").arg(look::sizeText(free_)));

    const bool savable = feed_.session().source()->isThere() || now == Step::KeepWhole || now == Step::Show;
    next_->setEnabled(savable && now != Step::Wait && (now != Step::Save || refusal_.isEmpty()));
    switch (now) {
        case Step::Search:
            next_->setText(overview.progress.state == ScanState::NotStarted ? Text::tr("Search the card")
                                                                            : Text::tr("Go on searching"));
            break;
        case Step::Wait: next_->setText(Text::tr("Nothing to keep yet")); break;
        case Step::KeepWhole:
            next_->setText(Text::tr("Keep all %1 whole files").arg(look::numberText(whole)));
            break;
        case Step::Choose: next_->setText(Text::tr("Choose where to save")); break;
        case Step::Save:
            next_->setText(Text::tr("Save %1 file(s)", nullptr, static_cast<int>(overview.kept))
                               .arg(look::numberText(overview.kept)));
            break;
        case Step::Stop: next_->setText(Text::tr("Stop saving")); break;
        case Step::Show: next_->setText(Text::tr("Show what was saved")); break;
    }
}

void Tray::doNext() {
    switch (step()) {
        case Step::Search: Q_EMIT searchAsked(false); break;
        case Step::Wait: break;
        case Step::KeepWhole: {
            std::vector<std::int64_t> whole;
            for (const auto& finding : feed_.files()) {
                if (finding->listed() && finding->condition == Condition::Whole && !finding->sameAs &&
                    !finding->decision.leftOut)
                    whole.push_back(finding->id);
            }
            feed_.setKept(whole, true);
            break;
        }
        case Step::Choose: choose(); break;
        case Step::Save: save(); break;
        case Step::Stop: task_->stop(); break;
        case Step::Show:
            QDesktopServices::openUrl(QUrl::fromLocalFile(QString::fromStdString(sum_->folder)));
            break;
    }
    refresh();
}

void Tray::choose() {
    places_->popup(choose_->isVisible() ? choose_->mapToGlobal(QPoint(0, -places_->sizeHint().height()))
                                        : next_->mapToGlobal(QPoint(0, -places_->sizeHint().height())));
}

// The last one first, then what is mounted; where nothing can be saved stands there with its reason.
void Tray::offerPlaces() {
    places_->clear();
    const auto last = QSettings().value(kLastFolder).toString();
    if (!last.isEmpty() && QFileInfo::exists(last)) {
        auto* again = places_->addAction(Text::tr("%1, as the last time").arg(last));
        connect(again, &QAction::triggered, this, [this, last] { setDestination(last); });
        places_->addSeparator();
    }
    const auto title = titleOf(QString::fromStdString(feed_.session().source()->path()));
    for (const auto& place : placesFor(*feed_.session().source())) {
        const auto folder = QString::fromStdString(place.folder);
        auto text = Text::tr("%1: %2, %3 free of %4")
                        .arg(folder, QString::fromStdString(place.filesystem),
                             look::sizeText(place.freeBytes), look::sizeText(place.totalBytes));
        if (place.largestFile) text += Text::tr(", no file above %1").arg(look::sizeText(*place.largestFile));
        if (!place.refused.empty()) text += QStringLiteral(" (%1)").arg(Text::ofCore(place.refused));
        auto* offered = places_->addAction(text);
        offered->setEnabled(place.refused.empty());
        connect(offered, &QAction::triggered, this, [this, folder, title] {
            setDestination(QDir(folder).filePath(title));
            destination_->setFocus();
        });
    }
    places_->addSeparator();
    connect(places_->addAction(Text::tr("Another folder")), &QAction::triggered, this, &Tray::browse);
}

void Tray::browse() {
    auto* dialog = new QFileDialog(this, Text::tr("Where to save"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setFileMode(QFileDialog::Directory);
    dialog->setOption(QFileDialog::ShowDirsOnly);
    dialog->setModal(false);
    connect(dialog, &QFileDialog::fileSelected, this, &Tray::setDestination);
    dialog->show();
}

QString Tray::limitsText() const {
    if (!largestAllowed_ || largestKept_ <= *largestAllowed_) return {};
    return Text::tr(
               "This drive takes no file above %1, and the largest kept one has %2. It would not be saved.")
        .arg(look::sizeText(*largestAllowed_), look::sizeText(largestKept_));
}

void Tray::save() {
    DeliveryRequest request;
    request.layout = layout();
    request.report = true;
    request.versions = versions_->isChecked();
    request.names = names();
    QSettings().setValue(kLastFolder, destination_->text().trimmed());
    request.shop = usualShopPath();
    request.destination = destination_->text().trimmed().toStdString();
    feed_.settle();
    for (auto& finding : feed_.session().listed()) {
        if (finding.decision.kept) request.files.push_back(std::move(finding));
    }
    sum_.reset();
    savedIds_ = keptIds();
    savedTo_ = destination_->text().trimmed();
    task_ = std::make_unique<DeliveryTask>(feed_.sharedSession(), std::move(request));
    connect(task_.get(), &DeliveryTask::finished, this, [this](const auto& outcome) { onSaved(*outcome); });
    timer_.start();
}

void Tray::onSaved(const Result<DeliverySum>& outcome) {
    timer_.stop();
    task_.reset();
    if (outcome) {
        sum_ = std::make_shared<DeliverySum>(outcome.value());
    } else {
        refusal_ = Text::ofCore(outcome.error());
    }
    refresh();
}

void Tray::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    painter.fillRect(0, 0, width(), 1, look::kLine);
}

}  // namespace dreskel
