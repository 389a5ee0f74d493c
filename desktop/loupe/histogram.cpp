#include "desktop/loupe/histogram.h"

#include <algorithm>
#include <cmath>
#include <QPainter>
#include <QPainterPath>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "job/rows.h"

namespace dreskel {
namespace {

constexpr int kLooked = 800;  // columns and rows that are looked at, at most

// The share of its pixels that are as dark, or as bright, as can be.
double shareAt(const Histogram& histogram, std::size_t level) {
    std::uint64_t count = 0;
    for (const auto& channel : histogram.counts) count += channel[level];
    return histogram.pixels == 0 ? 0
                                 : static_cast<double>(count) / (3.0 * static_cast<double>(histogram.pixels));
}

}  // namespace

Histogram Histogram::of(const QImage& photo, const Finding& finding) {
    Histogram histogram;
    if (photo.isNull()) return histogram;
    const auto plain =
        photo.format() == QImage::Format_RGB888 ? photo : photo.convertToFormat(QImage::Format_RGB888);
    const auto there = rowsThere(finding);
    const int first = static_cast<int>(std::ceil(plain.height() * there.from));
    const int end = static_cast<int>(plain.height() * there.to);
    const int stepX = std::max(1, plain.width() / kLooked);
    const int stepY = std::max(1, plain.height() / kLooked);
    for (int y = first; y < end; y += stepY) {
        const auto* line = plain.constScanLine(y);
        for (int x = 0; x < plain.width(); x += stepX) {
            for (std::size_t c = 0; c < 3; ++c) ++histogram.counts[c][line[x * 3 + static_cast<int>(c)]];
            ++histogram.pixels;
        }
    }
    return histogram;
}

HistogramView::HistogramView(QWidget* parent) : QWidget(parent) {
    setFixedHeight(56);
    setAccessibleName(Text::tr("Histogram"));
}

void HistogramView::show(const Histogram& histogram) {
    histogram_ = histogram;
    const auto text = Text::tr("Histogram: %1 % as dark as can be, %2 % as bright as can be")
                          .arg(100 * shareAt(histogram, 0), 0, 'f', 1)
                          .arg(100 * shareAt(histogram, 255), 0, 'f', 1);
    setToolTip(text);
    setAccessibleName(text);
    update();
}

void HistogramView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), look::kTrough);
    if (histogram_.pixels == 0) return;
    // The ends are often far above the rest; the rest is what is judged.
    std::uint32_t most = 1;
    for (const auto& channel : histogram_.counts) {
        for (std::size_t level = 2; level < 254; ++level) most = std::max(most, channel[level]);
    }
    painter.setCompositionMode(look::worn() == look::Scheme::Light ? QPainter::CompositionMode_Multiply
                                                                   : QPainter::CompositionMode_Screen);
    const QColor colours[3] = {{0xc0, 0x54, 0x4a}, {0x5c, 0x9e, 0x58}, {0x56, 0x84, 0xc8}};
    for (std::size_t c = 0; c < 3; ++c) {
        QPainterPath path(QPointF(0, height()));
        for (std::size_t level = 0; level < 256; ++level) {
            const double share =
                std::min(1.0, std::sqrt(static_cast<double>(histogram_.counts[c][level]) / most));
            path.lineTo(
                QPointF(static_cast<double>(level) / 255 * width(), height() - share * (height() - 3)));
        }
        path.lineTo(QPointF(width(), height()));
        painter.fillPath(path, colours[c]);
    }
}

}  // namespace dreskel
