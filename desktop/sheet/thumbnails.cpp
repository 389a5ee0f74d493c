#include "desktop/sheet/thumbnails.h"

#include <algorithm>
#include <cmath>
#include <QPainter>
#include <QRunnable>

#include "desktop/give_way.h"
#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "job/rows.h"

namespace dreskel {
namespace {

constexpr int kCacheKiB = 96 * 1024;

void hatch(QPainter& painter, const QRectF& box, double step) {
    painter.fillRect(box, look::kTrough);
    painter.save();
    painter.setClipRect(box);
    painter.setPen(QPen(look::kLine.lighter(125), std::max(1.0, step / 8)));
    for (double x = box.left() - box.height(); x < box.right(); x += step) {
        painter.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()));
    }
    painter.restore();
}

}  // namespace

QImage hatched(const QImage& photo, const Finding& finding) {
    auto picture = photo.convertToFormat(QImage::Format_RGB32);
    const auto rows = rowsThere(finding);
    const double from = std::floor(picture.height() * rows.from);
    const double to = std::ceil(picture.height() * rows.to);
    const double step = std::max(7.0, picture.width() / 60.0);
    QPainter painter(&picture);
    if (from >= 1) hatch(painter, QRectF(0, 0, picture.width(), from), step);
    if (to < picture.height()) hatch(painter, QRectF(0, to, picture.width(), picture.height() - to), step);
    return picture;
}

Picture uprightPreview(const Preview& preview, int orientation) {
    const auto image = QImage::fromData(preview.picture.data(), static_cast<int>(preview.picture.size()));
    if (image.isNull()) return {};
    const auto plain = turned(image, orientation).convertToFormat(QImage::Format_RGB888);
    Picture picture{
        static_cast<std::uint32_t>(plain.width()), static_cast<std::uint32_t>(plain.height()), {}};
    for (int y = 0; y < plain.height(); ++y) {
        const auto* line = plain.constScanLine(y);
        picture.rgb.insert(picture.rgb.end(), line, line + std::size_t{picture.width} * 3);
    }
    return picture;
}

QTransform turning(int orientation, QSize picture) {
    QTransform mirrored;
    if (orientation == 2 || orientation == 5 || orientation == 7)
        mirrored = QTransform(-1, 0, 0, 1, picture.width(), 0);
    if (orientation == 4) mirrored = QTransform(1, 0, 0, -1, 0, picture.height());
    const double angle = orientation == 3                       ? 180
                         : orientation == 6 || orientation == 7 ? 90
                         : orientation == 5 || orientation == 8 ? 270
                                                                : 0;
    return mirrored * QImage::trueMatrix(QTransform().rotate(angle), picture.width(), picture.height());
}

QImage turned(const QImage& image, int orientation) {
    QTransform turn;
    switch (orientation) {
        case 2: return image.mirrored(true, false);
        case 3: turn.rotate(180); break;
        case 4: return image.mirrored(false, true);
        case 5: return image.mirrored(true, false).transformed(turn.rotate(270));
        case 6: turn.rotate(90); break;
        case 7: return image.mirrored(true, false).transformed(turn.rotate(90));
        case 8: turn.rotate(270); break;
        default: return image;
    }
    return image.transformed(turn);
}

void paintWave(QPainter& painter, const QRectF& box, const std::vector<std::int8_t>& peaks,
               const std::vector<std::uint8_t>& decodedMap, const QColor& colour) {
    const auto stretches = peaks.size() / 2;
    if (stretches == 0) return;
    // Quiet recordings are shown as large as loud ones; the shape is what is looked for.
    int loudest = 8;
    for (const auto value : peaks) loudest = std::max(loudest, std::abs(static_cast<int>(value)));
    const double middle = box.center().y();
    const double half = box.height() / 2 - 1;
    const auto columns = static_cast<int>(box.width() / 2);
    for (int column = 0; column < columns; ++column) {
        const auto at = static_cast<std::size_t>(column) * stretches / static_cast<std::size_t>(columns);
        const auto next = std::max(
            at + 1, (static_cast<std::size_t>(column) + 1) * stretches / static_cast<std::size_t>(columns));
        int low = 0;
        int high = 0;
        for (auto i = at; i < std::min(next, stretches); ++i) {
            low = std::min<int>(low, peaks[i * 2]);
            high = std::max<int>(high, peaks[i * 2 + 1]);
        }
        const bool good =
            decodedMap.empty() || decodedMap[static_cast<std::size_t>(column) * decodedMap.size() /
                                             static_cast<std::size_t>(columns)] > 127;
        const double top = middle - half * high / loudest;
        const double bottom = middle - half * low / loudest;
        painter.fillRect(QRectF(box.left() + column * 2, top, 1.2, std::max(1.0, bottom - top)),
                         good ? colour : look::kLine.lighter(130));
    }
}

