// The plan of a TIFF file (TIFF 6.0, section 2) or of a camera raw file built on it: chains and trees of
// directories whose entries say where their data lie and how they are coded. Asks for bytes as a Measure
// does. A plain value.
#pragma once

#include <cstdint>
#include <deque>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "base/range.h"
#include "formats/format.h"
#include "formats/photo/area.h"
#include "formats/photo/raster.h"

namespace dreskel::tiff {

// Where the sensor data of Panasonic's raw files lie, which say so with tags of their own.
struct PanasonicSensor {
    std::uint32_t at = 0, width = 0, height = 0, bits = 0, version = 4;
    // In bytes, for when it is not stated: blocks of sixteen bytes hold so many samples of a row. 0: not
    // known.
    std::uint64_t length() const;
};

class Layout {
  public:
    std::optional<Measure::Want> want() const;
    void give(Bytes bytes);

    // Whether there are directories and data at all; for what follows, once want() has nothing more.
    bool holds() const { return !failed_ && any_; }
    std::string format() const;  // its short name
    std::uint64_t end() const { return end_; }
    // Its writer fills up to an even number of bytes, and the data at the end are odd: one more may follow.
    bool mayBePadded() const { return padded_; }
    // In order of place, not overlapping.
    const std::vector<Area>& areas() const { return areas_; }
    std::uint32_t width() const { return largest().width; }  // of the largest picture; 0: not stated
    std::uint32_t height() const { return largest().height; }
    // How its largest picture lies, where that is stored plain, or so that samples do not depend on others
    // far away.
    std::optional<Raster> raster() const;
    bool asTheyAre() const;  // samples without a coding
    void describe(Description& into) const;

  private:
    struct Image {
        std::uint32_t width = 0, height = 0, compression = 0, photometric = 0, bits = 0, samples = 1;
        std::vector<std::uint32_t> at, lengths;
        std::uint32_t jpegAt = 0, jpegLength = 0, white = 0;
        bool tablesElsewhere = false, sliced = false, tiled = false;
        bool raw() const;
    };
    struct Task {
        std::uint64_t offset = 0;
        std::size_t length = 0;
        enum { Front, Directory, Numbers, PhaseOne, MakerNote } what = Front;
        std::size_t image = 0;  // that the numbers belong to
        std::uint16_t tag = 0, type = 0;
    };
    void front(Bytes bytes);
    void directory(Bytes bytes, std::uint64_t at);
    void phaseOne(Bytes bytes);
    void entry(ByteReader& reader, std::size_t image);
    void numbers(Bytes bytes, std::size_t image, std::uint16_t tag, std::uint16_t type);
    void follow(std::uint64_t at);
    void settle();
    void settlePadding();
    void addArea(Area area);
    Area::Coding codingOf(const Image& image, std::uint64_t length, const std::string& format) const;
    std::optional<Raster::Packing> packingOf(const Image& image, std::uint64_t rowBytes,
                                             std::uint64_t length) const;
    std::shared_ptr<const SensorCoding> sensorCodingOf(const Image& image) const;
    const Image& largest() const;

    Endian endian_ = Endian::Little;
    std::deque<Task> tasks_{{0, kHead, Task::Front, 0, 0, 0}};
    std::set<std::uint64_t> seen_;
    std::vector<Image> images_;
    std::vector<std::uint8_t> head_, makerNote_;
    std::uint64_t noteAt_ = 0;
    std::vector<Area> areas_;
    std::uint64_t end_ = 8;
    PanasonicSensor panasonic_;
    bool dng_ = false, failed_ = false, any_ = false, padded_ = false, listed_ = false;

    static constexpr std::size_t kHead = 128 * 1024;  // kept for what the file says of itself
};

}  // namespace dreskel::tiff
