// The one list of formats. Immutable after start; safe from any thread.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "formats/format.h"

namespace dreskel {

const std::vector<const Format*>& allFormats();
// Those whose files may begin with this byte: asked at every sector of a card.
const std::vector<const Format*>& formatsBeginning(std::uint8_t first);

// The family that knows a short name ("mp4"), or null.
const Format* formatFor(std::string_view shortName);
// By family name ("isobmff"), or null.
const Format* familyNamed(std::string_view name);

}  // namespace dreskel
