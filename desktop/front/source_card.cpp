#include "desktop/front/source_card.h"

#include <QApplication>
#include <QBoxLayout>
#include <QPainter>
#include <QPointer>
#include <QStyle>
#include <QThreadPool>

#include "desktop/front/volume_strip.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "udisks/udisks.h"

namespace dreskel {
namespace {

QString partText(const DevicePart& part, const std::vector<Mount>& mounts) {
    auto text = Text::tr("Partition %1: %2, from byte %3 on")
                    .arg(QString::fromStdString(part.path), look::sizeText(part.range.length))
                    .arg(part.range.offset);
    for (const auto& mount : mounts) {
        if (mount.device != part.path) continue;
        text += Text::tr(", mounted at %1").arg(QString::fromStdString(mount.folder)) +
                (mount.writable ? Text::tr(" and writable") : Text::tr(" for reading only"));
    }
    return text;
}

}  // namespace

SourceCard::SourceCard(const Device& device, bool service, QWidget* parent)
    : QWidget(parent), device_(device), service_(service) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 14, 18, 14);
    column->setSpacing(9);
    column->addWidget(buildHead());
    strip_ = new VolumeStrip;
    column->addWidget(strip_);
    sentence_ = look::label({}, 13, look::kInk);
    sentence_->setWordWrap(true);
    column->addWidget(sentence_);
    mounted_ = look::label({}, 13, look::kTrouble.darker(130));
    mounted_->setWordWrap(true);
    column->addWidget(mounted_);
    facts_ = look::label({}, 12, look::kFaded);
    facts_->setWordWrap(true);
    facts_->hide();
    column->addWidget(facts_);
    message_ = look::label({}, 13, look::kTrouble.darker(130));
    message_->setWordWrap(true);
    message_->hide();
    column->addWidget(message_);
    why_ = new QPushButton(Text::tr("What this rests on"));
    if (device_.filesOnly) {
        strip_->hide();
        why_->hide();
        mounted_->hide();
        sentence_->setText(
            Text::tr("Offers its files only, over MTP or PTP: the sectors of its card cannot be read that "
                     "way. Take the card out of it and put it into a reader."));
        return;
    }
    actions_ = buildActions();
    column->addWidget(actions_);
    copyRow_ = new CopyRow(device_);
    copyRow_->hide();
    connect(copyRow_, &CopyRow::startAsked, this,
            [this] { Q_EMIT copyAsked(QString::fromStdString(device_.path), copyRow_->request()); });
    column->addWidget(copyRow_);
    tellMounts();
    if (device_.removable) {
        look();
    } else {
        column->insertWidget(column->indexOf(actions_), buildConsent());
    }
}

QWidget* SourceCard::buildHead() {
    auto* head = new QWidget;
    auto* line = new QHBoxLayout(head);
    line->setContentsMargins(0, 0, 0, 0);
    auto* title = look::label({}, 15, look::kInk, true);
    const auto name = QString::fromStdString(device_.title());
    title->setText(name.isEmpty() ? Text::tr("Unnamed") : name);
    QStringList facts{QString::fromStdString(device_.path)};
    if (device_.size > 0) facts << look::sizeText(device_.size);
    if (!device_.bus.empty()) facts << QString::fromStdString(device_.bus);
    if (!device_.serial.empty())
        facts << Text::tr("serial number %1").arg(QString::fromStdString(device_.serial));
    if (device_.sectorSize != 512) facts << Text::tr("sectors of %1 bytes").arg(device_.sectorSize);
    if (device_.readOnly) facts << Text::tr("locked against writing");
    auto* about = look::label({}, 12, look::kFaded);
    about->setText(facts.join(QStringLiteral(", ")));
    line->addWidget(title);
    line->addWidget(about);
    line->addStretch();
    return head;
}

// A disk of the computer is not touched before it was meant.
QWidget* SourceCard::buildConsent() {
    auto* consent = new QWidget;
    auto* line = new QHBoxLayout(consent);
    line->setContentsMargins(0, 0, 0, 0);
    sentence_->setText(Text::tr("A disk of this computer, not a card. Nothing has been read from it yet."));
    strip_->hide();
    actions_->hide();
    unlock_ = new QPushButton(Text::tr("Work on this disk all the same"));
    connect(unlock_, &QPushButton::clicked, this, [this, consent] {
        consent->hide();
        strip_->show();
        actions_->show();
        look();
    });
    line->addWidget(unlock_);
    line->addStretch();
    return consent;
}

