#include "formats/exif.h"

#include <algorithm>
#include <cctype>

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

}  // namespace

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
