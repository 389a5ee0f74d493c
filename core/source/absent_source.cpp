#include "source/absent_source.h"

#include <fcntl.h>

#include <cerrno>

#include "base/unique_fd.h"

namespace dreskel {
namespace {

class AbsentSource : public Source {
  public:
    AbsentSource(std::string path, std::uint64_t size, std::uint32_t sectorSize)
        : path_(std::move(path)),
          size_(size),
          sectorSize_(sectorSize),
          nothing_(::open("/dev/null", O_RDONLY | O_CLOEXEC)) {}

    std::uint64_t size() const override { return size_; }
    std::uint32_t sectorSize() const override { return sectorSize_; }
    const std::string& path() const override { return path_; }
    int descriptor() const override { return nothing_.get(); }
    ReadOutcome read(std::uint64_t, MutableBytes) const override { return {0, ENODEV}; }
    bool isThere() const override { return false; }

  private:
    std::string path_;
    std::uint64_t size_;
    std::uint32_t sectorSize_;
    UniqueFd nothing_;
};

}  // namespace

std::shared_ptr<Source> absentSource(const std::string& path, std::uint64_t size, std::uint32_t sectorSize) {
    return std::make_shared<AbsentSource>(path, size, sectorSize);
}

}  // namespace dreskel
