#include "desktop/splice/splice_frames.h"

#include <QMouseEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/looking.h"
#include "desktop/splice/splice_work.h"

namespace dreskel {
namespace {

constexpr int kAlongHigh = 64, kBarHigh = 16, kGap = 8, kCaption = 20, kTimes = 18;
constexpr std::size_t kLarge = 2;  // frames ahead of those along the clip

void hatch(QPainter& painter, const QRectF& box, const QColor& colour) {
    painter.fillRect(box, look::kTrough);
    painter.fillRect(box, QBrush(colour, Qt::BDiagPattern));
}

void drawInside(QPainter& painter, const QRectF& box, const QImage& image) {
    const auto scale = std::min(box.width() / image.width(), box.height() / image.height());
    QRectF drawn(0, 0, image.width() * scale, image.height() * scale);
    drawn.moveCenter(box.center());
    painter.drawImage(drawn, image);
}

}  // namespace

SpliceFrames::SpliceFrames(QWidget* parent) : QWidget(parent) {
    setAccessibleName(Text::tr("The clip with its joins"));
    setCursor(Qt::CrossCursor);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
}

void SpliceFrames::show(const rebuild::SpliceLook& look, std::uint32_t at) {
    look_ = look;
    at_ = at;
    frames_.clear();
    setAccessibleDescription(Text::tr("%1 of %2 are right; the join in hand is at %3")
                                 .arg(look::durationText(look.share * look.extent / 1000.0),
                                      look::durationText(look.extent / 1000.0), look::momentText(at)));
    update();
}

void SpliceFrames::setFrames(const std::vector<rebuild::SpliceFrame>& frames) {
    frames_.clear();
    for (const auto& frame : frames)
        frames_.push_back({frame.at, frame.picture.width > 0 ? imageFrom(frame.picture) : QImage()});
    update();
}

std::size_t SpliceFrames::framesShown() const {
    return static_cast<std::size_t>(std::count_if(frames_.begin(), frames_.end(),
                                                  [](const Frame& frame) { return !frame.image.isNull(); }));
}

bool SpliceFrames::isWrong(std::uint32_t at) const {
    return std::any_of(look_.wrong.begin(), look_.wrong.end(),
                       [&](const auto& wrong) { return wrong.from <= at && at < wrong.to; });
}

QRectF SpliceFrames::barBox() const {
    return {0, double(height() - kBarHigh - kTimes), double(width()), double(kBarHigh)};
}

double SpliceFrames::xOf(std::uint32_t at) const {
    return look_.extent == 0 ? 0 : width() * std::min(1.0, double(at) / look_.extent);
}

QPoint SpliceFrames::placeOf(std::uint32_t at) const {
    return {int(xOf(at)), int(barBox().center().y())};
}

void SpliceFrames::paintLarge(QPainter& painter, const QRectF& box, std::size_t number,
                              const QString& caption) const {
    const QRectF inside = box.adjusted(0, 0, 0, -kCaption);
    painter.fillRect(inside, look::kTrough);
    // A decoder shows the last picture it had where there is none.
    const bool behind = number > 0;
    const bool breaks = behind && isWrong(at_ + SpliceWork::kStep / 2);
    const bool none = behind && at_ >= look_.reached;
    const bool there = number < frames_.size() && !frames_[number].image.isNull();
    if (there && !breaks && !none) {
        drawInside(painter, inside, frames_[number].image);
    } else {
        hatch(painter, inside, breaks ? look::kTrouble : look::kLine);
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(12));
        painter.drawText(inside, Qt::AlignCenter,
                         breaks            ? Text::tr("its pictures break here")
                         : none            ? Text::tr("nothing is known of it yet")
                         : frames_.empty() ? Text::tr("decoding")
                                           : Text::tr("no picture of it"));
    }
    painter.setPen(look::kDim);
    painter.setFont(look::textFont(12));
    painter.drawText(QRectF(box.left(), inside.bottom() + 2, box.width(), kCaption - 2),
                     Qt::AlignLeft | Qt::AlignVCenter, caption);
}

void SpliceFrames::paintAlong(QPainter& painter) const {
    const auto top = barBox().top() - kGap - kAlongHigh;
    const auto wide = double(width()) / SpliceWork::kAlong;
    for (std::size_t i = 0; i < SpliceWork::kAlong; ++i) {
        const QRectF box(double(i) * wide, top, wide - 3, kAlongHigh);
        const auto middle = std::uint64_t{look_.extent} * (2 * i + 1) / (2 * SpliceWork::kAlong);
        const bool broken = isWrong(static_cast<std::uint32_t>(middle));
        const auto number = kLarge + i;
        if (broken || middle >= look_.reached || number >= frames_.size() || frames_[number].image.isNull()) {
            hatch(painter, box, broken ? look::kTrouble : look::kLine);
            continue;
        }
        painter.fillRect(box, look::kTrough);
        drawInside(painter, box, frames_[number].image);
    }
}

