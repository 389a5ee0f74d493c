// Clips that were one take: the chapters that a camera cuts a long take into, a clip and its small proxy, the
// twins of two lenses. Told by when they were taken, how long and how large they are; what could as well be
// chance is left apart.
#pragma once

#include "scan/belongings.h"

namespace dreskel {

// By id of the later chapter, the proxy or the second twin: the first chapter, the clip, the first twin.
std::map<std::int64_t, Belonging> takes(const std::map<std::int64_t, Finding>& files);

}  // namespace dreskel
