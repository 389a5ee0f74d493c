#include "deliver/verification.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "base/sha256.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t kReadBack = 1 << 20;

bool isManifest(const fs::path& path) {
    const auto name = path.filename().string();
    return name.rfind("manifest", 0) == 0 && path.extension() == ".json";
}

// Stays within the folder, whatever a manifest that came from elsewhere says.
bool isInside(const fs::path& relative) {
    return !relative.empty() && relative.is_relative() &&
           std::none_of(relative.begin(), relative.end(), [](const fs::path& part) { return part == ".."; });
}

Result<std::string> sumOf(const fs::path& path, Control& control) {
    std::ifstream file(path, std::ios::binary);
    if (!file) return Error{Fault::Failed, "it is missing or cannot be opened", path.string(), ""};
    Sha256 sum;
    std::vector<char> buffer(kReadBack);
    for (;;) {
        if (!control.proceed()) return Error{Fault::Interrupted, "Stopped", path.string(), ""};
        file.read(buffer.data(), static_cast<std::streamsize>(buffer.size()));
        const auto got = static_cast<std::size_t>(file.gcount());
        if (got == 0) break;
        sum.add({reinterpret_cast<const std::uint8_t*>(buffer.data()), got});
    }
    if (file.bad()) return Error{Fault::Failed, "it cannot be read to its end", path.string(), ""};
    return sum.hex();
}

void takeSum(const nlohmann::json& file, std::map<std::string, std::string>& sums) {
    if (!file.is_object() || !file.contains("saved_as") || !file["saved_as"].is_string() ||
        !file.contains("sha256") || !file["sha256"].is_string())
        return;
    sums[file["saved_as"].get<std::string>()] = file["sha256"].get<std::string>();
}

}  // namespace

Result<DeliveryCheck> checkDelivery(
    const std::string& folder, Control& control,
    const std::function<void(std::size_t done, std::size_t files)>& progress) {
    std::map<std::string, std::string> sums;  // by path
    std::error_code failed;
    bool any = false;
    for (const auto& entry : fs::directory_iterator(folder, failed)) {
        if (!isManifest(entry.path())) continue;
        std::ifstream text(entry.path());
        const auto list = jsonFrom(text);
        if (!list.is_object() || !list.contains("files") || !list["files"].is_array()) {
            return Error{Fault::Failed, "This manifest cannot be read", entry.path().string(),
                         "Compare with manifest.sha256 by sha256sum -c instead"};
        }
        any = true;
        for (const auto& file : list["files"]) {
            takeSum(file, sums);
            if (file.is_object() && file.contains("version")) takeSum(file["version"], sums);
        }
    }
    if (!any) {
        return Error{Fault::Failed, "There is no manifest of a delivery here", folder,
                     "Name the folder that the files were saved to"};
    }
    DeliveryCheck check;
    check.files = sums.size();
    std::size_t done = 0;
    for (const auto& [name, expected] : sums) {
        progress(done++, sums.size());
        if (!isInside(name)) {
            check.wrong.push_back({name, "its path leads out of the folder"});
            continue;
        }
        const auto sum = sumOf(fs::path(folder) / name, control);
        if (!sum && sum.error().fault == Fault::Interrupted) return sum.error();
        if (!sum) {
            check.wrong.push_back({name, sum.error().what});
        } else if (sum.value() != expected) {
            check.wrong.push_back({name, "its bytes are not those that were saved"});
        } else {
            ++check.same;
        }
    }
    progress(sums.size(), sums.size());
    return check;
}

}  // namespace dreskel
