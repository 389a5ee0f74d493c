#include "desktop/delivery/small_panel.h"

#include <QApplication>
#include <QBoxLayout>
#include <QPointer>
#include <QThreadPool>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {

SmallPanel::SmallPanel(std::shared_ptr<Session> session, QWidget* parent)
    : QDialog(parent), session_(std::move(session)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(Text::tr("Keep this job small"));
    setStyleSheet(look::benchStyle());
    resize(560, 220);
    sentence_ = look::label(
        Text::tr(
            "What was found, decided, noted and delivered stays. The small pictures and waveforms go: the "
            "sheet is then without them, the loupe still shows every file while the card or its copy is "
            "there."),
        13, look::kText);
    sentence_->setWordWrap(true);
    const auto copy = QString::fromStdString(session_->copyMadeHere());
    copyToo_ = new QCheckBox(Text::tr("Delete the copy of the card, too: %1").arg(copy));
    copyToo_->setToolTip(Text::tr("Nothing can be searched or saved from it afterwards"));
    copyToo_->setVisible(!copy.isEmpty());
    do_ = new QPushButton(Text::tr("Make it small"));
    auto* foot = new QHBoxLayout;
    foot->addStretch();
    foot->addWidget(do_);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 16, 20, 16);
    column->setSpacing(12);
    column->addWidget(sentence_);
    column->addWidget(copyToo_);
    column->addStretch();
    column->addLayout(foot);
    connect(do_, &QPushButton::clicked, this, &SmallPanel::make);
}

void SmallPanel::make() {
    do_->setEnabled(false);
    const bool copyToo = copyToo_->isChecked();
    QThreadPool::globalInstance()->start(
        [session = session_, copyToo, panel = QPointer<SmallPanel>(this)]() mutable {
            const auto outcome = std::make_shared<Result<Smaller>>(session->makeSmall(copyToo));
            session.reset();  // the job may be opened anew at once
            QMetaObject::invokeMethod(qApp, [outcome, copyToo, panel] {
                if (!panel) return;
                panel->do_->setEnabled(true);
                if (!*outcome) {
                    panel->sentence_->setText(Text::ofCore(outcome->error()));
                    return;
                }
                const auto& smaller = outcome->value();
                auto text = Text::tr("The job takes %1 now, before %2.")
                                .arg(look::sizeText(smaller.after), look::sizeText(smaller.before));
                if (!smaller.copy.empty())
                    text += Text::tr(" The copy of %1 was deleted.").arg(look::sizeText(smaller.copyBytes));
                panel->session_.reset();
                panel->sentence_->setText(text);
                panel->copyToo_->hide();
                panel->do_->hide();
                Q_EMIT panel->made(copyToo && !smaller.copy.empty());
            });
        });
}

}  // namespace dreskel
