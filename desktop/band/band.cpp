#include "desktop/band/band.h"

#include <algorithm>
#include <cmath>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr double kLeft = 96;
constexpr double kRight = 24;
constexpr double kTop = 14;
constexpr double kLaneHeight = 18;
constexpr double kBarHeight = 11;
// Up to so many files, and cells of the card's surface, are gathered at once: it takes less than a frame.
constexpr std::size_t kFew = 1500;
constexpr std::size_t kFewCells = 16384;
constexpr std::uint64_t kGatherAfter = 4 << 20;

int laneOf(Kind kind, int photos, int clips, int sound, int other) {
    switch (kind) {
        case Kind::Photo: return photos;
        case Kind::Video: return clips;
        case Kind::Audio: return sound;
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return other;
}

// A step of 1, 2 or 5 times a power of ten, so that some eight of them fit.
double niceStep(double length) {
    const double rough = length / 8;
    const double power = std::pow(10, std::floor(std::log10(rough)));
    for (const double factor : {1.0, 2.0, 5.0}) {
        if (factor * power >= rough) return factor * power;
    }
    return 10 * power;
}

}  // namespace

Band::Band(Feed& feed, QWidget* parent)
    : QWidget(parent),
      feed_(feed),
      gather_([](const LanesRequest& request) { return std::make_shared<const Lanes>(request); },
              [this](std::shared_ptr<const Lanes> lanes) {
                  lanes_ = std::move(lanes);
                  stale_ = true;
                  update();
              }) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setAccessibleName(Text::tr("Band: the card from its first sector to its last"));
    length_ = static_cast<double>(feed_.session().source()->size());
    connect(&feed_, &Feed::changed, this, [this] {
        rebuild_ = true;
        update();
    });
    connect(&feed_, &Feed::progressed, this, [this] {
        const auto& overview = feed_.overview();
        const bool copying = overview.copy && overview.copy->underWay;
        if (overview.progress.position == drawnPosition_ && !copying && !wasCopying_) return;
        wasCopying_ = copying;
        stale_ = true;
        // What nothing explains comes to light as the pass goes on, file or no file.
        if (overview.progress.position - gatheredTo_ >= kGatherAfter || overview.activity == Activity::Idle)
            rebuild_ = true;
        update();
    });
}

void Band::setCurrent(std::int64_t id) {
    current_ = id;
    update();
}

void Band::mark(std::optional<ByteRange> span) {
    marked_ = span;
    update();
}

QRectF Band::laneBox(int lane) const {
    return {kLeft, kTop + lane * kLaneHeight, width() - kLeft - kRight, kBarHeight};
}

double Band::xOf(std::uint64_t offset) const {
    return kLeft + (static_cast<double>(offset) - from_) / length_ * (width() - kLeft - kRight);
}

std::uint64_t Band::offsetAt(double x) const {
    const double offset = from_ + (x - kLeft) / (width() - kLeft - kRight) * length_;
    return static_cast<std::uint64_t>(
        std::clamp(offset, 0.0, static_cast<double>(feed_.session().source()->size())));
}

void Band::rebuild() {
    // They are known when the search begins, and once more when it ends.
    if (const auto state = feed_.overview().progress.state; state != structuresAt_) {
        structures_ = feed_.session().structures();
        structuresAt_ = state;
    }
    rebuild_ = false;
    const auto& progress = feed_.overview().progress;
    LanesRequest request{feed_.filesSeen(), progress.surface, progress.position,
                         feed_.session().source()->size()};
    gatheredTo_ = progress.position;
    if (request.files->size() > kFew || progress.surface->size() > kFewCells)
        return gather_.ask(std::move(request));
    lanes_ = gather_.now(request);
    stale_ = true;
}

// What is not blank and belongs to no file, as far as the pass has come: the stretch behind each pixel.
void Band::drawUnexplained(QPainter& painter) {
    const auto box = laneBox(kUnexplained);
    const double pixel = length_ / (width() - kLeft - kRight);
    for (double x = kLeft; x < width() - kRight; ++x) {
        const double from = from_ + (x - kLeft) * pixel;
        const double share = lanes_->unexplained(from, from + pixel);
        if (share <= 0) continue;
        QColor colour = look::kUnexplained;
        colour.setAlphaF(static_cast<float>(std::clamp(0.35 + share, 0.0, 1.0)));
        painter.fillRect(QRectF(x, box.top(), 1, box.height()), colour);
    }
}

