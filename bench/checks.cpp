#include <chrono>
#include <cstdio>
#include <filesystem>
#include <map>
#include <thread>

#include "bench/bench.h"
#include "media/decoder_process.h"
#include "session/session.h"

namespace dreskel::bench {
namespace {

constexpr double kPlayed = 10;  // seconds of each clip
constexpr int kMostClips = 6;

// How fast clips could be played from the card: seconds of each in a second.
void playing(Session& session) {
    media::DecoderProcess decoder(session.source());
    const media::DecoderProcess::Manner manner{0.25, 1280, false};
    int clips = 0;
    for (const auto& finding : session.listed()) {
        if (finding.kind != Kind::Video || ++clips > kMostClips) continue;
        const auto from = std::chrono::steady_clock::now();
        std::size_t pictures = 0;
        double played = 0;
        auto stretch = decoder.playFrom(finding.pieces, finding.format, 0, manner, nullptr);
        for (; stretch && played < kPlayed; stretch = decoder.playOn(manner, nullptr)) {
            pictures += stretch.value().pictures.size();
            played += manner.seconds;
            if (stretch.value().ended) break;
        }
        const double taken = std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
        std::printf("playing %s, %u x %u, %zu pieces: %.1f s with %zu pictures decoded in %.2f s\n",
                    finding.description.codec.c_str(), finding.description.width.value_or(0),
                    finding.description.height.value_or(0), finding.pieces.size(), played, pictures, taken);
    }
}

}  // namespace

void wholeScan(const std::string& image, const std::string& folder) {
    using Clock = std::chrono::steady_clock;
    const auto job = std::filesystem::path(folder) / "bench-job";
    std::filesystem::remove_all(job);
    const auto session = Session::open(image, job.string());
    if (!session) {
        std::printf("whole scan: %s\n", session.error().sentence().c_str());
        return;
    }
    const auto from = Clock::now();
    double first = 0;
    session.value()->startScan({});
    while (session.value()->overview().activity != Activity::Idle) {
        if (first == 0 && session.value()->overview().listed > 0) {
            first = std::chrono::duration<double>(Clock::now() - from).count();
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    const double taken = std::chrono::duration<double>(Clock::now() - from).count();
    std::map<Kind, double> bytes;
    for (const auto& finding : session.value()->listed())
        bytes[finding.kind] += static_cast<double>(finding.size());
    const auto size = static_cast<double>(session.value()->source()->size());
    std::printf(
        "whole scan with every check: %.2f s, %.0f MB/s of card (%.0f MB photos, %.0f MB clips, %.0f MB "
        "sound); "
        "first file listed after %.2f s\n",
        taken, size / taken / 1e6, bytes[Kind::Photo] / 1e6, bytes[Kind::Video] / 1e6,
        bytes[Kind::Audio] / 1e6, first);
    playing(*session.value());
    std::filesystem::remove_all(job);
}

}  // namespace dreskel::bench
