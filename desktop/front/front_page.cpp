#include "desktop/front/front_page.h"

#include <algorithm>
#include <QApplication>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QLabel>
#include <QLocale>
#include <QMimeData>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QThreadPool>

#include "desktop/front/source_card.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "udisks/udisks.h"

namespace dreskel {
namespace {

QString stateOf(const ShelvedJob& job) {
    const auto files =
        Text::tr("%1 file(s) found", nullptr, static_cast<int>(job.files)).arg(look::numberText(job.files));
    const auto kept = job.kept > 0 ? Text::tr(", %1 kept").arg(look::numberText(job.kept)) : QString();
    switch (job.state) {
        case ScanState::NotStarted: return Text::tr("not searched yet");
        case ScanState::Reading:
            return Text::tr("read to %1 %, %2%3").arg(static_cast<int>(job.share * 100)).arg(files, kept);
        case ScanState::Checking: return Text::tr("all read, still to be checked; %1%2").arg(files, kept);
        case ScanState::Finished: break;
    }
    return files + kept;
}

// A job: a line of text over a bar that shows how far it is. The whole of it is a button.
class JobRow : public QPushButton {
  public:
    explicit JobRow(const ShelvedJob& job) : job_(job) {
        setFixedHeight(64);
        setCursor(Qt::PointingHandCursor);
        setEnabled(job.sourceThere);
        setAccessibleName(job.title + QStringLiteral(", ") + stateOf(job));
        setToolTip(job.sourceThere ? job.sourcePath : Text::tr("%1 is not there now").arg(job.sourcePath));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(rect(), underMouse() && isEnabled() ? look::kSheet : look::kPaper);
        const auto box = rect().adjusted(0, 6, 0, -8);
        painter.setPen(isEnabled() ? look::kInk : look::kFaded);
        painter.setFont(look::textFont(13, true));
        painter.drawText(box, Qt::AlignLeft | Qt::AlignTop, job_.title);
        painter.setFont(look::textFont(12));
        painter.setPen(look::kFaded);
        const auto when = Text::locale().toString(job_.touched, Text::tr("d MMM, HH:mm"));
        painter.drawText(box, Qt::AlignRight | Qt::AlignTop, when);
        const auto middle = box.adjusted(0, 20, 0, 0);
        painter.drawText(middle, Qt::AlignLeft | Qt::AlignTop,
                         job_.sourceThere ? stateOf(job_) : Text::tr("the source is not there"));
        painter.setPen(look::kInk);
        const bool finished = job_.state == ScanState::Finished;
        painter.drawText(middle, Qt::AlignRight | Qt::AlignTop,
                         finished ? Text::tr("searched") : Text::tr("to go on"));
        const QRectF bar(box.left(), box.bottom() - 2, box.width(), 4);
        painter.fillRect(bar, look::kPaperLine);
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * job_.share, bar.height()),
                         look::kSound.darker(135));
        if (hasFocus()) {
            painter.setPen(QPen(look::kDecided.darker(120), 2));
            painter.drawRect(rect().adjusted(1, 1, -1, -1));
        }
    }

  private:
    ShelvedJob job_;
};

}  // namespace

