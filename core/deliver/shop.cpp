#include "deliver/shop.h"

#include <filesystem>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

#include "base/bytes.h"
#include "base/json_text.h"
#include "base/user_files.h"

namespace dreskel {
namespace {

constexpr std::uintmax_t kLargestLogo = 2 << 20;

Status readLogo(const std::string& path, Shop& shop) {
    std::error_code failed;
    const auto size = std::filesystem::file_size(path, failed);
    if (failed || size > kLargestLogo)
        return Error{
            Fault::Failed,
            failed ? "The logo cannot be read: " + failed.message() : "The logo is larger than 2 MiB", path,
            "Name a smaller PNG or JPEG in shop.json"};
    std::ifstream file(path, std::ios::binary);
    shop.logo.assign(std::istreambuf_iterator<char>(file), {});
    const Bytes bytes(shop.logo);
    if (startsWith(bytes, "\x89PNG")) shop.logoType = "image/png";
    if (startsWith(bytes, "\xff\xd8\xff")) shop.logoType = "image/jpeg";
    if (shop.logoType.empty())
        return Error{Fault::Failed, "The logo is neither a PNG nor a JPEG", path,
                     "Name another in shop.json"};
    return Done{};
}

}  // namespace

Shop usualShop() {
    Shop shop;
    shop.language = usualLanguage();
    shop.advice = phrasesIn(shop.language).advice;
    return shop;
}

Result<Shop> readShop(const std::string& path) {
    auto shop = usualShop();
    std::ifstream file(path);
    if (!file) return shop;
    const auto json = jsonFrom(file);
    const auto text = [&](const char* key) {
        const auto found = json.find(key);
        return found != json.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    if (!json.is_object())
        return Error{Fault::Failed, "The shop's facts are not an object of JSON", path,
                     "Write it as {\"name\": \"…\", \"address\": \"…\"}, or remove it"};
    shop.name = text("name");
    shop.address = text("address");
    if (const auto word = text("language"); !word.empty()) {
        const auto language = languageFromWord(word);
        if (!language)
            return Error{Fault::Failed, "Reports cannot be written in the language " + word, path,
                         "Languages are en and de"};
        shop.language = *language;
        shop.advice = phrasesIn(*language).advice;
    }
    if (json.contains("advice") && json["advice"].is_array()) {
        shop.advice.clear();
        for (const auto& line : json["advice"]) {
            if (line.is_string()) shop.advice.push_back(line.get<std::string>());
        }
    }
    if (const auto logo = text("logo"); !logo.empty()) {
        const auto beside = std::filesystem::path(path).parent_path() / logo;
        if (auto read = readLogo(beside.string(), shop); !read) return read.error();
        shop.logoPath = beside.string();
    }
    return shop;
}

Status writeShop(const std::string& path, const Shop& shop) {
    nlohmann::ordered_json json{
        {"name", shop.name}, {"address", shop.address}, {"language", toWord(shop.language)}};
    if (!shop.logoPath.empty()) json["logo"] = shop.logoPath;
    if (shop.advice != phrasesIn(shop.language).advice) json["advice"] = shop.advice;
    return replaceUserFile(path, jsonText(json, 2) + "\n", "The shop's facts");
}

std::string usualShopPath() {
    return configurationFile("shop.json");
}

}  // namespace dreskel
