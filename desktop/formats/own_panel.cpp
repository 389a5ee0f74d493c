#include "desktop/formats/own_panel.h"

#include <QApplication>
#include <QBoxLayout>
#include <QFileDialog>
#include <QPointer>
#include <QSplitter>
#include <QThreadPool>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr const char* kExample = R"({
  "schema": 1,
  "formats": [
    {"name": "wheel", "kind": "photo", "extension": "whl",
     "begins": [{"at": 0, "bytes": "57 48 45 45 ?? 01"}],
     "ends": "4c 45 45 48 57",
     "most_bytes": 40000000}
  ]
}
)";

}  // namespace

OwnPanel::OwnPanel(std::shared_ptr<Source> source, QWidget* parent)
    : QDialog(parent), source_(std::move(source)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(Text::tr("Formats of your own"));
    resize(1080, 640);
    setStyleSheet(look::benchStyle());
    auto* halves = new QSplitter;
    halves->setChildrenCollapsible(false);
    halves->addWidget(buildKept());
    halves->addWidget(buildText());
    halves->setSizes({300, 760});
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 14);
    column->setSpacing(10);
    auto* about = look::label(
        Text::tr(
            "For files that a camera writes and Dreskel does not know. They are found by their first bytes, "
            "and end "
            "at their last ones, at the next file, or at their largest size. Nothing of them is decoded."),
        13, look::kText);
    about->setWordWrap(true);
    column->addWidget(about);
    column->addWidget(halves, 1);
    connect(text_, &QPlainTextEdit::textChanged, this, &OwnPanel::judge);
    refreshList({});
    if (kept_.empty()) text_->setPlainText(QString::fromLatin1(kExample));
}

OwnPanel::~OwnPanel() {
    if (control_) control_->stop();
}

QWidget* OwnPanel::buildKept() {
    auto* side = new QWidget;
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(look::label(Text::tr("Kept"), 13, look::kText, true));
    list_ = new QListWidget;
    list_->setAccessibleName(Text::tr("Formats of your own that are kept"));
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        drop_->setEnabled(row >= 0);
        if (row >= 0)
            text_->setPlainText(QString::fromStdString(own::textOf({kept_[static_cast<std::size_t>(row)]})));
    });
    drop_ = new QPushButton(Text::tr("Take it out"));
    drop_->setEnabled(false);
    connect(drop_, &QPushButton::clicked, this, [this] {
        const auto row = list_->currentRow();
        if (row < 0) return;
        const auto dropped = dropOwnFormat(kept_[static_cast<std::size_t>(row)].name);
        refreshList({});
        if (!dropped) verdict_->setText(Text::ofCore(dropped.error()));
    });
    column->addWidget(list_, 1);
    column->addWidget(drop_);
    return side;
}

