#include <fcntl.h>
#include <linux/fs.h>
#include <sys/ioctl.h>
#include <sys/stat.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstring>

#include "base/aligned_buffer.h"
#include "base/unique_fd.h"
#include "source/map_file.h"
#include "source/mapped_source.h"
#include "source/reader_recipe.h"
#include "source/source.h"

namespace dreskel {
namespace {

class FileSource : public Source {
  public:
    FileSource(UniqueFd fd, std::string path, std::uint64_t size, std::uint32_t sectorSize, bool block)
        : fd_(std::move(fd)), path_(std::move(path)), size_(size), sectorSize_(sectorSize), block_(block) {}

    std::uint64_t size() const override { return size_; }
    std::uint32_t sectorSize() const override { return sectorSize_; }
    const std::string& path() const override { return path_; }
    int descriptor() const override { return fd_.get(); }

    void avoidCache() override {
        const int flags = ::fcntl(fd_.get(), F_GETFL);
        direct_ = block_ && flags >= 0 && ::fcntl(fd_.get(), F_SETFL, flags | O_DIRECT) == 0;
    }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        return direct_ && !aligned(offset, into) ? readAround(offset, into) : readInto(offset, into);
    }

  private:
    bool aligned(std::uint64_t offset, MutableBytes into) const {
        return offset % sectorSize_ == 0 && into.size() % sectorSize_ == 0 &&
               reinterpret_cast<std::uintptr_t>(into.data()) % sectorSize_ == 0;
    }
    // Direct reads want whole sectors in aligned memory.
    ReadOutcome readAround(std::uint64_t offset, MutableBytes into) const {
        const auto from = offset / sectorSize_ * sectorSize_;
        const auto before = static_cast<std::size_t>(offset - from);
        const auto length = (before + into.size() + sectorSize_ - 1) / sectorSize_ * sectorSize_;
        const AlignedBuffer buffer(length);
        auto outcome = readInto(from, buffer.bytes().first(length));
        outcome.count = std::min(outcome.count - std::min(outcome.count, before), into.size());
        std::copy_n(buffer.bytes().begin() + static_cast<std::ptrdiff_t>(before), outcome.count,
                    into.begin());
        return outcome;
    }
    // How many bytes from there on are a hole, which costs nothing to know and much to read: images of cards,
    // our own copies too, hold no blank stretches. And how many behind it, at most `most` of both, are data.
    struct Ahead {
        std::size_t hole = 0, data = 0;
    };
    Ahead ahead(std::uint64_t from, std::size_t most) const {
        if (block_ || most < kWorthAsking || from >= size_) return {0, most};
        const auto at = [&](int what, std::uint64_t place) {
            return ::lseek(fd_.get(), static_cast<off_t>(place), what);
        };
        const auto end = std::min<std::uint64_t>(size_, from + most);
        const auto data = at(SEEK_DATA, from);
        if (data < 0) {
            // No data behind it; unless the file was cut short, which is for the read to find out.
            const bool hole = errno == ENXIO && at(SEEK_END, 0) >= static_cast<off_t>(end);
            return hole ? Ahead{static_cast<std::size_t>(end - from), 0} : Ahead{0, most};
        }
        const auto begins = std::min(end, static_cast<std::uint64_t>(data));
        const auto hole = begins < end ? at(SEEK_HOLE, begins) : 0;
        const auto ends = hole > 0 ? std::min(end, static_cast<std::uint64_t>(hole)) : end;
        return {static_cast<std::size_t>(begins - from), static_cast<std::size_t>(ends - begins)};
    }
    ReadOutcome readInto(std::uint64_t offset, MutableBytes into) const {
        ReadOutcome outcome;
        while (outcome.count < into.size()) {
            const auto next = ahead(offset + outcome.count, into.size() - outcome.count);
            std::fill_n(into.data() + outcome.count, next.hole, std::uint8_t{0});
            outcome.count += next.hole;
            if (next.data == 0 && next.hole > 0) continue;
            const auto got = ::pread(fd_.get(), into.data() + outcome.count, next.data,
                                     static_cast<off_t>(offset + outcome.count));
            if (got < 0 && errno == EINTR) continue;
            if (got < 0) outcome.error = errno;
            if (got <= 0) break;
            outcome.count += static_cast<std::size_t>(got);
        }
        return outcome;
    }

