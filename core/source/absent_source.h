// A card or a copy that is not there any more, for looking at what a job says of it: its size is known, no
// byte can be read.
#pragma once

#include "source/source.h"

namespace dreskel {

std::shared_ptr<Source> absentSource(const std::string& path, std::uint64_t size, std::uint32_t sectorSize);

}  // namespace dreskel
