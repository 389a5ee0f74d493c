#include <iostream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "base/words.h"
#include "cli/verb.h"
#include "source/device_list.h"

namespace dreskel::cli {
namespace {

class Devices : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_flag("--json", json_, "As JSON");
        app.add_flag("--all", all_, "Disks of this computer too");
    }
    int run(const Common&) override {
        auto devices = listDevices();
        if (!all_) std::erase_if(devices, [](const Device& device) { return !device.removable; });
        json_ ? printJson(devices) : printText(devices);
        return kDone;
    }

  private:
    static void printJson(const std::vector<Device>& devices) {
        auto out = nlohmann::ordered_json{{"schema", 1}, {"devices", nlohmann::ordered_json::array()}};
        for (const auto& device : devices) {
            auto mounts = nlohmann::ordered_json::array();
            for (const auto& mount : device.mounts)
                mounts.push_back(
                    {{"device", mount.device}, {"folder", mount.folder}, {"writable", mount.writable}});
            auto parts = nlohmann::ordered_json::array();
            for (const auto& part : device.parts)
                parts.push_back(
                    {{"path", part.path}, {"offset", part.range.offset}, {"length", part.range.length}});
            out["devices"].push_back({{"path", device.path},
                                      {"maker", device.maker},
                                      {"model", device.model},
                                      {"serial", device.serial},
                                      {"bus", device.bus},
                                      {"image", device.image},
                                      {"size", device.size},
                                      {"sector_size", device.sectorSize},
                                      {"removable", device.removable},
                                      {"read_only", device.readOnly},
                                      {"files_only", device.filesOnly},
                                      {"partitions", parts},
                                      {"mounts", mounts}});
        }
        std::cout << jsonText(out, 2) << std::endl;
    }
    static void printText(const std::vector<Device>& devices) {
        for (const auto& device : devices) {
            const auto title = device.title();
            std::cout << device.path << "  " << (title.empty() ? "unnamed" : title);
            if (!device.serial.empty()) std::cout << ", serial number " << device.serial;
            if (!device.bus.empty()) std::cout << ", " << device.bus;
            if (device.filesOnly) {
                std::cout << "; offers files, not sectors: put its card into a reader\n";
                continue;
            }
            std::cout << ", " << humanSize(device.size) << (device.readOnly ? ", read-only" : "") << "\n";
            for (const auto& mount : device.mounts)
                std::cout << "  mounted at " << mount.folder
                          << (mount.writable ? ", writable: unmount it before any work\n" : ", read-only\n");
        }
        std::cout << std::flush;
    }

    bool json_ = false;
    bool all_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeDevices() {
    return std::make_unique<Devices>();
}

}  // namespace dreskel::cli
