#include <fcntl.h>
#include <linux/fs.h>
#include <sys/ioctl.h>
#include <sys/stat.h>

#include <cerrno>
#include <cstring>

#include "base/unique_fd.h"
#include "source/source.h"

namespace dreskel {
namespace {

class FileSource : public Source {
  public:
    FileSource(UniqueFd fd, std::string path, std::uint64_t size, std::uint32_t sectorSize)
        : fd_(std::move(fd)), path_(std::move(path)), size_(size), sectorSize_(sectorSize) {}

    std::uint64_t size() const override { return size_; }
    std::uint32_t sectorSize() const override { return sectorSize_; }
    const std::string& path() const override { return path_; }
    int descriptor() const override { return fd_.get(); }

    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        ReadOutcome outcome;
        while (outcome.count < into.size()) {
            const auto got = ::pread(fd_.get(), into.data() + outcome.count, into.size() - outcome.count,
                                     static_cast<off_t>(offset + outcome.count));
            if (got < 0 && errno == EINTR) continue;
            if (got < 0) outcome.error = errno;
            if (got <= 0) break;
            outcome.count += static_cast<std::size_t>(got);
        }
        return outcome;
    }

  private:
    UniqueFd fd_;
    std::string path_;
    std::uint64_t size_;
    std::uint32_t sectorSize_;
};

Error unusable(const std::string& path, std::string what, std::string advice) {
    return {Fault::SourceUnusable, std::move(what), path, std::move(advice)};
}

Result<std::shared_ptr<Source>> wrap(UniqueFd fd, const std::string& path) {
    struct stat facts {};
    if (::fstat(fd.get(), &facts) != 0) {
        return unusable(path, std::string("The source could not be looked at: ") + std::strerror(errno), "");
    }
    std::uint64_t size = 0;
    std::uint32_t sectorSize = 512;
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
    return std::shared_ptr<Source>(std::make_shared<FileSource>(std::move(fd), path, size, sectorSize));
}

}  // namespace

Result<std::shared_ptr<Source>> openSource(const std::string& path) {
    UniqueFd fd(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (!fd) {
        const int reason = errno;
        return unusable(path, std::string("The source could not be opened: ") + std::strerror(reason),
                        reason == EACCES ? "Ask for the right to read this device, or work on an image of it"
                                         : "Check the path");
    }
    return wrap(std::move(fd), path);
}

Result<std::shared_ptr<Source>> sourceFromDescriptor(int descriptor, const std::string& name) {
    UniqueFd fd(::fcntl(descriptor, F_DUPFD_CLOEXEC, 3));
    if (!fd) return unusable(name, std::string("The descriptor cannot be used: ") + std::strerror(errno), "");
    return wrap(std::move(fd), name);
}

}  // namespace dreskel
