#include "desktop/splice/follower_row.h"

#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/looking.h"

namespace dreskel {
namespace {

constexpr int kPictureWide = 132, kPictureHigh = 84, kMargin = 6;

QString placeText(std::uint64_t at, std::uint64_t behind, std::uint32_t cluster) {
    const auto far = at >= behind ? at - behind : behind - at;
    const auto where = far == 0      ? Text::tr("right behind")
                       : at > behind ? Text::tr("%1 on").arg(look::sizeText(far))
                                     : Text::tr("%1 back").arg(look::sizeText(far));
    return where + Text::tr(", cluster %1").arg(look::numberText(at / cluster));
}

QString whatItExplains(const Lender& lender) {
    if (lender.pictures == 0) return Text::tr("Does not fit: none of its first pictures is found");
    const auto share = int(lender.share * 100);
    const int pictures = static_cast<int>(lender.pictures);
    return lender.picture.width > 0
               ? Text::tr("Fits: %n picture(s) take up %1 % of its front, and decode", nullptr, pictures)
                     .arg(share)
               : Text::tr("Does not fit: %n picture(s) would take up %1 % of its front, but do not decode",
                          nullptr, pictures)
                     .arg(share);
}

}  // namespace

FollowerRow::FollowerRow(const rebuild::Follower* follower, std::uint64_t behind, std::uint32_t cluster,
                         const rebuild::SpliceLook& look, Kind kind, QWidget* parent)
    : QAbstractButton(parent) {
    beginRow();
    if (follower == nullptr) {
        setText(kind == Kind::Photo ? Text::tr("None: the picture ends here")
                                    : Text::tr("None: the clip ends here"));
        why_ = Text::tr("the rest is marked as missing");
    } else if (rebuild::isNowhere(follower->place)) {
        setText(Text::tr("A gap of %1").arg(look::sizeText(follower->place.length)));
        why_ = Text::ofCore(follower->why);
    } else {
        setText(placeText(follower->place.offset, behind, cluster));
        why_ = Text::ofCore(follower->why);
        score_ = follower->score;
        const auto image = follower->picture.width > 0 ? imageFrom(follower->picture) : QImage();
        if (!image.isNull() && kind != Kind::Photo) {
            crop_ = image;
            lineAt_ = -1;
        } else if (!image.isNull()) {
            const auto rows = look.extent;
            const int high = std::min(image.height(), image.width() * kPictureHigh / kPictureWide);
            const double middle = rows > 0 ? double(follower->at) / rows * image.height() : 0;
            const int top = std::clamp(int(middle) - high * 2 / 5, 0, image.height() - high);
            crop_ = image.copy(0, top, image.width(), high);
            lineAt_ = high > 0 ? (middle - top) / high : 0.5;
            const double end = rows > 0 ? double(follower->reached) / rows * image.height() : 0;
            if (!follower->complete && high > 0) endAt_ = std::clamp((end - top) / high, 0.0, 1.0);
        }
    }
    nameRow();
}

FollowerRow::FollowerRow(const Lender& lender, QWidget* parent) : QAbstractButton(parent) {
    beginRow();
    setCheckable(true);
    setAutoExclusive(true);
    const auto name = QString::fromStdString(lender.name);
    const int others = static_cast<int>(lender.likeIt);
    const auto title = name.isEmpty() ? Text::tr("Clip %1").arg(lender.id) : name;
    setText(others == 0 ? title : Text::tr("%1 and %n like it", nullptr, others).arg(title));
    why_ = whatItExplains(lender);
    const auto& about = lender.description;
    if (about.width && about.height && about.frameRate)
        why_ += QLatin1Char('\n') + Text::tr("%1 x %2, %3 a second")
                                        .arg(look::numberText(*about.width), look::numberText(*about.height))
                                        .arg(*about.frameRate, 0, 'g', 4);
    if (lender.inUse) why_ += QLatin1Char('\n') + Text::tr("its index is after this one now");
    score_ = lender.picture.width > 0 ? lender.share : 0;
    if (lender.picture.width > 0) crop_ = imageFrom(lender.picture);
    lineAt_ = -1;
    nameRow();
}

void FollowerRow::beginRow() {
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void FollowerRow::nameRow() {
    setAccessibleName(text());
    setAccessibleDescription(why_);
}

QRect FollowerRow::whyRect(int width, int height) const {
    constexpr int left = kMargin + 4 + kPictureWide + 12, top = kMargin + 30;
    return {left, top, width - left - 6, height - top - 2};
}

int FollowerRow::heightForWidth(int width) const {
    const auto room = whyRect(width, 10000);
    const QFontMetrics metrics(look::textFont(12));
    const auto needed = metrics.boundingRect(room, Qt::TextWordWrap | Qt::AlignTop, why_).height();
    return std::max(kPictureHigh + 2 * kMargin, room.top() + needed + kMargin);
}

void FollowerRow::focusInEvent(QFocusEvent* event) {
    QAbstractButton::focusInEvent(event);
    Q_EMIT lookedAt(true);
}

void FollowerRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    if (underMouse() || hasFocus() || isChecked()) {
        painter.fillRect(rect(), look::kTrough);
        painter.fillRect(QRect(0, 0, 3, height()), look::kDecided);
    }
    const QRectF frame(kMargin + 4, kMargin, kPictureWide, kPictureHigh);
    if (crop_.isNull()) {
        painter.fillRect(frame, look::kTrough.darker(110));
        painter.fillRect(frame, QBrush(look::kLine, Qt::BDiagPattern));
    } else {
        const auto scale = std::min(frame.width() / crop_.width(), frame.height() / crop_.height());
        QRectF drawn(0, 0, crop_.width() * scale, crop_.height() * scale);
        drawn.moveCenter(frame.center());
        painter.drawImage(lineAt_ < 0 ? drawn : frame, crop_);
        QRectF missing = frame;
        missing.setTop(frame.top() + frame.height() * endAt_);
        painter.fillRect(missing, look::kTrough);
        painter.fillRect(missing, QBrush(look::kLine, Qt::BDiagPattern));
        if (lineAt_ >= 0) {
            const auto y = frame.top() + frame.height() * std::min(lineAt_, 1.0);
            painter.setPen(QPen(look::kDecided, 1, Qt::DotLine));
            painter.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y));
        }
    }
    const int left = int(frame.right()) + 12;
    painter.setPen(look::kText);
    painter.setFont(look::textFont(12, true));
    painter.drawText(QRect(left, kMargin, width() - left - 6, 18), Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, width() - left - 6));
    const QRectF bar(left, kMargin + 21, width() - left - 10, 4);
    painter.fillRect(bar, look::kLine);
    painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * score_, bar.height()), look::kText);
    painter.setPen(look::kDim);
    painter.setFont(look::textFont(12));
    painter.drawText(whyRect(width(), height()), Qt::TextWordWrap | Qt::AlignTop, why_);
}

}  // namespace dreskel
