// The map of a copy on disk: a text file, described in docs/copies.md. Written by core/copy.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "base/result.h"
#include "source/copy_map.h"

namespace dreskel {

// Which card the copy is of, to recognise it when it comes back under another name.
struct CardIdentity {
    std::string path;    // where it was last
    std::string serial;  // empty where none is told
    std::uint64_t size = 0;
    std::uint32_t sectorSize = 512;
};

struct MapContent {
    CardIdentity card;
    std::shared_ptr<CopyMap> map;
    std::string sha256;  // of the finished copy; empty before
};

constexpr std::string_view kMapFirstLine = "dreskel-map 1";

// Reads a map. The torn last line of a copy that was killed is left out; any other line that cannot be
// understood is an error that names it.
Result<MapContent> readMap(const std::string& path);
// Whether a file begins as a map does.
bool isMap(const std::string& path);

// "IMAGE.map", where the map of a copy lies unless said otherwise.
std::string mapPathFor(const std::string& image);

}  // namespace dreskel
