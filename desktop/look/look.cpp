#include "desktop/look/look.h"
#include "desktop/look/text.h"

#include <cmath>
#include <QApplication>
#include <QDateTime>
#include <QFontDatabase>
#include <QLabel>
#include <QLocale>
#include <QPainter>
#include <QPalette>
#include <QScrollArea>

namespace dreskel::look {

QColor laneColour(Kind kind) {
    switch (kind) {
        case Kind::Photo: return kPhoto;
        case Kind::Video: return kClip;
        case Kind::Audio: return kSound;
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return kUnexplained;
}

QFont textFont(int pixels, bool bold) {
    QFont font;
    font.setFamilies({QStringLiteral("Inter"), QStringLiteral("DejaVu Sans")});
    font.setPixelSize(pixels);
    font.setBold(bold);
    return font;
}

QFont fixedFont(int pixels) {
    auto font = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    font.setPixelSize(pixels);
    return font;
}

QLabel* label(const QString& text, int pixels, const QColor& colour, bool bold) {
    auto* made = new QLabel(text);
    made->setFont(textFont(pixels, bold));
    QPalette palette = made->palette();
    palette.setColor(QPalette::WindowText, colour);
    made->setPalette(palette);
    return made;
}

namespace {

struct Bench {
    QColor ground, raised, trough, line, text, dim;
};
const Bench kDarkBench{{0x16, 0x18, 0x1b}, {0x1e, 0x21, 0x25}, {0x2a, 0x2e, 0x33},
                       {0x34, 0x39, 0x3f}, {0xe9, 0xe6, 0xdf}, {0x98, 0x9c, 0xa1}};
const Bench kLightBench{{0xf1, 0xef, 0xe9}, {0xfa, 0xf9, 0xf5}, {0xe2, 0xde, 0xd5},
                        {0xcd, 0xc8, 0xbd}, {0x24, 0x27, 0x2b}, {0x64, 0x66, 0x69}};

struct Counter {
    QColor paper, sheet, line, ink, faded, field;
};
const Counter kLightCounter{{0xee, 0xeb, 0xe4}, {0xfa, 0xf9, 0xf4}, {0xd3, 0xce, 0xc3},
                            {0x24, 0x27, 0x2b}, {0x6c, 0x6e, 0x70}, {0xff, 0xff, 0xff}};
const Counter kDarkCounter{{0x1b, 0x1d, 0x20}, {0x24, 0x28, 0x2c}, {0x3a, 0x3f, 0x45},
                           {0xe9, 0xe6, 0xdf}, {0x9c, 0xa0, 0xa5}, {0x16, 0x18, 0x1b}};

Scheme gWorn = Scheme::Mixed;

// Colours are there before the first window is, whoever makes it.
const bool gReady = [] {
    wear(Scheme::Mixed);
    return true;
}();

}  // namespace

void wear(Scheme scheme) {
    gWorn = scheme;
    const auto& bench = scheme == Scheme::Light ? kLightBench : kDarkBench;
    kGround = bench.ground;
    kRaised = bench.raised;
    kTrough = bench.trough;
    kLine = bench.line;
    kText = bench.text;
    kDim = bench.dim;
    const auto& counter = scheme == Scheme::Dark ? kDarkCounter : kLightCounter;
    kPaper = counter.paper;
    kSheet = counter.sheet;
    kPaperLine = counter.line;
    kInk = counter.ink;
    kFaded = counter.faded;
    kField = counter.field;
    if (auto* application = qobject_cast<QApplication*>(QCoreApplication::instance())) dress(*application);
}

Scheme worn() {
    return gWorn;
}

void dress(QApplication& application) {
    application.setStyle(QStringLiteral("Fusion"));
    application.setFont(textFont());
    QPalette palette;
    palette.setColor(QPalette::Window, kGround);
    palette.setColor(QPalette::Base, kRaised);
    palette.setColor(QPalette::AlternateBase, kTrough);
    palette.setColor(QPalette::Button, kRaised);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText}) {
        palette.setColor(role, kText);
        palette.setColor(QPalette::Disabled, role, kDim.darker(130));
    }
    palette.setColor(QPalette::ToolTipBase, kTrough);
    palette.setColor(QPalette::PlaceholderText, kDim);
    palette.setColor(QPalette::Highlight, kDecided);
    palette.setColor(QPalette::HighlightedText, kDecidedInk);
    palette.setColor(QPalette::Link, kDecided);
    application.setPalette(palette);
}

QString sizeText(std::uint64_t bytes) {
    auto text = QString::fromStdString(humanSize(bytes));
    text.replace(QLatin1Char('.'), Text::locale().decimalPoint());
    return text.replace(QStringLiteral("bytes"), Text::tr("bytes"));
}
QString numberText(std::uint64_t number) {
    return QString::fromStdString(grouped(number));
}

QString durationText(double seconds) {
    const auto all = static_cast<long long>(std::llround(seconds));
    const auto two = [](long long value) {
        return QString::number(value).rightJustified(2, QLatin1Char('0'));
    };
    if (all >= 3600) return QStringLiteral("%1:%2:%3").arg(all / 3600).arg(two(all / 60 % 60), two(all % 60));
    return QStringLiteral("%1:%2").arg(all / 60).arg(two(all % 60));
}

QString momentText(std::uint32_t milliseconds) {
    const auto tenths = milliseconds % 1000 / 100;
    return durationText(milliseconds / 1000) + Text::locale().decimalPoint() + QString::number(tenths);
}