void SpliceFrames::paintBar(QPainter& painter) const {
    const auto bar = barBox();
    hatch(painter, bar, look::kLine);
    painter.fillRect(QRectF(bar.left(), bar.top(), xOf(look_.reached), bar.height()), look::kClip);
    for (const auto& wrong : look_.wrong) {
        const auto left = xOf(wrong.from);
        hatch(painter, QRectF(left, bar.top(), std::max(2.0, xOf(wrong.to) - left), bar.height()),
              look::kTrouble);
    }
    painter.setPen(QPen(look::kText, 1));
    for (const auto join : look_.joinsAt)
        painter.drawLine(QPointF(xOf(join), bar.top() - 3), QPointF(xOf(join), bar.bottom()));
    painter.setFont(look::textFont(11));
    const QRectF foot(0, bar.bottom() + 2, width(), kTimes - 2);
    painter.setPen(look::kDim);
    painter.drawText(foot, Qt::AlignLeft | Qt::AlignVCenter, look::durationText(0));
    painter.drawText(foot, Qt::AlignRight | Qt::AlignVCenter, look::durationText(look_.extent / 1000.0));
    const auto pointed = pointing_.stretch();
    const auto at = pointed ? pointed->from : at_;
    if (pointed && pointed->to != Pointing::Stretch::kToTheEnd) {
        const auto top = bar.top() - kGap - kAlongHigh;
        painter.fillRect(
            QRectF(xOf(pointed->from), top, xOf(pointed->to) - xOf(pointed->from), bar.bottom() - top),
            QBrush(look::kTrouble, Qt::BDiagPattern));
        paintFlag(painter, xOf(pointed->to),
                  Text::tr("%1 to %2: not its own")
                      .arg(look::momentText(pointed->from), look::momentText(pointed->to)));
        return;
    }
    paintFlag(painter, xOf(at), look::momentText(at));
}

// A line across the frames and the bar, and what it says.
void SpliceFrames::paintFlag(QPainter& painter, double x, const QString& text) const {
    const auto bar = barBox();
    x = std::clamp(x, 1.0, width() - 1.0);
    painter.setPen(QPen(look::kDecided, 2, Qt::DashLine));
    painter.drawLine(QPointF(x, bar.top() - kGap - kAlongHigh), QPointF(x, bar.bottom()));
    const auto wide = painter.fontMetrics().horizontalAdvance(text) + 12;
    const QRectF flag(std::clamp(x - wide / 2.0, 0.0, double(width() - wide)), bar.bottom() + 2, wide,
                      kTimes - 2);
    painter.fillRect(flag, look::kDecided);
    painter.setPen(look::kDecidedInk);
    painter.drawText(flag, Qt::AlignCenter, text);
}

void SpliceFrames::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    if (look_.extent == 0) {
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(13));
        painter.drawText(rect(), Qt::AlignCenter, Text::tr("Nothing of it can be seen yet"));
        return;
    }
    const auto high = barBox().top() - kGap - kAlongHigh - kGap;
    const auto wide = (width() - kGap) / 2.0;
    if (look_.joinsAt.empty() && at_ < look_.reached) {
        paintLarge(painter, {0, 0, double(width()), high}, 0, Text::tr("a picture from its middle"));
    } else {
        paintLarge(painter, {0, 0, wide, high}, 0, Text::tr("the last picture before the join"));
        paintLarge(painter, {wide + kGap, 0, wide, high}, 1, Text::tr("the first one behind it"));
    }
    paintAlong(painter);
    paintBar(painter);
}

std::uint32_t SpliceFrames::momentAt(double x) const {
    return static_cast<std::uint32_t>(std::clamp(x / std::max(1, width()), 0.0, 1.0) * look_.extent);
}

void SpliceFrames::mousePressEvent(QMouseEvent* event) {
    const auto top = barBox().top() - kGap - kAlongHigh;
    if (event->button() != Qt::LeftButton || event->position().y() < top || look_.extent == 0) return;
    pointing_.press(event->position().x(), momentAt(event->position().x()));
    update();
}

void SpliceFrames::mouseMoveEvent(QMouseEvent* event) {
    if (!pointing_.stretch()) return;
    pointing_.move(event->position().x(), momentAt(event->position().x()));
    update();
}

void SpliceFrames::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const auto moments = pointing_.release();
    update();
    if (moments) Q_EMIT pointed(*moments);
}

}  // namespace dreskel
