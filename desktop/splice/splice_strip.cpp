#include "desktop/splice/splice_strip.h"

#include <QPainter>
#include <QPainterPath>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

constexpr int kLeft = 70, kPhotos = 44, kFree = 66, kLane = 14, kHeight = 92;

}  // namespace

SpliceStrip::SpliceStrip(QWidget* parent) : QWidget(parent) {
    setFixedHeight(kHeight);
    setAccessibleName(Text::tr("The pieces on the card"));
}

void SpliceStrip::setCard(std::shared_ptr<Splicing> splicing) {
    splicing_ = std::move(splicing);
    update();
}

void SpliceStrip::setWay(const std::vector<ByteRange>& way) {
    way_ = way;
    setAccessibleDescription(Text::tr("%1 pieces").arg(way.size()));
    update();
}

void SpliceStrip::setOffered(ByteRange offered) {
    offered_ = offered;
    update();
}

std::vector<ByteRange> SpliceStrip::onCard() const {
    auto places = way_;
    std::erase_if(places, rebuild::isNowhere);
    return places;
}

// From the first piece to the last, with some of what is around.
ByteRange SpliceStrip::view() const {
    std::uint64_t from = UINT64_MAX;
    std::uint64_t to = 0;
    const auto take = [&](const ByteRange& range) {
        from = std::min(from, range.offset);
        to = std::max(to, range.end());
    };
    for (const auto& place : onCard()) take(place);
    if (offered_.length > 0 && !rebuild::isNowhere(offered_)) take(offered_);
    if (from >= to) return {0, 1};
    const auto margin = std::max<std::uint64_t>((to - from) / 8, 1 << 20);
    from -= std::min(from, margin);
    return {from, to + margin - from};
}

void SpliceStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(look::textFont(11));
    painter.setPen(look::kDim);
    painter.drawText(QRect(0, kPhotos, kLeft - 8, kLane), Qt::AlignVCenter,
                     splicing_ && splicing_->kind() != Kind::Photo ? Text::tr("clips") : Text::tr("photos"));
    painter.drawText(QRect(0, kFree, kLeft - 8, kLane), Qt::AlignVCenter, Text::tr("free"));
    if (!splicing_ || way_.empty()) return;
    const auto shown = view();
    painter.drawText(QRect(0, 2, width(), 16), Qt::AlignLeft | Qt::AlignTop,
                     Text::tr("%1 to %2").arg(look::sizeText(shown.offset), look::sizeText(shown.end())));
    const auto xOf = [&](std::uint64_t at) {
        const auto share =
            (static_cast<double>(at) - static_cast<double>(shown.offset)) / static_cast<double>(shown.length);
        return kLeft + std::clamp(share, 0.0, 1.0) * (width() - kLeft);
    };
    const auto bar = [&](const ByteRange& range, int top, const QColor& colour) {
        if (!range.overlaps(shown)) return;
        const auto left = xOf(range.offset);
        painter.fillRect(QRectF(left, top, std::max(1.0, xOf(range.end()) - left), kLane), colour);
    };
    const auto colour = look::laneColour(splicing_->kind());
    for (const auto& range : splicing_->others()) bar(range, kPhotos, colour.darker(150));
    for (const auto& range : splicing_->free()) bar(range, kFree, look::kUnexplained);
    const auto boxOf = [&](const ByteRange& place) {
        const auto left = xOf(place.offset);
        return QRectF(left, kPhotos - 2, std::max(5.0, xOf(place.end()) - left), kLane + 4);
    };
    const auto arc = [&](const ByteRange& from, const ByteRange& to, const QPen& pen) {
        const QPointF a(boxOf(from).right(), kPhotos - 2);
        const QPointF b(boxOf(to).left(), kPhotos - 2);
        const auto high = std::min(26.0, 8 + std::abs(b.x() - a.x()) / 4);
        QPainterPath path(a);
        path.cubicTo(a.x(), a.y() - high, b.x(), b.y() - high, b.x(), b.y());
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        painter.drawPath(path);
    };
    const QPen own(look::kText, 1.6);
    const QPen offered(look::kDecided, 1.6, Qt::DashLine);
    const auto places = onCard();
    for (std::size_t i = 0; i < places.size(); ++i) {
        painter.setPen(own);
        painter.setBrush(colour);
        painter.drawRect(boxOf(places[i]));
        if (i > 0) arc(places[i - 1], places[i], own);
    }
    if (offered_.length == 0 || places.empty() || rebuild::isNowhere(offered_)) return;
    painter.setPen(offered);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(boxOf(offered_));
    arc(places.back(), offered_, offered);
}

}  // namespace dreskel