// Told by shape too: what was read is a bar, what waits a hollow one, what stalled a hatched one, and what
// failed stands out of the lane.
void Band::drawCopy(QPainter& painter, const std::vector<MapCell>& cells) {
    const auto lane = laneBox(kReading).adjusted(0, 2, 0, -2);
    const double edge = width() - kRight;
    const auto draw = [&](Tried state) {
        for (const auto& cell : cells) {
            if (cell.state != state) continue;
            const double left = std::max(kLeft, xOf(cell.range.offset));
            const double right = std::min(edge, xOf(cell.range.end()));
            if (right < kLeft || left > edge) continue;
            const QRectF box(left, lane.top(), right - left, lane.height());
            const QRectF seen = box.adjusted(0, 0, std::max(0.0, 2 - box.width()), 0);
            switch (state) {
                case Tried::Read: painter.fillRect(box, look::kReading); break;
                case Tried::Waiting:
                    painter.fillRect(seen, look::kTrough);
                    painter.setPen(look::kReading);
                    painter.drawRect(seen.adjusted(0.5, 0.5, -0.5, -0.5));
                    break;
                case Tried::Stalled:
                    painter.fillRect(seen, look::kTrough);
                    painter.fillRect(seen, QBrush(look::kDecided.darker(120), Qt::BDiagPattern));
                    break;
                case Tried::Failed: painter.fillRect(seen.adjusted(0, -3, 0, 3), look::kTrouble); break;
                case Tried::Untried: break;
            }
        }
    };
    for (const auto state : {Tried::Read, Tried::Waiting, Tried::Stalled, Tried::Failed}) draw(state);
}

void Band::drawLanes() {
    picture_ = QPixmap(size() * devicePixelRatioF());
    picture_.setDevicePixelRatio(devicePixelRatioF());
    picture_.fill(look::kGround);
    QPainter painter(&picture_);
    painter.setFont(look::textFont(11));
    constexpr std::array<const char*, kLanes> names{
        QT_TRANSLATE_NOOP("dreskel::Text", "reading"), QT_TRANSLATE_NOOP("dreskel::Text", "directories"),
        QT_TRANSLATE_NOOP("dreskel::Text", "photos"),  QT_TRANSLATE_NOOP("dreskel::Text", "clips"),
        QT_TRANSLATE_NOOP("dreskel::Text", "sound"),   QT_TRANSLATE_NOOP("dreskel::Text", "unexplained")};
    const auto& progress = feed_.overview().progress;
    drawnPosition_ = progress.position;
    const double edge = width() - kRight;

    for (int lane = 0; lane < kLanes; ++lane) {
        const auto box = laneBox(lane);
        painter.setPen(look::kDim);
        painter.drawText(QRectF(16, box.top() - 4, kLeft - 24, box.height() + 8),
                         Qt::AlignVCenter | Qt::AlignLeft, Text::tr(names[static_cast<std::size_t>(lane)]));
    }
    const auto reading = laneBox(kReading).adjusted(0, 2, 0, -2);
    painter.fillRect(reading, look::kTrough);
    const auto bar = [&](const QRectF& lane, std::uint64_t from, std::uint64_t to, const QColor& colour,
                         double least) {
        const double left = std::max(kLeft, xOf(from));
        const double right = std::min(edge, xOf(to));
        if (right < kLeft || left > edge) return;
        painter.fillRect(QRectF(left, lane.top(), std::max(least, right - left), lane.height()), colour);
    };
    if (const auto& copy = feed_.overview().copy) {
        drawCopy(painter, copy->cells);
    } else {
        if (progress.span.length > 0)
            bar(reading, progress.span.offset, progress.position, look::kReading, 0);
        for (const auto& bad : *progress.unreadableRanges)
            bar(reading.adjusted(0, -3, 0, 3), bad.offset, bad.end(), look::kTrouble, 2);
    }
    for (const auto& range : structures_)
        bar(laneBox(kDirectories), range.offset, range.end(), look::kReading, 1.5);
    drawUnexplained(painter);
    for (const auto kind : {Kind::Photo, Kind::Video, Kind::Audio}) {
        const auto box = laneBox(laneOf(kind, kPhotos, kClips, kSound, kUnexplained));
        double last = -10;
        for (const auto& span : lanes_->spansOf(kind)) {
            const double left = std::max(kLeft, xOf(span.range.offset));
            const double right = std::min(edge, xOf(span.range.end()));
            if (left > edge) break;
            // Many on one pixel are drawn once.
            if (right < kLeft || right < last + 0.5) continue;
            // A gap between neighbours where there is room for one, so that they can be told apart.
            const double gap = right - left > 4 ? 1 : 0;
            painter.fillRect(QRectF(left, box.top(), std::max(1.0, right - left - gap), box.height()),
                             look::laneColour(kind));
            last = right;
        }
    }
    // The scale.
    painter.setPen(look::kDim);
    const double foot = kTop + kLanes * kLaneHeight + 2;
    const double step = niceStep(length_);
    for (double at = std::ceil(from_ / step) * step; at < from_ + length_; at += step) {
        const double x = xOf(static_cast<std::uint64_t>(at));
        if (x > edge - 30) break;
        painter.drawText(QRectF(x - 2, foot, 90, 16), Qt::AlignLeft | Qt::AlignVCenter,
                         look::sizeText(static_cast<std::uint64_t>(at)));
    }
    stale_ = false;
}

