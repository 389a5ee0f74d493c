// How soon the picture of the splice bench changes when a join is moved.
#pragma once

#include <QString>

namespace dreskel::bench {

// The photo in three pieces on a card made in `folder`; prints the times of a hundred moves. False when it
// does not come together again.
bool moveJoins(const QString& photo, const QString& folder);

}  // namespace dreskel::bench