FrontPage::FrontPage(DeviceWatch& watch, QWidget* parent) : QWidget(parent), watch_(watch) {
    setStyleSheet(look::counterStyle() +
                  QStringLiteral("#paper { background: %1; }").arg(look::kPaper.name()));
    setAcceptDrops(true);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(20, 12, 20, 12);
    head->addWidget(look::label(QStringLiteral("Dreskel"), 16, look::kInk, true));
    head->addSpacing(10);
    head->addWidget(look::label(
        Text::tr("Put a card in the reader, or open an image of one. Nothing is ever written to either."), 13,
        look::kFaded));
    head->addStretch();
    auto* open = new QPushButton(Text::tr("Open an image"));
    open->setToolTip(Text::tr("A file that holds a card sector by sector (Ctrl+O)"));
    connect(open, &QPushButton::clicked, this, &FrontPage::chooseImage);
    head->addWidget(open);

    auto* left = new QWidget;
    auto* column = new QVBoxLayout(left);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(12);
    column->addWidget(look::label(Text::tr("On the reader now"), 15, look::kInk, true));
    trouble_ = look::label({}, 13, look::kTrouble.darker(130), true);
    trouble_->setWordWrap(true);
    trouble_->hide();
    column->addWidget(trouble_);
    none_ = look::label(Text::tr("No card is in a reader. One that is plugged in appears here by itself;\nan "
                                 "image of a card can be opened above, or dropped anywhere on this page."),
                        13, look::kFaded);
    column->addWidget(none_);
    cards_ = new QVBoxLayout;
    cards_->setSpacing(14);
    column->addLayout(cards_);
    others_ = new QPushButton;
    others_->setFlat(true);
    others_->setCursor(Qt::PointingHandCursor);
    others_->setStyleSheet(
        QStringLiteral("QPushButton { border: none; background: none; text-align: left; padding: 2px 0; "
                       "color: %1; text-decoration: underline; } QPushButton:focus { color: %2; }")
            .arg(look::kFaded.name(), look::kInk.name()));
    connect(others_, &QPushButton::clicked, this, [this] {
        showDisks_ = !showDisks_;
        refreshDevices();
    });
    column->addWidget(others_);
    limits_ = look::label(
        Text::tr("UDisks2 does not answer on this computer. Cards are still seen, but opening one needs the "
                 "right to read its device, and unmounting and ejecting have to be done by hand."),
        12, look::kFaded);
    limits_->setWordWrap(true);
    limits_->hide();
    column->addWidget(limits_);
    column->addStretch();

    auto* right = new QWidget;
    auto* second = new QVBoxLayout(right);
    second->setContentsMargins(0, 0, 0, 0);
    second->setSpacing(6);
    second->addWidget(look::label(Text::tr("Jobs in hand"), 15, look::kInk, true));
    jobs_ = new QVBoxLayout;
    jobs_->setSpacing(2);
    second->addLayout(jobs_);
    second->addStretch();

    const auto scrolled = [](QWidget* content) {
        auto* area = new QScrollArea;
        area->setWidgetResizable(true);
        area->setFrameShape(QFrame::NoFrame);
        area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        content->setObjectName(QStringLiteral("paper"));
        area->setWidget(content);
        return area;
    };
    auto* body = new QHBoxLayout;
    body->setContentsMargins(32, 22, 32, 16);
    body->setSpacing(36);
    body->addWidget(scrolled(left), 2);
    body->addWidget(scrolled(right), 1);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(0);
    all->addLayout(head);
    all->addLayout(body, 1);

    connect(&watch_, &DeviceWatch::changed, this, &FrontPage::refreshDevices);
    refreshDevices();
    refreshJobs();
}

SourceCard* FrontPage::makeCard(const Device& device) {
    auto* card = new SourceCard(device, watch_.hasService());
    connect(card, &SourceCard::openAsked, this, &FrontPage::sourceChosen);
    connect(card, &SourceCard::copyAsked, this, &FrontPage::copyAsked);
    connect(card, &SourceCard::unmountAsked, this, [this, card] { unmount(card); });
    connect(card, &SourceCard::letGoAsked, this, [this, card] { letGo(card); });
    return card;
}

void FrontPage::refreshDevices() {
    std::vector<Device> wanted = standIns_;
    std::size_t disks = 0;
    for (const auto& device : watch_.devices()) {
        disks += device.removable ? 0 : 1;
        if (device.removable || showDisks_) wanted.push_back(device);
    }
    // What has not changed stays as it is, with what was said of it and typed into it.
    std::vector<SourceCard*> now;
    for (const auto& device : wanted) {
        const auto known = std::find_if(shownCards_.begin(), shownCards_.end(), [&](const SourceCard* card) {
            return card->device().same(device) && card->service() == watch_.hasService();
        });
        if (known == shownCards_.end()) {
            now.push_back(makeCard(device));
        } else {
            now.push_back(*known);
            shownCards_.erase(known);
        }
    }
    for (auto* card : shownCards_) {
        cards_->removeWidget(card);
        card->hide();
        card->deleteLater();
    }
    shownCards_ = std::move(now);
    for (std::size_t i = 0; i < shownCards_.size(); ++i)
        cards_->insertWidget(static_cast<int>(i), shownCards_[i]);
    none_->setVisible(shownCards_.empty());
    limits_->setVisible(!watch_.hasService());
    others_->setVisible(disks > 0);
    others_->setText(showDisks_ ? Text::tr("Hide the disks of this computer")
                                : Text::tr("%n disk(s) of this computer not shown; show", nullptr,
                                           static_cast<int>(disks)));
}