    static constexpr std::size_t kWorthAsking = 128 * 1024;  // bytes; shorter reads are just made

    UniqueFd fd_;
    std::string path_;
    std::uint64_t size_;
    std::uint32_t sectorSize_;
    bool block_;
    std::atomic<bool> direct_{false};
};

Error unusable(const std::string& path, std::string what, std::string advice) {
    return {Fault::SourceUnusable, std::move(what), path, std::move(advice)};
}

Result<std::shared_ptr<Source>> wrap(UniqueFd fd, const std::string& path, std::uint32_t fileSector = 512) {
    struct stat facts {};
    if (::fstat(fd.get(), &facts) != 0) {
        return unusable(path, std::string("The source could not be looked at: ") + std::strerror(errno), "");
    }
    std::uint64_t size = 0;
    std::uint32_t sectorSize = fileSector;
    if (S_ISBLK(facts.st_mode)) {
        int logical = 0;
        if (::ioctl(fd.get(), BLKGETSIZE64, &size) != 0 || ::ioctl(fd.get(), BLKSSZGET, &logical) != 0) {
            return unusable(path, std::string("The device did not tell its size: ") + std::strerror(errno),
                            "Take the card out and put it in again");
        }
        if (logical >= 512 && logical <= 65536) sectorSize = static_cast<std::uint32_t>(logical);
    } else if (S_ISREG(facts.st_mode)) {
        size = static_cast<std::uint64_t>(facts.st_size);
    } else {
        return unusable(path, "The source is neither a block device nor a file",
                        "Name a card's device, such as /dev/sdX, or an image of a card");
    }
    if (size == 0) {
        return unusable(path, "The source is empty",
                        S_ISBLK(facts.st_mode) ? "Is a card in the reader?" : "Choose another image");
    }
    return std::shared_ptr<Source>(
        std::make_shared<FileSource>(std::move(fd), path, size, sectorSize, S_ISBLK(facts.st_mode)));
}

Result<UniqueFd> openForReading(const std::string& path) {
    UniqueFd fd(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (fd) return Result<UniqueFd>(std::move(fd));
    const int reason = errno;
    return unusable(path, std::string("The source could not be opened: ") + std::strerror(reason),
                    reason == EACCES      ? "Ask for the right to read this device, or work on an image of it"
                    : reason == ENOMEDIUM ? "Is a card in the reader?"
                                          : "Check the path");
}

}  // namespace

Result<std::shared_ptr<Source>> openImage(const std::string& path, std::uint32_t sectorSize) {
    auto fd = openForReading(path);
    if (!fd) return fd.error();
    return wrap(std::move(fd.value()), path, sectorSize);
}

Result<std::shared_ptr<Source>> openCopy(const std::string& image, const std::string& map) {
    const auto known = readMap(map);
    if (!known) {
        auto error = known.error();
        error.fault = Fault::SourceUnusable;
        return error;
    }
    auto source = openImage(image, known.value().card.sectorSize);
    if (!source) return source;
    return mappedSource(source.value(), known.value().map);
}

Result<std::shared_ptr<Source>> openSource(const std::string& path) {
    if (auto simulated = openRecipe(path)) return std::move(*simulated);
    if (isMap(mapPathFor(path))) return openCopy(path, mapPathFor(path));
    return openImage(path, 512);
}

Result<std::shared_ptr<Source>> sourceFromDescriptor(int descriptor, const std::string& name) {
    UniqueFd fd(::fcntl(descriptor, F_DUPFD_CLOEXEC, 3));
    if (!fd) return unusable(name, std::string("The descriptor cannot be used: ") + std::strerror(errno), "");
    return wrap(std::move(fd), name);
}

}  // namespace dreskel
