#include "desktop/splice/splice_picture.h"

#include <QMouseEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/looking.h"

namespace dreskel {

SplicePicture::SplicePicture(QWidget* parent) : QWidget(parent) {
    setAccessibleName(Text::tr("The photo with its joins"));
    setCursor(Qt::CrossCursor);
    setMouseTracking(true);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
}

void SplicePicture::show(const rebuild::SpliceLook& look, std::uint32_t row) {
    look_ = look;
    row_ = row;
    image_ = look.picture.width > 0 ? imageFrom(look.picture) : QImage();
    setAccessibleDescription(Text::tr("%1 of %2 rows decode; the join in hand is at row %3")
                                 .arg(look.reached)
                                 .arg(look.extent)
                                 .arg(row));
    update();
}

QRectF SplicePicture::box() const {
    if (image_.isNull()) return {};
    const auto scale = std::min(width() / double(image_.width()), height() / double(image_.height()));
    return {0, 0, image_.width() * scale, image_.height() * scale};
}

std::uint32_t SplicePicture::rowAt(double y) const {
    const auto area = box();
    if (area.isEmpty()) return 0;
    return static_cast<std::uint32_t>(std::clamp(y / area.height(), 0.0, 1.0) * look_.extent);
}

QPoint SplicePicture::placeOf(std::uint32_t row) const {
    const auto area = box();
    return {int(area.center().x()), int(area.height() * row / std::max(1U, look_.extent))};
}

void SplicePicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto area = box();
    if (area.isEmpty() || look_.extent == 0) {
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(13));
        painter.drawText(rect(), Qt::AlignCenter, Text::tr("Nothing of it can be seen yet"));
        return;
    }
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(area, image_);
    const auto yOf = [&](std::uint32_t row) { return area.top() + area.height() * row / look_.extent; };
    if (!look_.complete && look_.reached < look_.extent) {
        const QRectF missing(area.left(), yOf(look_.reached), area.width(),
                             area.bottom() - yOf(look_.reached));
        painter.fillRect(missing, look::kTrough);
        painter.fillRect(missing, QBrush(look::kLine, Qt::BDiagPattern));
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(12));
        if (missing.height() > 20) painter.drawText(missing, Qt::AlignCenter, Text::tr("missing so far"));
    }
    painter.setPen(QPen(QColor(255, 255, 255, 110), 1));
    for (const auto row : look_.joinsAt)
        painter.drawLine(QPointF(area.left(), yOf(row)), QPointF(area.right(), yOf(row)));
    const auto pointed = pointing_.stretch();
    const auto shown = pointed ? pointed->from : row_;
    if (pointed && pointed->to != Pointing::Stretch::kToTheEnd) {
        const QRectF away(area.left(), yOf(pointed->from), area.width(),
                          yOf(pointed->to) - yOf(pointed->from));
        painter.fillRect(away, QBrush(look::kTrouble, Qt::BDiagPattern));
        paintFlag(painter, yOf(pointed->to),
                  Text::tr("rows %1 to %2: not its own")
                      .arg(look::numberText(pointed->from), look::numberText(pointed->to)));
        return;
    }
    paintFlag(painter, yOf(shown), Text::tr("row %1").arg(look::numberText(shown)));
}

// A line across the picture, and what it says.
void SplicePicture::paintFlag(QPainter& painter, double y, const QString& text) const {
    const auto area = box();
    painter.setPen(QPen(look::kDecided, 2, Qt::DashLine));
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    painter.setFont(look::textFont(12));
    const auto wide = painter.fontMetrics().horizontalAdvance(text) + 14;
    const QRectF flag(area.right() - wide, std::clamp(y - 10, area.top(), area.bottom() - 20), wide, 20);
    painter.fillRect(flag, look::kDecided);
    painter.setPen(look::kDecidedInk);
    painter.drawText(flag, Qt::AlignCenter, text);
}

void SplicePicture::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton || !box().contains(event->position())) return;
    pointing_.press(event->position().y(), rowAt(event->position().y()));
    update();
}

void SplicePicture::mouseMoveEvent(QMouseEvent* event) {
    if (!pointing_.stretch()) return;
    pointing_.move(event->position().y(), rowAt(event->position().y()));
    update();
}

void SplicePicture::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    auto rows = pointing_.release();
    update();
    if (!rows) return;
    // Behind what decodes there is nothing to be kept.
    if (rows->to >= look_.reached) rows->to = Pointing::Stretch::kToTheEnd;
    Q_EMIT pointed(*rows);
}

}  // namespace dreskel
