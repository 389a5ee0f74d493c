// What cards and disks are attached, for choosing one by what is printed on it. From udev and sysfs; needs no
// rights and no running service.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/range.h"

namespace dreskel {

struct Mount {
    std::string device;  // "/dev/sdb1"
    std::string folder;
    bool writable = false;
};

struct DevicePart {
    std::string path;  // "/dev/sdb1"
    ByteRange range;   // on the device
};

struct Device {
    std::string path;   // "/dev/sdb"; of a camera that offers files only, its place on the bus
    std::string maker;  // as the device tells them; empty where it does not
    std::string model;
    std::string serial;
    std::string bus;             // "USB", "SD slot", "SATA", "NVMe", "image"; empty where it is not known
    std::string image;           // of an attached image, its file
    std::uint64_t sequence = 0;  // changes with each medium that is put in; 0 where the kernel tells none
    std::uint64_t size = 0;      // bytes; 0: a reader without a card
    std::uint32_t sectorSize = 512;
    bool removable = false;    // a card or stick, as opposed to a disk of this computer
    bool readOnly = false;     // a lock switch, or a reader that only reads
    bool filesOnly = false;    // a camera or phone that offers files, not sectors (MTP, PTP)
    bool canEject = false;     // the medium, by software
    bool canPowerOff = false;  // the whole reader
    std::vector<DevicePart> parts;
    std::vector<Mount> mounts;  // of it and its partitions

    bool writable() const;      // mounted so that other programs may write to it
    std::string title() const;  // what is printed on it, as far as it tells
    // Of the same medium in the same state, whatever else is told of it.
    bool same(const Device& other) const;
};

// Whole devices with a medium in them, cards first, each group by path; and cameras that offer files only.
// RAM devices and what stands on others are left out.
std::vector<Device> listDevices();

// What is mounted of block devices, from the kernel's own list.
std::vector<Mount> mountsOf(const std::string& devicePath, const std::vector<DevicePart>& parts);

// The serial number of the device at a path; empty where none is told.
std::string serialOf(const std::string& devicePath);

}  // namespace dreskel
