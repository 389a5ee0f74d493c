// Block devices as the kernel lists them, for choosing a card by what is printed on it.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace dreskel {

struct Device {
    std::string path;        // "/dev/sdb"
    std::string model;       // maker and model, as far as they are told; of an attached image its file name
    std::uint64_t size = 0;  // bytes
    bool removable = false;  // a card or stick, as opposed to a disk of this computer
    bool readOnly = false;   // a lock switch, or a reader that only reads
    bool mounted = false;    // it, or a partition of it
};

// Whole devices with a medium in them; RAM devices and what stands on others are left out. From sysfs; needs
// no rights.
std::vector<Device> listDevices();

}  // namespace dreskel
