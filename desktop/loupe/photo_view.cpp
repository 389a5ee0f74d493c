#include "desktop/loupe/photo_view.h"

#include <algorithm>
#include <cmath>
#include <QMouseEvent>
#include <QPainter>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/sheet/thumbnails.h"

namespace dreskel {

QImage presented(const QImage& photo, const Finding& finding) {
    auto prepared = hatched(photo, finding);
    const double row = std::ceil(prepared.height() * rowsThere(finding).to);
    if (row < prepared.height()) {
        QPainter painter(&prepared);
        painter.setPen(QPen(look::kDecided, std::max(1, prepared.width() / 400), Qt::DashLine));
        painter.drawLine(QPointF(0, row), QPointF(prepared.width(), row));
    }
    return turned(prepared, finding.description.orientation);
}

PhotoView::PhotoView(QWidget* parent) : QWidget(parent) {
    setAccessibleName(Text::tr("Photo"));
    setMinimumSize(200, 150);
}

void PhotoView::show(const QImage& image, const Finding& finding) {
    const bool other = finding.id != id_;
    id_ = finding.id;
    message_.clear();
    image_ = image;
    orientation_ = finding.description.orientation;
    rows_ = rowsThere(finding);
    photoSize_ = QSizeF(image.size());
    tiles_.begin({});
    asked_.reset();
    if (finding.description.width && finding.description.height) {
        photoSize_ = QSizeF(*finding.description.width, *finding.description.height);
        tiles_.begin(photoSize_.toSize());
        if (finding.description.orientation >= 5) photoSize_.transpose();
    }
    if (other) {
        quarters_ = 0;
        fit();
    }
    if (quarters_ != 0) image_ = image_.transformed(QTransform().rotate(90 * quarters_));
    look();
}

void PhotoView::clear(const QString& message) {
    image_ = {};
    id_ = 0;
    message_ = message;
    update();
}

QSizeF PhotoView::full() const {
    return quarters_ % 2 != 0 ? photoSize_.transposed() : photoSize_;
}

double PhotoView::fitZoom() const {
    const auto size = full();
    if (size.isEmpty()) return 1;
    return std::min(width() / size.width(), height() / size.height());
}

double PhotoView::zoom() const {
    return fitted_ ? fitZoom() : zoom_;
}

void PhotoView::fit() {
    fitted_ = true;
    middle_ = QPointF(full().width() / 2, full().height() / 2);
    look();
    Q_EMIT moved();
}

void PhotoView::actualSize() {
    fitted_ = false;
    zoom_ = 1 / devicePixelRatioF();
    keepInView();
    look();
    Q_EMIT moved();
}

void PhotoView::follow(const PhotoView& other) {
    const auto mine = full();
    const auto theirs = other.full();
    if (mine.isEmpty() || theirs.isEmpty()) return;
    fitted_ = other.fitted_;
    zoom_ = other.zoom_ * theirs.width() / mine.width();
    middle_ = QPointF(other.middle_.x() / theirs.width() * mine.width(),
                      other.middle_.y() / theirs.height() * mine.height());
    keepInView();
    look();
}

void PhotoView::turn(int quarters) {
    quarters_ = ((quarters_ + quarters) % 4 + 4) % 4;
    if (!image_.isNull()) image_ = image_.transformed(QTransform().rotate(90 * quarters));
    fit();
}

void PhotoView::zoomBy(double factor, QPointF around) {
    const double before = zoom();
    const double after = std::clamp(before * factor, fitZoom() * 0.999, 16.0);
    const QPointF centre(width() / 2.0, height() / 2.0);
    const QPointF under = middle_ + (around - centre) / before;
    fitted_ = after <= fitZoom();
    zoom_ = after;
    middle_ = under - (around - centre) / after;
    keepInView();
    look();
    Q_EMIT moved();
}

void PhotoView::keepInView() {
    const auto size = full();
    const double halfWide = width() / zoom() / 2;
    const double halfHigh = height() / zoom() / 2;
    const auto keep = [](double at, double half, double all) {
        return 2 * half >= all ? all / 2 : std::clamp(at, half, all - half);
    };
    middle_ = {keep(middle_.x(), halfWide, size.width()), keep(middle_.y(), halfHigh, size.height())};
}

QRectF PhotoView::target() const {
    const QPointF centre(width() / 2.0, height() / 2.0);
    const double ratio = devicePixelRatioF();
    const auto corner = (centre - middle_ * zoom()) * ratio;
    // On whole pixels of the screen, so that one to one is that.
    return {QPointF(std::round(corner.x()), std::round(corner.y())) / ratio, full() * zoom()};
}

QTransform PhotoView::fromStored() const {
    const auto stored = tiles_.photo();
    auto whole = turning(orientation_, stored);
    auto size = orientation_ >= 5 ? stored.transposed() : stored;
    whole *= QImage::trueMatrix(QTransform().rotate(90 * quarters_), size.width(), size.height());
    if (quarters_ % 2 != 0) size.transpose();
    const auto place = target();
    return whole * QTransform::fromScale(place.width() / size.width(), place.height() / size.height()) *
           QTransform::fromTranslate(place.left(), place.top());
}

std::optional<PhotoView::Seen> PhotoView::seenInTiles() const {
    const double ratio = devicePixelRatioF();
    const auto shown = target().size() * ratio;
    if (image_.isNull() || tiles_.photo().isEmpty()) return std::nullopt;
    if (image_.width() >= shown.width() * 0.98 || image_.width() >= full().width()) return std::nullopt;
    const double scale = shown.width() / full().width();
    return Seen{fromStored().inverted().mapRect(QRectF(rect())), PhotoTiles::levelFor(scale)};
}

void PhotoView::look() {
    update();
    const auto seen = seenInTiles();
    if (!seen) return;
    const auto missing = tiles_.missing(seen->part, seen->level);
    if (!missing || missing == asked_) return;
    asked_ = missing;
    Q_EMIT partWanted(PhotoTiles::partOf(*missing));
}

void PhotoView::showPart(const media::DecoderProcess::PhotoPart& part, const QImage& picture, QSize full) {
    const auto tile = PhotoTiles::tileOf(part);
    if (asked_ == tile) asked_.reset();
    // What a raw file or a container says of its size need not be what its decoder makes of it.
    if (!picture.isNull() && full != tiles_.photo()) {
        tiles_.begin(full);
    } else {
        const auto seen = seenInTiles();
        tiles_.put(tile, picture, seen ? seen->part : QRectF());
    }
    look();
}

void PhotoView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look::kRaised);
    if (image_.isNull()) {
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(12));
        painter.drawText(rect().adjusted(16, 16, -16, -16), Qt::AlignCenter | Qt::TextWordWrap, message_);
        return;
    }
    painter.setRenderHint(QPainter::SmoothPixmapTransform, zoom() < 3);
    const auto whole = target();
    // Only the part in view is drawn, however large the photo is.
    const QRectF inView = whole.intersected(QRectF(rect()));
    const double scale = image_.width() / whole.width();
    const QRectF part((inView.topLeft() - whole.topLeft()) * scale, inView.size() * scale);
    painter.drawImage(inView, image_, part);
    if (const auto seen = seenInTiles()) {
        painter.setClipRect(inView);
        painter.setTransform(fromStored(), true);
        // The hatching of what is not there stays in sight.
        const auto stored = QSizeF(tiles_.photo());
        painter.setClipRect(QRectF(0, stored.height() * rows_.from, stored.width(),
                                   stored.height() * (rows_.to - rows_.from)),
                            Qt::IntersectClip);
        tiles_.paint(painter, seen->part, seen->level);
    }
}

void PhotoView::wheelEvent(QWheelEvent* event) {
    zoomBy(std::pow(1.25, event->angleDelta().y() / 120.0), event->position());
}

void PhotoView::mousePressEvent(QMouseEvent* event) {
    pressed_ = event->pos();
    Q_EMIT pressed();
}

void PhotoView::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) == 0 || fitted_) return;
    middle_ -= QPointF(event->pos() - pressed_) / zoom();
    pressed_ = event->pos();
    keepInView();
    look();
    Q_EMIT moved();
}

void PhotoView::mouseDoubleClickEvent(QMouseEvent*) {
    fitted_ ? actualSize() : fit();
}

void PhotoView::resizeEvent(QResizeEvent*) {
    if (fitted_) {
        fit();
    } else {
        keepInView();
    }
}

}  // namespace dreskel
