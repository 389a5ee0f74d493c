#include "copy/copy_image.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <sys/statvfs.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>

#include "base/aligned_buffer.h"
#include "base/sha256.h"
#include "base/words.h"
#include "source/mapped_source.h"

namespace dreskel {
namespace {

constexpr std::size_t kHole = 64U << 10;  // zeros are left out in pieces of this size
constexpr std::size_t kPortion = 4U << 20;

Error couldNotCopy(const std::string& what, const std::string& path) {
    const int reason = errno;
    return {Fault::Failed, what + ": " + std::strerror(reason), path,
            reason == ENOSPC ? "The drive is full. Make room and go on; nothing is lost" : ""};
}

Error refuse(std::string what, const std::string& path, std::string advice) {
    return {Fault::DestinationRefused, std::move(what), path, std::move(advice)};
}

bool exists(const std::string& path) {
    struct stat facts {};
    return ::lstat(path.c_str(), &facts) == 0;
}

bool isZero(Bytes bytes) {
    return bytes.empty() ||
           (bytes[0] == 0 && std::memcmp(bytes.data(), bytes.data() + 1, bytes.size() - 1) == 0);
}

// Feeds a file to `hash`, past the cache if `direct` and the filesystem allows.
Status hashFile(const std::string& path, bool direct, Control& control, Sha256& hash) {
    UniqueFd fd(::open(path.c_str(), O_RDONLY | O_CLOEXEC | (direct ? O_DIRECT : 0)));
    if (!fd) fd = UniqueFd(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (!fd) return couldNotCopy("The copy could not be read back", path);
    const AlignedBuffer buffer(kPortion);
    for (std::uint64_t at = 0;;) {
        if (!control.proceed())
            return Error{Fault::Interrupted, "Stopped before the copy's checksum was known", path,
                         "Go on with the copy to have it made"};
        const auto got = ::pread(fd.get(), buffer.bytes().data(), kPortion, static_cast<off_t>(at));
        if (got < 0 && errno == EINTR) continue;
        if (got < 0 && direct) {
            direct = false;  // the filesystem takes the flag but not the read
            fd = UniqueFd(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
            if (fd) continue;
        }
        if (got < 0) return couldNotCopy("The copy could not be read back", path);
        if (got == 0) return Done{};
        hash.add(buffer.bytes().first(static_cast<std::size_t>(got)));
        at += static_cast<std::uint64_t>(got);
    }
}

Result<MapContent> contentFor(const std::string& image, const std::string& map, const CardIdentity& card,
                              bool& takenUp) {
    const bool haveImage = exists(image);
    // A map is empty between its making and its first line; a kill then has lost nothing.
    std::error_code unknown;
    const bool haveMap = exists(map) && std::filesystem::file_size(map, unknown) != 0;
    takenUp = haveImage && haveMap;
    if (!haveImage && !haveMap) return MapContent{card, std::make_shared<CopyMap>(card.size), {}};
    if (haveImage && !haveMap) {
        return refuse("There is a file of this name already, and no map that would make it a copy", image,
                      "Choose another name for the copy");
    }
    if (!isMap(map))
        return refuse("The file in the map's place is not a map", map, "Choose another name for the copy");
    auto known = readMap(map);
    if (!known) return known;
    if (known.value().card.size != card.size || known.value().card.sectorSize != card.sectorSize) {
        return refuse("The copy there is of another card, of " + humanSize(known.value().card.size), image,
                      "Choose another name for the copy, or put that card in");
    }
    const auto& serial = known.value().card.serial;
    if (!serial.empty() && !card.serial.empty() && serial != card.serial) {
        return refuse(
            "The copy there is of the card with the serial number " + serial + ", not of " + card.serial,
            image, "Choose another name for the copy, or put that card in");
    }
    if (!haveImage && known.value().map->total(Tried::Read) > 0)
        return refuse("The map is there, but the copy it belongs to is gone", image,
                      "Bring the copy back, or remove the map and begin anew");
    known.value().card = card;
    return known;
}

}  // namespace

Result<std::shared_ptr<CopyImage>> CopyImage::open(const std::string& image, const std::string& map,
                                                   const CardIdentity& card) {
    bool takenUp = false;
    auto content = contentFor(image, map, card, takenUp);
    if (!content) return content.error();
    std::shared_ptr<CopyImage> copy(new CopyImage(image, std::move(content.value())));
    auto file = MapWriter::open(map, copy->content_);
    if (!file) return file.error();
    copy->file_ = std::move(file.value());
    copy->fd_ = UniqueFd(::open(image.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644));
    if (!copy->fd_) return couldNotCopy("The copy could not be created", image);
    struct stat facts {};
    if (::fstat(copy->fd_.get(), &facts) != 0 || !S_ISREG(facts.st_mode))
        return refuse("The copy must be a file", image, "Name a file on another drive");
    if (static_cast<std::uint64_t>(facts.st_size) != card.size &&
        ::ftruncate(copy->fd_.get(), static_cast<off_t>(card.size)) != 0) {
        const bool tooLarge = errno == EFBIG;
        auto error = couldNotCopy("A file of " + humanSize(card.size) + " cannot be made there", image);
        error.fault = Fault::DestinationRefused;
        if (tooLarge) error.advice = "This filesystem cannot hold so large a file; choose another drive";
        // Of a copy that was begun before nothing may be taken away.
        if (!takenUp) {
            ::unlink(map.c_str());
            ::unlink(image.c_str());
        }
        return error;
    }
    return copy;
}

Status CopyImage::write(std::uint64_t offset, Bytes bytes) {
    // Runs of what is not zero, in one write each.
    for (std::size_t at = 0; at < bytes.size();) {
        auto end = at;
        while (end < bytes.size() && !isZero(slice(bytes, end, kHole))) end += kHole;
        end = std::min(end, bytes.size());
        while (at < end) {
            const auto count =
                ::pwrite(fd_.get(), bytes.data() + at, end - at, static_cast<off_t>(offset + at));
            if (count < 0 && errno == EINTR) continue;
            if (count <= 0) return couldNotCopy("The copy could not be written", path_);
            at += static_cast<std::size_t>(count);
        }
        if (at < bytes.size()) at += std::min(kHole, bytes.size() - at);
    }
    return mark({offset, bytes.size()}, Tried::Read);
}

Status CopyImage::mark(ByteRange range, Tried state, int tries) {
    if (state == Tried::Read) content_.sha256.clear();  // it was made before these bytes came
    content_.map->set(range, state, tries);
    return file_->add({range, state, tries});
}

Status CopyImage::flush() {
    if (::fsync(fd_.get()) != 0) return couldNotCopy("The copy could not be flushed to the drive", path_);
    return file_->rewrite(content_);
}

Result<std::string> CopyImage::hash(Control& control) {
    Sha256 sum;
    if (auto read = hashFile(path_, false, control, sum); !read) return read.error();
    content_.sha256 = sum.hex();
    if (auto noted = file_->rewrite(content_); !noted) return noted.error();
    return content_.sha256;
}

Result<std::shared_ptr<Source>> CopyImage::source() const {
    auto image = openImage(path_, content_.card.sectorSize);
    if (!image) return image;
    return mappedSource(image.value(), content_.map);
}

std::optional<bool> sameContent(const Source& card, const Source& image, const CopyMap& map, int most) {
    const auto known = map.cells(Tried::Read, {0, map.size()});
    std::uint64_t all = 0;
    for (const auto& cell : known) all += cell.range.length;
    const std::size_t sector = card.sectorSize();
    const AlignedBuffer ours(sector);
    const AlignedBuffer theirs(sector);
    std::optional<bool> same;
    for (int i = 0; i < most && all >= sector; ++i) {
        auto place = all / static_cast<std::uint64_t>(most) * static_cast<std::uint64_t>(i);
        for (const auto& cell : known) {
            if (place >= cell.range.length) {
                place -= cell.range.length;
                continue;
            }
            const auto at = (cell.range.offset + place) / sector * sector;
            const auto mine = ours.bytes().first(sector);
            const auto its = theirs.bytes().first(sector);
            if (image.read(at, mine).count == sector && card.read(at, its).count == sector) {
                if (!std::equal(mine.begin(), mine.end(), its.begin())) return false;
                same = true;
            }
            break;
        }
    }
    return same;
}

Status verifyCopy(const std::string& image, const std::string& map, Control& control) {
    const auto known = readMap(map);
    if (!known) return known.error();
    if (known.value().sha256.empty())
        return Error{Fault::Failed, "The copy has no checksum: it was not finished", image,
                     "Go on with the copy first"};
    Sha256 sum;
    if (auto read = hashFile(image, true, control, sum); !read) return read;
    const auto now = sum.hex();
    if (now == known.value().sha256) return Done{};
    return Error{Fault::Failed,
                 "The copy has changed: its SHA-256 is " + now + " and was " + known.value().sha256, image,
                 "Do not trust this drive, nor this copy"};
}

}  // namespace dreskel