void Band::paintEvent(QPaintEvent*) {
    if (rebuild_) rebuild();
    if (stale_ || picture_.size() != size() * devicePixelRatioF()) drawLanes();
    QPainter painter(this);
    painter.drawPixmap(0, 0, picture_);
    painter.setRenderHint(QPainter::Antialiasing);

    const auto& overview = feed_.overview();
    if (overview.activity == Activity::Scanning && overview.progress.state == ScanState::Reading) {
        const double x = xOf(overview.copy ? overview.copy->progress.position : overview.progress.position);
        if (x >= kLeft && x <= width() - kRight) {
            painter.setPen(QPen(look::kDecided, 1.5));
            painter.drawLine(QPointF(x, 6), QPointF(x, kTop + kLanes * kLaneHeight));
        }
    }
    const auto* finding = feed_.find(current_);
    if (finding != nullptr) {
        const auto box = laneBox(laneOf(finding->kind, kPhotos, kClips, kSound, kUnexplained));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(look::kText, 1.5));
        double lastMiddle = -1;
        for (const auto& piece : finding->pieces) {
            if (piece.from != PieceFrom::Card) continue;
            const double left = xOf(piece.offset);
            const double right = std::max(left + 3, xOf(piece.offset + piece.length));
            painter.drawRect(QRectF(left - 1, box.top() - 2.5, right - left + 2, box.height() + 5));
            if (lastMiddle >= 0) {
                QPainterPath arc(QPointF(lastMiddle, box.top() - 3));
                const double middle = (left + right) / 2;
                const double height = std::min(34.0, 10 + std::abs(middle - lastMiddle) * 0.3);
                arc.cubicTo(lastMiddle, box.top() - height, middle, box.top() - height, middle,
                            box.top() - 3);
                painter.drawPath(arc);
            }
            lastMiddle = (left + right) / 2;
        }
    }
    if (marked_) {
        const QRectF span(QPointF(xOf(marked_->offset), 5),
                          QPointF(xOf(marked_->end()), kTop + kLanes * kLaneHeight));
        QColor veil = look::kDecided;
        veil.setAlpha(26);
        painter.fillRect(span, veil);
        painter.setPen(QPen(look::kDecided, 1.5));
        painter.drawLine(span.topLeft(), span.bottomLeft());
        painter.drawLine(span.topRight(), span.bottomRight());
    }
    if (hasFocus()) {
        painter.setPen(QPen(look::kDecided, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(0.5, 0.5, width() - 1, height() - 1));
    }
}

void Band::showRange(double from, double length) {
    const auto size = static_cast<double>(feed_.session().source()->size());
    length_ = std::clamp(length, std::min(size, 65536.0), size);
    from_ = std::clamp(from, 0.0, size - length_);
    stale_ = true;
    update();
}

