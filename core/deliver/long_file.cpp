#include "deliver/long_file.h"

#include <fcntl.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <future>

#include "base/aligned_buffer.h"

namespace dreskel {
namespace {

constexpr std::size_t kLongPortion = 8U << 20;
constexpr std::size_t kBlock = 4096;  // of any device

void goPastTheCache(int fd, bool past) {
    const int flags = ::fcntl(fd, F_GETFL);
    if (flags >= 0) ::fcntl(fd, F_SETFL, past ? flags | O_DIRECT : flags & ~O_DIRECT);
}

// errno, or 0.
int put(int fd, Bytes bytes, std::uint64_t at) {
    bool again = true;
    while (!bytes.empty()) {
        const auto count = ::pwrite(fd, bytes.data(), bytes.size(), static_cast<off_t>(at));
        if (count < 0 && errno == EINTR) continue;
        if (count < 0 && errno == EINVAL && again) {
            // Not in such portions, or not at all.
            goPastTheCache(fd, false);
            again = false;
            continue;
        }
        if (count <= 0) return count < 0 ? errno : EIO;
        bytes = bytes.subspan(static_cast<std::size_t>(count));
        at += static_cast<std::uint64_t>(count);
    }
    return 0;
}

class LongFile {
  public:
    LongFile(int fd, PieceReader& bytes) : fd_(fd), bytes_(bytes) {}
    // Leaves errno as run() does.
    ~LongFile() {
        if (reading_.valid()) reading_.wait();
        written();
    }
    LongFile(const LongFile&) = delete;
    LongFile& operator=(const LongFile&) = delete;

    WriteEnd run(Control& control, const std::function<void(Bytes)>& took) {
        if (::fallocate(fd_, 0, 0, static_cast<off_t>(bytes_.size())) != 0 && errno == ENOSPC) {
            trouble_ = errno;
            return WriteEnd::Failed;
        }
        goPastTheCache(fd_, true);
        read(0, 0);
        std::size_t turn = 0;
        for (std::uint64_t at = 0; at < bytes_.size(); turn = (turn + 1) % portions_.size()) {
            auto& portion = portions_[turn];
            const auto got = Bytes(portion.buffer.bytes()).first(reading_.get());
            if (!control.proceed()) return WriteEnd::Stopped;
            if (got.empty()) return WriteEnd::SourceEnded;
            // The end of a file is no whole block: it goes through the cache, when all else is written.
            if (got.size() % kBlock != 0) {
                if (!written()) return WriteEnd::Failed;
                goPastTheCache(fd_, false);
            }
            portion.written = std::async(std::launch::async, put, fd_, got, at);
            at += got.size();
            const auto next = (turn + 1) % portions_.size();
            if (!written(portions_[next])) return WriteEnd::Failed;
            if (at < bytes_.size()) read(next, at);
            took(got);
        }
        return written() ? WriteEnd::All : WriteEnd::Failed;
    }

  private:
    struct Portion {
        AlignedBuffer buffer{kLongPortion};
        std::future<int> written;
    };

    void read(std::size_t into, std::uint64_t at) {
        reading_ = std::async(std::launch::async,
                              [this, into, at] { return bytes_.read(at, portions_[into].buffer.bytes()); });
    }
    bool written(Portion& portion) {
        if (portion.written.valid()) {
            const int outcome = portion.written.get();
            if (trouble_ == 0) trouble_ = outcome;
        }
        errno = trouble_;
        return trouble_ == 0;
    }
    bool written() {
        for (auto& portion : portions_) written(portion);
        return trouble_ == 0;
    }

    int fd_;
    PieceReader& bytes_;
    std::array<Portion, 3> portions_;  // one is read while two are written
    std::future<std::size_t> reading_;
    int trouble_ = 0;  // errno of the first that could not be written
};

}  // namespace

WriteEnd writeLongFile(int fd, PieceReader& bytes, Control& control, const std::function<void(Bytes)>& took) {
    return LongFile(fd, bytes).run(control, took);
}

}  // namespace dreskel