QString conditionText(Condition condition, double decoded) {
    switch (condition) {
        case Condition::Whole: return Text::tr("whole");
        case Condition::Partial: {
            const auto percent = decoded * 100;
            // Never "100 %" for what is not whole.
            const auto shown = percent > 99 ? std::floor(percent * 10) / 10 : std::floor(percent);
            return Text::tr("partial, %1 % decodes").arg(Text::locale().toString(shown, 'g', 3));
        }
        case Condition::Broken: return Text::tr("broken");
        case Condition::Unchecked: break;
    }
    return Text::tr("not checked");
}

QString takenText(const std::string& iso) {
    const auto text = QString::fromStdString(iso).left(19);
    const auto time = QDateTime::fromString(text, Qt::ISODate);
    if (!time.isValid()) return {};
    return Text::locale().toString(time, Text::tr("d MMMM yyyy, HH:mm:ss"));
}

QString kindText(Kind kind, std::uint64_t count) {
    const bool one = count == 1;
    switch (kind) {
        case Kind::Photo: return one ? Text::tr("photo") : Text::tr("photos");
        case Kind::Video: return one ? Text::tr("clip") : Text::tr("clips");
        case Kind::Audio: return one ? Text::tr("recording") : Text::tr("recordings");
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return one ? Text::tr("other file") : Text::tr("other files");
}

void paintDecoded(QPainter& painter, const QRectF& box, const std::vector<std::uint8_t>& map,
                  Condition condition, const QColor& colour) {
    if (condition == Condition::Whole) {
        painter.fillRect(box, colour);
        return;
    }
    // Gaps are told by shape: ticks where nothing decoded.
    const auto ticks = [&](const QRectF& gap) {
        painter.fillRect(gap, kTrough);
        for (double x = gap.left(); x < gap.right(); x += 5) {
            painter.fillRect(QRectF(x, gap.top(), 2, gap.height()), kDim.darker(140));
        }
    };
    if (condition != Condition::Partial || map.empty()) {
        ticks(box);
        return;
    }
    const auto step = box.width() / static_cast<double>(map.size());
    for (std::size_t i = 0; i < map.size(); ++i) {
        const QRectF part(box.left() + step * static_cast<double>(i), box.top(), step + 0.5, box.height());
        const auto good = part.width() * map[i] / 255.0;
        if (map[i] < 255) ticks(part.adjusted(good, 0, 0, 0));
        if (map[i] > 0) painter.fillRect(QRectF(part.left(), part.top(), good, part.height()), colour);
    }
}

namespace {

QString buttons(const QColor& face, const QColor& edge, const QColor& text, const QColor& hover) {
    return QStringLiteral(
               "QPushButton, QToolButton { background: %1; border: 1px solid %2; border-radius: 4px; color: "
               "%3; padding: 6px 12px; }"
               "QPushButton:hover, QToolButton:hover { background: %4; }"
               "QPushButton:focus, QToolButton:focus { border: 2px solid %5; padding: 5px 11px; }"
               "QPushButton:disabled { color: %6; }"
               "QPushButton::menu-indicator { subcontrol-origin: padding; subcontrol-position: right center; "
               "right: 5px; }"
               "QPushButton#next { background: %5; border: 1px solid %5; color: %7; font-weight: bold; "
               "padding: 8px 18px; }"
               "QPushButton#next:hover { background: %8; }"
               "QPushButton#next:focus { border: 2px solid %3; padding: 7px 17px; }"
               "QPushButton#next:disabled { background: %2; border-color: %2; color: %6; }")
        .arg(face.name(), edge.name(), text.name(), hover.name(), kDecided.name(), kDim.name(),
             kDecidedInk.name(), kDecided.lighter(112).name());
}

}  // namespace

QScrollArea* scrolled(QWidget* inside) {
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(inside);
    scroll->viewport()->setAutoFillBackground(false);
    inside->setAutoFillBackground(false);
    return scroll;
}

QString benchStyle() {
    return buttons(kTrough, kLine, kText, kLine) +
           QStringLiteral(
               "QLineEdit { background: %1; border: 1px solid %2; border-radius: 4px; color: %3; padding: "
               "5px 8px; }"
               "QLineEdit:focus { border: 1px solid %4; }"
               "QComboBox { background: %1; border: 1px solid %2; border-radius: 4px; color: %3; padding: "
               "5px 8px; }"
               "QComboBox:focus { border: 1px solid %4; }"
               "QComboBox::drop-down { border: none; width: 20px; }"
               "QComboBox::down-arrow { image: url(:/arrows/%6.xpm); width: 9px; height: 5px; }"
               "QComboBox QAbstractItemView { background: %1; color: %3; selection-background-color: %2; }"
               "QScrollBar:vertical { background: %5; width: 12px; } QScrollBar::handle:vertical { "
               "background: %2; min-height: 40px; border-radius: 4px; margin: 2px; }"
               "QScrollBar::add-line, QScrollBar::sub-line { height: 0; } QScrollBar::add-page, "
               "QScrollBar::sub-page { background: none; }")
               .arg(kRaised.name(), kLine.name(), kText.name(), kDecided.name(), kGround.name(),
                    gWorn == Scheme::Light ? QStringLiteral("on_light") : QStringLiteral("on_dark"));
}

QString counterStyle() {
    return buttons(kSheet.darker(102), kPaperLine, kInk, kPaper) +
           QStringLiteral(
               "QLineEdit { background: %1; border: 1px solid %2; border-radius: 4px; color: %3; "
               "padding: 5px 8px; selection-background-color: %4; selection-color: %3; }"
               "QLineEdit:focus { border: 1px solid %3; }"
               "QAbstractSpinBox { background: %1; color: %3; selection-background-color: %4; "
               "selection-color: %3; }")
               .arg(kField.name(), kPaperLine.name(), kInk.name(), kDecided.name());
}

}  // namespace dreskel::look
