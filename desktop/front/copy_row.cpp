#include "desktop/front/copy_row.h"

#include <QApplication>
#include <QBoxLayout>
#include <QDate>
#include <QDir>
#include <QFileDialog>
#include <QLabel>
#include <QPointer>
#include <QSettings>
#include <QThreadPool>

#include "deliver/destination.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

const QString kCopyFolder = QStringLiteral("copy/folder");
constexpr double kMegabyte = 1e6;
constexpr int kMostTries = 1000;
constexpr int kMostMinutes = 7 * 24 * 60;

QString defaultImage(const Device& device) {
    const auto folder = QSettings().value(kCopyFolder, QDir::homePath()).toString();
    auto name = QString::fromStdString(device.title());
    if (name.isEmpty()) name = Text::tr("card");
    name.replace(QLatin1Char('/'), QLatin1Char('-'));
    const auto base =
        folder + QLatin1Char('/') + name + QLatin1Char(' ') + QDate::currentDate().toString(Qt::ISODate);
    auto path = base + QStringLiteral(".img");
    for (int number = 2; QFileInfo::exists(path); ++number)
        path = QStringLiteral("%1 (%2).img").arg(base).arg(number);
    return path;
}

}  // namespace

CopyRow::CopyRow(const Device& device, QWidget* parent) : QWidget(parent), device_(device) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(6);
    auto* line = new QHBoxLayout;
    line->addWidget(look::label(Text::tr("Copy to"), 13, look::kInk));
    image_ = new QLineEdit;
    image_->setAccessibleName(Text::tr("The file that takes the copy"));
    auto* choose = new QPushButton(Text::tr("Choose"));
    connect(choose, &QPushButton::clicked, this, [this] {
        auto* dialog = new QFileDialog(this, Text::tr("Where the copy goes"), image_->text());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setAcceptMode(QFileDialog::AcceptSave);
        dialog->setOption(QFileDialog::DontConfirmOverwrite);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, image_, &QLineEdit::setText);
        dialog->show();
    });
    start_ = new QPushButton(Text::tr("Start"));
    start_->setObjectName(QStringLiteral("next"));
    start_->setEnabled(false);
    connect(start_, &QPushButton::clicked, this, [this] {
        QSettings().setValue(kCopyFolder, QFileInfo(image_->text()).absolutePath());
        Q_EMIT startAsked();
    });
    line->addWidget(image_, 1);
    line->addWidget(choose);
    line->addWidget(start_);
    column->addLayout(line);
    column->addWidget(buildOptions());
    room_ = look::label({}, 12, look::kFaded);
    room_->setWordWrap(true);
    column->addWidget(room_);
    connect(image_, &QLineEdit::textChanged, this, &CopyRow::checkRoom);
    for (auto* end : {from_, to_}) connect(end, &QDoubleSpinBox::valueChanged, this, &CopyRow::checkRoom);
}

QWidget* CopyRow::buildOptions() {
    auto* options = new QWidget;
    auto* line = new QHBoxLayout(options);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(6);
    tries_ = new QSpinBox;
    tries_->setRange(0, kMostTries);
    tries_->setValue(CopyOptions{}.laterTries);
    tries_->setToolTip(Text::tr("How often each sector that failed is tried again when all else is read"));
    minutes_ = new QSpinBox;
    minutes_->setRange(0, kMostMinutes);
    minutes_->setSpecialValueText(Text::tr("no limit"));
    minutes_->setSuffix(Text::tr(" min"));
    minutes_->setToolTip(Text::tr("The most time spent on bad places, after the first sweep"));
    const auto size = static_cast<double>(device_.size) / kMegabyte;
    from_ = new QDoubleSpinBox;
    to_ = new QDoubleSpinBox;
    for (auto* end : {from_, to_}) {
        end->setDecimals(0);
        end->setRange(0, std::ceil(size));
        end->setSuffix(Text::tr(" MB"));
        end->setToolTip(Text::tr("The part of the card that is copied"));
    }
    to_->setValue(to_->maximum());
    const auto add = [&](const QString& words, QWidget* field) {
        line->addWidget(look::label(words, 12, look::kFaded));
        line->addWidget(field);
        line->addSpacing(8);
    };
    add(Text::tr("Later tries"), tries_);
    add(Text::tr("Time on bad places"), minutes_);
    add(Text::tr("From"), from_);
    add(Text::tr("to"), to_);
    line->addStretch();
    return options;
}

void CopyRow::offerName() {
    if (image_->text().isEmpty()) image_->setText(defaultImage(device_));
}

ByteRange CopyRow::span() const {
    const auto from = static_cast<std::uint64_t>(from_->value() * kMegabyte);
    const auto to = std::min(device_.size, static_cast<std::uint64_t>(to_->value() * kMegabyte));
    return {from, to > from ? to - from : 0};
}

CopyRequest CopyRow::request() const {
    CopyRequest request{image_->text().toStdString(), {}, device_.serial, {}};
    request.options.laterTries = tries_->value();
    request.options.minutesOver = minutes_->value();
    request.options.span = span();
    return request;
}

void CopyRow::checkRoom() {
    const auto image = image_->text();
    start_->setEnabled(false);
    if (from_->value() >= to_->value()) {
        room_->setText(Text::tr("The part to be copied ends before it begins"));
        return;
    }
    const auto needed = span().length;
    // A network folder that does not answer must not hold the window.
    QThreadPool::globalInstance()->start([image, row = QPointer<CopyRow>(this), needed, span = span()] {
        const QFileInfo facts(image);
        const auto room = roomAt(facts.absolutePath().toStdString());
        QString text;
        bool good = false;
        if (!facts.absoluteDir().exists() || !room) {
            text = Text::tr("There is no such folder");
        } else if (facts.exists() && !QFileInfo::exists(image + QStringLiteral(".map"))) {
            text = Text::tr("There is a file of this name already; choose another");
        } else {
            good = room.value().freeBytes >= needed || facts.exists();
            text = Text::tr("%1 needed, %2 free there%3")
                       .arg(look::sizeText(needed), look::sizeText(room.value().freeBytes),
                            good ? QString() : Text::tr(": not enough room"));
            if (facts.exists())
                text = Text::tr("The copy that was begun there goes on, if it is of this card");
        }
        QMetaObject::invokeMethod(qApp, [row, image, text, good, span] {
            if (!row || row->image_->text() != image || row->span() != span) return;
            row->room_->setText(text);
            row->start_->setEnabled(good);
        });
    });
}

}  // namespace dreskel
