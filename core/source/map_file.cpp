#include "source/map_file.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

namespace dreskel {
namespace {

constexpr int kMostTries = 100000;

Error failed(const std::string& what, const std::string& path) {
    return {Fault::Failed, what + ": " + std::strerror(errno), path,
            "Check the room and the rights on the drive that takes the copy"};
}

Error malformed(const std::string& path, std::size_t line) {
    return {Fault::Failed, "The copy's map has a line that cannot be understood",
            path + ", line " + std::to_string(line),
            "If the file was changed by hand, undo that; otherwise make a new copy"};
}

std::optional<MapCell> cellFrom(Tried state, std::istringstream& fields, std::uint64_t size) {
    MapCell cell;
    cell.state = state;
    if (!(fields >> cell.range.offset >> cell.range.length)) return std::nullopt;
    if (cell.range.offset > size || cell.range.length > size - cell.range.offset) return std::nullopt;
    if (!(fields >> cell.tries)) cell.tries = 0;
    cell.tries = std::clamp(cell.tries, 0, kMostTries);
    return cell;
}

}  // namespace

std::string mapPathFor(const std::string& image) {
    return image + ".map";
}

bool isMap(const std::string& path) {
    std::ifstream file(path);
    std::string line;
    return std::getline(file, line) && line == kMapFirstLine;
}

Result<MapContent> readMap(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    if (!file) return failed("The copy's map cannot be read", path);
    MapContent content;
    std::string line;
    std::size_t number = 0;
    while (std::getline(file, line)) {
        ++number;
        if (file.eof()) break;  // no end of line: torn by a kill
        if (number == 1) {
            if (line != kMapFirstLine) return malformed(path, number);
            continue;
        }
        if (line.empty() || line[0] == '#') continue;
        std::istringstream fields(line);
        std::string word;
        fields >> word;
        const auto rest = line.size() > word.size() ? line.substr(word.size() + 1) : std::string();
        if (word == "path") {
            content.card.path = rest;
        } else if (word == "serial") {
            content.card.serial = rest;
        } else if (word == "sha256") {
            content.sha256 = rest;
        } else if (word == "sector") {
            if (!(fields >> content.card.sectorSize) || content.card.sectorSize == 0)
                return malformed(path, number);
        } else if (word == "size") {
            if (content.map || !(fields >> content.card.size)) return malformed(path, number);
            content.map = std::make_shared<CopyMap>(content.card.size);
        } else {
            const auto state = triedFromWord(word);
            if (!state || !content.map) return malformed(path, number);
            const auto cell = cellFrom(*state, fields, content.card.size);
            if (!cell) return malformed(path, number);
            content.map->set(cell->range, cell->state, cell->tries);
            if (*state == Tried::Read) content.sha256.clear();  // it was made before these bytes came
        }
    }
    if (!content.map) return malformed(path, number);
    return content;
}

}  // namespace dreskel
