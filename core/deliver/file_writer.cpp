#include "deliver/file_writer.h"

#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <sys/stat.h>
#include <sys/vfs.h>
#include <unistd.h>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>
#include <charconv>
#include <cstring>
#include <filesystem>
#include <functional>
#include <future>
#include <memory>
#include <vector>

#include "base/aligned_buffer.h"
#include "base/sha256.h"
#include "base/unique_fd.h"
#include "deliver/long_file.h"

namespace dreskel {
namespace {

constexpr std::size_t kPortion = 4U << 20;
// So much is written before the drive is told to begin with it: it then works while more is read.
constexpr std::uint64_t kBegins = 16U << 20;

Error failed(const std::string& what, const std::string& path) {
    const int reason = errno;
    return {Fault::Failed, what + ": " + std::strerror(reason), path,
            reason == ENOSPC ? "The drive is full; make room or choose another" : ""};
}

bool writeAll(int fd, Bytes bytes) {
    while (!bytes.empty()) {
        const auto count = ::write(fd, bytes.data(), bytes.size());
        if (count < 0 && errno == EINTR) continue;
        if (count <= 0) return false;
        bytes = bytes.subspan(static_cast<std::size_t>(count));
    }
    return true;
}

class CheckSum {
  public:
    CheckSum() { XXH3_128bits_reset(state_.get()); }
    void add(Bytes bytes) { XXH3_128bits_update(state_.get(), bytes.data(), bytes.size()); }
    Check value() const {
        const auto digest = XXH3_128bits_digest(state_.get());
        return {digest.low64, digest.high64};
    }

