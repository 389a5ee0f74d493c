#include "deliver/manifest.h"

#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "job/finding_json.h"
#include "job/listing.h"

namespace dreskel {
namespace {

std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"') out.push_back('"');
        out.push_back(c == '\n' || c == '\r' ? ' ' : c);
    }
    return out + "\"";
}

// As `sha256sum -c` reads it: a line with a backslash in front where the name holds one or a line's end.
std::string checksumLine(const std::string& savedAs, const std::string& sha256) {
    if (savedAs.empty() || sha256.empty()) return {};
    std::string name;
    for (const char c : savedAs) {
        if (c == '\\')
            name += "\\\\";
        else if (c == '\n')
            name += "\\n";
        else
            name.push_back(c);
    }
    return (name == savedAs ? "" : "\\") + sha256 + "  " + name + "\n";
}

}  // namespace

std::string manifestCsv(const DeliverySum& sum) {
    std::string text = "id,kind,format,size,condition,decoded,taken,camera,saved_as,sha256,verified,note\r\n";
    for (const auto& item : sum.items) {
        const auto& finding = item.finding;
        text += std::to_string(finding.id) + "," + std::string(toWord(finding.kind)) + "," + finding.format +
                "," + std::to_string(finding.size()) + "," + std::string(toWord(finding.condition)) + "," +
                std::to_string(finding.decoded) + "," + quoted(finding.description.taken) + "," +
                quoted(finding.description.camera) + "," + quoted(item.savedAs) + "," + item.sha256 + "," +
                (item.verified ? "yes" : "no") + "," +
                quoted(item.whyNot.empty() ? finding.why : item.whyNot) + "\r\n";
        const auto& version = item.version;
        if (version.savedAs.empty()) continue;
        text += std::to_string(finding.id) + "," + std::string(toWord(finding.kind)) + ",," +
                std::to_string(version.size) + ",,,,," + quoted(version.savedAs) + "," + version.sha256 +
                "," + (version.verified ? "yes" : "no") + "," +
                quoted("a version that opens: " + version.made) + "\r\n";
    }
    return text;
}

std::string manifestJson(const Job& job, const DeliverySum& sum) {
    auto list = listingHead(job);
    list["layout"] = toWord(sum.layout);
    list["files"] = nlohmann::ordered_json::array();
    for (const auto& item : sum.items) {
        auto entry = entryOf(item.finding);
        entry["saved_as"] =
            item.savedAs.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(item.savedAs);
        entry["sha256"] =
            item.sha256.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(item.sha256);
        entry["verified"] = item.verified;
        if (!item.whyNot.empty()) entry["not_saved"] = item.whyNot;
        if (!item.version.whyNot.empty()) entry["no_version"] = item.version.whyNot;
        if (const auto& version = item.version; !version.savedAs.empty()) {
            entry["version"] = {{"saved_as", version.savedAs},
                                {"size", version.size},
                                {"sha256", version.sha256},
                                {"verified", version.verified},
                                {"made", version.made}};
        }
        list["files"].push_back(std::move(entry));
    }
    return jsonText(list, 2) + "\n";
}

std::string checksumsOf(const DeliverySum& sum) {
    std::string text;
    for (const auto& item : sum.items) {
        text += checksumLine(item.savedAs, item.sha256);
        text += checksumLine(item.version.savedAs, item.version.sha256);
    }
    return text;
}

}  // namespace dreskel
