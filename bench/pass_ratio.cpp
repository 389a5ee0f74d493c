#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <vector>

#include "base/unique_fd.h"
#include "bench/bench.h"
#include "formats/registry.h"
#include "scan/pass.h"
#include "scan/surface.h"

namespace dreskel::bench {
namespace {

using Clock = std::chrono::steady_clock;

double seconds(Clock::time_point from) {
    return std::chrono::duration<double>(Clock::now() - from).count();
}

void dropFromCache(const std::string& image) {
    const UniqueFd fd(::open(image.c_str(), O_RDONLY | O_CLOEXEC));
    ::posix_fadvise(fd.get(), 0, 0, POSIX_FADV_DONTNEED);
}

double plainRead(const std::string& image) {
    const UniqueFd fd(::open(image.c_str(), O_RDONLY | O_CLOEXEC));
    std::vector<char> buffer(Pass::kPortion);
    const auto from = Clock::now();
    while (::read(fd.get(), buffer.data(), buffer.size()) > 0) {
    }
    return seconds(from);
}

// As Scanner's pass looks at each sector.
double signaturePass(const std::string& image) {
    const auto source = openSource(image).value();
    Surface surface(source->size(), {});
    Control control;
    std::size_t candidates = 0;
    const auto from = Clock::now();
    Pass::run(*source, {0, source->size()}, control, [&](std::uint64_t offset, Bytes bytes, const auto&) {
        for (std::size_t at = 0; at < bytes.size(); at += source->sectorSize()) {
            const auto head = slice(bytes, at, Format::kHead);
            for (const auto* format : formatsBeginning(head[0])) candidates += format->matches(head) ? 1 : 0;
        }
        surface.look(offset, bytes, source->sectorSize());
    });
    const auto taken = seconds(from);
    std::printf("  (%zu candidates)\n", candidates);
    return taken;
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values[values.size() / 2];
}

}  // namespace

void passRatio(const std::string& image) {
    const auto size = static_cast<double>(openSource(image).value()->size());
    for (const bool cold : {true, false}) {
        std::vector<double> plain;
        std::vector<double> pass;
        for (int round = 0; round < 5; ++round) {
            if (cold) dropFromCache(image);
            plain.push_back(plainRead(image));
            if (cold) dropFromCache(image);
            pass.push_back(signaturePass(image));
        }
        std::printf("signature pass, %s: %.2f x a plain read (%.0f MB/s against %.0f MB/s, medians of 5)\n",
                    cold ? "cold" : "cached", median(pass) / median(plain), size / median(pass) / 1e6,
                    size / median(plain) / 1e6);
    }
}

}  // namespace dreskel::bench
