#include "deliver/delivered_before.h"

#include <fstream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "deliver/file_writer.h"
#include "job/finding_json.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

constexpr const char* kLog = ".dreskel-delivery";

std::string keyOf(const Json& pieces, const std::string& format) {
    return format + jsonText(pieces);
}

std::string keyOf(const Finding& finding) {
    const auto entry = entryOf(finding);
    return keyOf(entry["pieces"], finding.format);
}

std::string textIn(const Json& object, const char* key) {
    const auto found = object.find(key);
    return found != object.end() && found->is_string() ? found->get<std::string>() : std::string();
}

std::uint64_t numberIn(const Json& object, const char* key) {
    const auto found = object.find(key);
    return found != object.end() && found->is_number_unsigned() ? found->get<std::uint64_t>() : 0;
}

bool fill(DeliveredFile& saved, const Json& object) {
    saved.savedAs = textIn(object, "saved_as");
    saved.sha256 = textIn(object, "sha256");
    saved.size = numberIn(object, "size");
    saved.made = textIn(object, "made");
    // The folder may have come from anywhere; nothing outside of it is looked at.
    const fs::path path(saved.savedAs);
    const bool climbs = path.is_absolute() || std::find(path.begin(), path.end(), "..") != path.end();
    return !saved.savedAs.empty() && saved.sha256.size() == 64 && !climbs;
}

}  // namespace

DeliveredBefore::DeliveredBefore(fs::path root, const std::optional<SourceFacts>& source, Layout layout)
    : root_(std::move(root)) {
    head_ = jsonText(Json{{"source", source ? source->path : ""},
                          {"size", source ? source->size : 0},
                          {"layout", toWord(layout)}});
    std::error_code failed;
    if (!fs::is_directory(root_, failed)) return;
    readManifests();
    if (!fs::exists(root_ / kLog, failed)) return;
    removeHalves();
    // Of another card, or laid out otherwise: it will not be gone on with any more.
    if (!readLog()) fs::remove(root_ / kLog, failed);
}

bool DeliveredBefore::agreesWith(const std::vector<Finding>& files,
                                 const std::map<std::int64_t, std::string>& paths) const {
    std::size_t met = 0;
    for (const auto& each : files) {
        const auto saved = file(each);
        if (!saved) continue;
        if (saved->savedAs != paths.at(each.id)) return false;
        ++met;
    }
    return met > 0 && met == files_.size();
}

std::optional<DeliveredFile> DeliveredBefore::find(const Known& known, const Finding& finding) {
    if (known.empty()) return std::nullopt;
    const auto found = known.find(keyOf(finding));
    return found == known.end() ? std::nullopt : std::optional(found->second);
}

void DeliveredBefore::readManifests() {
    std::error_code failed;
    for (const auto& entry : fs::directory_iterator(root_, failed)) {
        const auto name = entry.path().filename().string();
        if (name.rfind("manifest", 0) != 0 || entry.path().extension() != ".json") continue;
        std::ifstream text(entry.path());
        const auto list = orderedJsonFrom(text);
        if (!list.is_object() || !list.contains("files") || !list["files"].is_array() ||
            !list.contains("source") || !list["source"].is_object())
            continue;
        const Json head{{"source", textIn(list["source"], "path")},
                        {"size", numberIn(list["source"], "size")},
                        {"layout", textIn(list, "layout")}};
        if (jsonText(head) != head_) continue;
        for (const auto& file : list["files"]) {
            if (!file.is_object() || !file.contains("pieces")) continue;
            const auto key = keyOf(file["pieces"], textIn(file, "format"));
            if (DeliveredFile saved; fill(saved, file)) files_[key] = saved;
            if (!file.contains("version") || !file["version"].is_object()) continue;
            if (DeliveredFile saved; fill(saved, file["version"])) versions_[key] = saved;
        }
    }
}

bool DeliveredBefore::readLog() {
    std::ifstream text(root_ / kLog);
    std::string line;
    if (!std::getline(text, line) || line != head_) return false;
    while (std::getline(text, line)) {
        const auto entry = orderedJsonFrom(line);
        if (!entry.is_object()) continue;
        DeliveredFile saved;
        if (!fill(saved, entry)) continue;
        const auto version = entry.find("version");
        auto& known =
            version != entry.end() && version->is_boolean() && version->get<bool>() ? versions_ : files_;
        known[textIn(entry, "key")] = saved;
    }
    return true;
}

void DeliveredBefore::removeHalves() const {
    std::error_code failed;
    for (fs::recursive_directory_iterator at(root_, fs::directory_options::skip_permission_denied, failed),
         end;
         !failed && at != end; at.increment(failed)) {
        if (!isAbandoned(at->path().filename().string())) continue;
        std::error_code ignored;
        fs::remove(at->path(), ignored);
    }
}

void DeliveredBefore::add(const Finding& finding, const DeliveredFile& saved, bool isVersion) {
    if (!log_.ok()) {
        std::error_code failed;
        const bool begun = fs::exists(root_ / kLog, failed);
        log_ = LineLog((root_ / kLog).string());
        if (!log_.ok() || (!begun && !log_.add(head_)))
            return;  // then it cannot be gone on with; nothing else is lost
    }
    const Json entry{{"key", keyOf(finding)}, {"saved_as", saved.savedAs}, {"sha256", saved.sha256},
                     {"size", saved.size},    {"made", saved.made},        {"version", isVersion}};
    (void)log_.add(jsonText(entry));
}

void DeliveredBefore::finish() {
    log_ = {};
    std::error_code failed;
    fs::remove(root_ / kLog, failed);
}

}  // namespace dreskel
