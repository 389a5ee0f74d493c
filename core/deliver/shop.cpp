#include "deliver/shop.h"

#include <filesystem>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

#include "base/bytes.h"
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

std::vector<std::string> usualAdvice() {
    return {"Format a card in the camera that will use it, not in a computer.",
            "Switch the camera off, or eject the card, before it is pulled out.",
            "Use a card in one camera only.",
            "A card that has failed once is not to be trusted again: retire it.",
            "Keep two copies of every picture, in two places, before the card is used again."};
}

Result<Shop> readShop(const std::string& path) {
    Shop shop;
    std::ifstream file(path);
    if (!file) {
        shop.advice = usualAdvice();
        return shop;
    }
    const auto json = nlohmann::json::parse(file, nullptr, false);
    const auto text = [&](const char* key) {
        const auto found = json.find(key);
        return found != json.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    if (!json.is_object())
        return Error{Fault::Failed, "The shop's facts are not an object of JSON", path,
                     "Write it as {\"name\": \"…\", \"address\": \"…\"}, or remove it"};
    shop.name = text("name");
    shop.address = text("address");
    if (json.contains("advice") && json["advice"].is_array()) {
        for (const auto& line : json["advice"]) {
            if (line.is_string()) shop.advice.push_back(line.get<std::string>());
        }
    } else {
        shop.advice = usualAdvice();
    }
    if (const auto logo = text("logo"); !logo.empty()) {
        const auto beside = std::filesystem::path(path).parent_path() / logo;
        if (auto read = readLogo(beside.string(), shop); !read) return read.error();
    }
    return shop;
}

std::string usualShopPath() {
    return configurationFile("shop.json");
}

}  // namespace dreskel
