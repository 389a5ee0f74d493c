#include "source/device_list.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>

namespace dreskel {
namespace {

namespace fs = std::filesystem;

std::string firstLine(const fs::path& path) {
    std::ifstream file(path);
    std::string line;
    std::getline(file, line);
    const auto end = line.find_last_not_of(" \t\n");
    return end == std::string::npos ? std::string() : line.substr(0, end + 1);
}

std::set<std::string> mountedDevices() {
    std::set<std::string> devices;
    std::ifstream mounts("/proc/self/mounts");
    for (std::string line; std::getline(mounts, line);) {
        std::error_code failed;
        const auto real = fs::canonical(line.substr(0, line.find(' ')), failed);
        if (!failed) devices.insert(real.string());
    }
    return devices;
}

}  // namespace

std::vector<Device> listDevices() {
    std::vector<Device> devices;
    const auto mounted = mountedDevices();
    std::error_code failed;
    for (const auto& entry : fs::directory_iterator("/sys/block", failed)) {
        const auto name = entry.path().filename().string();
        const bool skipped = name.rfind("ram", 0) == 0 || name.rfind("zram", 0) == 0 ||
                             name.rfind("dm-", 0) == 0 || name.rfind("md", 0) == 0;
        Device device;
        std::istringstream(firstLine(entry.path() / "size")) >> device.size;
        device.size *= 512;
        if (skipped || device.size == 0) continue;
        device.path = "/dev/" + name;
        const auto maker = firstLine(entry.path() / "device" / "vendor");
        const auto model = firstLine(entry.path() / "device" / "model");
        const auto card = firstLine(entry.path() / "device" / "name");
        device.model = !model.empty() && !maker.empty() && maker.rfind("0x", 0) != 0 ? maker + " " + model
                       : !model.empty()                                              ? model
                                                                                     : card;
        const auto image = firstLine(entry.path() / "loop" / "backing_file");
        if (!image.empty()) device.model = fs::path(image).stem().string();
        const auto where = fs::canonical(entry.path(), failed).string();
        const bool pluggable =
            where.find("/usb") != std::string::npos || name.rfind("mmcblk", 0) == 0 || !image.empty();
        device.removable = pluggable || firstLine(entry.path() / "removable") == "1";
        device.readOnly = firstLine(entry.path() / "ro") == "1";
        device.mounted = std::any_of(mounted.begin(), mounted.end(), [&](const std::string& path) {
            return path.rfind(device.path, 0) == 0;
        });
        devices.push_back(std::move(device));
    }
    std::sort(devices.begin(), devices.end(),
              [](const Device& a, const Device& b) { return a.path < b.path; });
    return devices;
}

}  // namespace dreskel
