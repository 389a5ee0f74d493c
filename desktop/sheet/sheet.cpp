#include "desktop/sheet/sheet.h"

#include <algorithm>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kMargin = 16;
constexpr int kGap = 10;
constexpr int kHeading = 34;
constexpr int kStrip = 5;
constexpr int kCaption = 22;
constexpr int kLayoutSettlesMilliseconds = 200;
// Up to so many are arranged at once: it takes less than a frame.
constexpr std::size_t kFew = 1500;

// A file and what belongs to it, or two that belong to one.
bool areTogether(const Finding& before, const Finding& finding) {
    return finding.belongsTo && (*finding.belongsTo == before.id || finding.belongsTo == before.belongsTo);
}

QString captionOf(const Finding& finding) {
    if (!finding.name.empty()) return QString::fromStdString(finding.name);
    const auto& taken = finding.description.taken;
    const auto format = QString::fromStdString(finding.format).toUpper();
    if (taken.size() >= 19)
        return QStringLiteral("%1 %2").arg(QString::fromStdString(taken.substr(11, 8)), format);
    return QStringLiteral("%1, %2").arg(format, look::sizeText(finding.size()));
}

QString conditionOf(const Finding& finding) {
    switch (finding.condition) {
        case Condition::Partial: return QStringLiteral("%1 %").arg(static_cast<int>(finding.decoded * 100));
        case Condition::Broken: return Text::tr("broken");
        case Condition::Unchecked: return Text::tr("unchecked");
        case Condition::Whole: break;
    }
    if (finding.description.duration && finding.kind != Kind::Photo)
        return look::durationText(*finding.description.duration);
    return {};
}

QString cornerOf(const Finding& finding) {
    auto text = conditionOf(finding);
    const auto& decision = finding.decision;
    if (!decision.note.empty()) text += QStringLiteral(" \u270e");
    if (decision.rating > 0) text += QStringLiteral(" %1/%2").arg(decision.rating).arg(kBestRating);
    return text.trimmed();
}

}  // namespace

Sheet::Sheet(Feed& feed, QWidget* parent)
    : QAbstractScrollArea(parent),
      feed_(feed),
      thumbnails_(feed),
      flipping_(feed),
      arranger_(
          [this](const ArrangeRequest& request) {
              return std::make_shared<const Arrangement>(arrange(index_, request));
          },
          [this](std::shared_ptr<const Arrangement> arrangement) { apply(std::move(arrangement)); }) {
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(Text::tr("Sheet of files found"));
    viewport()->setAutoFillBackground(false);
    settle_.setSingleShot(true);
    settle_.setInterval(kLayoutSettlesMilliseconds);
    connect(&settle_, &QTimer::timeout, this, &Sheet::rearrange);
    connect(&feed_, &Feed::changed, this, [this] {
        if (!settle_.isActive()) settle_.start();
        viewport()->update();
    });
    viewport()->setMouseTracking(true);
    connect(&flipping_, &Flipping::changed, viewport(), [this] { viewport()->update(); });
    connect(&thumbnails_, &Thumbnails::arrived, viewport(), [this] { viewport()->update(); });
    rearrange();
}

void Sheet::setArrangement(ArrangeBy by, OrderBy order) {
    by_ = by;
    order_ = order;
    reveal_ = true;
    rearrange();
}

void Sheet::setFilter(const Filter& filter) {
    filter_ = filter;
    reveal_ = true;
    rearrange();
}

void Sheet::setCellWidth(int pixels) {
    cellWidth_ = std::clamp(pixels, 88, 400);
    lay();
    ensureVisible(current_);
    viewport()->update();
}

void Sheet::rearrange() {
    ArrangeRequest request{feed_.filesSeen(), by_, order_, filter_};
    if (request.files->size() <= kFew) return apply(arranger_.now(request));
    arranger_.ask(std::move(request));
}

