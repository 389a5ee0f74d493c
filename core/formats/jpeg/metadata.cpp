#include "formats/jpeg/metadata.h"

#include <algorithm>
#include <cctype>

#include "formats/tiff.h"

namespace dreskel::jpeg {
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

void readExif(Bytes body, Metadata& into) {
    const auto block = tiff::Block::open(body);
    if (!block) return;
    const auto main = block->directory(block->first());
    if (!main) return;
    into.exif = true;
    const auto textOf = [](const tiff::Directory& directory, std::uint16_t tag) {
        const auto* entry = directory.find(tag);
        return entry != nullptr ? entry->text() : std::string();
    };
    into.description.camera = cameraName(textOf(*main, 0x010f), textOf(*main, 0x0110));
    into.description.taken = isoTime(textOf(*main, 0x0132));
    if (const auto* orientation = main->find(0x0112)) {
        const auto value = orientation->number().value_or(1);
        if (value >= 1 && value <= 8) into.description.orientation = static_cast<int>(value);
    }
    const auto* pointer = main->find(0x8769);
    if (pointer == nullptr || !pointer->number()) return;
    const auto exif = block->directory(*pointer->number());
    if (!exif) return;
    if (auto original = isoTime(textOf(*exif, 0x9003)); !original.empty()) {
        const auto zone = textOf(*exif, 0x9011);
        const bool plausible = zone.size() == 6 && (zone[0] == '+' || zone[0] == '-') && zone[3] == ':';
        into.description.taken = plausible ? original + zone : original;
    }
}

void readMultiPicture(Bytes body, std::uint64_t bodyAt, Metadata& into) {
    const auto block = tiff::Block::open(body);
    if (!block) return;
    const auto index = block->directory(block->first());
    if (!index) return;
    const auto* entries = index->find(0xb002);
    if (entries == nullptr || entries->value.size() % 16 != 0) return;
    ByteReader reader(entries->value, block->endian());
    while (reader.left() >= 16 && into.furtherPictures.size() < 16) {
        reader.skip(4);
        const auto size = reader.u32();
        const auto offset = reader.u32();
        reader.skip(4);
        if (offset != 0 && size > 0) into.furtherPictures.push_back({bodyAt + offset, size});
    }
    std::sort(into.furtherPictures.begin(), into.furtherPictures.end(),
              [](const ByteRange& a, const ByteRange& b) { return a.offset < b.offset; });
}

}  // namespace

Metadata readMetadata(Bytes head) {
    Metadata found;
    std::size_t at = 2;
    while (at + 4 <= head.size() && head[at] == 0xff) {
        const auto code = head[at + 1];
        if (code == 0xff) {
            ++at;
            continue;
        }
        if (code == 0xda || code == 0xd9) break;
        const std::size_t length = static_cast<std::size_t>(head[at + 2]) << 8 | head[at + 3];
        if (length < 2) break;
        const auto body = slice(head, at + 4, length - 2);
        if (code == 0xe1 && startsWith(body, std::string_view("Exif\0\0", 6))) {
            readExif(body.subspan(6), found);
        } else if (code == 0xe2 && startsWith(body, std::string_view("MPF\0", 4))) {
            readMultiPicture(body.subspan(4), at + 8, found);
        }
        at += 2 + length;
    }
    return found;
}

}  // namespace dreskel::jpeg
