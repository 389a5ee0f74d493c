#include "source/device_list.h"

#include <libudev.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <memory>
#include <sstream>

namespace dreskel {
namespace {

namespace fs = std::filesystem;

template <typename T, T* (*Release)(T*)>
struct Released {
    void operator()(T* thing) const { Release(thing); }
};
using Udev = std::unique_ptr<udev, Released<udev, udev_unref>>;
using Node = std::unique_ptr<udev_device, Released<udev_device, udev_device_unref>>;
using Search = std::unique_ptr<udev_enumerate, Released<udev_enumerate, udev_enumerate_unref>>;

std::string trimmed(const char* text) {
    if (text == nullptr) return {};
    std::string line(text);
    const auto end = line.find_last_not_of(" \t\n");
    line.resize(end == std::string::npos ? 0 : end + 1);
    const auto start = line.find_first_not_of(" \t");
    return start == std::string::npos ? std::string() : line.substr(start);
}

class Facts {
  public:
    explicit Facts(udev_device* node) : node_(node) {}
    std::string property(const char* name) const {
        return trimmed(udev_device_get_property_value(node_, name));
    }
    std::string attribute(const char* name) const {
        return trimmed(udev_device_get_sysattr_value(node_, name));
    }
    // The first of these that says anything.
    std::string first(std::initializer_list<const char*> properties,
                      std::initializer_list<const char*> attributes) const {
        for (const auto* name : properties) {
            if (auto text = property(name); !text.empty()) return text;
        }
        for (const auto* name : attributes) {
            if (auto text = attribute(name); !text.empty()) return text;
        }
        return {};
    }
    std::uint64_t number(const char* name) const {
        std::uint64_t value = 0;
        std::istringstream(attribute(name)) >> value;
        return value;
    }

  private:
    udev_device* node_;
};

std::string busOf(const Facts& facts, const std::string& name, const std::string& where) {
    if (!facts.attribute("loop/backing_file").empty()) return "image";
    if (where.find("/usb") != std::string::npos || facts.property("ID_BUS") == "usb") return "USB";
    if (name.rfind("mmcblk", 0) == 0 || facts.property("ID_DRIVE_MEDIA_FLASH_SD") == "1") return "SD slot";
    if (name.rfind("nvme", 0) == 0) return "NVMe";
    if (facts.property("ID_BUS") == "ata" || where.find("/ata") != std::string::npos) return "SATA";
    return {};
}

void addParts(const std::string& where, Device& device) {
    std::error_code failed;
    for (const auto& entry : fs::directory_iterator(where, failed)) {
        if (!fs::exists(entry.path() / "partition", failed)) continue;
        const auto number = [&](const char* name) {
            std::ifstream file(entry.path() / name);
            std::uint64_t value = 0;
            file >> value;
            return value * 512;
        };
        device.parts.push_back(
            {"/dev/" + entry.path().filename().string(), {number("start"), number("size")}});
    }
    std::sort(device.parts.begin(), device.parts.end(),
              [](const DevicePart& a, const DevicePart& b) { return a.range.offset < b.range.offset; });
}

Device blockDevice(udev_device* node) {
    const Facts facts(node);
    Device device;
    const std::string name = trimmed(udev_device_get_sysname(node));
    const std::string where = trimmed(udev_device_get_syspath(node));
    device.path = "/dev/" + name;
    device.sequence = facts.number("diskseq");
    device.size = facts.number("size") * 512;
    device.sectorSize = static_cast<std::uint32_t>(
        std::clamp<std::uint64_t>(facts.number("queue/logical_block_size"), 512, 65536));
    device.maker = facts.first({"ID_VENDOR"}, {"device/vendor"});
    if (device.maker.rfind("0x", 0) == 0) device.maker.clear();
    device.model = facts.first({"ID_MODEL", "ID_NAME"}, {"device/model", "device/name"});
    device.serial = facts.first({"ID_SERIAL_SHORT"}, {"device/serial"});
    device.image = facts.attribute("loop/backing_file");
    device.bus = busOf(facts, name, where);
    device.readOnly = facts.attribute("ro") == "1";
    const bool told = facts.attribute("removable") == "1";
    device.removable = told || device.bus == "USB" || device.bus == "SD slot" || !device.image.empty();
    device.canEject = told;
    addParts(where, device);
    device.mounts = mountsOf(device.path, device.parts);
    return device;
}

void addBlockDevices(udev* context, std::vector<Device>& into) {
    const Search search(udev_enumerate_new(context));
    udev_enumerate_add_match_subsystem(search.get(), "block");
    udev_enumerate_add_match_property(search.get(), "DEVTYPE", "disk");
    udev_enumerate_scan_devices(search.get());
    for (auto* entry = udev_enumerate_get_list_entry(search.get()); entry != nullptr;
         entry = udev_list_entry_get_next(entry)) {
        const Node node(udev_device_new_from_syspath(context, udev_list_entry_get_name(entry)));
        if (!node) continue;
        const std::string name = trimmed(udev_device_get_sysname(node.get()));
        const bool skipped = name.rfind("ram", 0) == 0 || name.rfind("zram", 0) == 0 ||
                             name.rfind("dm-", 0) == 0 || name.rfind("md", 0) == 0;
        if (skipped) continue;
        auto device = blockDevice(node.get());
        if (device.size > 0) into.push_back(std::move(device));
    }
}

void addFilesOnly(udev* context, std::vector<Device>& into) {
    const Search search(udev_enumerate_new(context));
    udev_enumerate_add_match_subsystem(search.get(), "usb");
    udev_enumerate_add_match_property(search.get(), "ID_MTP_DEVICE", "1");
    udev_enumerate_add_match_property(search.get(), "ID_GPHOTO2", "1");
    udev_enumerate_scan_devices(search.get());
    for (auto* entry = udev_enumerate_get_list_entry(search.get()); entry != nullptr;
         entry = udev_list_entry_get_next(entry)) {
        const Node node(udev_device_new_from_syspath(context, udev_list_entry_get_name(entry)));
        if (!node) continue;
        const Facts facts(node.get());
        Device device;
        device.path = facts.first({"DEVNAME"}, {});
        if (device.path.empty()) device.path = trimmed(udev_device_get_sysname(node.get()));
        device.maker = facts.first({"ID_VENDOR"}, {"manufacturer"});
        device.model = facts.first({"ID_MODEL"}, {"product"});
        device.serial = facts.first({"ID_SERIAL_SHORT"}, {"serial"});
        device.bus = "USB";
        device.removable = true;
        device.filesOnly = true;
        into.push_back(std::move(device));
    }
}

// Mount points have blanks and the like as octal numbers; see proc(5).
std::string unescaped(const std::string& text) {
    std::string plain;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto digits = text.substr(i + 1, 3);
        const bool octal = text[i] == '\\' && digits.size() == 3 &&
                           digits.find_first_not_of("01234567") == std::string::npos;
        plain.push_back(octal ? static_cast<char>(std::stoi(digits, nullptr, 8)) : text[i]);
        if (octal) i += 3;
    }
    return plain;
}

}  // namespace