void Sheet::apply(std::shared_ptr<const Arrangement> arrangement) {
    // The file at the top of the view stays there.
    std::int64_t anchor = 0;
    int anchorTop = 0;
    const auto first = std::upper_bound(
        laid_.begin(), laid_.end(), verticalScrollBar()->value(),
        [this](int top, const Laid& laid) { return top < laid.top + laid.rows * rowHeight(); });
    if (first != laid_.end()) {
        const auto rows = std::max(0, (verticalScrollBar()->value() - first->top) / rowHeight());
        anchor = places()[first->first + static_cast<std::size_t>(rows * columns_)];
        anchorTop = cellBox(arrangement_->indexOf.value(anchor)).top();
    }
    const auto before = std::exchange(arrangement_, std::move(arrangement));
    const auto at = before->indexOf.value(current_, before->order.size());
    lay();
    selected_.removeIf([this](std::int64_t id) { return !arrangement_->indexOf.contains(id); });
    if (current_ != 0 && !arrangement_->indexOf.contains(current_)) leaveHidden(before->order, at);
    if (anchor != 0 && arrangement_->indexOf.contains(anchor) && verticalScrollBar()->value() > 0) {
        verticalScrollBar()->setValue(verticalScrollBar()->value() +
                                      cellBox(arrangement_->indexOf[anchor]).top() - anchorTop);
    }
    if (current_ == 0 && !places().empty())
        setCurrent(arrangement_->indexOf.contains(awaited_) ? awaited_ : places().front());
    if (std::exchange(reveal_, false)) ensureVisible(current_);
    viewport()->update();
    Q_EMIT arranged();
}

// What is decided by a key is decided about a file that is seen: where the current one is no longer shown,
// the next that is takes its place.
void Sheet::leaveHidden(const std::vector<std::int64_t>& before, std::size_t at) {
    const auto isShown = [this](std::int64_t id) { return arrangement_->indexOf.contains(id); };
    const auto here = before.begin() + static_cast<std::ptrdiff_t>(std::min(at, before.size()));
    auto next = std::find_if(here, before.end(), isShown);
    if (next == before.end()) next = std::find_if(before.begin(), here, isShown);
    selected_.clear();
    current_ = 0;
    if (next != before.end()) {
        setCurrent(*next);
    } else if (!places().empty()) {
        setCurrent(places().front());
    } else {
        Q_EMIT currentChanged(0);
    }
}

void Sheet::lay() {
    laid_.clear();
    std::size_t placed = 0;
    const int room = viewport()->width() - 2 * kMargin + kGap;
    columns_ = std::max(1, room / (cellWidth_ + kGap));
    int top = 8;
    for (std::size_t group = 0; group < arrangement_->groups.size(); ++group) {
        const auto& ids = arrangement_->groups[group].ids;
        top += kHeading;
        const auto rows = static_cast<int>((ids.size() + static_cast<std::size_t>(columns_) - 1) /
                                           static_cast<std::size_t>(columns_));
        laid_.push_back({group, placed, ids.size(), top, rows});
        placed += ids.size();
        top += rows * rowHeight() + 6;
    }
    total_ = top;
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(rowHeight() / 2);
    verticalScrollBar()->setRange(0, std::max(0, total_ - viewport()->height()));
}

int Sheet::rowHeight() const {
    return cellWidth_ * 2 / 3 + kStrip + kCaption + kGap;
}

// In the view's own coordinates.
QRect Sheet::cellBox(std::size_t index) const {
    const auto next = std::upper_bound(laid_.begin(), laid_.end(), index,
                                       [](std::size_t i, const Laid& laid) { return i < laid.first; });
    if (next == laid_.begin()) return {};
    const auto& laid = *std::prev(next);
    const auto in = static_cast<int>(index - laid.first);
    return {kMargin + (in % columns_) * (cellWidth_ + kGap),
            laid.top + (in / columns_) * rowHeight() - verticalScrollBar()->value(), cellWidth_,
            rowHeight() - kGap};
}

std::size_t Sheet::indexAt(const QPoint& place) const {
    for (std::size_t i = 0; i < laid_.size(); ++i) {
        const auto& laid = laid_[i];
        const int y = place.y() + verticalScrollBar()->value() - laid.top;
        if (y < 0 || y >= laid.rows * rowHeight()) continue;
        const int column = (place.x() - kMargin) / (cellWidth_ + kGap);
        if (place.x() < kMargin || column >= columns_) break;
        const auto in = static_cast<std::size_t>(y / rowHeight() * columns_ + column);
        if (in < laid.count) return laid.first + in;
    }
    return places().size();
}

