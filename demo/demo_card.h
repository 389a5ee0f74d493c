// The demo card MILL-07: photographs, clips and spoken notes of the restoration of a tidal mill, formatted on
// site by mistake and then shot on a little more. All of it is made here.
#pragma once

#include <functional>
#include <string>

#include "base/result.h"

namespace dreskel::demo {

// Writes the image, and beside it IMAGE.truth.json: every file's name, bytes (as SHA-256), places and fate:
// "present", "intact", "in pieces", "partly overwritten" or "overwritten". Fails when the image exists.
Status writeDemoCard(const std::string& path, const std::function<void(const std::string&)>& say);

// The second card, MILL-09, with its files present, and beside it the description of the failing reader it is
// in: IMAGE without ".img" and with ".reader.json".
Status writeFailingCard(const std::string& path, const std::function<void(const std::string&)>& say);
std::string readerPathFor(const std::string& image);

}  // namespace dreskel::demo
