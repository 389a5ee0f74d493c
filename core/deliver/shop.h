// What a technician's shop puts on its reports: its name, its address, a picture, and its advice to clients.
// Set once, in an open JSON file: {"name": …, "address": …, "logo": path of a PNG or JPEG, "advice": [ … ]}.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace dreskel {

struct Shop {
    std::string name, address;
    std::vector<std::uint8_t> logo;  // bytes of the picture; empty when there is none
    std::string logoType;            // "image/png", "image/jpeg"
    std::vector<std::string> advice;
};

// The advice that is given where a shop has none of its own.
std::vector<std::string> usualAdvice();

// A file that is not there gives a shop without a name, and the usual advice.
Result<Shop> readShop(const std::string& path);

// Where it is looked for: dreskel/shop.json in the user's configuration.
std::string usualShopPath();

}  // namespace dreskel
