// JSON from text and back. In one place since both are large templates that every file would compile anew.
#pragma once

#include <iosfwd>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

namespace dreskel {

// is_discarded() holds for what comes of a text that is no JSON.
nlohmann::json jsonFrom(std::string_view text);
nlohmann::json jsonFrom(std::istream& file);
nlohmann::ordered_json orderedJsonFrom(std::string_view text);
nlohmann::ordered_json orderedJsonFrom(std::istream& file);

// What is not UTF-8 is replaced. `indent` below zero: all in one line.
std::string jsonText(const nlohmann::json& json, int indent = -1);
std::string jsonText(const nlohmann::ordered_json& json, int indent = -1);

}  // namespace dreskel
