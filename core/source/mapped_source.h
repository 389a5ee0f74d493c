// An image together with its map: what the map does not call read cannot be read from it either, so that
// holes in a copy are never taken for the card's own zeros.
#pragma once

#include <memory>

#include "source/copy_map.h"
#include "source/source.h"

namespace dreskel {

// Fault::SourceUnusable when the two do not fit together.
Result<std::shared_ptr<Source>> mappedSource(std::shared_ptr<Source> image,
                                             std::shared_ptr<const CopyMap> map);

}  // namespace dreskel