QWidget* SourceCard::buildActions() {
    auto* actions = new QWidget;
    auto* line = new QHBoxLayout(actions);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    open_ = new QPushButton(device_.removable ? Text::tr("Search this card") : Text::tr("Search this disk"));
    open_->setToolTip(Text::tr("Reads the card itself; better a copy when it is the only one or may fail"));
    connect(open_, &QPushButton::clicked, this,
            [this] { Q_EMIT openAsked(QString::fromStdString(device_.path)); });
    copy_ = new QPushButton(Text::tr("Copy and search"));
    copy_->setToolTip(Text::tr("Copies every sector to an image and searches it from the same read"));
    copy_->setCheckable(true);
    connect(copy_, &QPushButton::toggled, this, [this](bool on) {
        copyRow_->setVisible(on);
        if (!device_.writable()) setNext(on ? nullptr : copy_);
        if (on) copyRow_->offerName();
    });
    unmount_ = new QPushButton(Text::tr("Unmount it"));
    connect(unmount_, &QPushButton::clicked, this, &SourceCard::unmountAsked);
    letGo_ = new QPushButton(Text::tr("Let go of it"));
    letGo_->setToolTip(
        Text::tr("Unmounts it and ejects it, or switches its reader off, so that it can be pulled out"));
    letGo_->setVisible(service_ && device_.removable);
    connect(letGo_, &QPushButton::clicked, this, &SourceCard::letGoAsked);
    why_->setCheckable(true);
    connect(why_, &QPushButton::toggled, this, [this](bool on) { facts_->setVisible(on); });
    for (auto* button : {copy_, open_, unmount_, letGo_}) line->addWidget(button);
    line->addStretch();
    line->addWidget(why_);
    setNext(copy_);
    return actions;
}

// The one obvious next step is yellow.
void SourceCard::setNext(QPushButton* button) {
    for (auto* each : {open_, copy_, unmount_}) {
        each->setObjectName(each == button && device_.removable ? QStringLiteral("next") : QString());
        each->style()->unpolish(each);
        each->style()->polish(each);
    }
}

void SourceCard::tellMounts() {
    QStringList folders;
    for (const auto& mount : device_.mounts) folders << QString::fromStdString(mount.folder);
    mounted_->setVisible(!folders.isEmpty());
    unmount_->setVisible(!folders.isEmpty() && service_);
    if (folders.isEmpty()) return;
    const auto where = folders.join(Text::tr(" and "));
    if (!device_.writable()) {
        mounted_->setText(Text::tr("Mounted at %1, for reading only.").arg(where));
        return;
    }
    mounted_->setText(
        Text::tr("Mounted at %1 and writable: other programs may change it at any moment. "
                 "Unmount it before any work.")
            .arg(where) +
        (service_ ? QString() : Text::tr(" UDisks2 does not answer, so that has to be done by hand.")));
    if (service_) setNext(unmount_);
}

void SourceCard::say(const QString& text) {
    message_->setText(text);
    message_->setVisible(!text.isEmpty());
}

void SourceCard::look() {
    looking_ = true;
    sentence_->setText(Text::tr("Looking at it; the first answer takes up to five seconds ..."));
    QThreadPool::globalInstance()->start(
        [path = QString::fromStdString(device_.path), card = QPointer<SourceCard>(this)] {
            auto source = openReadOnly(path);
            auto outcome = source ? std::make_shared<Result<Inspection>>(inspectSource(source.value()))
                                  : std::make_shared<Result<Inspection>>(source.error());
            QMetaObject::invokeMethod(qApp, [card, outcome] {
                if (card) card->onLooked(outcome);
            });
        });
}

void SourceCard::onLooked(const std::shared_ptr<Result<Inspection>>& outcome) {
    looking_ = false;
    if (!*outcome) {
        sentence_->setText(Text::ofCore(outcome->error()));
        return;
    }
    const auto& seen = outcome->value().look;
    static_cast<VolumeStrip*>(strip_)->show(outcome->value().facts.size, seen.survey);
    sentence_->setText(Text::ofCore(seen.sentence));
    QStringList lines;
    for (const auto& part : device_.parts) lines << partText(part, device_.mounts);
    for (const auto& fact : seen.facts) lines << QString::fromStdString(fact);
    facts_->setText(lines.join(QLatin1Char('\n')));
    if (!device_.writable() && seen.state == CardState::Blank) setNext(nullptr);
}

void SourceCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kSheet);
    painter.fillRect(0, 0, 4, height(), device_.removable ? look::kDecided.darker(115) : look::kPaperLine);
}

}  // namespace dreskel
