// Writes the map of a copy: it grows by a line with every read, so that a kill at any moment loses no more
// than the read in hand.
#pragma once

#include <memory>
#include <string>

#include "base/unique_fd.h"
#include "source/map_file.h"

namespace dreskel {

// Writes a map; one process at a time.
class MapWriter {
  public:
    // Makes the file, or takes up an existing one: it is written anew without what was overruled since.
    static Result<std::unique_ptr<MapWriter>> open(const std::string& path, const MapContent& content);

    Status add(const MapCell& cell);
    // Everything anew, without what was overruled since, and to the medium.
    Status rewrite(const MapContent& content);

  private:
    MapWriter(UniqueFd fd, std::string path) : fd_(std::move(fd)), path_(std::move(path)) {}

    UniqueFd fd_;
    std::string path_;
};

}  // namespace dreskel