QWidget* OwnPanel::buildText() {
    auto* side = new QWidget;
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(12, 0, 0, 0);
    column->addWidget(look::label(
        Text::tr("Learn one from two or more files of the same camera, or write it"), 13, look::kText, true));
    auto* line = new QHBoxLayout;
    name_ = new QLineEdit;
    name_->setPlaceholderText(Text::tr("a short name for it, before samples are chosen"));
    name_->setAccessibleName(Text::tr("Short name of the format"));
    kind_ = new QComboBox;
    kind_->setAccessibleName(Text::tr("Kind of the format"));
    for (const auto kind : {Kind::Photo, Kind::Video, Kind::Audio, Kind::Sidecar, Kind::Other}) {
        const auto word = toWord(kind);
        kind_->addItem(QString::fromLatin1(word.data(), static_cast<qsizetype>(word.size())),
                       static_cast<int>(kind));
    }
    learn_ = new QPushButton(Text::tr("Choose sample files"));
    learn_->setEnabled(false);
    connect(name_, &QLineEdit::textChanged, this,
            [this](const QString& name) { learn_->setEnabled(!name.isEmpty()); });
    connect(learn_, &QPushButton::clicked, this, [this] {
        auto* dialog = new QFileDialog(this, Text::tr("Two or more files of one camera"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setFileMode(QFileDialog::ExistingFiles);
        connect(dialog, &QFileDialog::filesSelected, this, &OwnPanel::learn);
        dialog->show();
    });
    line->addWidget(name_, 1);
    line->addWidget(kind_);
    line->addWidget(learn_);
    column->addLayout(line);
    text_ = new QPlainTextEdit;
    text_->setFont(look::fixedFont(12));
    text_->setAccessibleName(Text::tr("Definition as JSON"));
    column->addWidget(text_, 1);
    verdict_ = look::label({}, 13, look::kText);
    verdict_->setWordWrap(true);
    verdict_->setMinimumHeight(40);
    column->addWidget(verdict_);
    auto* below = new QHBoxLayout;
    try_ = new QPushButton(Text::tr("Try it on this card"));
    try_->setVisible(source_ != nullptr);
    connect(try_, &QPushButton::clicked, this, &OwnPanel::tryIt);
    keep_ = new QPushButton(Text::tr("Keep it"));
    keep_->setObjectName(QStringLiteral("next"));
    connect(keep_, &QPushButton::clicked, this, &OwnPanel::keep);
    below->addStretch();
    below->addWidget(try_);
    below->addWidget(keep_);
    column->addLayout(below);
    return side;
}

void OwnPanel::refreshList(const std::string& current) {
    const auto read = own::readDefinitions(own::usualPath());
    list_->clear();
    kept_ = read ? read.value() : std::vector<own::Definition>{};
    for (const auto& definition : kept_) {
        const auto kind = toWord(definition.kind);
        list_->addItem(QString::fromStdString(definition.name) + QStringLiteral(", ") +
                       QString::fromLatin1(kind.data(), static_cast<qsizetype>(kind.size())));
        if (definition.name == current) list_->setCurrentRow(list_->count() - 1);
    }
    judge();
    if (!read) verdict_->setText(Text::ofCore(read.error()));
}

void OwnPanel::judge() {
    const auto read = own::definitionsFrom(text_->toPlainText().toStdString(), {});
    typed_ = read ? read.value() : std::vector<own::Definition>{};
    const bool usable = !typed_.empty();
    try_->setEnabled(usable && !control_);
    keep_->setEnabled(usable);
    if (text_->toPlainText().trimmed().isEmpty()) {
        verdict_->clear();
    } else if (!read) {
        verdict_->setText(Text::ofCore(read.error().what) + QLatin1Char('.'));
    } else {
        verdict_->setText(
            usable ? Text::tr("It can be used. What is kept is looked for in every search that begins after.")
                   : Text::tr("It defines no format."));
    }
}

void OwnPanel::learn(const QStringList& samples) {
    std::vector<std::string> paths;
    for (const auto& sample : samples) paths.push_back(sample.toStdString());
    const auto learnt =
        learnFrom(paths, name_->text().toStdString(), static_cast<Kind>(kind_->currentData().toInt()));
    if (!learnt) {
        verdict_->setText(Text::ofCore(learnt.error()));
        return;
    }
    text_->setPlainText(QString::fromStdString(own::textOf({learnt.value()})));
    if (source_ != nullptr) tryIt();
}

void OwnPanel::tryIt() {
    if (typed_.empty() || control_) return;
    control_ = std::make_shared<Control>();
    try_->setEnabled(false);
    verdict_->setText(Text::tr("Looking for it on the card ..."));
    QThreadPool::globalInstance()->start([source = source_, definition = typed_.front(), control = control_,
                                          panel = QPointer<OwnPanel>(this)] {
        const auto words = wordsOf(tryOn(*source, definition, *control));
        QMetaObject::invokeMethod(qApp, [words, panel] {
            if (!panel) return;
            panel->control_.reset();
            panel->judge();
            panel->verdict_->setText(QString::fromStdString(words));
        });
    });
}

void OwnPanel::keep() {
    std::string last;
    for (const auto& definition : typed_) {
        if (const auto kept = keepOwnFormat(definition); !kept) {
            verdict_->setText(Text::ofCore(kept.error()));
            return;
        }
        last = definition.name;
    }
    refreshList(last);
    verdict_->setText(Text::tr("Kept. Every search that begins from now on looks for it."));
}

}  // namespace dreskel