  private:
    struct Free {
        void operator()(XXH3_state_t* state) const { XXH3_freeState(state); }
    };
    std::unique_ptr<XXH3_state_t, Free> state_{XXH3_createState()};
};

WriteEnd writeThroughTheCache(int fd, PieceReader& bytes, Control& control,
                              const std::function<void(Bytes)>& took) {
    std::vector<std::uint8_t> buffer(
        static_cast<std::size_t>(std::min<std::uint64_t>(kPortion, bytes.size())));
    std::uint64_t begun = 0;
    for (std::uint64_t at = 0; at < bytes.size();) {
        if (!control.proceed()) return WriteEnd::Stopped;
        const auto portion = Bytes(buffer).first(bytes.read(at, buffer));
        if (portion.empty()) return WriteEnd::SourceEnded;
        if (!writeAll(fd, portion)) return WriteEnd::Failed;
        at += portion.size();
        took(portion);
        if (at - begun < kBegins) continue;
        ::sync_file_range(fd, static_cast<off64_t>(begun), static_cast<off64_t>(at - begun),
                          SYNC_FILE_RANGE_WRITE);
        begun = at;
    }
    // The drive begins with it while the next file is read.
    ::sync_file_range(fd, 0, 0, SYNC_FILE_RANGE_WRITE);
    return WriteEnd::All;
}

UniqueFd createBeside(const std::string& target, std::string& path) {
    static std::atomic<unsigned> number = 0;
    const std::filesystem::path wish(target);
    for (int attempt = 0; attempt < 1000; ++attempt) {
        path = (wish.parent_path() /
                (kWritingPrefix + std::to_string(::getpid()) + "-" + std::to_string(number++)))
                   .string();
        UniqueFd fd(::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
        if (fd || errno != EEXIST) return fd;
    }
    return {};
}

}  // namespace

bool isAbandoned(const std::string& name) {
    const std::string_view prefix = kWritingPrefix;
    if (name.rfind(prefix, 0) != 0) return false;
    int process = 0;
    std::from_chars(name.data() + prefix.size(), name.data() + name.size(), process);
    // Another Dreskel may be writing here at this moment.
    return process <= 0 || ::kill(process, 0) != 0;
}

void removeAbandoned(const std::string& folder) {
    std::error_code failed;
    for (const auto& entry : std::filesystem::directory_iterator(folder, failed)) {
        std::error_code ignored;
        if (isAbandoned(entry.path().filename().string())) std::filesystem::remove(entry.path(), ignored);
    }
}

Result<Written> writeTemporary(PieceReader& bytes, const std::string& target, Control& control,
                               const std::function<void(std::uint64_t)>& told) {
    Written written;
    UniqueFd fd = createBeside(target, written.temporary);
    if (!fd) return failed("The file could not be created", target);
    CheckSum sum;
    const auto took = [&](Bytes portion) {
        sum.add(portion);
        written.size += portion.size();
        told(portion.size());
    };
    // Network folders and filesystems in user space are better left to their caches.
    const bool past =
        bytes.size() >= kLongFile && flushesAtOnce(std::filesystem::path(target).parent_path().string());
    const auto end = past ? writeLongFile(fd.get(), bytes, control, took)
                          : writeThroughTheCache(fd.get(), bytes, control, took);
    if (end == WriteEnd::All) {
        written.check = sum.value();
        return written;
    }
    auto error = end == WriteEnd::Failed ? failed("Writing failed", target)
                 : end == WriteEnd::Stopped
                     ? Error{Fault::Interrupted, "Stopped", target, ""}
                     : Error{Fault::Failed, "The source ended before the file did", target, ""};
    ::unlink(written.temporary.c_str());
    return error;
}

Status flushTemporary(const Written& written) {
    const UniqueFd fd(::open(written.temporary.c_str(), O_RDONLY | O_CLOEXEC));
    if (fd && ::fsync(fd.get()) == 0) return Done{};
    return failed("Flushing to the drive failed", written.temporary);
}

bool flushesAtOnce(const std::string& folder) {
    // Magic numbers of linux/magic.h, and of exfat, ntfs3 and f2fs.
    constexpr std::array<unsigned long, 8> known{0xef53,     0x58465342, 0x9123683e, 0x4d44,
                                                 0x2011bab0, 0x7366746e, 0xf2f52010, 0x01021994};
    struct statfs facts {};
    if (::statfs(folder.c_str(), &facts) != 0) return false;
    return std::find(known.begin(), known.end(), static_cast<unsigned long>(facts.f_type)) != known.end();
}

void flushFolder(const std::string& folder) {
    const UniqueFd fd(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (fd) ::fsync(fd.get());
}

Status flushAll(const std::string& folder) {
    const UniqueFd fd(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (fd && ::syncfs(fd.get()) == 0) return Done{};
    auto error = failed("Flushing the drive failed", folder);
    if (error.advice.empty())
        error.advice = "Save once more: what is there is read again and not written twice";
    return error;
}

namespace {

// Reads a file past the cache, where the filesystem allows, and hands it on portion by portion: while one is
// read, the one before is looked at in another thread.
Status readFromMedium(const std::string& path, std::uint64_t size, Control& control,
                      const std::function<void(Bytes)>& take) {
    // Whole blocks of any device, and no more than the file needs.
    constexpr std::size_t kBlock = 64 * 1024;
    const auto portion = std::min<std::uint64_t>(kPortion, (size / kBlock + 1) * kBlock);
    const std::array<AlignedBuffer, 2> buffers{
        AlignedBuffer(static_cast<std::size_t>(portion)),
        AlignedBuffer(size > portion ? static_cast<std::size_t>(portion) : kBlock)};
    std::future<void> taken;  // waits when it goes, so it goes before what it uses
    std::size_t turn = 0;
    UniqueFd fd(::open(path.c_str(), O_RDONLY | O_DIRECT | O_CLOEXEC));
    bool direct = static_cast<bool>(fd);
    const auto readPastTheCache = [&] {
        fd = UniqueFd(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
        if (fd) ::posix_fadvise(fd.get(), 0, 0, POSIX_FADV_DONTNEED);
    };
    if (!direct) readPastTheCache();
    if (!fd) return failed("The file could not be read back", path);
    std::uint64_t at = 0;
    while (at < size) {
        if (!control.proceed()) return Error{Fault::Interrupted, "Stopped", path, ""};
        const auto into = buffers[turn].bytes();
        const auto got = ::pread(fd.get(), into.data(), into.size(), static_cast<off_t>(at));
        if (got < 0 && errno == EINTR) continue;
        if (got < 0 && direct) {
            // The filesystem takes the flag but not the read; what fadvise dropped from the cache must do.
            direct = false;
            readPastTheCache();
            if (fd) continue;
        }
        if (got < 0) return failed("The file could not be read back", path);
        if (got == 0) break;
        if (taken.valid()) taken.get();
        const auto portionRead = Bytes(into).first(static_cast<std::size_t>(got));
        at += static_cast<std::uint64_t>(got);
        if (at < size) {
            taken = std::async(std::launch::async, [&take, portionRead] { take(portionRead); });
        } else {
            take(portionRead);
        }
        turn ^= 1U;
    }
    if (taken.valid()) taken.get();
    if (at == size) return Done{};
    return Error{Fault::Failed, "What the drive gives back is not what was written", path,
                 "Do not trust this drive; save to another one"};
}

}  // namespace

Result<std::string> verifyTemporary(const Written& written, Control& control) {
    Sha256 hash;
    CheckSum sum;
    const auto read = readFromMedium(written.temporary, written.size, control, [&](Bytes portion) {
        sum.add(portion);
        hash.add(portion);
    });
    if (!read) return read.error();
    if (sum.value() != written.check) {
        return Error{Fault::Failed, "What the drive gives back is not what was written", written.temporary,
                     "Do not trust this drive; save to another one"};
    }
    return hash.hex();
}

Result<std::string> sha256OnMedium(const std::string& path, std::uint64_t size, Control& control) {
    Sha256 hash;
    const auto read = readFromMedium(path, size, control, [&](Bytes portion) { hash.add(portion); });
    if (!read) return read.error();
    return hash.hex();
}

void setModified(const Written& written, std::int64_t seconds) {
    const std::array<timespec, 2> times{timespec{0, UTIME_OMIT}, timespec{seconds, 0}};
    ::utimensat(AT_FDCWD, written.temporary.c_str(), times.data(), 0);
}

Status giveName(const Written& written, const std::string& target) {
    if (::renameat2(AT_FDCWD, written.temporary.c_str(), AT_FDCWD, target.c_str(), RENAME_NOREPLACE) == 0)
        return Done{};
    // Filesystems without that flag: a hard link fails on an existing name too; without links, look first.
    if (errno == EINVAL || errno == ENOSYS) {
        if (::link(written.temporary.c_str(), target.c_str()) == 0) {
            ::unlink(written.temporary.c_str());
            return Done{};
        }
        struct stat facts {};
        if (errno != EEXIST && ::lstat(target.c_str(), &facts) != 0 && errno == ENOENT &&
            ::rename(written.temporary.c_str(), target.c_str()) == 0) {
            return Done{};
        }
    }
    const auto error = failed("The file could not be given its name", target);
    ::unlink(written.temporary.c_str());
    return error;
}

Status writeText(const std::string& path, const std::string& text) {
    const UniqueFd fd(::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
    if (!fd) return failed("The list could not be created", path);
    const Bytes bytes(reinterpret_cast<const std::uint8_t*>(text.data()), text.size());
    if (writeAll(fd.get(), bytes) && ::fsync(fd.get()) == 0) return Done{};
    const auto error = failed("The list could not be written", path);
    ::unlink(path.c_str());
    return error;
}

}  // namespace dreskel
