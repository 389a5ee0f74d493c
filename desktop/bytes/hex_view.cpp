#include "desktop/bytes/hex_view.h"

#include <algorithm>
#include <QApplication>
#include <QPainter>
#include <QPointer>
#include <QScrollBar>
#include <QThreadPool>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr std::uint64_t kRow = 16;
constexpr std::uint64_t kPage = 16384;  // bytes read at once
constexpr std::size_t kMostPages = 64;
constexpr std::uint64_t kMostRows = 1U << 30;  // what a scroll bar can count

}  // namespace

HexView::HexView(std::shared_ptr<Source> source, QWidget* parent)
    : QAbstractScrollArea(parent), source_(std::move(source)) {
    const auto font = look::fixedFont(13);
    setFont(font);
    viewport()->setFont(font);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(Text::tr("The bytes"));
    connect(verticalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
}

int HexView::lineHeight() const {
    return QFontMetrics(font()).height() + 2;
}

void HexView::show(ByteRange range) {
    range_ = range;
    fit();
    verticalScrollBar()->setValue(0);
    viewport()->update();
}

void HexView::fit() {
    const auto rows = std::min((range_.length + kRow - 1) / kRow, kMostRows);
    const auto visible = static_cast<std::uint64_t>(viewport()->height() / lineHeight());
    verticalScrollBar()->setRange(0, static_cast<int>(rows > visible ? rows - visible : 0));
    verticalScrollBar()->setPageStep(static_cast<int>(std::max<std::uint64_t>(visible, 1)));
}

void HexView::resizeEvent(QResizeEvent*) {
    fit();
}

std::uint64_t HexView::topLine() const {
    return range_.offset + static_cast<std::uint64_t>(verticalScrollBar()->value()) * kRow;
}

const HexView::Page* HexView::pageAt(std::uint64_t offset) const {
    const auto found = pages_.find(offset / kPage);
    return found == pages_.end() || found->second.waiting ? nullptr : &found->second;
}

void HexView::fetch(std::uint64_t number) {
    if (pages_.count(number) > 0) return;
    if (pages_.size() >= kMostPages) pages_.clear();
    pages_[number];
    QThreadPool::globalInstance()->start([source = source_, number, view = QPointer<HexView>(this)] {
        const auto length = std::min(kPage, source->size() - number * kPage);
        auto page = std::make_shared<Page>();
        page->bytes.resize(static_cast<std::size_t>(length));
        page->good = source->read(number * kPage, page->bytes).count;
        page->waiting = false;
        QMetaObject::invokeMethod(qApp, [view, number, page] {
            if (!view) return;
            view->pages_[number] = std::move(*page);
            view->viewport()->update();
        });
    });
}

QString HexView::lineAt(std::uint64_t offset) const {
    const auto* page = pageAt(offset);
    if (page == nullptr) return {};
    auto line = QStringLiteral("%1  ").arg(offset, 12, 16, QLatin1Char('0'));
    QString letters;
    const auto end = std::min(range_.end(), offset + kRow);
    for (auto at = offset; at < offset + kRow; ++at) {
        const auto place = static_cast<std::size_t>(at % kPage);
        if (at % 8 == 0 && at != offset) line += QLatin1Char(' ');
        if (at >= end) {
            line += QStringLiteral("   ");
        } else if (place >= page->good) {
            line += QStringLiteral("?? ");
            letters += QLatin1Char('?');
        } else {
            const auto byte = page->bytes[place];
            line += QStringLiteral("%1 ").arg(byte, 2, 16, QLatin1Char('0'));
            letters += byte >= 0x20 && byte < 0x7f ? QChar(byte) : QLatin1Char('.');
        }
    }
    return line + QLatin1Char(' ') + letters;
}

QString HexView::firstLine() const {
    return range_.length == 0 ? QString() : lineAt(topLine());
}

void HexView::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), look::kGround);
    painter.setPen(look::kText);
    const auto height = lineHeight();
    int y = QFontMetrics(font()).ascent() + 4;
    for (auto offset = topLine(); offset < range_.end() && y < viewport()->height() + height;
         offset += kRow) {
        fetch(offset / kPage);
        painter.drawText(10, y, lineAt(offset));
        y += height;
    }
}

}  // namespace dreskel
