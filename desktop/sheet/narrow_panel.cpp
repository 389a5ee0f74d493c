#include "desktop/sheet/narrow_panel.h"

#include <QHeaderView>
#include <QKeyEvent>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kKeyRole = Qt::UserRole;
constexpr int kFacetRole = Qt::UserRole + 1;
constexpr int kCommandRole = Qt::UserRole + 2;

}  // namespace

NarrowPanel::NarrowPanel(QWidget* parent) : QTreeWidget(parent) {
    setAccessibleName(Text::tr("Narrow what is shown"));
    setMinimumWidth(210);
    setMaximumWidth(340);
    setColumnCount(2);
    setHeaderHidden(true);
    setFrameShape(QFrame::NoFrame);
    setIndentation(14);
    setRootIsDecorated(true);
    setStyleSheet(QStringLiteral("QTreeWidget { background: %1; padding: 4px 0 4px 10px; outline: 0; }"
                                 "QTreeWidget::item { padding: 3px 4px; }"
                                 "QTreeWidget::item:hover { background: %2; }"
                                 "QTreeWidget::item:selected { background: %2; color: %3; }"
                                 "QTreeWidget::indicator { width: 11px; height: 11px; border: 1px solid %4; "
                                 "border-radius: 2px; }"
                                 "QTreeWidget::indicator:checked { background: %5; border-color: %5; }")
                      .arg(look::kGround.name(), look::kTrough.name(), look::kText.name(), look::kDim.name(),
                           look::kDecided.name()));
    setUniformRowHeights(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    header()->setStretchLastSection(false);
    header()->setSectionResizeMode(0, QHeaderView::Stretch);
    header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    for (const auto facet : kAllFacets) {
        auto* side = new QTreeWidgetItem(this, {titleOf(facet)});
        side->setFont(0, look::textFont(12, true));
        side->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        side->setExpanded(facet == Facet::Condition || facet == Facet::Decision || facet == Facet::Camera ||
                          facet == Facet::Day || facet == Facet::Format);
        sides_[static_cast<std::size_t>(facet)] = side;
    }
    look_ = new QTreeWidgetItem({Text::tr("look for faces")});
    look_->setData(0, kCommandRole, true);
    look_->setForeground(0, look::kDecided);
    look_->setToolTip(0, Text::tr("In the small pictures; a guess, to find photos of people sooner"));
    sides_[static_cast<std::size_t>(Facet::People)]->addChild(look_);
    connect(this, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem* item) { toggle(item); });
}

// Not by activation: what activates an item differs from desktop to desktop, and may be a click as well.
void NarrowPanel::keyPressEvent(QKeyEvent* event) {
    const bool chooses =
        event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space;
    if (!chooses || currentItem() == nullptr) return QTreeWidget::keyPressEvent(event);
    toggle(currentItem());
}

void NarrowPanel::toggle(QTreeWidgetItem* item) {
    if (item->parent() == nullptr) {
        item->setExpanded(!item->isExpanded());
        return;
    }
    if (item->data(0, kCommandRole).toBool()) return Q_EMIT peopleAsked();
    Q_EMIT toggled(static_cast<Facet>(item->data(0, kFacetRole).toInt()), item->data(0, kKeyRole).toString());
}

void NarrowPanel::setLooking(bool looking, const QString& state) {
    look_->setText(0, looking ? Text::tr("%1; stop").arg(state) : Text::tr("look for faces"));
    looking_ = looking;
}

void NarrowPanel::show(const Arrangement& arrangement, const Chosen& chosen) {
    for (const auto facet : kAllFacets) {
        const auto at = static_cast<std::size_t>(facet);
        auto* side = sides_[at];
        const auto& counts = arrangement.counts[at];
        // Where all files are alike there is nothing to narrow; but there may be something to look for.
        const bool people = facet == Facet::People;
        const bool open =
            people && (looking_ || std::any_of(counts.begin(), counts.end(), [](const auto& count) {
                           return count.value.key == kNotLookedFor && count.files > 0;
                       }));
        if (people) look_->setHidden(!open);
        const bool alike = counts.size() == 1 && counts[0].files == arrangement.files && chosen[at].isEmpty();
        side->setHidden(counts.empty() || (alike && !open));
        for (std::size_t i = 0; i < counts.size(); ++i) {
            const auto row = static_cast<int>(i);
            auto* item = side->child(row);
            if (item == nullptr || item == look_) {
                item = new QTreeWidgetItem;
                side->insertChild(row, item);
                item->setData(0, kFacetRole, static_cast<int>(facet));
                item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
                item->setForeground(1, look::kDim);
            }
            const auto& value = counts[i].value;
            item->setData(0, kKeyRole, value.key);
            item->setText(0, value.label);
            item->setToolTip(0, value.label);
            item->setText(1, look::numberText(counts[i].files));
            item->setCheckState(0, chosen[at].contains(value.key) ? Qt::Checked : Qt::Unchecked);
        }
        const auto rows = static_cast<int>(counts.size());
        while (side->childCount() > rows + (people ? 1 : 0)) delete side->takeChild(rows);
    }
}

}  // namespace dreskel
