// A clip in pieces, played from the card before it is saved.
#pragma once

#include <QString>

namespace dreskel::bench {

// Cuts the clip into pieces of a card, in an order of its own, and plays it to its end: pictures shown and
// left out, and how far the clock of the pictures was from the wall's. False when it does not play.
bool playInPieces(const QString& clip, int pieces, const QString& folder);

}  // namespace dreskel::bench
