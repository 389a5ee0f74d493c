#include "formats/registry.h"

#include <algorithm>
#include <array>

#include "formats/families.h"
#include "formats/isobmff/iso_format.h"
#include "formats/jpeg/jpeg_format.h"
#include "formats/riff/wav_format.h"

namespace dreskel {

namespace {

using namespace std::string_view_literals;

struct Registered {
    const Format* format;
    std::string_view begins;  // the bytes that its files begin with, one of them; empty: any
};

const std::vector<Registered>& registered() {
    static const jpeg::JpegFormat jpegFormat;
    static const isobmff::IsoFormat isoFormat;
    static const riff::WavFormat wavFormat;
    static const std::vector<Registered> all{{&jpegFormat, "\xff"sv},         {&isoFormat, ""sv},
                                             {&isoPictureFormat(), "\0"sv},   {&wavFormat, "R"sv},
                                             {&pngFormat(), "\x89"sv},        {&gifFormat(), "G"sv},
                                             {&bmpFormat(), "B"sv},           {&webpFormat(), "R"sv},
                                             {&tiffFormat(), "IM"sv},         {&rawFormat(), "F\0"sv},
                                             {&aviFormat(), "R"sv},           {&matroskaFormat(), "\x1a"sv},
                                             {&asfFormat(), "\x30"sv},        {&flvFormat(), "F"sv},
                                             {&mxfFormat(), "\x06"sv},        {&dvFormat(), ""sv},
                                             {&transportFormat(), ""sv},      {&programFormat(), "\0"sv},
                                             {&mpegAudioFormat(), "I\xff"sv}, {&adtsFormat(), "\xff"sv},
                                             {&amrFormat(), "#"sv},           {&oggFormat(), "O"sv},
                                             {&flacFormat(), "f"sv},          {&aiffFormat(), "F"sv},
                                             {&cafFormat(), "c"sv},           {&midiFormat(), "M"sv}};
    return all;
}

}  // namespace

const std::vector<const Format*>& allFormats() {
    static const auto all = [] {
        std::vector<const Format*> made;
        for (const auto& entry : registered()) made.push_back(entry.format);
        return made;
    }();
    return all;
}

const std::vector<const Format*>& formatsBeginning(std::uint8_t first) {
    static const auto table = [] {
        std::array<std::vector<const Format*>, 256> made;
        for (const auto& entry : registered()) {
            for (std::size_t byte = 0; byte < made.size(); ++byte) {
                const bool may = entry.begins.empty() ||
                                 entry.begins.find(static_cast<char>(byte)) != std::string_view::npos;
                if (may) made[byte].push_back(entry.format);
            }
        }
        return made;
    }();
    return table[first];
}

const Format* formatFor(std::string_view shortName) {
    for (const auto* format : allFormats()) {
        const auto names = format->formats();
        if (std::find(names.begin(), names.end(), shortName) != names.end()) return format;
    }
    return nullptr;
}

const Format* familyNamed(std::string_view name) {
    for (const auto* format : allFormats()) {
        if (format->name() == name) return format;
    }
    return nullptr;
}

}  // namespace dreskel
