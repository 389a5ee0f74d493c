#include "rebuild/track_samples.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"
#include "rebuild/box_writer.h"

namespace dreskel::rebuild {
namespace {

using isobmff::BoxWalk;
using isobmff::findBox;
using isobmff::fourCc;

// Calls `each` for every sample with the value of its run; false when the runs are not as many as the
// samples.
template <typename Each>
bool readRuns(Bytes body, std::size_t samples, Each&& each) {
    ByteReader reader(body);
    reader.skip(4);
    std::size_t at = 0;
    for (auto runs = reader.u32(); runs > 0 && reader.ok(); --runs) {
        const auto count = reader.u32();
        const auto value = reader.u32();
        if (!reader.ok() || count > samples - at) return false;
        for (std::uint32_t i = 0; i < count; ++i) each(at++, value);
    }
    return at == samples;
}

bool readSizes(Bytes table, std::vector<TimedSample>& samples) {
    const auto box = findBox(table, fourCc("stsz"));
    if (!box) return false;
    ByteReader reader(box->body);
    reader.skip(4);
    const auto uniform = reader.u32();
    const auto count = reader.u32();
    if (!reader.ok() || count > limits::kLargestTablesOfAClip ||
        (uniform == 0 && std::uint64_t{count} * 4 > reader.left()))
        return false;
    samples.resize(count);
    for (auto& sample : samples) sample.size = uniform != 0 ? uniform : reader.u32();
    return true;
}

bool readPlaces(Bytes table, std::vector<TimedSample>& samples) {
    const auto toChunk = findBox(table, fourCc("stsc"));
    const auto far = findBox(table, fourCc("co64"));
    const auto near = findBox(table, fourCc("stco"));
    if (!toChunk || (!far && !near)) return false;
    ByteReader runs(toChunk->body);
    runs.skip(4);
    auto runsLeft = runs.u32();
    ByteReader offsets(far ? far->body : near->body);
    offsets.skip(4);
    const auto chunks = offsets.u32();
    if (!runs.ok() || !offsets.ok() || runsLeft == 0) return false;
    std::uint32_t nextRun = runs.u32();
    std::uint32_t perChunk = 0;
    std::uint32_t description = 1;
    std::size_t at = 0;
    for (std::uint32_t chunk = 1; chunk <= chunks && at < samples.size(); ++chunk) {
        if (runsLeft > 0 && chunk >= nextRun) {
            perChunk = runs.u32();
            description = runs.u32();
            if (--runsLeft > 0) nextRun = runs.u32();
        }
        std::uint64_t offset = far ? offsets.u64() : offsets.u32();
        if (!runs.ok() || !offsets.ok() || perChunk == 0) return false;
        for (std::uint32_t i = 0; i < perChunk && at < samples.size(); ++i, ++at) {
            samples[at].offset = offset;
            samples[at].description = description;
            const auto next = checkedAdd(offset, samples[at].size);
            if (!next) return false;
            offset = *next;
        }
    }
    return at == samples.size();
}

// Equal ones of `valueOf` together, as stts and ctts have them.
template <typename ValueOf>
BoxBytes writeRuns(const std::vector<TimedSample>& samples, int version, ValueOf&& valueOf) {
    BoxBytes box;
    put(box, static_cast<std::uint64_t>(version) << 56, 8);
    std::uint32_t runs = 0;
    for (std::size_t i = 0; i < samples.size(); ++runs) {
        auto end = i + 1;
        while (end < samples.size() && valueOf(samples[end]) == valueOf(samples[i])) ++end;
        put(box, end - i, 4);
        put(box, valueOf(samples[i]), 4);
        i = end;
    }
    set(box, 4, runs, 4);
    return box;
}

void writePlaces(BoxBytes& table, const std::vector<TimedSample>& samples) {
    struct Chunk {
        std::uint64_t offset = 0;
        std::uint32_t samples = 0, description = 1;
    };
    std::vector<Chunk> chunks;
    std::uint64_t end = 0;
    for (const auto& sample : samples) {
        if (chunks.empty() || sample.offset != end || sample.description != chunks.back().description)
            chunks.push_back({sample.offset, 0, sample.description});
        ++chunks.back().samples;
        end = sample.offset + sample.size;
    }
    BoxBytes toChunk;
    put(toChunk, 0, 8);
    std::uint32_t runs = 0;
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        if (i > 0 && chunks[i].samples == chunks[i - 1].samples &&
            chunks[i].description == chunks[i - 1].description)
            continue;
        put(toChunk, i + 1, 4);
        put(toChunk, chunks[i].samples, 4);
        put(toChunk, chunks[i].description, 4);
        ++runs;
    }
    set(toChunk, 4, runs, 4);
    putBox(table, fourCc("stsc"), toChunk);
    const bool far = std::any_of(chunks.begin(), chunks.end(),
                                 [](const Chunk& chunk) { return chunk.offset > UINT32_MAX; });
    BoxBytes offsets;
    put(offsets, 0, 4);
    put(offsets, chunks.size(), 4);
    for (const auto& chunk : chunks) put(offsets, chunk.offset, far ? 8 : 4);
    putBox(table, far ? fourCc("co64") : fourCc("stco"), offsets);
}

void writeSizes(BoxBytes& table, const std::vector<TimedSample>& samples) {
    const bool uniform = std::all_of(samples.begin(), samples.end(), [&](const TimedSample& sample) {
        return sample.size == samples.front().size;
    });
    BoxBytes sizes;
    put(sizes, 0, 4);
    put(sizes, uniform && !samples.empty() ? samples.front().size : 0, 4);
    put(sizes, samples.size(), 4);
    if (!uniform) {
        for (const auto& sample : samples) put(sizes, sample.size, 4);
    }
    putBox(table, fourCc("stsz"), sizes);
}

}  // namespace

