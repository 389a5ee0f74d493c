#include "deliver/name_pattern.h"

#include <algorithm>
#include <cctype>

#include "deliver/naming.h"

namespace dreskel {
namespace {

// Part of "2026-05-02T07:41:10"; `otherwise` when there is no date.
std::string fromTaken(const Finding& finding, std::size_t at, std::size_t count, const char* otherwise) {
    const auto& taken = finding.description.taken;
    if (taken.size() < 19) return otherwise;
    auto text = taken.substr(at, count);
    std::replace(text.begin(), text.end(), ':', '.');
    return text;
}

std::string numberOf(const Finding& finding) {
    const auto digits = std::to_string(finding.id);
    return std::string(digits.size() < 5 ? 5 - digits.size() : 0, '0') + digits;
}

std::string valueOf(const std::string& word, const Finding& finding) {
    const auto& about = finding.description;
    if (word == "date") return fromTaken(finding, 0, 10, "undated");
    if (word == "time") return fromTaken(finding, 11, 8, "");
    if (word == "year") return fromTaken(finding, 0, 4, "undated");
    if (word == "month") return fromTaken(finding, 5, 2, "");
    if (word == "day") return fromTaken(finding, 8, 2, "");
    if (word == "camera") return about.camera.empty() ? kindWord(finding.kind) : about.camera;
    if (word == "kind") return kindWord(finding.kind);
    if (word == "format") return finding.format;
    return numberOf(finding);
}

std::string usualName(const Finding& finding) {
    const auto who = valueOf("camera", finding);
    if (finding.description.taken.size() >= 19)
        return valueOf("date", finding) + " " + valueOf("time", finding) + " " + who;
    return who + ", undated, from byte " + std::to_string(finding.start());
}

}  // namespace

const std::vector<std::pair<std::string_view, std::string_view>>& NamePattern::words() {
    static const std::vector<std::pair<std::string_view, std::string_view>> all{
        {"date", "2026-05-02, or undated"},
        {"time", "07.41.10"},
        {"year", "2026"},
        {"month", "05"},
        {"day", "02"},
        {"camera", "the camera, or Photo, Clip, Sound"},
        {"kind", "Photo, Clip, Sound"},
        {"format", "jpeg"},
        {"number", "00017, the file's number in the job"}};
    return all;
}

Result<NamePattern> NamePattern::from(std::string_view text) {
    NamePattern pattern;
    if (text == kUsual) return pattern;
    const auto refuse = [&](const std::string& what) {
        return Error{Fault::Usage, what, std::string(text),
                     "Words are {date} {time} {year} {month} {day} {camera} {kind} {format} {number}"};
    };
    while (!text.empty()) {
        const auto open = text.find('{');
        if (open != 0) {
            pattern.parts_.push_back({std::string(text.substr(0, open)), false});
            text = open == std::string_view::npos ? std::string_view() : text.substr(open);
            continue;
        }
        const auto close = text.find('}');
        if (close == std::string_view::npos) return refuse("A word is not closed with }");
        const auto word = text.substr(1, close - 1);
        const bool known =
            std::any_of(words().begin(), words().end(), [&](const auto& each) { return each.first == word; });
        if (!known) return refuse("There is no word {" + std::string(word) + "}");
        pattern.parts_.push_back({std::string(word), true});
        text = text.substr(close + 1);
    }
    return pattern;
}

std::string NamePattern::nameOf(const Finding& finding) const {
    if (parts_.empty()) return usualName(finding);
    std::string name;
    for (const auto& part : parts_) name += part.isWord ? valueOf(part.text, finding) : part.text;
    // What is not known leaves gaps.
    name.erase(std::unique(name.begin(), name.end(), [](char a, char b) { return a == ' ' && b == ' '; }),
               name.end());
    const bool bare = std::none_of(name.begin(), name.end(),
                                   [](unsigned char c) { return std::isalpha(c) != 0 || c >= 0x80; });
    return bare ? kindWord(finding.kind) + " " + name : name;
}

}  // namespace dreskel