QImage drawThumbnail(const Finding& finding, const Preview& preview, const QSize& size) {
    QImage cell(size, QImage::Format_RGB32);
    cell.fill(look::kRaised);
    QPainter painter(&cell);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const QRectF box(QPointF(0, 0), QSizeF(size));
    if (finding.kind == Kind::Audio) {
        paintWave(painter, box.adjusted(6, 8, -6, -8), preview.peaks, finding.decodedMap, look::kSound);
        return cell;
    }
    auto picture = QImage::fromData(preview.picture.data(), static_cast<int>(preview.picture.size()));
    if (picture.isNull()) {
        hatch(painter, box, 7);
        painter.setPen(look::kDim);
        painter.setFont(look::textFont(11));
        painter.drawText(box, Qt::AlignCenter,
                         finding.condition == Condition::Whole ? Text::tr("no small picture")
                                                               : Text::tr("nothing to see"));
        return cell;
    }
    picture = turned(hatched(picture, finding), finding.description.orientation);
    // Wide pictures fill the cell; tall ones stand in it whole, so that what is on them can be seen.
    const bool tall = picture.height() > picture.width();
    const auto fitted =
        picture.size().scaled(size, tall ? Qt::KeepAspectRatio : Qt::KeepAspectRatioByExpanding);
    const QRectF place(
        QPointF((size.width() - fitted.width()) / 2.0, (size.height() - fitted.height()) / 2.0),
        QSizeF(fitted));
    painter.drawImage(place, picture);
    if (finding.kind == Kind::Video) {
        // A clip is told from a photo by its play mark, as large as the cell asks for.
        const double unit = std::max(1.0, size.height() / 88.0);
        const QRectF mark(8 * unit, size.height() - 24 * unit, 16 * unit, 16 * unit);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(QColor(0, 0, 0, 150));
        painter.drawEllipse(mark.adjusted(-4 * unit, -4 * unit, 4 * unit, 4 * unit));
        painter.setBrush(look::kOnPicture);
        const QPointF triangle[3] = {{mark.left() + 4 * unit, mark.top() + 2 * unit},
                                     {mark.right() - unit, mark.center().y()},
                                     {mark.left() + 4 * unit, mark.bottom() - 2 * unit}};
        painter.drawPolygon(triangle, 3);
    }
    return cell;
}

Thumbnails::Thumbnails(Feed& feed, QObject* parent) : QObject(parent), feed_(feed), cache_(kCacheKiB) {
    pool_.setMaxThreadCount(2);
    connect(&feed_, &Feed::changed, this, [this](const std::vector<std::int64_t>& ids) {
        for (const auto id : ids) {
            cache_.remove(id);
            underWay_.remove(id);
        }
    });
}

Thumbnails::~Thumbnails() {
    pool_.clear();
    pool_.waitForDone();
}

const QImage* Thumbnails::get(const Finding& finding, const QSize& size) {
    if (size != size_) {
        size_ = size;
        cache_.clear();
        underWay_.clear();
        pool_.clear();
    }
    if (const auto* image = cache_.object(finding.id)) return image;
    if (underWay_.contains(finding.id)) return nullptr;
    underWay_.insert(finding.id);
    auto session = feed_.sharedSession();
    pool_.start(QRunnable::create([this, session, finding, size] {
        giveWay();
        auto* image = new QImage(drawThumbnail(finding, session->preview(finding.id), size));
        QMetaObject::invokeMethod(this, [this, image, id = finding.id, size] {
            const std::unique_ptr<QImage> owned(image);
            // Overtaken by a change of the file or of the size: it will be asked for anew.
            if (size != size_ || !underWay_.remove(id)) return;
            cache_.insert(id, new QImage(*owned), static_cast<int>(owned->sizeInBytes() / 1024) + 1);
            Q_EMIT arrived(id);
        });
    }));
    return nullptr;
}

}  // namespace dreskel
