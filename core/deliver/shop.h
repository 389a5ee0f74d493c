// What a technician's shop puts on its reports: its name, its address, a picture, and its advice to clients.
// Set once, in an open JSON file: {"name": …, "address": …, "language": "en" or "de", "logo": path of a PNG
// or JPEG, "advice": [ … ]}.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "deliver/phrases.h"

namespace dreskel {

struct Shop {
    std::string name, address;
    std::vector<std::uint8_t> logo;         // bytes of the picture; empty when there is none
    std::string logoType;                   // "image/png", "image/jpeg"
    std::string logoPath;                   // where it was read
    Language language = Language::English;  // of the reports
    std::vector<std::string> advice;
};

// No name, the usual language, and the advice that is given where a shop has none of its own.
Shop usualShop();

// A file that is not there gives the usual shop. Advice that is not in the file is the usual one.
Result<Shop> readShop(const std::string& path);

// Leaves out what is as usual. The logo is named, not copied.
Status writeShop(const std::string& path, const Shop& shop);

// Where it is looked for: dreskel/shop.json in the user's configuration.
std::string usualShopPath();

}  // namespace dreskel
