#include "job/finding_json.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/json_text.h"

namespace dreskel {
namespace {

using Json = nlohmann::ordered_json;

Json textOrNull(const std::string& text) {
    return text.empty() ? Json(nullptr) : Json(text);
}

template <typename T>
Json valueOrNull(const std::optional<T>& value) {
    return value ? Json(*value) : Json(nullptr);
}

template <typename T>
std::optional<T> optionalFrom(const Json& object, const char* key) {
    const auto found = object.find(key);
    if (found == object.end() || found->is_null()) return std::nullopt;
    return found->get<T>();
}

std::string textFrom(const Json& object, const char* key) {
    return optionalFrom<std::string>(object, key).value_or(std::string());
}

Json rangesToJson(const std::vector<ByteRange>& ranges) {
    auto array = Json::array();
    for (const auto& range : ranges) array.push_back({range.offset, range.length});
    return array;
}

std::vector<ByteRange> rangesFromJson(const Json& array) {
    std::vector<ByteRange> ranges;
    for (const auto& range : array)
        ranges.push_back({range.at(0).get<std::uint64_t>(), range.at(1).get<std::uint64_t>()});
    return ranges;
}

}  // namespace

Json entryOf(const Finding& finding) {
    Json entry;
    entry["id"] = finding.id;
    entry["kind"] = toWord(finding.kind);
    entry["format"] = finding.format;
    entry["size"] = finding.size();
    entry["pieces"] = Json::array();
    for (const auto& piece : finding.pieces) {
        Json item{{"from", toWord(piece.from)}};
        if (piece.from == PieceFrom::Card) item["offset"] = piece.offset;
        item["length"] = piece.length;
        if (!piece.why.empty()) item["why"] = piece.why;
        entry["pieces"].push_back(std::move(item));
    }
    entry["condition"] = toWord(finding.condition);
    entry["decoded"] = finding.decoded;
    entry["name"] = textOrNull(finding.name);
    entry["folder"] = textOrNull(finding.folder);
    entry["found_by"] = Json::array();
    if (finding.byDirectory) entry["found_by"].push_back("directory");
    if (finding.bySignature) entry["found_by"].push_back("signature");
    entry["fate"] = finding.fate ? Json(toWord(*finding.fate)) : Json(nullptr);
    entry["modified"] = textOrNull(finding.modified);
    const auto& about = finding.description;
    entry["taken"] = textOrNull(about.taken);
    entry["camera"] = textOrNull(about.camera);
    entry["width"] = valueOrNull(about.width);
    entry["height"] = valueOrNull(about.height);
    entry["duration"] = valueOrNull(about.duration);
    if (about.position) entry["position"] = {about.position->latitude, about.position->longitude};
    entry["joins"] = Json::array();
    for (const auto& join : finding.joins) {
        entry["joins"].push_back({{"at", join.at}, {"confidence", join.confidence}, {"why", join.why}});
    }
    entry["inside"] = valueOrNull(finding.inside);
    entry["same_as"] = valueOrNull(finding.sameAs);
    if (finding.belongsTo) entry["belongs_to"] = *finding.belongsTo;
    entry["notes"] = finding.notes;
    if (!finding.why.empty()) entry["notes"].insert(entry["notes"].begin(), finding.why);
    return entry;
}

std::string recordOf(const Finding& finding) {
    auto record = entryOf(finding);
    record["notes"] = finding.notes;
    const auto& about = finding.description;
    record["frame_rate"] = valueOrNull(about.frameRate);
    record["orientation"] = about.orientation;
    record["codec"] = about.codec;
    record["why"] = finding.why;
    record["map"] = finding.decodedMap;
    record["wanted"] = finding.wanted;
    const auto& evidence = finding.evidence;
    record["evidence"] = {{"family", evidence.family},
                          {"offset", evidence.range.offset},
                          {"length", evidence.range.length},
                          {"proven", evidence.proven},
                          {"condition", toWord(evidence.condition)},
                          {"decoded", evidence.decoded},
                          {"why", evidence.why},
                          {"media", rangesToJson(evidence.mediaData)},
                          {"enclosed", rangesToJson(evidence.enclosed)},
                          {"holds_photos", evidence.holdsPhotos},
                          {"notices", static_cast<int>(evidence.notices)},
                          {"plain", evidence.plainSamples},
                          {"decided", evidence.decided},
                          {"places", rangesToJson(evidence.places)}};
    return jsonText(record);
}

std::optional<Finding> findingFrom(const std::string& text) {
    try {
        const auto record = orderedJsonFrom(text);
        Finding finding;
        finding.id = record.at("id").get<std::int64_t>();
        finding.kind = kindFromWord(textFrom(record, "kind")).value_or(Kind::Other);
        finding.format = textFrom(record, "format");
        for (const auto& item : record.at("pieces")) {
            Piece piece;
            piece.from = pieceFromWord(item.at("from").get<std::string>()).value_or(PieceFrom::Fill);
            piece.offset = item.value("offset", std::uint64_t{0});
            piece.length = item.at("length").get<std::uint64_t>();
            piece.why = item.value("why", std::string());
            finding.pieces.push_back(std::move(piece));
        }
        finding.condition = conditionFromWord(textFrom(record, "condition")).value_or(Condition::Unchecked);
        finding.decoded = record.at("decoded").get<double>();
        finding.name = textFrom(record, "name");
        finding.folder = textFrom(record, "folder");
        for (const auto& by : record.at("found_by")) {
            if (by == "directory") finding.byDirectory = true;
            if (by == "signature") finding.bySignature = true;
        }
        auto& about = finding.description;
        about.taken = textFrom(record, "taken");
        about.camera = textFrom(record, "camera");
        about.width = optionalFrom<std::uint32_t>(record, "width");
        about.height = optionalFrom<std::uint32_t>(record, "height");
        about.duration = optionalFrom<double>(record, "duration");
        about.frameRate = optionalFrom<double>(record, "frame_rate");
        if (const auto place = record.find("position"); place != record.end() && place->size() == 2)
            about.position = Position{place->at(0).get<double>(), place->at(1).get<double>()};
        about.orientation = record.value("orientation", 1);
        about.codec = textFrom(record, "codec");
        for (const auto& item : record.at("joins")) {
            finding.joins.push_back({item.at("at").get<std::uint64_t>(), item.at("confidence").get<double>(),
                                     item.at("why").get<std::string>()});
        }
        finding.inside = optionalFrom<std::int64_t>(record, "inside");
        finding.sameAs = optionalFrom<std::int64_t>(record, "same_as");
        finding.belongsTo = optionalFrom<std::int64_t>(record, "belongs_to");
        finding.notes = record.at("notes").get<std::vector<std::string>>();
        finding.why = textFrom(record, "why");
        finding.decodedMap = record.value("map", std::vector<std::uint8_t>());
        finding.wanted = record.value("wanted", true);
        const auto& claim = record.at("evidence");
        auto& evidence = finding.evidence;
        evidence.family = textFrom(claim, "family");
        evidence.range = {claim.at("offset").get<std::uint64_t>(), claim.at("length").get<std::uint64_t>()};
        evidence.proven = claim.at("proven").get<std::uint64_t>();
        evidence.condition = conditionFromWord(textFrom(claim, "condition")).value_or(Condition::Unchecked);
        evidence.decoded = claim.at("decoded").get<double>();
        evidence.why = textFrom(claim, "why");
        evidence.mediaData = rangesFromJson(claim.at("media"));
        evidence.enclosed = rangesFromJson(claim.value("enclosed", Json::array()));
        evidence.holdsPhotos = claim.value("holds_photos", false);
        evidence.decided = claim.value("decided", false);
        evidence.notices = static_cast<Notices>(std::clamp(claim.value("notices", 0), 0, 2));
        evidence.plainSamples = claim.value("plain", false);
        evidence.places = rangesFromJson(claim.value("places", Json::array()));
        const auto made = [](const Piece& piece) { return piece.from == PieceFrom::Made; };
        if (std::any_of(finding.pieces.begin(), finding.pieces.end(), made))
            evidence.rebuilt = finding.pieces;
        finding.fate = fateFromWord(textFrom(record, "fate"));
        finding.modified = textFrom(record, "modified");
        return finding;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    }
}

}  // namespace dreskel