void Band::wheelEvent(QWheelEvent* event) {
    const double factor = std::pow(0.8, event->angleDelta().y() / 120.0);
    const double at = from_ + (event->position().x() - kLeft) / (width() - kLeft - kRight) * length_;
    const double size = static_cast<double>(feed_.session().source()->size());
    const double length = std::clamp(length_ * factor, std::min(size, 65536.0), size);
    showRange(at - (at - from_) * length / length_, length);
}

std::int64_t Band::fileAt(const QPoint& place) const {
    const int lane = static_cast<int>((place.y() - kTop + 4) / kLaneHeight);
    if (lane < kPhotos || lane > kSound) return 0;
    const auto& spans = lanes_->spansOf(lane == kPhotos  ? Kind::Photo
                                        : lane == kClips ? Kind::Video
                                                         : Kind::Audio);
    const auto reach = static_cast<std::uint64_t>(length_ / (width() - kLeft - kRight) * 2);
    const auto offset = offsetAt(place.x());
    std::int64_t best = 0;
    auto at = std::lower_bound(spans.begin(), spans.end(), LaneSpan{{offset + reach, 0}, 0});
    for (int looked = 0; at != spans.begin() && looked < 64; ++looked) {
        --at;
        if (at->range.contains(offset)) return at->id;
        if (at->range.end() + reach > offset && best == 0) best = at->id;
    }
    return best;
}

void Band::mousePressEvent(QMouseEvent* event) {
    pressed_ = event->pos();
    pressedFrom_ = from_;
    dragging_ = false;
    marking_ = (event->modifiers() & Qt::ShiftModifier) != 0;
}

void Band::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) == 0) {
        setCursor(fileAt(event->pos()) != 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
        return;
    }
    const int moved = event->pos().x() - pressed_.x();
    if (std::abs(moved) > 4) dragging_ = true;
    if (dragging_ && marking_) {
        const auto from = offsetAt(std::min(pressed_.x(), event->pos().x()));
        marked_ = ByteRange{from, offsetAt(std::max(pressed_.x(), event->pos().x())) - from};
        return update();
    }
    if (dragging_) showRange(pressedFrom_ - moved / (width() - kLeft - kRight) * length_, length_);
}

void Band::mouseReleaseEvent(QMouseEvent* event) {
    if (dragging_ && marking_ && marked_ && marked_->length > 0) Q_EMIT spanMarked(marked_);
    if (dragging_) return;
    if (const auto id = fileAt(event->pos()); id != 0) Q_EMIT picked(id);
}

void Band::mouseDoubleClickEvent(QMouseEvent*) {
    showRange(0, static_cast<double>(feed_.session().source()->size()));
}

void Band::keyPressEvent(QKeyEvent* event) {
    const double middle = from_ + length_ / 2;
    if (event->key() == Qt::Key_Escape && marked_) {
        mark({});
        return Q_EMIT spanMarked({});
    }
    switch (event->key()) {
        case Qt::Key_Left: showRange(from_ - length_ / 8, length_); return;
        case Qt::Key_Right: showRange(from_ + length_ / 8, length_); return;
        case Qt::Key_Plus:
        case Qt::Key_Equal: showRange(middle - length_ / 4, length_ / 2); return;
        case Qt::Key_Minus: showRange(middle - length_, length_ * 2); return;
        case Qt::Key_0: showRange(0, static_cast<double>(feed_.session().source()->size())); return;
        default: QWidget::keyPressEvent(event);
    }
}

bool Band::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    const auto* finding = feed_.find(fileAt(help->pos()));
    const auto offset = offsetAt(help->pos().x());
    QString text = Text::tr("Byte %1").arg(look::numberText(offset));
    if (const auto& copy = feed_.overview().copy) {
        for (const auto& cell : copy->cells) {
            if (!cell.range.contains(offset)) continue;
            text += QStringLiteral(": %1").arg(QString::fromStdString(std::string(toWord(cell.state))));
            if (cell.tries > 0) text += Text::tr(", tried %1 times").arg(cell.tries);
        }
    }
    if (finding != nullptr) {
        text = Text::tr("%1, %2, %3\nfrom byte %4")
                   .arg(QString::fromStdString(finding->format).toUpper(), look::sizeText(finding->size()),
                        look::conditionText(finding->condition, finding->decoded),
                        look::numberText(finding->start()));
    }
    QToolTip::showText(help->globalPos(), text, this);
    return true;
}

}  // namespace dreskel
