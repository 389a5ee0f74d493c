#include "desktop/front/volume_strip.h"

#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {

VolumeStrip::VolumeStrip() {
    setFixedHeight(20);
    setAccessibleName(Text::tr("Volumes on the card, to scale"));
}

void VolumeStrip::show(std::uint64_t size, const Survey& survey) {
    size_ = size;
    survey_ = survey;
    update();
}

void VolumeStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kPaperLine);
    if (size_ == 0) return;
    for (const auto& volume : survey_.volumes) {
        const double left = static_cast<double>(volume.offset) / static_cast<double>(size_) * width();
        const double wide = static_cast<double>(volume.facts.size) / static_cast<double>(size_) * width();
        const bool live = volume.state == VolumeSeen::State::Live;
        const QRectF box(left, live ? 0 : height() - 6, std::max(3.0, wide), live ? height() : 6);
        painter.fillRect(box, live ? look::kReading.lighter(125) : look::kPhoto);
        painter.setPen(look::kInk);
        painter.setFont(look::textFont(11));
        const auto text =
            QString::fromStdString(volume.facts.kind + "  " + volume.facts.label) +
            (live ? QString() : QStringLiteral(" (%1)").arg(Text::ofCore(std::string(toWord(volume.state)))));
        const QRectF line(left + 8, 0, std::max(60.0, wide - 12), live ? height() : height() - 6);
        painter.drawText(line, Qt::AlignVCenter | Qt::AlignLeft, text);
    }
}

}  // namespace dreskel
