#include "job/small.h"

#include <sys/stat.h>

#include <filesystem>

namespace dreskel {
namespace {

namespace fs = std::filesystem;

// Room that is taken, which is less than the length of a file with holes.
std::uint64_t sizeOf(const fs::path& path) {
    struct stat facts {};
    return ::stat(path.c_str(), &facts) == 0 ? static_cast<std::uint64_t>(facts.st_blocks) * 512 : 0;
}

std::uint64_t sizeOfFolder(const fs::path& folder) {
    std::error_code failed;
    std::uint64_t all = 0;
    for (const auto& entry : fs::directory_iterator(folder, failed)) all += sizeOf(entry.path());
    return all;
}

}  // namespace

std::string copyMadeBy(const Job& job) {
    const auto facts = job.source();
    std::error_code failed;
    if (!facts || facts->copyOf.empty() || !fs::is_regular_file(facts->path, failed)) return {};
    return facts->path;
}

Result<Smaller> makeSmall(Job& job, const std::string& folder, bool copyToo) {
    Smaller smaller;
    smaller.before = sizeOfFolder(folder);
    if (auto done = job.forgetPreviews(); !done) return done.error();
    smaller.after = sizeOfFolder(folder);
    if (!copyToo) return smaller;
    smaller.copy = copyMadeBy(job);
    if (smaller.copy.empty()) return smaller;
    smaller.copyBytes = sizeOf(smaller.copy);
    std::error_code failed;
    fs::remove(smaller.copy, failed);
    if (failed)
        return Error{Fault::Failed, "The copy could not be deleted: " + failed.message(), smaller.copy,
                     "Delete it by hand; the job itself is small already"};
    fs::remove(smaller.copy + ".map", failed);
    return smaller;
}

}  // namespace dreskel
