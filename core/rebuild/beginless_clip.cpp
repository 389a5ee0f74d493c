#include "rebuild/beginless_clip.h"

#include <algorithm>

#include "base/patience.h"
#include "rebuild/made_index.h"
#include "rebuild/witness.h"

namespace dreskel::rebuild {
namespace {

using isobmff::Looks;

constexpr std::size_t kLeastSamples = 8;
constexpr double kLeastShare = 0.02;
constexpr std::chrono::seconds kForEach{20};  // of processor time
constexpr const char* kNotFound = "what belongs here was not found on the card";
constexpr const char* kBeginning =
    "a beginning, in place of the one that is gone, and the header of the media data";

// A run of the file, and where on the card it begins.
struct Run {
    ByteRange file;
    std::uint64_t at = 0;
    std::uint64_t last = 0;  // of the file: where the last sample that was found in it begins
};

// So many bytes in front of the media data: ftyp (4.3), free space (8.1.2), and the header of the mdat box.
// Empty when they are too few.
std::vector<std::uint8_t> makeFront(std::uint64_t length, std::uint64_t media) {
    constexpr std::uint8_t kType[] = {0,   0,   0, 20, 'f', 't', 'y', 'p', 'i', 's',
                                      'o', 'm', 0, 0,  2,   0,   'i', 's', 'o', 'm'};
    constexpr std::size_t kBoxHeader = 8;
    const auto header = makeMediaHeader(media);
    if (length > UINT32_MAX || length < sizeof kType + header.size()) return {};
    const auto free = static_cast<std::size_t>(length) - sizeof kType - header.size();
    if (free > 0 && free < kBoxHeader) return {};
    std::vector<std::uint8_t> front(kType, kType + sizeof kType);
    if (free > 0) {
        for (const int shift : {24, 16, 8, 0}) front.push_back(static_cast<std::uint8_t>(free >> shift));
        for (const auto letter : {'f', 'r', 'e', 'e'}) front.push_back(static_cast<std::uint8_t>(letter));
        front.resize(sizeof kType + free, 0);
    }
    front.insert(front.end(), header.begin(), header.end());
    return front;
}

// Pieces begin and end where clusters do. A sample that reaches over the end of one cannot say so: what lies
// between where it begins and the next run is of the run before as far as that goes on in free space, and
// then of the one behind.
void join(Run& before, Run& behind, const ClipPool& pool) {
    const auto cluster = pool.cluster();
    const auto border = behind.file.offset;
    auto end = std::min(before.last / cluster * cluster + cluster, border);
    while (end < border && pool.free(before.at + (end - before.file.offset))) end += cluster;
    before.file.length = end - before.file.offset;
    while (behind.file.offset >= end + cluster && behind.at >= cluster && pool.free(behind.at - cluster)) {
        behind.file = {behind.file.offset - cluster, behind.file.length + cluster};
        behind.at -= cluster;
    }
}

class Search {
  public:
    Search(CardView& card, const ClipPool& pool, const SamplePlaces& samples)
        : card_(card), pool_(pool), samples_(samples) {}

    // The sample's place: where the run in hand goes on, or else the nearest behind it, or else the first.
    std::optional<std::uint64_t> placeOf(const Witness& witness, const Run* run) {
        const auto& sample = *witness.sample;
        const auto cluster = pool_.cluster();
        if (run != nullptr) {
            const auto next = run->at + (sample.offset - run->file.offset);
            if (pool_.free(next - sample.offset % cluster) && isThere(witness, next)) return next;
        }
        std::optional<std::uint64_t> first;
        for (const auto at : samples_.of(sample)) {
            const auto place = at + sample.offset % cluster;
            if (!isThere(witness, place)) continue;
            if (run == nullptr || place > run->at) return place;
            if (!first) first = place;
        }
        return first;
    }

  private:
    bool isThere(const Witness& witness, std::uint64_t place) {
        return looksAt(card_, witness, place, bytes_) == Looks::Exact;
    }

    CardView& card_;
    const ClipPool& pool_;
    const SamplePlaces& samples_;
    std::vector<std::uint8_t> bytes_;
};

}  // namespace

std::optional<BeginlessClip> withoutBeginning(CardView& card, const LooseIndex& index, const ClipPool& pool,
                                              const SamplePlaces& samples, const Control& control) {
    const auto witnesses = witnessesOf(index);
    const auto cluster = pool.cluster();
    Search search(card, pool, samples);
    const Patience patience(kForEach);
    std::vector<Run> runs;
    std::size_t found = 0;
    for (const auto& witness : witnesses) {
        if (control.stopped()) return std::nullopt;
        if (patience.over()) break;  // what was found so far has to do
        const auto& sample = *witness.sample;
        if (!runs.empty() && sample.offset < runs.back().file.end()) continue;  // tracks that overlap
        const auto place = search.placeOf(witness, runs.empty() ? nullptr : &runs.back());
        if (!place) continue;
        ++found;
        const auto end = sample.offset + sample.size;
        if (!runs.empty() && *place - runs.back().at == sample.offset - runs.back().file.offset) {
            runs.back().file.length = end - runs.back().file.offset;
            runs.back().last = sample.offset;
            continue;
        }
        const auto border = std::max(sample.offset - sample.offset % cluster, index.firstByte);
        runs.push_back({{border, end - border}, *place - (sample.offset - border), sample.offset});
        if (runs.size() > 1) join(runs[runs.size() - 2], runs.back(), pool);
    }
    std::erase_if(runs, [](const Run& run) { return run.file.length == 0; });
    if (found < kLeastSamples ||
        static_cast<double>(found) < kLeastShare * static_cast<double>(witnesses.size()))
        return std::nullopt;
    auto& last = runs.back();
    // With the sound behind the last picture, where the index follows.
    const auto rest = index.lastByte - last.file.offset;
    if (index.lastByte > last.file.end() && index.box.offset == last.at + rest) last.file.length = rest;

    auto front = makeFront(index.firstByte, index.lastByte - index.firstByte);
    if (front.empty()) return std::nullopt;
    BeginlessClip clip;
    clip.at = runs.front().at;
    clip.pieces.push_back(madePiece(std::move(front), kBeginning));
    auto at = index.firstByte;
    const auto fillUpTo = [&](std::uint64_t byte) {
        if (byte > at) clip.pieces.push_back({PieceFrom::Fill, 0, byte - at, kNotFound});
    };
    const auto take = [&](const ByteRange& place) {
        for (auto& piece : card.pieces(place)) clip.pieces.push_back(std::move(piece));
    };
    for (const auto& run : runs) {
        fillUpTo(run.file.offset);
        take({run.at, run.file.length});
        at = run.file.end();
    }
    fillUpTo(index.lastByte);
    for (const auto& place : index.places) take(place);
    return clip;
}

}  // namespace dreskel::rebuild
