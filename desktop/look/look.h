// How Dreskel looks: colours, fonts, and the few shapes that are drawn in more than one place. Surfaces are
// quiet; the card and the pictures carry the colour. Yellow is for what the technician decided and for the
// one next step.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

#include "base/words.h"

class QApplication;
class QLabel;
class QPainter;
class QRectF;
class QScrollArea;
class QWidget;

namespace dreskel::look {

// Dark where pictures are looked at, so that they are not outshone, and light as paper where cards come in;
// or one of both throughout.
enum class Scheme { Mixed, Dark, Light };

// Sets the colours below, and the application's palette; windows that were made before keep what they have.
void wear(Scheme scheme);
Scheme worn();

// The bench: where pictures are looked at.
inline QColor kGround, kRaised, kTrough, kLine, kText, kDim;

// The counter: where cards come in.
inline QColor kPaper, kSheet, kPaperLine, kInk, kFaded;
inline QColor kField;  // where something is typed there

inline const QColor kOnPicture{0xf2, 0xf0, 0xea};  // marks on a dark foot, whatever is worn
inline const QColor kDecided{0xf2, 0xc6, 0x5c};    // yellow
inline const QColor kDecidedInk{0x26, 0x20, 0x12};
inline const QColor kTrouble{0xd9, 0x5b, 0x4e};
inline const QColor kReading{0x78, 0x80, 0x88};
inline const QColor kPhoto{0xcf, 0x85, 0x3f};
inline const QColor kClip{0x43, 0x9d, 0x9a};
inline const QColor kSound{0x9b, 0xae, 0x52};
inline const QColor kUnexplained{0x5a, 0x60, 0x68};

QColor laneColour(Kind kind);

void dress(QApplication& application);
QFont textFont(int pixels = 13, bool bold = false);
QFont fixedFont(int pixels);  // for bytes and for text that machines read
// A label in one of the colours above, whatever surface it is put on.
QLabel* label(const QString& text, int pixels, const QColor& colour, bool bold = false);

// Scrolls up and down, on whatever surface it is put on.
QScrollArea* scrolled(QWidget* inside);

// Words for what the technician reads; numbers grouped, sizes as card makers print them.
QString sizeText(std::uint64_t bytes);
QString numberText(std::uint64_t number);
QString durationText(double seconds);            // "1:12", "1:02:03"
QString momentText(std::uint32_t milliseconds);  // "1:12.4"
QString conditionText(Condition condition, double decoded);
QString takenText(const std::string& iso);  // "5 May 2026, 07:58:21"
QString kindText(Kind kind, std::uint64_t count);

// The strip at a picture's foot: where it decoded, and where it did not.
void paintDecoded(QPainter& painter, const QRectF& box, const std::vector<std::uint8_t>& map,
                  Condition condition, const QColor& colour);

// Style sheets for buttons on each of the two surfaces, and for the one next step.
QString benchStyle();
QString counterStyle();

}  // namespace dreskel::look
