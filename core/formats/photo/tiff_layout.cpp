#include "formats/photo/tiff_layout.h"

#include <algorithm>
#include <array>
#include <bit>

#include "formats/exif.h"
#include "formats/photo/difference_rows.h"
#include "formats/photo/olympus_rows.h"

namespace dreskel::tiff {
namespace {

constexpr std::size_t kDirectory = 8192;  // 512 entries and more
constexpr std::size_t kMostDirectories = 64;
constexpr std::uint64_t kPhaseOneAt = 8;
constexpr std::uint32_t kPhaseOneSensor = 0x10f;
constexpr unsigned kMostEntries = 400;
constexpr std::uint32_t kMostStrips = 1U << 20;
constexpr std::uint64_t kLongestNote = 256 * 1024;  // of a maker's note
constexpr std::array<std::uint8_t, 14> kSizes{0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4};

enum Tag : std::uint16_t {
    kPanasonicWidth = 0x2,
    kPanasonicHeight = 0x3,
    kPanasonicBits = 0xa,
    kPanasonicVersion = 0x2d,
    kPanasonicPreview = 0x2e,
    kWidth = 0x100,
    kHeight = 0x101,
    kBits = 0x102,
    kCompression = 0x103,
    kPhotometric = 0x106,
    kStrips = 0x111,
    kSamples = 0x115,
    kStripLengths = 0x117,
    kTiles = 0x144,
    kTileLengths = 0x145,
    kJpegTables = 0x15b,
    kSubDirectories = 0x14a,
    kJpegAt = 0x201,
    kJpegLength = 0x202,
    kExif = 0x8769,
    kGps = 0x8825,
    kMakerNote = 0x927c,
    kDngVersion = 0xc612,
    kWhiteLevel = 0xc61d,
    kCanonSlices = 0xc640,
    kPanasonicData = 0x118
};

}  // namespace

// As LibRaw reads them. Versions 4 and 5 are in portions of 16 KiB, of which the last is all there.
std::uint64_t PanasonicSensor::length() const {
    const bool deep = bits == 14;
    const std::uint32_t samples = version == 4                   ? 14
                                  : version == 6                 ? (deep ? 11U : 14U)
                                  : version == 5 || version == 7 ? (deep ? 9U : 10U)
                                                                 : 0;
    if (samples == 0) return 0;
    const auto bytes = std::uint64_t{(width + samples - 1) / samples} * 16 * height;
    constexpr std::uint64_t kPortion = 0x4000;
    return version <= 5 ? (bytes + kPortion - 1) / kPortion * kPortion : bytes;
}

// Sensor data, or a coding that only raw files have.
bool Layout::Image::raw() const {
    constexpr std::array<std::uint32_t, 7> codings{32767, 32769, 32770, 34713, 34892, 65000, 65535};
    return photometric == 32803 || photometric == 34892 ||
           std::find(codings.begin(), codings.end(), compression) != codings.end();
}

void Layout::follow(std::uint64_t at) {
    if (at < 8 || seen_.size() >= kMostDirectories || !seen_.insert(at).second) return;
    tasks_.push_back({at, kDirectory, Task::Directory, 0, 0, 0});
}

std::optional<Measure::Want> Layout::want() const {
    if (failed_ || tasks_.empty()) return std::nullopt;
    return Measure::Want{tasks_.front().offset, tasks_.front().length};
}

void Layout::give(Bytes bytes) {
    const auto task = tasks_.front();
    tasks_.pop_front();
    if (task.what == Task::Front) {
        front(bytes);
    } else if (task.what == Task::Directory) {
        directory(bytes, task.offset);
    } else if (task.what == Task::PhaseOne) {
        phaseOne(bytes);
    } else if (task.what == Task::MakerNote) {
        if (isNikonNote(bytes) || isPentaxNote(bytes)) {
            makerNote_.assign(bytes.begin(), bytes.end());
            noteAt_ = task.offset;
        }
    } else if (bytes.size() == task.length) {
        numbers(bytes, task.image, task.tag, task.type);
    }
    if (tasks_.empty() && !failed_) settle();
}

void Layout::front(Bytes bytes) {
    head_.assign(bytes.begin(), bytes.end());
    endian_ = bytes[0] == 'I' ? Endian::Little : Endian::Big;
    ByteReader reader(bytes, endian_);
    reader.skip(4);
    follow(reader.u32());
    // Phase One's list of all the rest, from behind the head on.
    const auto order = slice(bytes, kPhaseOneAt, 4);
    if (!startsWith(order, "IIII") && !startsWith(order, "MMMM")) return;
    ByteReader own(slice(bytes, kPhaseOneAt + 4, 8), order[0] == 'I' ? Endian::Little : Endian::Big);
    if (own.u32() >> 8 != 0x526177) return;  // "Raw"
    listed_ = true;
    tasks_.push_back({kPhaseOneAt + std::uint64_t{own.u32()}, kDirectory, Task::PhaseOne, 0, 0, 0});
}

// Of each entry its tag, type, length and value, or where that stands (as LibRaw reads them).
void Layout::phaseOne(Bytes bytes) {
    ByteReader reader(bytes, head_[kPhaseOneAt] == 'I' ? Endian::Little : Endian::Big);
    const auto count = reader.u32();
    reader.skip(4);
    for (unsigned i = 0; i < count && i < kMostEntries && reader.left() >= 16; ++i) {
        const auto tag = reader.u32();
        reader.skip(4);
        const auto length = reader.u32();
        const auto at = kPhaseOneAt + std::uint64_t{reader.u32()};
        if (length <= 4) continue;
        end_ = std::max(end_, at + length);
        if (tag == kPhaseOneSensor) addArea({{at, length}, Area::Coding::Unknown});
    }
}

void Layout::directory(Bytes bytes, std::uint64_t at) {
    ByteReader reader(bytes, endian_);
    const auto count = reader.u16();
    // The first directory has to be there; another may be damaged.
    if (count == 0 || reader.left() < std::size_t{count} * 12) {
        failed_ = images_.empty();
        return;
    }
    end_ = std::max(end_, at + 2 + std::uint64_t{count} * 12 + 4);
    images_.emplace_back();
    const auto image = images_.size() - 1;
    for (unsigned i = 0; i < count; ++i) {
        ByteReader one(reader.take(12), endian_);
        entry(one, image);
    }
    follow(reader.u32());
}

void Layout::entry(ByteReader& reader, std::size_t image) {
    const auto tag = reader.u16();
    const auto type = reader.u16();
    const auto count = reader.u32();
    const auto value = reader.take(4);
    if (type == 0 || type >= kSizes.size()) return;
    const auto length = std::uint64_t{kSizes[type]} * count;
    if (tag == kDngVersion) dng_ = true;
    if (tag == kJpegTables) images_[image].tablesElsewhere = true;
    if (tag == kCanonSlices) images_[image].sliced = true;
    const bool elsewhere = length > 4;
    const std::uint64_t at = ByteReader(value, endian_).u32();
    if (elsewhere) end_ = std::max(end_, at + length);
    const bool panasonic = startsWith(slice(head_, 2, 1), "U");
    if (tag == kPanasonicPreview && elsewhere && panasonic) addArea({{at, length}, Area::Coding::Preview});
    const bool single = tag == kExif || tag == kGps;
    const bool sensor = panasonic && (tag == kPanasonicWidth || tag == kPanasonicHeight ||
                                      tag == kPanasonicBits || tag == kPanasonicVersion);
    const bool wanted = single || sensor || (tag >= kWidth && tag <= kPhotometric) || tag == kStrips ||
                        tag == kSamples || tag == kStripLengths || tag == kTiles || tag == kTileLengths ||
                        tag == kSubDirectories || tag == kJpegAt || tag == kJpegLength ||
                        tag == kPanasonicData || tag == kWhiteLevel;
    if (tag == kMakerNote && elsewhere) {
        const auto some = static_cast<std::size_t>(std::min(length, kLongestNote));
        tasks_.push_back({at, some, Task::MakerNote, image, tag, type});
        return;
    }
    if (!wanted || count > kMostStrips) return;
    if (elsewhere) {
        tasks_.push_back({at, static_cast<std::size_t>(length), Task::Numbers, image, tag, type});
    } else {
        numbers(value.first(static_cast<std::size_t>(length)), image, tag, type);
    }
}

void Layout::numbers(Bytes bytes, std::size_t image, std::uint16_t tag, std::uint16_t type) {
    ByteReader reader(bytes, endian_);
    std::vector<std::uint32_t> all;
    while (reader.left() > 0) {
        if (type == 3) {
            all.push_back(reader.u16());
        } else if (type == 4 || type == 9 || type == 13) {
            all.push_back(reader.u32());
        } else {
            return;
        }
    }
    if (all.empty()) return;
    auto& into = images_[image];
    switch (tag) {
        case kWidth: into.width = all[0]; break;
        case kHeight: into.height = all[0]; break;
        case kBits: into.bits = all[0]; break;
        case kCompression: into.compression = all[0]; break;
        case kPhotometric: into.photometric = all[0]; break;
        case kSamples: into.samples = all[0]; break;
        case kStrips:
        case kTiles:
            into.tiled = tag == kTiles;
            into.at = std::move(all);
            break;
        case kStripLengths:
        case kTileLengths: into.lengths = std::move(all); break;
        case kJpegAt: into.jpegAt = all[0]; break;
        case kJpegLength: into.jpegLength = all[0]; break;
        case kWhiteLevel: into.white = *std::max_element(all.begin(), all.end()); break;
        case kPanasonicData: panasonic_.at = all[0]; break;
        case kPanasonicWidth: panasonic_.width = all[0]; break;
        case kPanasonicHeight: panasonic_.height = all[0]; break;
        case kPanasonicBits: panasonic_.bits = all[0]; break;
        case kPanasonicVersion: panasonic_.version = all[0]; break;
        default:
            for (const auto at : all) follow(at);
    }
}

std::string Layout::format() const {
    const Bytes head(head_);
    const auto magic = slice(head, 2, 2);
    if (startsWith(magic, "RO") || startsWith(magic, "RS") || startsWith(magic, "OR")) return "orf";
    if (startsWith(magic, "U")) return "rw2";
    if (startsWith(slice(head, 8, 2), "CR")) return "cr2";
    if (listed_) return "iiq";
    Description about;
    readExif(head, about);
    const auto made = [&](std::string_view maker) {
        // The maker's name stands in the head, whether or not the model repeats it.
        const std::string_view all(reinterpret_cast<const char*>(head_.data()),
                                   std::min<std::size_t>(head_.size(), 4096));
        return all.find(maker) != std::string_view::npos;
    };
    if (dng_) return made("GoPro") ? "gpr" : "dng";
    const bool raw =
        std::any_of(images_.begin(), images_.end(), [](const Image& image) { return image.raw(); });
    if (!raw) return "tiff";
    if (made("NIKON") || isNikonNote(makerNote_)) return made("COOLPIX") ? "nrw" : "nef";
    if (made("SONY")) return "arw";
    if (made("PENTAX") || made("RICOH") || isPentaxNote(makerNote_)) return "pef";
    if (made("SAMSUNG")) return "srw";
    if (made("Hasselblad")) return "3fr";
    if (made("Phase One") || made("Leaf")) return "iiq";
    if (made("EPSON")) return "erf";
    return "tiff";
}

// Where the data lie, once all directories are read.
void Layout::settle() {
    const auto name = images_.empty() ? std::string() : format();
    for (const auto& image : images_) {
        const auto pairs = std::min(image.at.size(), image.lengths.size());
        for (std::size_t i = 0; i < pairs; ++i) {
            // Panasonic puts a place that is none, and mostly no length, and the real place elsewhere.
            const bool sensor = panasonic_.at != 0 && pairs == 1;
            const std::uint64_t at = sensor ? panasonic_.at : image.at[i];
            const auto length = sensor && image.lengths[i] == 0 ? panasonic_.length() : image.lengths[i];
            // Sensors give more than the white level, up to what their bits hold.
            const auto most =
                image.white > 0 && image.white < 0x8000 ? std::bit_ceil(image.white + 1) - 1 : UINT32_MAX;
            Area area{{at, length}, codingOf(image, length, name), most};
            if (area.coding == Area::Coding::Unknown && pairs == 1) area.sensor = sensorCodingOf(image);
            if (area.sensor) area.coding = Area::Coding::Sensor;
            addArea(std::move(area));
        }
        if (image.jpegLength > 0)
            addArea({{image.jpegAt, image.jpegLength},
                     name == "tiff" ? Area::Coding::Old : Area::Coding::Preview});
    }
    std::sort(areas_.begin(), areas_.end(),
              [](const Area& a, const Area& b) { return a.range.offset < b.range.offset; });
    // Two that share bytes: one of them is not what it is said to be.
    std::vector<Area> apart;
    for (const auto& area : areas_) {
        if (apart.empty() || apart.back().range.end() <= area.range.offset) {
            apart.push_back(area);
        } else if (apart.back().range != area.range) {
            auto& before = apart.back();
            before.range.length = std::max(before.range.end(), area.range.end()) - before.range.offset;
            before.coding = Area::Coding::Unknown;
        }
    }
    areas_ = std::move(apart);
    settlePadding();
}

// Some writers begin all data at an even byte, as they should (TIFF 6.0, section 2), and fill up the last,
// too.
void Layout::settlePadding() {
    if (areas_.empty() || areas_.back().range.end() != end_ || end_ % 2 == 0) return;
    for (std::size_t i = 0; i + 1 < areas_.size(); ++i) {
        const auto end = areas_[i].range.end();
        if (areas_[i + 1].range.offset % 2 != 0) return;
        padded_ = padded_ || (end % 2 != 0 && areas_[i + 1].range.offset == end + 1);
    }
}

void Layout::addArea(Area area) {
    if (area.range.length == 0) return;
    any_ = true;
    end_ = std::max(end_, area.range.end());
    areas_.push_back(std::move(area));
}

Area::Coding Layout::codingOf(const Image& image, std::uint64_t length, const std::string& format) const {
    const bool jpeg = image.compression == 6 || image.compression == 7 || image.compression == 34892;
    // Others put codings of their own into the same markers, and Canon says of plain samples that they are
    // coded.
    const bool standard = format == "dng" || format == "arw" || (format == "cr2" && image.sliced);
    if (jpeg && standard && !image.tablesElsewhere) return Area::Coding::Strip;
    const auto samples = std::uint64_t{image.width} * image.height * 3;
    const bool plain = length == samples || length == 2 * samples;
    if (jpeg && format == "cr2" && !plain) return Area::Coding::Preview;
    const bool sixteens = image.compression == 32767 && image.bits == 8 && image.width % 16 == 0 &&
                          length == std::uint64_t{image.width} * image.height;
    return sixteens && format == "arw" ? Area::Coding::Sixteens : Area::Coding::Unknown;
}

std::optional<Raster::Packing> Layout::packingOf(const Image& image, std::uint64_t rowBytes,
                                                 std::uint64_t length) const {
    using Packing = Raster::Packing;
    if (codingOf(image, length, format()) == Area::Coding::Sixteens) return Packing::Sixteens;
    const auto samples = std::uint64_t{image.width} * image.samples;
    if (rowBytes * 8 % samples != 0) return std::nullopt;
    const auto bits = rowBytes * 8 / samples;
    if (bits == 16 && image.bits > 8)
        return endian_ == Endian::Little ? Packing::LittleWords : Packing::BigWords;
    if (bits != image.bits) return std::nullopt;
    switch (bits) {
        case 8: return Packing::OneByte;
        case 10: return Packing::Tens;
        case 12: return Packing::Twelves;
        case 14: return Packing::Fourteens;
        default: return std::nullopt;
    }
}

// Strips one behind the other, of rows as long as one another.
std::optional<Raster> Layout::raster() const {
    const auto& image = largest();
    if (image.at.empty() || image.at.size() != image.lengths.size() || image.tiled || image.height == 0 ||
        image.width == 0 || image.samples == 0 || image.samples > 4)
        return std::nullopt;
    Raster raster;
    raster.range = {image.at[0], 0};
    for (std::size_t i = 0; i < image.at.size(); ++i) {
        if (image.at[i] != raster.range.end()) return std::nullopt;
        raster.range.length += image.lengths[i];
    }
    if (raster.range.length % image.height != 0) return std::nullopt;
    raster.rowBytes = raster.range.length / image.height;
    const bool mosaic = image.raw() && image.samples == 1;
    const auto packing = packingOf(image, raster.rowBytes, raster.range.length);
    if (!packing) return std::nullopt;
    raster.packing = *packing;
    raster.alike = mosaic ? 2 : 1;
    raster.besides = raster.packing == Raster::Packing::Sixteens ? 1 : mosaic ? 2 : image.samples;
    return raster;
}

// The makers' own, where the samples are not stored plain instead: in 16 bits, in 12, or ten in sixteen
// bytes.
std::shared_ptr<const SensorCoding> Layout::sensorCodingOf(const Image& image) const {
    constexpr std::uint32_t kNikonCompression = 34713, kPentaxCompression = 65535;
    constexpr std::uint32_t kWidest = 20000;
    const std::uint64_t width = image.width, height = image.height;
    if (image.lengths.size() != 1 || width < 2 || width > kWidest || height == 0) return nullptr;
    const std::uint64_t length = image.lengths[0];
    if (length == width * height * 2 || length * 2 == width * height * 3 ||
        length == (width + 9) / 10 * 16 * height)
        return nullptr;
    std::optional<DifferenceCoding> coding;
    if (image.compression == kNikonCompression)
        coding = readNikonCoding(makerNote_, image.width, image.height, image.bits);
    if (image.compression == kPentaxCompression)
        coding = readPentaxCoding(makerNote_, noteAt_, endian_, image.width, image.height, image.bits);
    if (coding) return std::make_shared<const DifferenceCoding>(*coding);
    // Olympus says of coded samples that they are as they are, of 16 bits; of plain ones there are more.
    if (format() != "orf" || image.compression > 1 || image.bits != 16 || length * 2 > width * height * 3)
        return nullptr;
    OlympusCoding olympus;
    olympus.width = image.width;
    olympus.height = image.height;
    return std::make_shared<const OlympusCoding>(olympus);
}

const Layout::Image& Layout::largest() const {
    static const Image none;
    const auto pixels = [](const Image& image) { return std::uint64_t{image.width} * image.height; };
    const auto found = std::max_element(images_.begin(), images_.end(), [&](const Image& a, const Image& b) {
        return pixels(a) < pixels(b);
    });
    return found == images_.end() ? none : *found;
}

bool Layout::asTheyAre() const {
    const auto followed = [](const Area& area) { return area.coding == Area::Coding::Sensor; };
    return largest().compression <= 1 && std::none_of(areas_.begin(), areas_.end(), followed);
}

void Layout::describe(Description& into) const {
    readExif(head_, into);
    if (width() == 0 || height() == 0) return;
    into.width = width();
    into.height = height();
}

}  // namespace dreskel::tiff
