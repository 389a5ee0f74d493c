#include "desktop/loupe/sound_view.h"

#include <algorithm>
#include <QMouseEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {

SoundView::SoundView(QWidget* parent) : QWidget(parent) {
    setAccessibleName(Text::tr("Waveform of the recording"));
    setMinimumSize(200, 150);
}

void SoundView::show(const Preview& preview, const Finding& finding) {
    peaks_ = preview.peaks;
    decodedMap_ = finding.decodedMap;
    condition_ = finding.condition;
    duration_ = finding.description.duration.value_or(0);
    position_ = -1;
    update();
}

void SoundView::setPosition(double at) {
    position_ = at;
    update();
}

QRectF SoundView::waveBox() const {
    return {12, 14, width() - 24.0, height() - 52.0};
}

void SoundView::mousePressEvent(QMouseEvent* event) {
    const auto box = waveBox();
    const double share =
        std::clamp((event->position().x() - box.left()) / std::max(1.0, box.width()), 0.0, 1.0);
    Q_EMIT placeAsked(share * duration_);
}

void SoundView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    painter.setFont(look::textFont(11));
    painter.setPen(look::kDim);
    if (peaks_.empty()) {
        painter.drawText(rect(), Qt::AlignCenter, Text::tr("No sound of it decodes"));
        return;
    }
    const QRectF box = waveBox();
    painter.fillRect(QRectF(box.left(), box.center().y(), box.width(), 1), look::kLine);
    paintWave(painter, box, peaks_, decodedMap_, look::kSound);
    look::paintDecoded(painter, QRectF(box.left(), box.bottom() + 6, box.width(), 5), decodedMap_, condition_,
                       look::kSound);
    if (position_ >= 0 && duration_ > 0) {
        const double x = box.left() + box.width() * std::clamp(position_ / duration_, 0.0, 1.0);
        painter.fillRect(QRectF(x - 1, box.top() - 6, 2, box.height() + 18), look::kText);
    }
    for (int i = 0; i <= 4; ++i) {
        const double x = box.left() + box.width() * i / 4;
        const auto align = i == 0 ? Qt::AlignLeft : i == 4 ? Qt::AlignRight : Qt::AlignHCenter;
        const double left = i == 0 ? x : i == 4 ? x - 60 : x - 30;
        painter.drawText(QRectF(left, box.bottom() + 14, 60, 18), align | Qt::AlignVCenter,
                         look::durationText(duration_ * i / 4));
    }
}

}  // namespace dreskel