void Sheet::paintCell(QPainter& painter, const QRect& box, const Finding& finding) {
    const QSize size(cellWidth_, cellWidth_ * 2 / 3);
    const QRect picture(box.topLeft(), size);
    const double ratio = devicePixelRatioF();
    if (const auto* image = thumbnails_.get(finding, size * ratio)) {
        painter.drawImage(QRectF(picture), *image);
    } else {
        painter.fillRect(picture, look::kRaised);
    }
    if (const auto* flipped = flipping_.clip() == finding.id ? flipping_.picture() : nullptr) {
        painter.fillRect(picture, look::kRaised);
        const auto fitted = flipped->size().scaled(size, Qt::KeepAspectRatio);
        painter.drawImage(QRect(picture.center() - QPoint(fitted.width() / 2, fitted.height() / 2), fitted),
                          *flipped);
    }
    const QRectF strip(box.left(), picture.bottom() + 1, cellWidth_, kStrip);
    look::paintDecoded(painter, strip, finding.decodedMap, finding.condition, look::laneColour(finding.kind));
    if (finding.decision.kept) {
        // A folded corner in yellow: set aside to be saved.
        const int fold = 18;
        const QPoint corner = picture.topRight() + QPoint(1, 0);
        painter.setPen(Qt::NoPen);
        painter.setBrush(look::kDecided);
        const QPoint triangle[3] = {corner, corner - QPoint(fold, 0), corner + QPoint(0, fold)};
        painter.drawPolygon(triangle, 3);
    }
    if (finding.decision.leftOut) {
        QColor veil = look::kGround;
        veil.setAlpha(170);
        painter.fillRect(picture, veil);
        painter.setPen(QPen(look::kDim, 2));
        painter.drawLine(picture.bottomLeft(), picture.topRight());
    }
    const QRect caption(box.left(), picture.bottom() + kStrip + 3, cellWidth_, kCaption - 4);
    const auto corner = cornerOf(finding);
    painter.setFont(look::textFont(11));
    const int cornerWidth = corner.isEmpty() ? 0 : painter.fontMetrics().horizontalAdvance(corner) + 8;
    painter.setPen(look::kText);
    painter.drawText(
        caption.adjusted(0, 0, -cornerWidth, 0), Qt::AlignLeft | Qt::AlignVCenter,
        painter.fontMetrics().elidedText(captionOf(finding), Qt::ElideRight, cellWidth_ - cornerWidth));
    painter.setPen(look::kDim);
    painter.drawText(caption, Qt::AlignRight | Qt::AlignVCenter, corner);
    if (selected_.contains(finding.id) && finding.id != current_) {
        painter.setPen(QPen(look::kDim, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(picture.adjusted(-2, -2, 2, 2 + kStrip));
    }
    if (finding.id == current_) {
        painter.setPen(QPen(hasFocus() ? look::kText : look::kDim, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(picture.adjusted(-3, -3, 3, 3 + kStrip));
    }
}

// Across the gap to the cell before.
void Sheet::paintTie(QPainter& painter, const QRect& box) const {
    constexpr int kAcross = 14, kThick = 4;
    painter.fillRect(box.left() - kAcross + 2, box.top() + cellWidth_ / 3 - kThick / 2, kAcross, kThick,
                     look::kDim);
}

void Sheet::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), look::kGround);
    const int top = verticalScrollBar()->value();
    const int bottom = top + viewport()->height();
    for (const auto& laid : laid_) {
        if (laid.top + laid.rows * rowHeight() < top) continue;
        if (laid.top - kHeading > bottom) break;
        const auto& group = arrangement_->groups[laid.group];
        painter.setFont(look::textFont(13, true));
        painter.setPen(look::kText);
        const int baseline = laid.top - top - 13;
        painter.drawText(kMargin, baseline, group.title);
        const int offset = painter.fontMetrics().horizontalAdvance(group.title) + 10;
        painter.setFont(look::textFont(12));
        painter.setPen(look::kDim);
        const int room = viewport()->width() - kMargin * 2 - offset;
        painter.drawText(kMargin + offset, baseline,
                         painter.fontMetrics().elidedText(group.detail, Qt::ElideRight, room));
        const int firstRow = std::max(0, (top - laid.top) / rowHeight());
        for (int row = firstRow; row < laid.rows && laid.top + row * rowHeight() < bottom; ++row) {
            for (int column = 0; column < columns_; ++column) {
                const auto in = static_cast<std::size_t>(row * columns_ + column);
                if (in >= laid.count) break;
                const auto* finding = feed_.find(places()[laid.first + in]);
                if (finding == nullptr) continue;
                const auto box = cellBox(laid.first + in);
                paintCell(painter, box, *finding);
                const auto* before = column == 0 ? nullptr : feed_.find(places()[laid.first + in - 1]);
                if (before != nullptr && areTogether(*before, *finding)) paintTie(painter, box);
            }
        }
    }
    if (places().empty()) {
        painter.setFont(look::textFont(14));
        painter.setPen(look::kDim);
        const auto& overview = feed_.overview();
        const bool looking = overview.activity == Activity::Scanning;
        const auto text =
            overview.listed > 0 ? Text::tr("None of the %1 files found fits what is chosen above")
                                      .arg(look::numberText(overview.listed))
            : looking ? Text::tr("Files appear here as they are found")
            : overview.progress.state == ScanState::Finished && overview.progress.namedOnly
                ? Text::tr("Folders name no photo, clip or recording. Search the rest of the card.")
            : overview.progress.state == ScanState::Finished
                ? Text::tr("No photo, clip or recording was found on this card")
                : Text::tr("Not searched yet. Start the search below.");
        painter.drawText(viewport()->rect(), Qt::AlignCenter, text);
    }
}

void Sheet::resizeEvent(QResizeEvent*) {
    lay();
    ensureVisible(current_);
}

void Sheet::ensureVisible(std::int64_t id) {
    const auto found = arrangement_->indexOf.constFind(id);
    if (found == arrangement_->indexOf.constEnd()) return;
    const auto box = cellBox(*found);
    auto* bar = verticalScrollBar();
    if (box.top() < kHeading) bar->setValue(bar->value() + box.top() - kHeading);
    if (box.bottom() > viewport()->height() - 8)
        bar->setValue(bar->value() + box.bottom() - viewport()->height() + 8);
}

void Sheet::setCurrent(std::int64_t id) {
    if (places().empty()) awaited_ = id;
    if (!arrangement_->indexOf.contains(id)) return;
    current_ = id;
    selected_.clear();
    anchor_ = arrangement_->indexOf[id];
    ensureVisible(id);
    viewport()->update();
    Q_EMIT currentChanged(id);
}

std::vector<std::int64_t> Sheet::selection() const {
    if (selected_.isEmpty()) return current_ == 0 ? std::vector<std::int64_t>{} : std::vector{current_};
    return {selected_.begin(), selected_.end()};
}

void Sheet::toggleKept() {
    const auto ids = selection();
    const bool allKept = std::all_of(ids.begin(), ids.end(), [this](std::int64_t id) {
        const auto* finding = feed_.find(id);
        return finding != nullptr && finding->decision.kept;
    });
    feed_.setKept(ids, !allKept);
}

void Sheet::toggleLeftOut() {
    const auto ids = selection();
    const bool all = std::all_of(ids.begin(), ids.end(), [this](std::int64_t id) {
        const auto* finding = feed_.find(id);
        return finding != nullptr && finding->decision.leftOut;
    });
    feed_.setLeftOut(ids, !all);
}

void Sheet::rate(int rating) {
    feed_.rate(selection(), rating);
}

void Sheet::moveTo(std::size_t index, bool extend) {
    if (places().empty()) return;
    index = std::min(index, places().size() - 1);
    const auto anchor = std::min(anchor_, places().size() - 1);
    const auto id = places()[index];
    if (!extend) {
        setCurrent(id);
        return;
    }
    current_ = id;
    selected_.clear();
    for (auto i = std::min(anchor, index); i <= std::max(anchor, index); ++i) selected_.insert(places()[i]);
    ensureVisible(id);
    viewport()->update();
    Q_EMIT currentChanged(id);
}

void Sheet::moveRows(int rows, bool extend) {
    const auto box = cellBox(arrangement_->indexOf.value(current_));
    QPoint place(box.center().x(), box.center().y() + rows * rowHeight());
    // Over a heading into the next group: look a little further.
    for (int step = 0; step<3; ++step, place.ry() += rows> 0 ? kHeading : -kHeading) {
        for (int x = place.x(); x > 0; x -= cellWidth_ + kGap) {
            const auto index = indexAt({x, place.y()});
            if (index < places().size() && places()[index] != current_) return moveTo(index, extend);
        }
    }
    moveTo(rows > 0 ? places().size() - 1 : 0, extend);
}

void Sheet::goToHeading(int by) {
    const auto index = arrangement_->indexOf.value(current_);
    const auto here = std::find_if(laid_.begin(), laid_.end(), [index](const Laid& laid) {
        return index >= laid.first && index < laid.first + laid.count;
    });
    if (here == laid_.end()) return;
    auto to = here;
    if (by > 0 && here + 1 != laid_.end()) ++to;
    if (by < 0 && index == here->first && here != laid_.begin()) --to;
    if (to != here || by < 0) setCurrent(places()[to->first]);
}

void Sheet::selectAll() {
    for (const auto id : places()) selected_.insert(id);
    viewport()->update();
}

void Sheet::keyPressEvent(QKeyEvent* event) {
    if (event->matches(QKeySequence::SelectAll)) return selectAll();
    const bool extend = (event->modifiers() & Qt::ShiftModifier) != 0;
    const auto index = arrangement_->indexOf.value(current_);
    const int page = std::max(1, viewport()->height() / rowHeight());
    switch (event->key()) {
        case Qt::Key_Left: return moveTo(index == 0 ? 0 : index - 1, extend);
        case Qt::Key_Right: return moveTo(index + 1, extend);
        case Qt::Key_Up: return moveRows(-1, extend);
        case Qt::Key_Down: return moveRows(1, extend);
        case Qt::Key_PageUp: return moveRows(-page, extend);
        case Qt::Key_PageDown: return moveRows(page, extend);
        case Qt::Key_Home: return moveTo(0, extend);
        case Qt::Key_End: return moveTo(places().size(), extend);
        case Qt::Key_Space:
        case Qt::Key_K: return toggleKept();
        case Qt::Key_X: return toggleLeftOut();
        case Qt::Key_0:
        case Qt::Key_1:
        case Qt::Key_2:
        case Qt::Key_3:
        case Qt::Key_4:
        case Qt::Key_5:
            if ((event->modifiers() & Qt::ControlModifier) != 0) break;
            return rate(event->key() - Qt::Key_0);
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (current_ != 0) Q_EMIT opened(current_);
            return;
        default: break;
    }
    QAbstractScrollArea::keyPressEvent(event);
}

void Sheet::mousePressEvent(QMouseEvent* event) {
    const auto index = indexAt(event->pos());
    if (index >= places().size() || event->button() != Qt::LeftButton) return;
    if ((event->modifiers() & Qt::ControlModifier) != 0) {
        if (selected_.isEmpty() && current_ != 0) selected_.insert(current_);
        const auto id = places()[index];
        if (!selected_.remove(id)) selected_.insert(id);
        current_ = id;
        anchor_ = index;
        viewport()->update();
        Q_EMIT currentChanged(id);
        return;
    }
    moveTo(index, (event->modifiers() & Qt::ShiftModifier) != 0);
}

// The pointer goes along a clip as along its length.
void Sheet::mouseMoveEvent(QMouseEvent* event) {
    const auto index = indexAt(event->pos());
    const auto* finding = index < places().size() ? feed_.find(places()[index]) : nullptr;
    if (finding == nullptr || finding->kind != Kind::Video) {
        if (flipping_.clip() != 0) flipping_.point(0, 0);
        return;
    }
    flipping_.point(finding->id, static_cast<double>(event->pos().x() - cellBox(index).left()) / cellWidth_);
}

void Sheet::leaveEvent(QEvent* event) {
    if (flipping_.clip() != 0) flipping_.point(0, 0);
    QAbstractScrollArea::leaveEvent(event);
}

void Sheet::mouseDoubleClickEvent(QMouseEvent* event) {
    if (indexAt(event->pos()) < places().size() && current_ != 0) Q_EMIT opened(current_);
}

void Sheet::wheelEvent(QWheelEvent* event) {
    if ((event->modifiers() & Qt::ControlModifier) != 0) {
        setCellWidth(cellWidth_ + (event->angleDelta().y() > 0 ? 22 : -22));
        return;
    }
    QAbstractScrollArea::wheelEvent(event);
}

}  // namespace dreskel
