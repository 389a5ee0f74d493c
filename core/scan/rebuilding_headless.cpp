// Photos whose beginning is gone: coded data that nothing claims, with the header of a good photo of the same
// camera, lent or on the card. What comes of it is a picture of what is left, and is said to be no more.
#include <algorithm>
#include <atomic>
#include <mutex>
#include <set>
#include <thread>

#include "rebuild/headless_photo.h"
#include "scan/running.h"

namespace dreskel {
namespace {

constexpr std::size_t kHeader = 256 * 1024;
constexpr std::size_t kMostLenders = 12;
constexpr std::uint64_t kLargestRun = 96ULL << 20;
constexpr std::size_t kMapLength = 64;
constexpr std::string_view kFamily = "jpeg";

std::vector<std::uint8_t> mapOf(const rebuild::HeadlessPhoto& photo) {
    std::vector<std::uint8_t> map(kMapLength);
    for (std::size_t i = 0; i < map.size(); ++i) {
        const auto from = photo.allMcus * i / kMapLength, to = photo.allMcus * (i + 1) / kMapLength;
        const auto begin = std::max(from, photo.firstMcu);
        const auto end = std::min(to, photo.firstMcu + photo.mcus);
        if (to > from && end > begin) map[i] = static_cast<std::uint8_t>(255 * (end - begin) / (to - from));
    }
    return map;
}

std::string accountOf(const rebuild::HeadlessPhoto& photo, const std::string& lender) {
    std::string text =
        "its beginning is gone: its header, and the bands in the place of what is missing, were made after " +
        lender;
    if (!photo.placed) text += "; how far down in the picture it belongs is not known";
    if (!photo.levelled) text += "; its brightness and tint are a guess";
    return text;
}

struct Lent {
    std::vector<jpeg::Lender> all;
    std::set<std::string> known;  // codings with sizes

    void add(Bytes head, std::string name) {
        auto lender = jpeg::Lender::read(head, std::move(name));
        if (!lender || all.size() == kMostLenders) return;
        const auto size = std::to_string(lender->width()) + 'x' + std::to_string(lender->height());
        if (known.insert(lender->coding() + size).second) all.push_back(std::move(*lender));
    }
    // Photos may have been taken upright too.
    void addTurned() {
        const auto count = all.size();
        for (std::size_t i = 0; i < count; ++i) {
            if (all[i].width() != all[i].height()) all.push_back(all[i].turned());
        }
    }
};

}  // namespace

Status Scanner::rebuildHeadless(Running& running, Control& control) {
    const auto& asked = running.record.formats;
    if (!asked.empty() && std::find(asked.begin(), asked.end(), kFamily) == asked.end()) return Done{};
    Lent lent;
    std::vector<std::uint8_t> head(kHeader);
    for (const auto& path : running.record.references) {
        const auto source = openSource(path);
        if (!source) continue;  // told before the scan began
        const auto got = source.value()->read(0, head).count;
        lent.add(Bytes(head).first(got), "the photo that was lent, " + path.substr(path.rfind('/') + 1));
    }
    // What is left when everything that is listed has its bytes.
    const auto space = freeSpace(running);
    RangeSet free;
    for (const auto& stretch : space.stretches) free.add(stretch);
    for (const auto& [id, finding] : running.claims.all()) {
        if (finding.inside) continue;
        for (const auto& piece : finding.pieces) {
            const auto clusters = (piece.length + space.cluster - 1) / space.cluster * space.cluster;
            if (piece.from == PieceFrom::Card) free.remove({piece.offset, clusters});
        }
        if (finding.evidence.family != kFamily || finding.condition != Condition::Whole) continue;
        const auto got = PieceReader(running.card, finding.pieces).read(0, head);
        lent.add(Bytes(head).first(got), "file " + std::to_string(id));
    }
    lent.addTurned();
    if (lent.all.empty()) return Done{};
    std::vector<rebuild::CodedRun> runs;
    for (auto stretch : free.ranges()) {
        // From a cluster on; the last may be blank behind the end of its file.
        const auto ahead = (space.cluster + space.origin - stretch.offset % space.cluster) % space.cluster;
        if (stretch.length <= ahead) continue;
        stretch = {stretch.offset + ahead, stretch.length - ahead};
        const auto read = [&](std::uint64_t at, MutableBytes into) { return running.card.read(at, into); };
        for (const auto& run : rebuild::findCodedRuns(read, stretch, control)) runs.push_back(run);
    }
    if (runs.empty() || control.stopped()) return Done{};

    std::atomic<std::size_t> next = 0;
    std::mutex mutex;
    std::vector<std::pair<std::uint64_t, rebuild::HeadlessPhoto>> done;
    const auto work = [&] {
        for (auto i = next++; i < runs.size() && control.proceed(); i = next++) {
            const auto& place = runs[i].place;
            std::vector<std::uint8_t> bytes(static_cast<std::size_t>(std::min(place.length, kLargestRun)));
            bytes.resize(running.card.read(place.offset, bytes));
            const bool hasEnd = runs[i].hasEnd && bytes.size() == place.length;
            auto photo = rebuild::withoutBeginning(bytes, hasEnd, lent.all, control);
            const std::lock_guard lock(mutex);
            if (photo) done.emplace_back(place.offset, std::move(*photo));
        }
    };
    running.joining = Running::Joining{runs.size(), 0};
    std::vector<std::thread> threads;
    const auto count = std::clamp(std::thread::hardware_concurrency(), 1U, 8U);
    for (unsigned i = 0; i < count; ++i) threads.emplace_back(work);
    while (next < runs.size() + count && !control.stopped()) {
        std::this_thread::sleep_for(std::chrono::milliseconds(100));
        running.joining->left = runs.size() - std::min(runs.size(), next.load());
        tell(running);
    }
    for (auto& thread : threads) thread.join();
    if (control.stopped()) return Done{};

    for (auto& [offset, photo] : done) {
        const auto& lender = lent.all[photo.lender].name();
        const auto account = accountOf(photo, lender);
        std::vector<Piece> pieces{madePiece(std::move(photo.front), account)};
        for (auto& piece : running.card.pieces({offset + photo.from, photo.to - photo.from}))
            pieces.push_back(std::move(piece));
        if (!photo.behind.empty()) pieces.push_back(madePiece(std::move(photo.behind), "an end marker"));
        running.examiner.addRebuilt({offset + photo.from, std::string(kFamily)}, std::move(pieces));
        running.examiner.finish();
        if (control.stopped()) return Done{};
        for (auto& examined : running.examiner.take()) {
            auto& measured = examined.measured;
            if (!measured.accepted) continue;
            measured.condition = Condition::Partial;
            measured.decoded =
                std::min(0.9999, static_cast<double>(photo.mcus) /
                                     static_cast<double>(std::max<std::uint64_t>(1, photo.allMcus)));
            measured.decodedMap = mapOf(photo);
            measured.why = account;
            running.examiner.giveBack(std::move(examined));
        }
        ++running.joining->joined;
        if (auto stored = store(running, false); !stored) return stored;
    }
    running.joining.reset();
    return Done{};
}

}  // namespace dreskel
