// A format of the technician's own: bytes at places near its beginning, if known the bytes at its end, and
// how large it may get. Found like every other format; nothing of it can be decoded, so its files stay
// unchecked.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "formats/format.h"

namespace dreskel::own {

// Bytes, some of which may be anything.
struct Pattern {
    std::uint64_t at = 0;  // bytes from the file's first; of no meaning for an end
    std::vector<std::optional<std::uint8_t>> bytes;

    bool fits(Bytes place) const;  // at the front of `place`
    std::size_t fixed() const;     // bytes that must be what they are
    bool operator==(const Pattern&) const = default;
};

struct Definition {
    std::string name;  // short name, lower case
    Kind kind = Kind::Other;
    std::string extension;
    std::vector<Pattern> begins;  // all of them must fit
    std::optional<Pattern> ends;
    std::uint64_t mostBytes = 0;

    bool operator==(const Definition&) const = default;
};

// "4f 52 ?? 01"; nothing when it is not that.
std::optional<Pattern> patternFrom(const std::string& text);
std::string toText(const Pattern& pattern);

// Why a definition cannot be used, in words; empty when it can.
std::string faultOf(const Definition& definition);

// For a definition without fault.
std::shared_ptr<const Format> makeFormat(Definition definition);

}  // namespace dreskel::own
