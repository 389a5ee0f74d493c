#include "desktop/loupe/sound_view.h"

#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {

SoundView::SoundView(QWidget* parent) : QWidget(parent) {
    setAccessibleName(QStringLiteral("Waveform of the recording"));
    setMinimumSize(200, 150);
}

void SoundView::show(const Preview& preview, const Finding& finding) {
    peaks_ = preview.peaks;
    decodedMap_ = finding.decodedMap;
    condition_ = finding.condition;
    duration_ = finding.description.duration.value_or(0);
    update();
}

void SoundView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    painter.setFont(look::textFont(11));
    painter.setPen(look::kDim);
    if (peaks_.empty()) {
        painter.drawText(rect(), Qt::AlignCenter, QStringLiteral("No sound of it decodes"));
        return;
    }
    const QRectF box(12, 14, width() - 24, height() - 52);
    painter.fillRect(QRectF(box.left(), box.center().y(), box.width(), 1), look::kLine);
    paintWave(painter, box, peaks_, decodedMap_, look::kSound);
    look::paintDecoded(painter, QRectF(box.left(), box.bottom() + 6, box.width(), 5), decodedMap_, condition_,
                       look::kSound);
    for (int i = 0; i <= 4; ++i) {
        const double x = box.left() + box.width() * i / 4;
        const auto align = i == 0 ? Qt::AlignLeft : i == 4 ? Qt::AlignRight : Qt::AlignHCenter;
        const double left = i == 0 ? x : i == 4 ? x - 60 : x - 30;
        painter.drawText(QRectF(left, box.bottom() + 14, 60, 18), align | Qt::AlignVCenter,
                         look::durationText(duration_ * i / 4));
    }
}

}  // namespace dreskel
