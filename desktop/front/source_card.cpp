#include "desktop/front/source_card.h"

#include <QApplication>
#include <QBoxLayout>
#include <QDir>
#include <QFileDialog>
#include <QPainter>
#include <QPointer>
#include <QSettings>
#include <QStyle>
#include <QThreadPool>

#include "deliver/destination.h"
#include "desktop/devices/udisks.h"
#include "desktop/front/volume_strip.h"
#include "desktop/look/look.h"

namespace dreskel {
namespace {

const QString kCopyFolder = QStringLiteral("copy/folder");

QString defaultImage(const Device& device) {
    const auto folder = QSettings().value(kCopyFolder, QDir::homePath()).toString();
    auto name = QString::fromStdString(device.title());
    if (name.isEmpty()) name = QStringLiteral("card");
    name.replace(QLatin1Char('/'), QLatin1Char('-'));
    const auto base =
        folder + QLatin1Char('/') + name + QLatin1Char(' ') + QDate::currentDate().toString(Qt::ISODate);
    auto path = base + QStringLiteral(".img");
    for (int number = 2; QFileInfo::exists(path); ++number)
        path = QStringLiteral("%1 (%2).img").arg(base).arg(number);
    return path;
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
    why_ = new QPushButton(QStringLiteral("What this rests on"));
    if (device_.filesOnly) {
        strip_->hide();
        why_->hide();
        mounted_->hide();
        sentence_->setText(QStringLiteral(
            "Offers its files only, over MTP or PTP: the sectors of its card cannot be read that "
            "way. Take the card out of it and put it into a reader."));
        return;
    }
    column->addWidget(buildActions());
    copyRow_ = buildCopyRow();
    copyRow_->hide();
    column->addWidget(copyRow_);
    tellMounts();
    look();
}

QWidget* SourceCard::buildHead() {
    auto* head = new QWidget;
    auto* line = new QHBoxLayout(head);
    line->setContentsMargins(0, 0, 0, 0);
    auto* title = look::label({}, 15, look::kInk, true);
    const auto name = QString::fromStdString(device_.title());
    title->setText(name.isEmpty() ? QStringLiteral("Unnamed") : name);
    QStringList facts{QString::fromStdString(device_.path)};
    if (device_.size > 0) facts << look::sizeText(device_.size);
    if (!device_.bus.empty()) facts << QString::fromStdString(device_.bus);
    if (!device_.serial.empty())
        facts << QStringLiteral("serial number %1").arg(QString::fromStdString(device_.serial));
    if (device_.sectorSize != 512) facts << QStringLiteral("sectors of %1 bytes").arg(device_.sectorSize);
    if (device_.readOnly) facts << QStringLiteral("locked against writing");
    auto* about = look::label({}, 12, look::kFaded);
    about->setText(facts.join(QStringLiteral(", ")));
    line->addWidget(title);
    line->addWidget(about);
    line->addStretch();
    return head;
}

QWidget* SourceCard::buildActions() {
    auto* actions = new QWidget;
    auto* line = new QHBoxLayout(actions);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    open_ = new QPushButton(QStringLiteral("Search this card"));
    open_->setToolTip(
        QStringLiteral("Reads the card itself; better a copy when it is the only one or may fail"));
    connect(open_, &QPushButton::clicked, this,
            [this] { Q_EMIT openAsked(QString::fromStdString(device_.path)); });
    copy_ = new QPushButton(QStringLiteral("Copy and search"));
    copy_->setToolTip(QStringLiteral("Copies every sector to an image and searches it from the same read"));
    copy_->setCheckable(true);
    connect(copy_, &QPushButton::toggled, this, [this](bool on) {
        copyRow_->setVisible(on);
        if (!device_.writable()) setNext(on ? nullptr : copy_);
        if (on && image_->text().isEmpty()) image_->setText(defaultImage(device_));
    });
    unmount_ = new QPushButton(QStringLiteral("Unmount it"));
    connect(unmount_, &QPushButton::clicked, this, &SourceCard::unmountAsked);
    letGo_ = new QPushButton(QStringLiteral("Let go of it"));
    letGo_->setToolTip(QStringLiteral(
        "Unmounts it and ejects it, or switches its reader off, so that it can be pulled out"));
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

QWidget* SourceCard::buildCopyRow() {
    auto* row = new QWidget;
    auto* column = new QVBoxLayout(row);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(6);
    auto* line = new QHBoxLayout;
    line->addWidget(look::label(QStringLiteral("Copy to"), 13, look::kInk));
    image_ = new QLineEdit;
    image_->setAccessibleName(QStringLiteral("The file that takes the copy"));
    connect(image_, &QLineEdit::textChanged, this, &SourceCard::checkRoom);
    auto* choose = new QPushButton(QStringLiteral("Choose"));
    connect(choose, &QPushButton::clicked, this, [this] {
        auto* dialog = new QFileDialog(this, QStringLiteral("Where the copy goes"), image_->text());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setAcceptMode(QFileDialog::AcceptSave);
        dialog->setOption(QFileDialog::DontConfirmOverwrite);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, image_, &QLineEdit::setText);
        dialog->show();
    });
    start_ = new QPushButton(QStringLiteral("Start"));
    start_->setObjectName(QStringLiteral("next"));
    connect(start_, &QPushButton::clicked, this, [this] {
        QSettings().setValue(kCopyFolder, QFileInfo(image_->text()).absolutePath());
        Q_EMIT copyAsked(QString::fromStdString(device_.path), image_->text());
    });
    line->addWidget(image_, 1);
    line->addWidget(choose);
    line->addWidget(start_);
    column->addLayout(line);
    room_ = look::label({}, 12, look::kFaded);
    room_->setWordWrap(true);
    column->addWidget(room_);
    return row;
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
    const auto where = folders.join(QStringLiteral(" and "));
    if (!device_.writable()) {
        mounted_->setText(QStringLiteral("Mounted at %1, for reading only.").arg(where));
        return;
    }
    mounted_->setText(
        QStringLiteral("Mounted at %1 and writable: other programs may change it at any moment. "
                       "Unmount it before any work.")
            .arg(where) +
        (service_ ? QString() : QStringLiteral(" UDisks2 does not answer, so that has to be done by hand.")));
    if (service_) setNext(unmount_);
}

void SourceCard::say(const QString& text) {
    message_->setText(text);
    message_->setVisible(!text.isEmpty());
}

void SourceCard::look() {
    looking_ = true;
    sentence_->setText(QStringLiteral("Looking at it; the first answer takes up to five seconds ..."));
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
        sentence_->setText(QString::fromStdString(outcome->error().sentence()));
        return;
    }
    const auto& seen = outcome->value().look;
    static_cast<VolumeStrip*>(strip_)->show(outcome->value().facts.size, seen.survey);
    sentence_->setText(QString::fromStdString(seen.sentence));
    QStringList lines;
    for (const auto& fact : seen.facts) lines << QString::fromStdString(fact);
    facts_->setText(lines.join(QLatin1Char('\n')));
    if (!device_.writable() && seen.state == CardState::Blank) setNext(nullptr);
}

void SourceCard::checkRoom() {
    const auto image = image_->text();
    start_->setEnabled(false);
    // A network folder that does not answer must not hold the window.
    QThreadPool::globalInstance()->start([image, card = QPointer<SourceCard>(this), size = device_.size] {
        const QFileInfo facts(image);
        const auto room = roomAt(facts.absolutePath().toStdString());
        QString text;
        bool good = false;
        if (!facts.absoluteDir().exists() || !room) {
            text = QStringLiteral("There is no such folder");
        } else if (facts.exists() && !QFileInfo::exists(image + QStringLiteral(".map"))) {
            text = QStringLiteral("There is a file of this name already; choose another");
        } else {
            good = room.value().freeBytes >= size || facts.exists();
            text = QStringLiteral("%1 needed, %2 free there%3")
                       .arg(look::sizeText(size), look::sizeText(room.value().freeBytes),
                            good ? QString() : QStringLiteral(": not enough room"));
            if (facts.exists())
                text = QStringLiteral("The copy that was begun there goes on, if it is of this card");
        }
        QMetaObject::invokeMethod(qApp, [card, image, text, good] {
            if (!card || card->image_->text() != image) return;
            card->room_->setText(text);
            card->start_->setEnabled(good);
        });
    });
}

void SourceCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kSheet);
    painter.fillRect(0, 0, 4, height(), device_.removable ? look::kDecided.darker(115) : look::kPaperLine);
}

}  // namespace dreskel
