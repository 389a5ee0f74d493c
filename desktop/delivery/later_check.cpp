#include "desktop/delivery/later_check.h"

#include <QApplication>
#include <QBoxLayout>
#include <QFileDialog>
#include <QPointer>
#include <QSettings>
#include <QThreadPool>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {

LaterCheck::LaterCheck(QWidget* parent) : QDialog(parent) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(Text::tr("Compare an earlier delivery"));
    setStyleSheet(look::benchStyle());
    resize(640, 360);
    auto* what =
        look::label(Text::tr("Every file that the manifest in a folder names is read again and compared "
                             "with what was saved."),
                    12, look::kDim);
    what->setWordWrap(true);
    folder_ = new QLineEdit(QSettings().value(QStringLiteral("save/folder")).toString());
    folder_->setAccessibleName(Text::tr("The folder of the delivery"));
    folder_->setPlaceholderText(Text::tr("The folder that files were saved to"));
    auto* choose = new QPushButton(Text::tr("Choose"));
    start_ = new QPushButton(Text::tr("Compare"));
    start_->setDefault(true);
    bar_ = new QProgressBar;
    bar_->setTextVisible(false);
    bar_->setFixedHeight(6);
    sentence_ = look::label({}, 13, look::kText, true);
    sentence_->setWordWrap(true);
    list_ = new QPlainTextEdit;
    list_->setReadOnly(true);
    list_->setAccessibleName(Text::tr("Files that are missing or changed"));
    list_->hide();

    auto* line = new QHBoxLayout;
    line->addWidget(folder_, 1);
    line->addWidget(choose);
    line->addWidget(start_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 16, 20, 16);
    column->setSpacing(10);
    column->addWidget(what);
    column->addLayout(line);
    column->addWidget(bar_);
    column->addWidget(sentence_);
    column->addWidget(list_, 1);
    column->addStretch();

    connect(choose, &QPushButton::clicked, this, [this] {
        auto* dialog = new QFileDialog(this, Text::tr("The folder of a delivery"), folder_->text());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setFileMode(QFileDialog::Directory);
        dialog->setOption(QFileDialog::ShowDirsOnly);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, folder_, &QLineEdit::setText);
        dialog->show();
    });
    connect(start_, &QPushButton::clicked, this, &LaterCheck::start);
}

LaterCheck::~LaterCheck() {
    if (control_) control_->stop();
}

void LaterCheck::start() {
    if (control_) return control_->stop();
    control_ = std::make_shared<Control>();
    start_->setText(Text::tr("Stop"));
    list_->clear();
    list_->hide();
    sentence_->setText(Text::tr("Reading ..."));
    QThreadPool::globalInstance()->start([folder = folder_->text().trimmed().toStdString(),
                                          control = control_, panel = QPointer<LaterCheck>(this)] {
        const auto outcome = std::make_shared<Result<DeliveryCheck>>(
            checkDelivery(folder, *control, [&panel](std::size_t done, std::size_t files) {
                QMetaObject::invokeMethod(qApp, [panel, done, files] {
                    if (!panel) return;
                    panel->bar_->setRange(0, static_cast<int>(files));
                    panel->bar_->setValue(static_cast<int>(done));
                });
            }));
        QMetaObject::invokeMethod(qApp, [outcome, panel] {
            if (panel) panel->tell(*outcome);
        });
    });
}

void LaterCheck::tell(const Result<DeliveryCheck>& outcome) {
    control_.reset();
    start_->setText(Text::tr("Compare"));
    if (!outcome) {
        sentence_->setText(Text::ofCore(outcome.error()));
        return;
    }
    const auto& check = outcome.value();
    sentence_->setText(
        check.wrong.empty()
            ? Text::tr("All %1 files are as they were saved.").arg(look::numberText(check.files))
            : Text::tr("%1 of %2 files are as they were saved; these are not:")
                  .arg(look::numberText(check.same), look::numberText(check.files)));
    for (const auto& wrong : check.wrong)
        list_->appendPlainText(
            QStringLiteral("%1: %2").arg(QString::fromStdString(wrong.path), Text::ofCore(wrong.why)));
    list_->setVisible(!check.wrong.empty());
}

}  // namespace dreskel