void FrontPage::addStandIn(const QString& path) {
    const auto source = dreskel::openSource(path.toStdString());
    if (!source) return say(Text::ofCore(source.error()));
    Device device;
    device.path = path.toStdString();
    device.model = titleOf(path).toStdString();
    device.bus = "simulated reader";
    device.size = source.value()->size();
    device.sectorSize = source.value()->sectorSize();
    device.removable = true;
    std::erase_if(standIns_, [&](const Device& known) { return known.path == device.path; });
    standIns_.push_back(std::move(device));
    refreshDevices();
}

SourceCard* FrontPage::cardAt(const QString& path) {
    for (auto* card : shownCards_) {
        if (QString::fromStdString(card->device().path) == path) return card;
    }
    return nullptr;
}

void FrontPage::unmount(SourceCard* card) {
    card->say({});
    QThreadPool::globalInstance()->start([mounts = card->device().mounts, shown = QPointer<SourceCard>(card),
                                          page = QPointer<FrontPage>(this)] {
        const auto done = std::make_shared<Status>(Udisks::unmount(mounts));
        QMetaObject::invokeMethod(qApp, [done, shown, page] {
            if (shown && !*done) shown->say(Text::ofCore(done->error()));
            if (page) page->watch_.refresh();
        });
    });
}

void FrontPage::letGo(SourceCard* card) {
    if (card->looking()) {
        card->say(Text::tr("It is still being looked at; it can be let go of in a few seconds."));
        return;
    }
    card->say({});
    QThreadPool::globalInstance()->start([device = card->device(), shown = QPointer<SourceCard>(card)] {
        const auto done = std::make_shared<Status>(letGoOf(device));
        QMetaObject::invokeMethod(qApp, [done, shown] {
            if (!shown) return;
            shown->say(*done ? Text::tr("It can be pulled out now.") : Text::ofCore(done->error()));
        });
    });
}

void FrontPage::refreshJobs() {
    for (auto* row : shownJobs_) row->deleteLater();
    shownJobs_.clear();
    const auto jobs = shelvedJobs();
    for (const auto& job : jobs) {
        auto* row = new JobRow(job);
        connect(row, &QPushButton::clicked, this, [this, folder = job.folder] { Q_EMIT jobChosen(folder); });
        jobs_->addWidget(row);
        shownJobs_.push_back(row);
    }
    if (jobs.empty()) {
        auto* empty = look::label(
            Text::tr(
                "Each card that is opened becomes a job and stays here,\nwith what was found and decided."),
            13, look::kFaded);
        jobs_->addWidget(empty);
        shownJobs_.push_back(empty);
    }
}

void FrontPage::say(const QString& trouble) {
    trouble_->setText(trouble);
    trouble_->setVisible(!trouble.isEmpty());
}

void FrontPage::chooseImage() {
    auto* dialog = new QFileDialog(this, Text::tr("Open an image of a card"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setFileMode(QFileDialog::ExistingFile);
    dialog->setModal(false);
    connect(dialog, &QFileDialog::fileSelected, this, &FrontPage::sourceChosen);
    dialog->show();
}

void FrontPage::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void FrontPage::dropEvent(QDropEvent* event) {
    for (const auto& url : event->mimeData()->urls()) {
        if (url.isLocalFile()) {
            Q_EMIT sourceChosen(url.toLocalFile());
            return;
        }
    }
}

void FrontPage::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kPaper);
    painter.fillRect(0, 53, width(), 1, look::kPaperLine);
}

}  // namespace dreskel
