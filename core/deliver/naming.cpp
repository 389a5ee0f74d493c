#include "deliver/naming.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "formats/registry.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongestName = 120;

std::string lowered(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text;
}

bool isReserved(const std::string& name) {
    constexpr std::array<std::string_view, 4> words{"con", "prn", "aux", "nul"};
    const auto stem = lowered(name.substr(0, name.find('.')));
    if (std::find(words.begin(), words.end(), stem) != words.end()) return true;
    return stem.size() == 4 && (stem.rfind("com", 0) == 0 || stem.rfind("lpt", 0) == 0) && stem[3] >= '0' &&
           stem[3] <= '9';
}

std::string folderOf(Kind kind) {
    switch (kind) {
        case Kind::Photo: return "Photos";
        case Kind::Video: return "Clips";
        case Kind::Audio: return "Sound";
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return "Other";
}

std::string stemOf(const Finding& finding, const NamePattern& names) {
    if (!finding.name.empty()) return finding.name.substr(0, finding.name.rfind('.'));
    return names.nameOf(finding);
}

std::string extensionOf(const Finding& finding) {
    const auto dot = finding.name.rfind('.');
    if (dot != std::string::npos && dot + 1 < finding.name.size()) return finding.name.substr(dot + 1);
    const auto* format = formatFor(finding.format);
    if (format != nullptr) return std::string(format->extension(finding.format));
    // Of a format of one's own that is not kept any more.
    return finding.format.empty() || finding.format == "unknown" ? "bin" : finding.format;
}

constexpr std::array<std::pair<Layout, std::string_view>, 6> kLayouts{{{Layout::Kind, "kind"},
                                                                       {Layout::Date, "date"},
                                                                       {Layout::Camera, "camera"},
                                                                       {Layout::Folders, "folders"},
                                                                       {Layout::Flat, "flat"},
                                                                       {Layout::Dcf, "dcf"}}};

}  // namespace

std::string kindWord(Kind kind) {
    switch (kind) {
        case Kind::Photo: return "Photo";
        case Kind::Video: return "Clip";
        case Kind::Audio: return "Sound";
        case Kind::Sidecar:
        case Kind::Other: break;
    }
    return "File";
}

std::optional<Layout> layoutFromWord(std::string_view word) {
    for (const auto& [layout, known] : kLayouts) {
        if (word == known) return layout;
    }
    return std::nullopt;
}

std::string_view toWord(Layout layout) {
    for (const auto& [known, word] : kLayouts) {
        if (layout == known) return word;
    }
    return {};
}

std::string safeName(std::string_view name) {
    std::string safe;
    for (const char raw : name) {
        const auto c = static_cast<unsigned char>(raw);
        const bool bad =
            c < 0x20 || c == 0x7f || std::string_view("/\\:*?\"<>|").find(raw) != std::string_view::npos;
        safe.push_back(bad ? '_' : raw);
    }
    const auto trimEnd = [&] {
        while (!safe.empty() && (safe.back() == '.' || safe.back() == ' ')) safe.pop_back();
    };
    trimEnd();
    safe.erase(0, std::min(safe.find_first_not_of(" ."), safe.size()));
    if (safe.empty()) return "unnamed";
    if (isReserved(safe)) safe.insert(safe.begin(), '_');
    if (safe.size() > kLongestName) {
        // Not in the middle of a UTF-8 character.
        auto end = kLongestName;
        while (end > 0 && (static_cast<unsigned char>(safe[end]) & 0xc0) == 0x80) --end;
        safe.resize(end);
        trimEnd();
    }
    return safe;
}

std::string proposePath(const Finding& finding, Layout layout, const NamePattern& names) {
    auto stem = safeName(stemOf(finding, names));
    if (finding.condition == Condition::Partial) stem += " (partial)";
    if (finding.condition == Condition::Broken) stem += " (broken)";
    const auto file = stem + "." + safeName(extensionOf(finding));
    const auto& about = finding.description;
    switch (layout) {
        case Layout::Dcf:
        case Layout::Flat: return file;
        case Layout::Kind: return folderOf(finding.kind) + "/" + file;
        case Layout::Date:
            if (about.taken.size() < 10) return "Undated/" + file;
            return safeName(about.taken.substr(0, 4)) + "/" + safeName(about.taken.substr(0, 10)) + "/" +
                   file;
        case Layout::Camera:
            return (about.camera.empty() ? "Camera unknown" : safeName(about.camera)) + "/" + file;
        case Layout::Folders: break;
    }
    if (finding.folder.empty()) return "Folder unknown/" + folderOf(finding.kind) + "/" + file;
    std::string path;
    for (std::size_t at = 0; at <= finding.folder.size();) {
        const auto next = std::min(finding.folder.find('/', at), finding.folder.size());
        if (next > at) path += safeName(finding.folder.substr(at, next - at)) + "/";
        at = next + 1;
    }
    return path + file;
}

std::string proposeBeside(const Finding& owner, const Finding& finding, Layout layout,
                          const NamePattern& names) {
    const auto own = proposePath(finding, layout, names);
    if (layout == Layout::Folders && !finding.folder.empty()) return own;
    const auto beside = proposePath(owner, layout, names);
    const auto folder = beside.substr(0, beside.rfind('/') + 1);  // empty where there is none
    if (!finding.name.empty() || finding.kind != Kind::Sidecar)
        return folder + own.substr(own.rfind('/') + 1);
    return folder + safeName(stemOf(owner, names)) + "." + safeName(extensionOf(finding));
}

std::string NameBook::claim(const std::string& path) {
    if (taken_.insert(lowered(path)).second) return path;
    const auto dot = path.rfind('.');
    const auto slash = path.rfind('/');
    const auto cut =
        dot == std::string::npos || (slash != std::string::npos && dot < slash) ? path.size() : dot;
    for (int number = 2;; ++number) {
        const auto other = path.substr(0, cut) + " (" + std::to_string(number) + ")" + path.substr(cut);
        if (taken_.insert(lowered(other)).second) return other;
    }
}

}  // namespace dreskel
