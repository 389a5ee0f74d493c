// Works out what files of one make have in common at their beginning and their end, and proposes a
// definition.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "formats/own/own_format.h"

namespace dreskel::own {

// A sample's first and last bytes and its size.
struct Sample {
    std::string path;  // for the error
    std::vector<std::uint8_t> head, tail;
    std::uint64_t size = 0;
};
Result<Sample> readSample(const std::string& path);

// From two or more samples. An error when they have too little in common, or are of a format that is known.
Result<Definition> learn(const std::vector<Sample>& samples, const std::string& name, Kind kind);

}  // namespace dreskel::own
