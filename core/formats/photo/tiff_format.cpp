// TIFF (TIFF 6.0, section 2) and the camera raw files that are built on it: chains and trees of directories
// whose entries say where their data lie. The file ends where the last of those data does.
#include <algorithm>
#include <array>
#include <deque>
#include <set>

#include "formats/exif.h"
#include "formats/families.h"
#include "formats/plain_format.h"

namespace dreskel {
namespace {

constexpr std::size_t kHead = 128 * 1024;  // kept for what the file says of itself
constexpr std::size_t kDirectory = 8192;   // 512 entries and more
constexpr std::size_t kMostDirectories = 64;
constexpr std::uint32_t kMostStrips = 1U << 20;
constexpr std::size_t kMostMedia = 1000;
constexpr std::array<std::uint8_t, 14> kSizes{0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4};

enum Tag : std::uint16_t {
    kWidth = 0x100,
    kHeight = 0x101,
    kCompression = 0x103,
    kPhotometric = 0x106,
    kStrips = 0x111,
    kStripLengths = 0x117,
    kTiles = 0x144,
    kTileLengths = 0x145,
    kSubDirectories = 0x14a,
    kJpegAt = 0x201,
    kJpegLength = 0x202,
    kExif = 0x8769,
    kGps = 0x8825,
    kDngVersion = 0xc612,
    kPanasonicData = 0x118
};

struct Image {
    std::uint32_t width = 0, height = 0, compression = 0, photometric = 0;
    std::vector<std::uint32_t> at, lengths;
    std::uint32_t jpegAt = 0, jpegLength = 0, panasonicAt = 0;

    // Sensor data, or a coding that only raw files have.
    bool raw() const {
        constexpr std::array<std::uint32_t, 7> codings{32767, 32769, 32770, 34713, 34892, 65000, 65535};
        return photometric == 32803 || photometric == 34892 ||
               std::find(codings.begin(), codings.end(), compression) != codings.end();
    }
};

class TiffMeasure : public Measure {
  public:
    std::optional<Want> want() const override {
        if (failed_ || tasks_.empty()) return std::nullopt;
        return Want{tasks_.front().offset, tasks_.front().length};
    }
    void give(Bytes bytes) override;
    Measured finish() override;

  private:
    struct Task {
        std::uint64_t offset = 0;
        std::size_t length = 0;
        enum { Front, Directory, Numbers } what = Front;
        std::size_t image = 0;  // that the numbers belong to
        std::uint16_t tag = 0, type = 0;
    };
    void front(Bytes bytes);
    void directory(Bytes bytes, std::uint64_t at);
    void entry(ByteReader& reader, std::size_t image);
    void numbers(Bytes bytes, std::size_t image, std::uint16_t tag, std::uint16_t type);
    void follow(std::uint64_t at);
    void reach(std::uint64_t end) { end_ = std::max(end_, end); }
    std::string shortName() const;

