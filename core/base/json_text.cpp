#include "base/json_text.h"

#include <istream>
#include <iterator>
#include <nlohmann/json.hpp>

namespace dreskel {
namespace {

template <class Json>
std::string written(const Json& json, int indent) {
    return json.dump(indent, ' ', false, Json::error_handler_t::replace);
}

std::string wholeText(std::istream& file) {
    return {std::istreambuf_iterator<char>(file), std::istreambuf_iterator<char>()};
}

}  // namespace

nlohmann::json jsonFrom(std::string_view text) {
    return nlohmann::json::parse(text, nullptr, false);
}

nlohmann::json jsonFrom(std::istream& file) {
    return jsonFrom(wholeText(file));
}

nlohmann::ordered_json orderedJsonFrom(std::string_view text) {
    return nlohmann::ordered_json::parse(text, nullptr, false);
}

nlohmann::ordered_json orderedJsonFrom(std::istream& file) {
    return orderedJsonFrom(wholeText(file));
}

std::string jsonText(const nlohmann::json& json, int indent) {
    return written(json, indent);
}

std::string jsonText(const nlohmann::ordered_json& json, int indent) {
    return written(json, indent);
}

}  // namespace dreskel
