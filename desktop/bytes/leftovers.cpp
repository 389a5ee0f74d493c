#include "desktop/bytes/leftovers.h"

#include <QApplication>
#include <QBoxLayout>
#include <QFileDialog>
#include <QHeaderView>
#include <QPointer>
#include <QSplitter>
#include <QThreadPool>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

enum Column { kPlace, kSize, kLooks };

// Sorted by number, not by letters.
class Row : public QTreeWidgetItem {
  public:
    explicit Row(const Stretch& stretch) {
        setText(kPlace, look::numberText(stretch.range.offset));
        setData(kPlace, Qt::UserRole, QVariant::fromValue<qulonglong>(stretch.range.offset));
        setText(kSize, look::sizeText(stretch.range.length));
        setData(kSize, Qt::UserRole, QVariant::fromValue<qulonglong>(stretch.range.length));
        const auto kind = toWords(stretch.kind);
        setText(kLooks,
                Text::ofCore(std::string(kind)) + (stretch.mixed ? Text::tr(", and other data") : QString()));
        setTextAlignment(kPlace, Qt::AlignRight);
        setTextAlignment(kSize, Qt::AlignRight);
    }
    bool operator<(const QTreeWidgetItem& other) const override {
        const int column = treeWidget()->sortColumn();
        if (column == kLooks) return text(column) < other.text(column);
        return data(column, Qt::UserRole).toULongLong() < other.data(column, Qt::UserRole).toULongLong();
    }
    ByteRange range() const {
        return {data(kPlace, Qt::UserRole).toULongLong(), data(kSize, Qt::UserRole).toULongLong()};
    }
};

}  // namespace

Leftovers::Leftovers(std::shared_ptr<Session> session, QWidget* parent)
    : QDialog(parent), wanted_(std::make_shared<std::atomic<bool>>(true)), session_(session) {
    setAttribute(Qt::WA_DeleteOnClose);
    setWindowTitle(Text::tr("What nothing explains"));
    resize(1180, 640);
    setStyleSheet(look::benchStyle());
    sentence_ = look::label(Text::tr("Looking at what is left ..."), 13, look::kText);
    sentence_->setWordWrap(true);
    list_ = new QTreeWidget;
    list_->setHeaderLabels({Text::tr("From byte"), Text::tr("Size"), Text::tr("Looks like")});
    list_->setRootIsDecorated(false);
    list_->setUniformRowHeights(true);
    list_->header()->resizeSection(kPlace, 130);
    list_->header()->resizeSection(kSize, 90);
    bytes_ = new HexView(session->source());
    connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        if (item != nullptr) bytes_->show(static_cast<Row*>(item)->range());
    });
    auto* halves = new QSplitter;
    halves->addWidget(list_);
    halves->addWidget(bytes_);
    halves->setSizes({470, 690});
    auto* column = new QVBoxLayout(this);
    save_ = new QPushButton(Text::tr("Save all as raw pieces"));
    save_->setToolTip(Text::tr("Each stretch as a file of its own, for another day and other programs"));
    save_->setEnabled(false);
    connect(save_, &QPushButton::clicked, this, [this] {
        if (task_) return task_->stop();
        auto* dialog = new QFileDialog(this, Text::tr("Where to save the raw pieces"));
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setFileMode(QFileDialog::Directory);
        dialog->setOption(QFileDialog::ShowDirsOnly);
        dialog->setModal(false);
        connect(dialog, &QFileDialog::fileSelected, this, &Leftovers::saveTo);
        dialog->show();
    });
    auto* top = new QHBoxLayout;
    top->addWidget(sentence_, 1);
    top->addWidget(save_);
    column->addLayout(top);
    column->addWidget(halves, 1);
    QThreadPool::globalInstance()->start([session, wanted = wanted_, panel = QPointer<Leftovers>(this)] {
        const auto stretches = std::make_shared<std::vector<Stretch>>(
            session->unexplained([&wanted] { return wanted->load(); }));
        QMetaObject::invokeMethod(qApp, [stretches, panel] {
            if (panel) panel->fill(*stretches);
        });
    });
}

Leftovers::~Leftovers() {
    *wanted_ = false;
}

void Leftovers::fill(const std::vector<Stretch>& stretches) {
    std::uint64_t all = 0;
    std::uint64_t blank = 0;
    QList<QTreeWidgetItem*> rows;
    for (const auto& stretch : stretches) {
        // What a file's last cluster has left over; nothing to look at.
        if (stretch.kind == BlockKind::Blank && !stretch.mixed) {
            blank += stretch.range.length;
            continue;
        }
        rows.append(new Row(stretch));
        all += stretch.range.length;
    }
    list_->addTopLevelItems(rows);
    list_->setSortingEnabled(true);
    list_->sortByColumn(kSize, Qt::DescendingOrder);
    auto text = rows.isEmpty() ? Text::tr("Every sector belongs to a file, to the filesystem, or is blank.")
                               : Text::tr(
                                     "%1 in %2 stretches belong to no file and are no part of a filesystem. "
                                     "What each looks like is a guess from samples of it.")
                                     .arg(look::sizeText(all), look::numberText(rows.size()));
    if (blank > 0)
        text += Text::tr(" Blank ends of clusters, %1 together, are not listed.").arg(look::sizeText(blank));
    sentence_->setText(text);
    save_->setEnabled(!rows.isEmpty() && session_->source()->isThere());
    if (!rows.isEmpty()) list_->setCurrentItem(list_->topLevelItem(0));
}

void Leftovers::saveTo(const QString& folder) {
    DeliveryRequest request;
    request.destination = folder.toStdString();
    request.layout = Layout::Flat;
    request.files = session_->rawPieces();
    save_->setText(Text::tr("Stop"));
    sentence_->setText(Text::tr("Saving %1 raw pieces ...").arg(look::numberText(request.files.size())));
    task_ = std::make_unique<DeliveryTask>(session_, std::move(request));
    connect(task_.get(), &DeliveryTask::finished, this, [this](const auto& outcome) {
        task_.reset();
        save_->setText(Text::tr("Save all as raw pieces"));
        if (!*outcome) {
            sentence_->setText(Text::ofCore(outcome->error()));
            return;
        }
        const auto& sum = outcome->value();
        sentence_->setText(
            Text::tr("Saved %1 raw pieces, %2; read back and found the same: %3; not saved: %4.")
                .arg(look::numberText(sum.saved), look::sizeText(sum.bytes), look::numberText(sum.verified),
                     look::numberText(sum.notSaved)));
    });
}

}  // namespace dreskel