std::optional<std::vector<TimedSample>> readTimedSamples(Bytes table) {
    std::vector<TimedSample> samples;
    if (!readSizes(table, samples)) return std::nullopt;
    if (samples.empty()) return samples;
    if (!readPlaces(table, samples)) return std::nullopt;
    const auto durations = findBox(table, fourCc("stts"));
    const auto set = [&](std::size_t i, std::uint32_t value) { samples[i].duration = value; };
    if (!durations || !readRuns(durations->body, samples.size(), set)) return std::nullopt;
    if (const auto later = findBox(table, fourCc("ctts"))) {
        const auto shift = [&](std::size_t i, std::uint32_t value) {
            samples[i].shownLater = static_cast<std::int32_t>(value);
        };
        if (!readRuns(later->body, samples.size(), shift)) return std::nullopt;
    }
    if (const auto syncs = findBox(table, fourCc("stss"))) {
        for (auto& sample : samples) sample.sync = false;
        ByteReader reader(syncs->body);
        reader.skip(4);
        for (auto left = reader.u32(); left > 0 && reader.left() >= 4; --left) {
            const auto number = reader.u32();
            if (number == 0 || number > samples.size()) return std::nullopt;
            samples[number - 1].sync = true;
        }
    }
    return samples;
}

std::vector<std::uint8_t> writeTimedSamples(Bytes like, const std::vector<TimedSample>& samples) {
    BoxBytes table;
    if (const auto description = findBox(like, fourCc("stsd")))
        putBox(table, fourCc("stsd"), description->body);
    putBox(table, fourCc("stts"),
           writeRuns(samples, 0, [](const TimedSample& sample) { return sample.duration; }));
    const auto later = findBox(like, fourCc("ctts"));
    const auto isLater = [](const TimedSample& sample) { return sample.shownLater != 0; };
    if (later || std::any_of(samples.begin(), samples.end(), isLater)) {
        const bool earlier = std::any_of(samples.begin(), samples.end(),
                                         [](const TimedSample& sample) { return sample.shownLater < 0; });
        const int version = later && !later->body.empty() ? later->body[0] : earlier ? 1 : 0;
        putBox(table, fourCc("ctts"), writeRuns(samples, version, [](const TimedSample& sample) {
                   return static_cast<std::uint32_t>(sample.shownLater);
               }));
    }
    if (std::any_of(samples.begin(), samples.end(), [](const TimedSample& sample) { return !sample.sync; })) {
        BoxBytes syncs;
        put(syncs, 0, 8);
        std::uint32_t count = 0;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            if (!samples[i].sync) continue;
            put(syncs, i + 1, 4);
            ++count;
        }
        set(syncs, 4, count, 4);
        putBox(table, fourCc("stss"), syncs);
    }
    writePlaces(table, samples);
    writeSizes(table, samples);
    return table;
}

}  // namespace dreskel::rebuild
