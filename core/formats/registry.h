// The one list of formats: those that are built in, and those that the technician added. Safe from any
// thread; what was given out stays valid for the life of the program.
#pragma once

#include <memory>
#include <optional>
#include <string_view>
#include <vector>

#include "formats/format.h"

namespace dreskel {

const std::vector<const Format*>& builtInFormats();
// With the technician's own, asked for after the built-in ones.
const std::vector<const Format*>& allFormats();
// Those whose files may begin with this byte: asked at every sector of a card.
const std::vector<const Format*>& formatsBeginning(std::uint8_t first);

// Sets the technician's own formats, in place of those before. A search that is under way keeps what it began
// with as far as it has asked.
void setOwnFormats(std::vector<std::shared_ptr<const Format>> own);

// The family that knows a short name ("mp4"), or null.
const Format* formatFor(std::string_view shortName);
// By family name ("isobmff"), or null.
const Format* familyNamed(std::string_view name);

}  // namespace dreskel
