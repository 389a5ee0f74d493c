// Clusters of text, which are no part of what is coded.
#pragma once

#include "base/bytes.h"

namespace dreskel::rebuild {

// Coded data have as many bytes above 127 as below, or patterns of few bits that repeat and hold control
// characters; text of any language that is written with letters has neither.
bool isText(Bytes block);

}  // namespace dreskel::rebuild
