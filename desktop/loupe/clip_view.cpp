#include "desktop/loupe/clip_view.h"

#include <algorithm>
#include <cmath>
#include <QMouseEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {

ClipView::ClipView(QWidget* parent) : QWidget(parent) {
    setAccessibleName(Text::tr("Frames of the clip along its length"));
    setMouseTracking(true);
    setFocusPolicy(Qt::ClickFocus);
    setMinimumSize(200, 180);
}

void ClipView::show(const std::vector<QImage>& frames, const std::vector<double>& times,
                    const Finding& finding) {
    moment_ = {};
    frames_ = frames;
    times_ = times;
    decodedMap_ = finding.decodedMap;
    condition_ = finding.condition;
    duration_ = finding.description.duration.value_or(0);
    joins_.clear();
    const auto size = static_cast<double>(std::max<std::uint64_t>(1, finding.size()));
    for (const auto& join : finding.joins) joins_.push_back(static_cast<double>(join.at) / size * duration_);
    current_ = std::min(2, std::max(0, frameCount() - 1));
    row_ = {};
    update();
}

void ClipView::clear(const QString& message) {
    frames_.clear();
    moment_ = {};
    message_ = message;
    update();
}

void ClipView::showMoment(const QImage& picture, double at) {
    moment_ = picture;
    momentAt_ = at;
    update();
}

double ClipView::shownAt() const {
    if (showsMoment()) return momentAt_;
    return frames_.empty() ? 0 : times_[static_cast<std::size_t>(current_)];
}

void ClipView::step(int by) {
    if (frames_.empty()) return;
    moment_ = {};
    current_ = std::clamp(current_ + by, 0, frameCount() - 1);
    update();
}

QRectF ClipView::rowBox() const {
    return {0, height() - 46.0, static_cast<double>(width()), 46};
}

QRectF ClipView::placeOf(const QSize& picture) const {
    const QRectF stage(0, 0, width(), std::max(1.0, rowBox().top() - 6));
    const auto fitted = QSizeF(picture).scaled(stage.size(), Qt::KeepAspectRatio);
    return {QPointF((stage.width() - fitted.width()) / 2, (stage.height() - fitted.height()) / 2), fitted};
}

int ClipView::sideFor(const QSize& picture) const {
    if (picture.isEmpty()) return static_cast<int>(std::max(width(), height()) * devicePixelRatioF());
    const auto place = placeOf(picture);
    return static_cast<int>(std::ceil(std::max(place.width(), place.height()) * devicePixelRatioF()));
}

void ClipView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    painter.setFont(look::textFont(12));
    painter.setPen(look::kDim);
    if (frames_.empty()) {
        painter.drawText(rect().adjusted(16, 16, -16, -16), Qt::AlignCenter | Qt::TextWordWrap, message_);
        return;
    }
    const auto row = rowBox();
    const auto& frame = showsMoment() ? moment_ : frames_[static_cast<std::size_t>(current_)];
    const auto place = placeOf(frame.size());
    const auto shown = QSizeF(frame.size()) / devicePixelRatioF();
    if (std::abs(shown.width() - place.width()) < 2 && std::abs(shown.height() - place.height()) < 2) {
        auto fitting = frame;
        fitting.setDevicePixelRatio(devicePixelRatioF());
        painter.drawImage(place.topLeft().toPoint(), fitting);
    } else {
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(place, frame);
    }
    const auto label = look::durationText(shownAt()) + Text::tr(" of ") + look::durationText(duration_);
    const QRectF tag(8, row.top() - 32, painter.fontMetrics().horizontalAdvance(label) + 14, 20);
    painter.fillRect(tag, QColor(0, 0, 0, 150));
    painter.setPen(look::kOnPicture);
    painter.drawText(tag, Qt::AlignCenter, label);

    const auto pixels = (row.size() * devicePixelRatioF()).toSize();
    if (row_.size() != pixels) {
        row_ = QPixmap(pixels);
        row_.setDevicePixelRatio(devicePixelRatioF());
        row_.fill(look::kRaised);
        QPainter once(&row_);
        once.translate(-row.topLeft());
        paintRow(once);
    }
    painter.drawPixmap(row.topLeft(), row_);
    if (!showsMoment()) {
        const double step = row.width() / frameCount();
        painter.setPen(QPen(look::kText, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(
            QRectF(row.left() + step * current_, row.top(), step - 2, 38).adjusted(1, 1, -1, -1));
    }
    if (duration_ > 0) paintJoins(painter, row);
    if (showsMoment() && duration_ > 0) {
        const double x = row.left() + row.width() * std::clamp(momentAt_ / duration_, 0.0, 1.0);
        painter.fillRect(QRectF(x - 1, row.top() - 3, 2, 44), look::kText);
    }
}

// What stays as it is while the clip plays.
void ClipView::paintRow(QPainter& painter) const {
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const auto row = rowBox();
    const double step = row.width() / frameCount();
    for (int i = 0; i < frameCount(); ++i) {
        const QRectF cell(row.left() + step * i, row.top(), step - 2, 38);
        const auto& small = frames_[static_cast<std::size_t>(i)];
        const auto filling = QSizeF(small.size()).scaled(cell.size(), Qt::KeepAspectRatioByExpanding);
        const double scale = small.width() / filling.width();
        const QRectF part((filling.width() - cell.width()) / 2 * scale,
                          (filling.height() - cell.height()) / 2 * scale, cell.width() * scale,
                          cell.height() * scale);
        painter.drawImage(cell, small, part);
    }
    look::paintDecoded(painter, QRectF(row.left(), row.bottom() - 5, row.width() - 2, 5), decodedMap_,
                       condition_, look::kClip);
}

// Notches that point at the row.
void ClipView::paintJoins(QPainter& painter, const QRectF& row) const {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(look::kText);
    for (const double join : joins_) {
        const double x = row.left() + row.width() * std::clamp(join / duration_, 0.0, 1.0);
        painter.drawPolygon(QPolygonF({{x - 4, row.top() - 6}, {x + 4, row.top() - 6}, {x, row.top() + 1}}));
    }
    painter.setRenderHint(QPainter::Antialiasing, false);
}

void ClipView::choose(double x) {
    if (frames_.empty()) return;
    moment_ = {};
    current_ = std::clamp(static_cast<int>(x / width() * frameCount()), 0, frameCount() - 1);
    update();
}

void ClipView::mousePressEvent(QMouseEvent* event) {
    const double share = std::clamp(event->position().x() / std::max(1, width()), 0.0, 1.0);
    const bool moment = showsMoment();
    if (!moment) choose(event->position().x());
    if (rowBox().contains(event->position())) Q_EMIT placeAsked(share * duration_);
}

void ClipView::mouseMoveEvent(QMouseEvent* event) {
    if (!showsMoment() && rowBox().contains(event->position())) choose(event->position().x());
}

void ClipView::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Left) return step(-1);
    if (event->key() == Qt::Key_Right) return step(1);
    QWidget::keyPressEvent(event);
}

}  // namespace dreskel
