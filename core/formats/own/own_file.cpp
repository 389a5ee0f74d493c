#include "formats/own/own_file.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "base/json_text.h"
#include "base/user_files.h"

namespace dreskel::own {
namespace {

using nlohmann::ordered_json;

constexpr std::uintmax_t kLargestFile = 4 << 20;

std::size_t lineOf(const std::string& text, std::size_t at) {
    const auto end = text.begin() + static_cast<std::ptrdiff_t>(std::min(at, text.size()));
    return 1 + static_cast<std::size_t>(std::count(text.begin(), end, '\n'));
}

// Where each object of the outermost list begins in a text that is valid JSON.
std::vector<std::size_t> placesOfObjects(const std::string& text) {
    std::vector<std::size_t> places;
    int depth = 0;
    bool quoted = false;
    for (std::size_t at = 0; at < text.size(); ++at) {
        const char letter = text[at];
        if (quoted) {
            if (letter == '\\') ++at;
            quoted = letter != '"';
            continue;
        }
        if (letter == '"') quoted = true;
        if (letter == '{' && depth == 2) places.push_back(at);
        if (letter == '{' || letter == '[') ++depth;
        if (letter == '}' || letter == ']') --depth;
    }
    return places;
}

Error refused(const std::string& path, std::size_t line, const std::string& why) {
    return {Fault::Failed, "Line " + std::to_string(line) + ": " + why, path,
            "Mend it or take it out; nothing of the file is used until then"};
}

// Fills `into`; why not, or empty.
std::string read(const ordered_json& json, Definition& into) {
    const auto text = [&](const char* key) {
        const auto found = json.find(key);
        return found != json.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    for (const auto& [key, value] : json.items()) {
        if (key != "name" && key != "kind" && key != "extension" && key != "begins" && key != "ends" &&
            key != "most_bytes")
            return "\"" + key + "\" is not a key of a format";
    }
    into.name = text("name");
    into.extension = text("extension");
    const auto kind = kindFromWord(text("kind"));
    if (!kind) return "\"kind\" must be photo, video, audio, sidecar or other";
    into.kind = *kind;
    const auto begins = json.find("begins");
    if (begins == json.end() || !begins->is_array())
        return "\"begins\" must be a list of {\"at\", \"bytes\"}";
    for (const auto& one : *begins) {
        const bool shaped = one.is_object() && one.contains("at") && one["at"].is_number_unsigned() &&
                            one.contains("bytes") && one["bytes"].is_string();
        auto pattern = shaped ? patternFrom(one["bytes"].get<std::string>()) : std::nullopt;
        if (!pattern) return "each of \"begins\" must be {\"at\": 0, \"bytes\": \"4f 52 ?? 01\"}";
        pattern->at = one["at"].get<std::uint64_t>();
        into.begins.push_back(*pattern);
    }
    if (json.contains("ends")) {
        into.ends = patternFrom(text("ends"));
        if (!into.ends) return "\"ends\" must be bytes such as \"45 4e ?? 44\"";
    }
    const auto most = json.find("most_bytes");
    if (most == json.end() || !most->is_number_unsigned()) return "\"most_bytes\" must be a number";
    into.mostBytes = most->get<std::uint64_t>();
    return faultOf(into);
}

ordered_json jsonOf(const Definition& definition) {
    ordered_json json{{"name", definition.name},
                      {"kind", toWord(definition.kind)},
                      {"extension", definition.extension},
                      {"begins", ordered_json::array()}};
    for (const auto& pattern : definition.begins)
        json["begins"].push_back({{"at", pattern.at}, {"bytes", toText(pattern)}});
    if (definition.ends) json["ends"] = toText(*definition.ends);
    json["most_bytes"] = definition.mostBytes;
    return json;
}

}  // namespace

Result<std::vector<Definition>> definitionsFrom(const std::string& text, const std::string& path) {
    ordered_json json;
    try {
        json = ordered_json::parse(text);
    } catch (const ordered_json::parse_error& failure) {
        return refused(path, lineOf(text, failure.byte == 0 ? 0 : failure.byte - 1), "this is no JSON");
    } catch (const ordered_json::exception&) {
        return refused(path, 1, "it holds a number that is out of all bounds");
    }
    const bool shaped = json.is_object() && json.contains("schema") && json["schema"] == 1 &&
                        json.contains("formats") && json["formats"].is_array();
    if (!shaped) return refused(path, 1, "the file must be {\"schema\": 1, \"formats\": [ ... ]}");
    const auto places = placesOfObjects(text);
    std::vector<Definition> all;
    for (std::size_t i = 0; i < json["formats"].size(); ++i) {
        const auto line = i < places.size() ? lineOf(text, places[i]) : 1;
        const auto& one = json["formats"][i];
        if (!one.is_object()) return refused(path, line, "each format must be an object");
        Definition definition;
        if (const auto fault = read(one, definition); !fault.empty()) return refused(path, line, fault);
        const bool twice = std::any_of(
            all.begin(), all.end(), [&](const Definition& other) { return other.name == definition.name; });
        if (twice) return refused(path, line, "\"" + definition.name + "\" is defined twice");
        all.push_back(std::move(definition));
    }
    return all;
}

std::string textOf(const std::vector<Definition>& definitions) {
    ordered_json json{{"schema", 1}, {"formats", ordered_json::array()}};
    for (const auto& definition : definitions) json["formats"].push_back(jsonOf(definition));
    return jsonText(json, 2) + "\n";
}

Result<std::vector<Definition>> readDefinitions(const std::string& path) {
    std::error_code failed;
    const auto size = std::filesystem::file_size(path, failed);
    if (failed == std::errc::no_such_file_or_directory) return std::vector<Definition>{};
    if (!failed && size > kLargestFile) return refused(path, 1, "the file is far too large for this");
    std::ifstream file(path, std::ios::binary);
    std::ostringstream text;
    text << file.rdbuf();
    if (failed || !file)
        return Error{Fault::Failed, "The formats cannot be read", path, "Check its permissions"};
    return definitionsFrom(text.str(), path);
}

Status writeDefinitions(const std::string& path, const std::vector<Definition>& definitions) {
    return replaceUserFile(path, textOf(definitions), "The formats");
}

std::string usualPath() {
    return configurationFile("formats.json");
}

}  // namespace dreskel::own
