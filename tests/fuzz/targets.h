// What is fuzzed: every parser of bytes that come from a card or from a file that was lent. A target takes
// any bytes and returns; what it must not do is crash, hang, or take memory without bounds.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/bytes.h"

namespace dreskel::fuzz {

struct Target {
    std::string name;
    std::function<void(Bytes)> run;
    std::vector<std::string> seeds;  // patterns of the tests' media; empty: the target's own `seed`
    std::vector<std::uint8_t> seed = {};
};

const std::vector<Target>& targets();

}  // namespace dreskel::fuzz