bool Device::writable() const {
    return std::any_of(mounts.begin(), mounts.end(), [](const Mount& mount) { return mount.writable; });
}

std::string Device::title() const {
    if (!image.empty()) return fs::path(image).stem().string();
    if (maker.empty() || model.rfind(maker, 0) == 0) return model;
    return model.empty() ? maker : maker + " " + model;
}

bool Device::same(const Device& other) const {
    const auto sameMounts = std::equal(
        mounts.begin(), mounts.end(), other.mounts.begin(), other.mounts.end(),
        [](const Mount& a, const Mount& b) { return a.folder == b.folder && a.writable == b.writable; });
    return path == other.path && sequence == other.sequence && image == other.image && size == other.size &&
           readOnly == other.readOnly && parts.size() == other.parts.size() && sameMounts;
}

std::vector<Mount> mountsOf(const std::string& devicePath, const std::vector<DevicePart>& parts) {
    std::vector<std::pair<dev_t, std::string>> numbers;
    const auto note = [&](const std::string& path) {
        struct stat facts {};
        if (::stat(path.c_str(), &facts) == 0 && S_ISBLK(facts.st_mode))
            numbers.emplace_back(facts.st_rdev, path);
    };
    note(devicePath);
    for (const auto& part : parts) note(part.path);
    std::vector<Mount> mounts;
    std::ifstream list("/proc/self/mountinfo");
    for (std::string line; std::getline(list, line);) {
        std::istringstream fields(line);
        std::string id, parent, number, root, folder, options;
        fields >> id >> parent >> number >> root >> folder >> options;
        const auto dash = line.find(" - ");
        std::string type, source;
        if (dash != std::string::npos) std::istringstream(line.substr(dash + 3)) >> type >> source;
        unsigned high = 0;
        unsigned low = 0;
        char colon = 0;
        std::istringstream(number) >> high >> colon >> low;
        for (const auto& [device, path] : numbers) {
            // FUSE filesystems have a number of their own and name their device.
            if (device != makedev(high, low) && source != path) continue;
            const bool writable = options.rfind("rw", 0) == 0;
            mounts.push_back({path, unescaped(folder), writable});
        }
    }
    return mounts;
}

std::vector<Device> listDevices() {
    std::vector<Device> devices;
    const Udev context(udev_new());
    if (!context) return devices;
    addBlockDevices(context.get(), devices);
    addFilesOnly(context.get(), devices);
    std::sort(devices.begin(), devices.end(), [](const Device& a, const Device& b) {
        return a.removable != b.removable ? a.removable : a.path < b.path;
    });
    return devices;
}

std::string serialOf(const std::string& devicePath) {
    for (const auto& device : listDevices()) {
        if (device.path == devicePath) return device.serial;
    }
    return {};
}

}  // namespace dreskel
