#include "desktop/loupe/facts_view.h"

#include <algorithm>
#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QPainter>
#include <QStringList>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kPixels = 12;
constexpr int kBetween = 18;  // the columns
constexpr int kBelow = 4;     // a row
constexpr int kWrapped = Qt::AlignLeft | Qt::AlignTop | Qt::TextWrapAnywhere | Qt::TextWordWrap;

}  // namespace

FactsView::FactsView(QWidget* parent) : QWidget(parent) {
    setFont(look::textFont(kPixels));
    auto policy = QSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
    auto* copy = new QAction(Text::tr("Copy the facts"), this);
    connect(copy, &QAction::triggered, this, [this] { QApplication::clipboard()->setText(text()); });
    addAction(copy);
    setContextMenuPolicy(Qt::ActionsContextMenu);
}

void FactsView::setRows(Rows rows) {
    if (rows == rows_) return;
    rows_ = std::move(rows);
    setAccessibleName(text());
    updateGeometry();
    update();
}

QString FactsView::text() const {
    QStringList lines;
    for (const auto& [name, value] : rows_) lines << name + QLatin1Char('\t') + value;
    return lines.join(QLatin1Char('\n'));
}

int FactsView::nameWidth() const {
    int width = 0;
    for (const auto& row : rows_) width = std::max(width, fontMetrics().horizontalAdvance(row.first));
    return width + kBetween;
}

int FactsView::rowHeight(const QString& value, int width) const {
    const auto box = fontMetrics().boundingRect(QRect(0, 0, std::max(width, 40), 10000), kWrapped, value);
    return std::max(box.height(), fontMetrics().height()) + kBelow;
}

int FactsView::heightForWidth(int width) const {
    const auto names = nameWidth();
    int height = 0;
    for (const auto& row : rows_) height += rowHeight(row.second, width - names);
    return height;
}

void FactsView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setFont(font());
    const auto names = nameWidth();
    int top = 0;
    for (const auto& [name, value] : rows_) {
        const int height = rowHeight(value, width() - names);
        painter.setPen(look::kDim);
        painter.drawText(QRect(0, top, names, height), Qt::AlignLeft | Qt::AlignTop, name);
        painter.setPen(look::kText);
        painter.drawText(QRect(names, top, width() - names, height), kWrapped, value);
        top += height;
    }
}

}  // namespace dreskel
