#include "desktop/sheet/asked_panel.h"

#include <algorithm>
#include <QBoxLayout>
#include <QShortcut>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kSettleMilliseconds = 800;

}  // namespace

AskedPanel::AskedPanel(Feed& feed, QWidget* parent)
    : QWidget(parent), session_(feed.sharedSession()), wishes_(session_->wishes()) {
    setMinimumWidth(210);
    setMaximumWidth(340);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 6, 8, 10);
    column->setSpacing(6);
    column->addWidget(look::label(Text::tr("What the client asked for"), 12, look::kText, true));
    field_ = new QLineEdit;
    field_->setAccessibleName(Text::tr("Something that was asked for"));
    field_->setPlaceholderText(Text::tr("Write it down, then Return"));
    connect(field_, &QLineEdit::returnPressed, this, &AskedPanel::add);
    column->addWidget(field_);
    list_ = new QListWidget;
    list_->setAccessibleName(Text::tr("What was asked for"));
    list_->setWordWrap(true);
    list_->setFrameShape(QFrame::NoFrame);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setStyleSheet(
        QStringLiteral(
            "QListWidget { background: %1; outline: 0; } QListWidget::item { padding: 4px 2px; }"
            "QListWidget::item:selected { background: %2; color: %3; }"
            "QListWidget::indicator { width: 11px; height: 11px; border: 1px solid %4; border-radius: 2px; }"
            "QListWidget::indicator:checked { background: %5; border-color: %5; }")
            .arg(look::kGround.name(), look::kTrough.name(), look::kText.name(), look::kDim.name(),
                 look::kDecided.name()));
    connect(list_, &QListWidget::itemChanged, this, &AskedPanel::take);
    auto* away = new QShortcut(QKeySequence(Qt::Key_Delete), list_);
    away->setContext(Qt::WidgetShortcut);
    connect(away, &QShortcut::activated, this, &AskedPanel::remove);
    column->addWidget(list_, 2);
    answer_ = new QPushButton(Text::tr("The selected files are it"));
    answer_->setToolTip(Text::tr("Ticks the line and remembers the files that answer it"));
    connect(answer_, &QPushButton::clicked, this, &AskedPanel::answerAsked);
    column->addWidget(answer_);
    show_ = new QPushButton(Text::tr("Show its files"));
    connect(show_, &QPushButton::clicked, this, [this] {
        const auto row = list_->currentRow();
        if (row < 0) return;
        const auto& wish = wishes_[static_cast<std::size_t>(row)];
        Q_EMIT filesAsked(wish.files, Text::tr("Asked for: %1").arg(QString::fromStdString(wish.text)));
    });
    column->addWidget(show_);
    column->addSpacing(8);
    column->addWidget(look::label(Text::tr("Notes on this job"), 12, look::kText, true));
    note_ = new QPlainTextEdit(QString::fromStdString(session_->note()));
    note_->setAccessibleName(Text::tr("Notes on this job"));
    note_->setPlaceholderText(Text::tr("What happened to the card, what was promised"));
    note_->setTabChangesFocus(true);
    note_->setStyleSheet(
        QStringLiteral(
            "QPlainTextEdit { background: %1; border: 1px solid %2; border-radius: 4px; color: %3; }")
            .arg(look::kRaised.name(), look::kLine.name(), look::kText.name()));
    noteTimer_.setSingleShot(true);
    noteTimer_.setInterval(kSettleMilliseconds);
    connect(note_, &QPlainTextEdit::textChanged, &noteTimer_, qOverload<>(&QTimer::start));
    connect(&noteTimer_, &QTimer::timeout, this, &AskedPanel::storeNote);
    column->addWidget(note_, 1);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        answer_->setEnabled(row >= 0);
        show_->setEnabled(row >= 0 && !wishes_[static_cast<std::size_t>(row)].files.empty());
    });
    fill();
}

AskedPanel::~AskedPanel() {
    if (noteTimer_.isActive()) storeNote();
}

void AskedPanel::storeNote() {
    noteTimer_.stop();
    if (const auto stored = session_->setNote(note_->toPlainText().toStdString()); !stored)
        note_->setToolTip(Text::ofCore(stored.error()));
}

void AskedPanel::store() {
    if (const auto stored = session_->setWishes(wishes_); !stored)
        list_->setToolTip(Text::ofCore(stored.error()));
    Q_EMIT changed();
}

void AskedPanel::fill() {
    filling_ = true;
    const auto row = list_->currentRow();
    list_->clear();
    for (const auto& wish : wishes_) {
        auto text = QString::fromStdString(wish.text);
        if (!wish.files.empty())
            text += Text::tr(" (%n file(s))", nullptr, static_cast<int>(wish.files.size()));
        auto* item = new QListWidgetItem(text, list_);
        item->setCheckState(wish.met ? Qt::Checked : Qt::Unchecked);
    }
    list_->setCurrentRow(std::min(row, list_->count() - 1));
    answer_->setEnabled(list_->currentRow() >= 0);
    const auto at = list_->currentRow();
    show_->setEnabled(at >= 0 && !wishes_[static_cast<std::size_t>(at)].files.empty());
    filling_ = false;
}

void AskedPanel::add() {
    const auto text = field_->text().trimmed();
    if (text.isEmpty()) return;
    wishes_.push_back({text.toStdString(), false, {}});
    field_->clear();
    fill();
    list_->setCurrentRow(list_->count() - 1);
    store();
}

void AskedPanel::remove() {
    const auto row = list_->currentRow();
    if (row < 0) return;
    wishes_.erase(wishes_.begin() + row);
    fill();
    store();
}

void AskedPanel::take(QListWidgetItem* item) {
    if (filling_) return;
    auto& wish = wishes_[static_cast<std::size_t>(list_->row(item))];
    wish.met = item->checkState() == Qt::Checked;
    store();
}

void AskedPanel::answerWith(const std::vector<std::int64_t>& ids) {
    const auto row = list_->currentRow();
    if (row < 0 || ids.empty()) return;
    auto& wish = wishes_[static_cast<std::size_t>(row)];
    for (const auto id : ids) {
        if (std::find(wish.files.begin(), wish.files.end(), id) == wish.files.end()) wish.files.push_back(id);
    }
    wish.met = true;
    fill();
    store();
}

QString AskedPanel::sentence() const {
    if (wishes_.empty()) return Text::tr("asked for");
    const auto met = std::count_if(wishes_.begin(), wishes_.end(), [](const Wish& wish) { return wish.met; });
    return Text::tr("asked for %1 of %2").arg(met).arg(wishes_.size());
}

}  // namespace dreskel