    Endian endian_ = Endian::Little;
    std::deque<Task> tasks_{{0, kHead, Task::Front, 0, 0, 0}};
    std::set<std::uint64_t> seen_;
    std::vector<Image> images_;
    std::vector<std::uint8_t> head_;
    std::uint64_t end_ = 8;
    bool dng_ = false, failed_ = false;
};

void TiffMeasure::follow(std::uint64_t at) {
    if (at < 8 || seen_.size() >= kMostDirectories || !seen_.insert(at).second) return;
    tasks_.push_back({at, kDirectory, Task::Directory, 0, 0, 0});
}

void TiffMeasure::give(Bytes bytes) {
    const auto task = tasks_.front();
    tasks_.pop_front();
    if (task.what == Task::Front) {
        front(bytes);
    } else if (task.what == Task::Directory) {
        directory(bytes, task.offset);
    } else if (bytes.size() == task.length) {
        numbers(bytes, task.image, task.tag, task.type);
    }
}

void TiffMeasure::front(Bytes bytes) {
    head_.assign(bytes.begin(), bytes.end());
    endian_ = bytes[0] == 'I' ? Endian::Little : Endian::Big;
    ByteReader reader(bytes, endian_);
    reader.skip(4);
    follow(reader.u32());
}

void TiffMeasure::directory(Bytes bytes, std::uint64_t at) {
    ByteReader reader(bytes, endian_);
    const auto count = reader.u16();
    // The first directory has to be there; another may be damaged.
    if (count == 0 || reader.left() < std::size_t{count} * 12) {
        failed_ = images_.empty();
        return;
    }
    reach(at + 2 + std::uint64_t{count} * 12 + 4);
    images_.emplace_back();
    const auto image = images_.size() - 1;
    for (unsigned i = 0; i < count; ++i) {
        ByteReader one(reader.take(12), endian_);
        entry(one, image);
    }
    follow(reader.u32());
}

void TiffMeasure::entry(ByteReader& reader, std::size_t image) {
    const auto tag = reader.u16();
    const auto type = reader.u16();
    const auto count = reader.u32();
    const auto value = reader.take(4);
    if (type == 0 || type >= kSizes.size()) return;
    const auto length = std::uint64_t{kSizes[type]} * count;
    if (tag == kDngVersion) dng_ = true;
    const bool elsewhere = length > 4;
    const std::uint64_t at = ByteReader(value, endian_).u32();
    if (elsewhere) reach(at + length);
    const bool single = tag == kExif || tag == kGps;
    const bool wanted = single || (tag >= kWidth && tag <= kPhotometric) || tag == kStrips ||
                        tag == kStripLengths || tag == kTiles || tag == kTileLengths ||
                        tag == kSubDirectories || tag == kJpegAt || tag == kJpegLength ||
                        tag == kPanasonicData;
    if (!wanted || count > kMostStrips) return;
    if (elsewhere) {
        tasks_.push_back({at, static_cast<std::size_t>(length), Task::Numbers, image, tag, type});
    } else {
        numbers(value.first(static_cast<std::size_t>(length)), image, tag, type);
    }
}

void TiffMeasure::numbers(Bytes bytes, std::size_t image, std::uint16_t tag, std::uint16_t type) {
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
        case kCompression: into.compression = all[0]; break;
        case kPhotometric: into.photometric = all[0]; break;
        case kStrips:
        case kTiles: into.at = std::move(all); break;
        case kStripLengths:
        case kTileLengths: into.lengths = std::move(all); break;
        case kJpegAt: into.jpegAt = all[0]; break;
        case kJpegLength: into.jpegLength = all[0]; break;
        case kPanasonicData: into.panasonicAt = all[0]; break;
        default:
            for (const auto at : all) follow(at);
    }
}

std::string TiffMeasure::shortName() const {
    const Bytes head(head_);
    const auto magic = slice(head, 2, 2);
    if (startsWith(magic, "RO") || startsWith(magic, "RS") || startsWith(magic, "OR")) return "orf";
    if (startsWith(magic, "U")) return "rw2";
    if (startsWith(slice(head, 8, 2), "CR")) return "cr2";
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
    if (made("NIKON")) return made("COOLPIX") ? "nrw" : "nef";
    if (made("SONY")) return "arw";
    if (made("PENTAX") || made("RICOH")) return "pef";
    if (made("SAMSUNG")) return "srw";
    if (made("Hasselblad")) return "3fr";
    if (made("Phase One") || made("Leaf")) return "iiq";
    if (made("EPSON")) return "erf";
    return "tiff";
}

Measured TiffMeasure::finish() {
    Measured result;
    result.kind = Kind::Photo;
    if (failed_ || images_.empty()) return result;
    bool any = false;
    const Image* largest = nullptr;
    for (const auto& image : images_) {
        const auto pairs = std::min(image.at.size(), image.lengths.size());
        for (std::size_t i = 0; i < pairs; ++i) {
            // Panasonic puts a place that is none, and the real one beside it.
            const std::uint64_t at = image.panasonicAt != 0 && pairs == 1 ? image.panasonicAt : image.at[i];
            reach(at + image.lengths[i]);
            any = any || image.lengths[i] > 0;
            // What begins with a picture of its own is a preview; what begins further in is not of this file.
            if (image.lengths[i] > 1 && result.mediaData.size() < kMostMedia)
                result.mediaData.push_back({at + 1, image.lengths[i] - 1U});
        }
        if (image.jpegLength > 0) {
            reach(std::uint64_t{image.jpegAt} + image.jpegLength);
            any = true;
        }
        if (largest == nullptr ||
            std::uint64_t{image.width} * image.height > std::uint64_t{largest->width} * largest->height)
            largest = &image;
    }
    if (!any) return result;  // directories without a picture: a block of Exif
    result.accepted = true;
    result.format = shortName();
    result.length = result.proven = end_;
    readExif(head_, result.description);
    if (largest->width > 0 && largest->height > 0) {
        result.description.width = largest->width;
        result.description.height = largest->height;
    }
    result.description.codec = result.format == "tiff" ? "TIFF" : "raw";
    if (largest->compression <= 1) result.notices = Notices::ForeignKinds;
    result.needsDecoder = true;
    return result;
}

bool matches(Bytes head) {
    const bool little = startsWith(head, {"II*\0", 4}) || startsWith(head, "IIRO") ||
                        startsWith(head, "IIRS") || startsWith(head, {"IIU\0", 4});
    const bool big = startsWith(head, {"MM\0*", 4}) || startsWith(head, "MMOR");
    if (!little && !big) return false;
    ByteReader reader(head, little ? Endian::Little : Endian::Big);
    reader.skip(4);
    const auto first = reader.u32();
    return first >= 8 && first < 0xf0000000U;
}

}  // namespace

const Format& tiffFormat() {
    static const PlainFormat format("tiff",
                                    {{"tiff", Kind::Photo, "tif", {"tiff"}},
                                     {"cr2", Kind::Photo, "cr2"},
                                     {"nef", Kind::Photo, "nef"},
                                     {"nrw", Kind::Photo, "nrw"},
                                     {"arw", Kind::Photo, "arw", {"sr2"}},
                                     {"dng", Kind::Photo, "dng"},
                                     {"gpr", Kind::Photo, "gpr"},
                                     {"orf", Kind::Photo, "orf"},
                                     {"rw2", Kind::Photo, "rw2"},
                                     {"pef", Kind::Photo, "pef"},
                                     {"srw", Kind::Photo, "srw"},
                                     {"3fr", Kind::Photo, "3fr"},
                                     {"iiq", Kind::Photo, "iiq"},
                                     {"erf", Kind::Photo, "erf"}},
                                    matches, makeMeasure<TiffMeasure>);
    return format;
}

}  // namespace dreskel
