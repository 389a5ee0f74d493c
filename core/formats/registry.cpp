#include "formats/registry.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <mutex>

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
    static const std::vector<Registered> all{{&jpegFormat, "\xff"sv},
                                             {&isoFormat, ""sv},
                                             {&isoPictureFormat(), "\0"sv},
                                             {&wavFormat, "R"sv},
                                             {&pngFormat(), "\x89"sv},
                                             {&gifFormat(), "G"sv},
                                             {&bmpFormat(), "B"sv},
                                             {&webpFormat(), "R"sv},
                                             {&jxlFormat(), "\xff"sv},
                                             {&tiffFormat(), "IM"sv},
                                             {&rawFormat(), "F\0"sv},
                                             {&cr3Format(), "\0"sv},
                                             {&aviFormat(), "R"sv},
                                             {&matroskaFormat(), "\x1a"sv},
                                             {&asfFormat(), "\x30"sv},
                                             {&flvFormat(), "F"sv},
                                             {&mxfFormat(), "\x06"sv},
                                             {&dvFormat(), ""sv},
                                             {&transportFormat(), ""sv},
                                             {&programFormat(), "\0"sv},
                                             {&mpegAudioFormat(), "I\xff"sv},
                                             {&adtsFormat(), "\xff"sv},
                                             {&amrFormat(), "#"sv},
                                             {&oggFormat(), "O"sv},
                                             {&flacFormat(), "f"sv},
                                             {&aiffFormat(), "F"sv},
                                             {&cafFormat(), "c"sv},
                                             {&midiFormat(), "M"sv},
                                             {&directoryBehindFormat(), "IMF"sv},
                                             {&elementaryFormat(), "\0"sv},
                                             {&xmpFormat(), "<\xef"sv},
                                             {&subtitleFormat(), "01\xef"sv}};
    return all;
}

// All formats at one time. Never taken away once it was in use.
struct Table {
    std::vector<std::shared_ptr<const Format>> own;
    std::vector<const Format*> all;
    std::array<std::vector<const Format*>, 256> beginning;

    explicit Table(std::vector<std::shared_ptr<const Format>> added) : own(std::move(added)) {
        for (const auto& entry : registered()) add(entry.format, entry.begins);
        for (const auto& format : own) add(format.get(), {});
    }
    void add(const Format* format, std::string_view begins) {
        all.push_back(format);
        for (std::size_t byte = 0; byte < beginning.size(); ++byte) {
            const bool may = begins.empty() || begins.find(static_cast<char>(byte)) != std::string_view::npos;
            if (may) beginning[byte].push_back(format);
        }
    }
};

std::mutex tablesMutex;
std::vector<std::unique_ptr<const Table>>& tables() {
    static std::vector<std::unique_ptr<const Table>> all;
    return all;
}
std::atomic<const Table*> current{nullptr};

const Table& replaceTable(std::vector<std::shared_ptr<const Format>> own) {
    const std::lock_guard lock(tablesMutex);
    tables().push_back(std::make_unique<const Table>(std::move(own)));
    current = tables().back().get();
    return *tables().back();
}

const Table& table() {
    if (const auto* known = current.load()) return *known;
    static std::once_flag once;
    std::call_once(once, [] {
        if (current.load() == nullptr) replaceTable({});
    });
    return *current.load();
}

}  // namespace

const std::vector<const Format*>& builtInFormats() {
    static const auto all = [] {
        std::vector<const Format*> made;
        for (const auto& entry : registered()) made.push_back(entry.format);
        return made;
    }();
    return all;
}

const std::vector<const Format*>& allFormats() {
    return table().all;
}

const std::vector<const Format*>& formatsBeginning(std::uint8_t first) {
    return table().beginning[first];
}

void setOwnFormats(std::vector<std::shared_ptr<const Format>> own) {
    replaceTable(std::move(own));
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
