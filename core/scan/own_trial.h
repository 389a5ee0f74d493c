// What a format of the technician's own would find on a card, before it is kept: how often it begins there,
// and how often where a format that is known begins too.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/control.h"
#include "formats/own/own_format.h"
#include "source/source.h"

namespace dreskel {

struct OwnTrial {
    std::uint64_t looked = 0;                      // bytes of the card
    std::uint64_t begins = 0;                      // sectors where it begins
    std::vector<std::uint64_t> first;              // the first of them, bytes
    std::map<std::string, std::uint64_t> clashes;  // of these, where a known family begins too
};

// One pass over the source; ends early when `control` stops it. For a definition without fault.
OwnTrial tryOn(const Source& source, const own::Definition& definition, Control& control);

}  // namespace dreskel
