#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <thread>
#include <vector>

#include "base/unique_fd.h"
#include "bench/bench.h"
#include "copy/copier.h"
#include "session/session.h"
#include "source/failing_source.h"

namespace dreskel::bench {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr std::uint64_t kCardRate = 90000000;       // bytes a second, as a common card in a common reader
constexpr std::uint64_t kFastCardRate = 300000000;  // and the fastest of both

double seconds(Clock::time_point from) {
    return std::chrono::duration<double>(Clock::now() - from).count();
}

void dropFromCache(const std::string& image) {
    const UniqueFd fd(::open(image.c_str(), O_RDONLY | O_CLOEXEC));
    ::posix_fadvise(fd.get(), 0, 0, POSIX_FADV_DONTNEED);
}

void clear(const std::string& folder) {
    std::error_code failed;
    fs::remove_all(folder, failed);
    fs::create_directories(folder, failed);
}

double byDd(const std::string& image, const std::string& folder) {
    clear(folder);
    dropFromCache(image);
    const auto call = "dd if='" + image + "' of='" + folder + "/dd.img' bs=4M conv=fsync status=none";
    const auto from = Clock::now();
    if (std::system(call.c_str()) != 0) return 0;  // NOLINT: a bench
    return seconds(from);
}

double byCopier(const std::string& image, const std::string& folder) {
    clear(folder);
    dropFromCache(image);
    const auto card = openImage(image, 512).value();
    const auto copy =
        CopyImage::open(folder + "/copy.img", folder + "/copy.img.map", {image, "", card->size(), 512})
            .value();
    Copier copier(card, copy, {});
    Control control;
    const auto from = Clock::now();
    if (!copier.run(control)) return 0;
    return seconds(from);
}

// Until the card has been read, from a card of a card's speed; with a search on top of it or without.
double untilRead(const std::string& image, const std::string& folder, std::uint64_t rate, bool searching) {
    clear(folder);
    dropFromCache(image);
    ReaderPlan plan;
    plan.bytesPerSecond = rate;
    const auto card = std::make_shared<FailingSource>(openImage(image, 512).value(), plan);
    const CopyRequest request{folder + "/copy.img", {}, {}, {}};
    const auto from = Clock::now();
    const auto read = [&](const CopyView& view) {
        return view.progress.stage == CopyStage::Hashing || view.progress.stage == CopyStage::Done;
    };
    if (!searching) {
        const auto copying = Copying::begin(card, request).value();
        Control control;
        std::thread work([&] {
            if (!copying->run(control)) return;  // stopped while it makes the checksum
        });
        while (!read(copying->view())) std::this_thread::sleep_for(std::chrono::milliseconds(5));
        const auto taken = seconds(from);
        control.stop();
        work.join();
        return taken;
    }
    const auto session = Session::openCopying(card, request, folder + "/job").value();
    session->startScan({});
    while (!read(session->copying()->view())) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    const auto taken = seconds(from);
    session->stop();
    if (!session->wait()) return taken;  // stopped, as asked
    return taken;
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values[values.size() / 2];
}

}  // namespace

void copyRatio(const std::string& image, const std::string& folder) {
    const auto work = folder + "/copy-bench";
    const auto size = static_cast<double>(openImage(image, 512).value()->size());
    std::vector<double> dd;
    std::vector<double> copy;
    for (int round = 0; round < 5; ++round) {
        dd.push_back(byDd(image, work));
        copy.push_back(byCopier(image, work));
    }
    std::printf("copy, flushed: %.2f of dd's speed (%.0f MB/s against %.0f MB/s, medians of 5)\n",
                median(dd) / median(copy), size / median(copy) / 1e6, size / median(dd) / 1e6);
    for (const auto rate : {kCardRate, kFastCardRate, std::uint64_t{0}}) {
        std::vector<double> alone;
        std::vector<double> with;
        for (int round = 0; round < 3; ++round) {
            alone.push_back(untilRead(image, work, rate, false));
            with.push_back(untilRead(image, work, rate, true));
        }
        const auto source = rate == 0 ? std::string("as fast as the drive gives it")
                                      : "a card of " + std::to_string(rate / 1000000) + " MB/s";
        std::printf(
            "until the card is read, %s: with the search %.2f x the copy alone (%.1f s against %.1f s)\n",
            source.c_str(), median(with) / median(alone), median(with), median(alone));
    }
    std::error_code failed;
    fs::remove_all(work, failed);
}

}  // namespace dreskel::bench
