#include "formats/exif.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>

#include "formats/tiff.h"

namespace dreskel {
namespace {

// "2026:05:02 07:41:10" to "2026-05-02T07:41:10"; empty when it is not a date.
std::string isoTime(const std::string& exif) {
    if (exif.size() < 19) return {};
    for (std::size_t i = 0; i < 19; ++i) {
        const bool digit = std::isdigit(static_cast<unsigned char>(exif[i])) != 0;
        const bool separator = i == 4 || i == 7 || i == 10 || i == 13 || i == 16;
        if (digit == separator) return {};
    }
    if (exif.compare(0, 4, "0000") == 0) return {};
    auto iso = exif.substr(0, 19);
    iso[4] = iso[7] = '-';
    iso[10] = 'T';
    return iso;
}

std::string cameraName(const std::string& make, const std::string& model) {
    if (model.empty()) return make;
    const auto firstWord = make.substr(0, make.find(' '));
    const bool named =
        std::equal(firstWord.begin(), firstWord.end(), model.begin(),
                   model.begin() + static_cast<std::ptrdiff_t>(std::min(firstWord.size(), model.size())),
                   [](unsigned char a, unsigned char b) { return std::tolower(a) == std::tolower(b); });
    return make.empty() || named ? model : make + " " + model;
}

// Degrees, minutes and seconds as three fractions (CIPA DC-008, 4.6.6).
std::optional<double> degreesOf(const tiff::Entry& entry) {
    if (entry.type != 5 || entry.count != 3 || entry.value.size() < 24) return std::nullopt;
    ByteReader reader(entry.value, entry.endian);
    double degrees = 0;
    for (const double part : {1.0, 60.0, 3600.0}) {
        const double above = reader.u32();
        const double below = reader.u32();
        if (below == 0 && above != 0) return std::nullopt;
        if (below != 0) degrees += above / below / part;
    }
    return degrees;
}

std::optional<Position> checked(double latitude, double longitude) {
    // Zero and zero is what cameras write that know no place.
    if (std::abs(latitude) > 90 || std::abs(longitude) > 180 || (latitude == 0 && longitude == 0))
        return std::nullopt;
    return Position{latitude, longitude};
}

std::optional<Position> positionIn(const tiff::Directory& directory) {
    const auto* latitude = directory.find(2);
    const auto* longitude = directory.find(4);
    const auto* northOrSouth = directory.find(1);
    const auto* eastOrWest = directory.find(3);
    if (latitude == nullptr || longitude == nullptr || northOrSouth == nullptr || eastOrWest == nullptr)
        return std::nullopt;
    const auto up = degreesOf(*latitude);
    const auto along = degreesOf(*longitude);
    if (!up || !along) return std::nullopt;
    return checked(northOrSouth->text() == "S" ? -*up : *up, eastOrWest->text() == "W" ? -*along : *along);
}

}  // namespace

Bytes thumbnailIn(Bytes bytes) {
    const auto block = tiff::Block::open(bytes);
    if (!block) return {};
    const auto first = block->directory(block->first());
    if (!first || first->next() == 0) return {};
    const auto second = block->directory(first->next());
    if (!second) return {};
    const auto* at = second->find(0x201);
    const auto* length = second->find(0x202);
    if (at == nullptr || length == nullptr) return {};
    return slice(bytes, at->number().value_or(0), length->number().value_or(0));
}

std::optional<Position> positionFrom(const std::string& text) {
    // Numbers as they are written everywhere, whatever this machine's language makes of a point.
    const auto* at = text.data();
    const auto* end = at + text.size();
    const auto number = [&]() -> std::optional<double> {
        if (at == end || (*at != '+' && *at != '-')) return std::nullopt;
        const bool less = *at++ == '-';
        double value = 0;
        const auto read = std::from_chars(at, end, value, std::chars_format::fixed);
        if (read.ec != std::errc() || value < 0) return std::nullopt;
        at = read.ptr;
        return less ? -value : value;
    };
    const auto latitude = number();
    const auto longitude = latitude ? number() : std::nullopt;
    return longitude ? checked(*latitude, *longitude) : std::nullopt;
}

bool readExif(Bytes bytes, Description& into) {
    const auto block = tiff::Block::open(bytes);
    if (!block) return false;
    const auto main = block->directory(block->first());
    if (!main) return false;
    const auto textOf = [](const tiff::Directory& directory, std::uint16_t tag) {
        const auto* entry = directory.find(tag);
        return entry != nullptr ? entry->text() : std::string();
    };
    into.camera = cameraName(textOf(*main, 0x010f), textOf(*main, 0x0110));
    into.taken = isoTime(textOf(*main, 0x0132));
    if (const auto* orientation = main->find(0x0112)) {
        const auto value = orientation->number().value_or(1);
        if (value >= 1 && value <= 8) into.orientation = static_cast<int>(value);
    }
    if (const auto* gps = main->find(0x8825); gps != nullptr && gps->number()) {
        if (const auto place = block->directory(*gps->number())) into.position = positionIn(*place);
    }
    const auto* pointer = main->find(0x8769);
    if (pointer == nullptr || !pointer->number()) return true;
    const auto exif = block->directory(*pointer->number());
    if (!exif) return true;
    if (auto original = isoTime(textOf(*exif, 0x9003)); !original.empty()) {
        const auto zone = textOf(*exif, 0x9011);
        const bool plausible = zone.size() == 6 && (zone[0] == '+' || zone[0] == '-') && zone[3] == ':';
        into.taken = plausible ? original + zone : original;
    }
    return true;
}

}  // namespace dreskel
