#include <fcntl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cstdio>
#include <filesystem>

#include "base/unique_fd.h"
#include "bench/bench.h"
#include "session/session.h"

namespace dreskel::bench {

void memory(const std::string& folder, unsigned gib) {
    namespace fs = std::filesystem;
    const auto image = fs::path(folder) / "sparse.img";
    const auto job = fs::path(folder) / "sparse-job";
    fs::remove_all(job);
    {
        const UniqueFd fd(::open(image.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0644));
        if (!fd || ::ftruncate(fd.get(), static_cast<off_t>(gib) << 30) != 0) {
            std::printf("memory: no sparse image can be made in %s\n", folder.c_str());
            return;
        }
    }
    // In a child, so that only the scan's own memory counts.
    const auto from = std::chrono::steady_clock::now();
    const pid_t child = ::fork();
    if (child == 0) {
        const auto session = Session::open(image.string(), job.string());
        if (!session) ::_exit(1);
        session.value()->startScan({});
        ::_exit(session.value()->wait() ? 0 : 1);
    }
    int status = 0;
    rusage usage{};
    ::wait4(child, &status, 0, &usage);
    const double taken = std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
    std::printf("memory: %ld MB peak for a sparse image of %u GiB, scanned in %.0f s%s\n",
                usage.ru_maxrss / 1024, gib, taken, status == 0 ? "" : " (FAILED)");
    fs::remove(image);
    fs::remove_all(job);
}

}  // namespace dreskel::bench
