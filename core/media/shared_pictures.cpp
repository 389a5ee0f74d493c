#include "media/shared_pictures.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>

namespace dreskel::media {

SharedPictures::~SharedPictures() {
    if (mapped_ != nullptr) ::munmap(mapped_, kSize);
}

bool SharedPictures::make() {
    memory_ = UniqueFd(::memfd_create("pictures", MFD_CLOEXEC | MFD_ALLOW_SEALING));
    const bool made = memory_ && ::ftruncate(memory_.get(), kSize) == 0 &&
                      ::fcntl(memory_.get(), F_ADD_SEALS, F_SEAL_SHRINK | F_SEAL_GROW | F_SEAL_SEAL) == 0;
    if (!made) memory_.reset();
    return made;
}

std::span<std::uint8_t> SharedPictures::bytes() {
    // Not by fstat, which the worker may not call.
    if (mapped_ == nullptr && ::lseek(memory_.get(), 0, SEEK_END) == static_cast<off_t>(kSize)) {
        auto* at = ::mmap(nullptr, kSize, PROT_READ | PROT_WRITE, MAP_SHARED, memory_.get(), 0);
        if (at != MAP_FAILED) mapped_ = static_cast<std::uint8_t*>(at);
    }
    if (mapped_ == nullptr) return {};
    return {mapped_, kSize};
}

}  // namespace dreskel::media
