#include "rebuild/made_index.h"

#include <algorithm>
#include <cmath>

#include "formats/isobmff/boxes.h"
#include "rebuild/box_writer.h"
#include "rebuild/edit_list.h"

namespace dreskel::rebuild {
namespace {

using isobmff::BoxWalk;
using isobmff::findBox;
using isobmff::fourCc;

using Buffer = BoxBytes;

// What one track's tables are written from.
struct Timed {
    std::uint64_t samples = 0;
    std::uint64_t delta = 0;            // of the media's timescale
    std::uint64_t duration = 0;         // of the media's timescale
    std::vector<std::int64_t> offsets;  // from decoding to showing; empty: none
    std::int64_t lead = 0;              // what the first shown sample is late by
};

// By how much each picture is shown later than it is decoded.
void readOrder(const std::vector<WalkedSample>& samples, Timed& timed) {
    const auto delta = static_cast<std::int64_t>(timed.delta);
    std::vector<std::int64_t> offsets(samples.size());
    std::int64_t least = 0;
    bool any = false;
    for (std::size_t from = 0; from < samples.size();) {
        auto to = from;
        while (to < samples.size() && samples[to].segment == samples[from].segment) ++to;
        std::vector<std::size_t> order(to - from);
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = from + i;
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return samples[a].shown < samples[b].shown; });
        for (std::size_t i = 0; i < order.size(); ++i) {
            offsets[order[i]] =
                (static_cast<std::int64_t>(from + i) - static_cast<std::int64_t>(order[i])) * delta;
            least = std::min(least, offsets[order[i]]);
            any = any || order[i] != from + i;
        }
        from = to;
    }
    if (!any) return;
    for (auto& offset : offsets) offset -= least;
    timed.lead = -least;
    timed.offsets = std::move(offsets);
}

// The ctts box (8.6.1.3), equal ones together.
Buffer compositionOffsets(const std::vector<std::int64_t>& offsets) {
    Buffer box;
    put(box, 0, 8);
    std::uint32_t entries = 0;
    for (std::size_t i = 0; i < offsets.size(); ++entries) {
        auto end = i + 1;
        while (end < offsets.size() && offsets[end] == offsets[i]) ++end;
        put(box, end - i, 4);
        put(box, static_cast<std::uint64_t>(offsets[i]), 4);
        i = end;
    }
    set(box, 4, entries, 4);
    return box;
}

struct SampleRun {
    std::uint64_t offset = 0, samples = 0;
};

Buffer sampleTable(Bytes like, const TemplateTrack& track, const std::vector<WalkedSample>& samples,
                   const Timed& timed, std::int64_t shift) {
    const bool plain = track.isPlain();
    Buffer table;
    if (const auto description = findBox(like, fourCc("stsd")))
        putBox(table, fourCc("stsd"), description->body);
    Buffer durations;
    put(durations, 1, 8);
    put(durations, timed.samples, 4);
    put(durations, timed.delta, 4);
    putBox(table, fourCc("stts"), durations);
    if (!timed.offsets.empty()) putBox(table, fourCc("ctts"), compositionOffsets(timed.offsets));
    const bool allSync = std::all_of(samples.begin(), samples.end(), [](const auto& s) { return s.sync; });
    if (!allSync) {
        Buffer box;
        put(box, 0, 8);
        std::uint32_t count = 0;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            if (!samples[i].sync) continue;
            put(box, i + 1, 4);
            ++count;
        }
        set(box, 4, count, 4);
        putBox(table, fourCc("stss"), box);
    }
    // Samples one behind the other are a chunk.
    std::vector<SampleRun> chunks;
    std::uint64_t end = 0;
    for (const auto& sample : samples) {
        const auto count = plain ? sample.size / track.frameBytes : 1;
        if (chunks.empty() || sample.offset != end)
            chunks.push_back({sample.offset + static_cast<std::uint64_t>(shift), 0});
        chunks.back().samples += count;
        end = sample.offset + sample.size;
    }
    Buffer toChunk;
    put(toChunk, 0, 8);
    std::uint32_t entries = 0;
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        if (i > 0 && chunks[i].samples == chunks[i - 1].samples) continue;
        put(toChunk, i + 1, 4);
        put(toChunk, chunks[i].samples, 4);
        put(toChunk, 1, 4);
        ++entries;
    }
    set(toChunk, 4, entries, 4);
    putBox(table, fourCc("stsc"), toChunk);
    Buffer sizes;
    put(sizes, 0, 4);
    put(sizes, plain ? track.statedSize : 0, 4);
    put(sizes, timed.samples, 4);
    for (const auto& sample : samples) {
        if (!plain) put(sizes, sample.size, 4);
    }
    putBox(table, fourCc("stsz"), sizes);
    const bool far = !chunks.empty() && chunks.back().offset > UINT32_MAX;
    Buffer offsets;
    put(offsets, 0, 4);
    put(offsets, chunks.size(), 4);
    for (const auto& chunk : chunks) put(offsets, chunk.offset, far ? 8 : 4);
    putBox(table, far ? fourCc("co64") : fourCc("stco"), offsets);
    return table;
}

// mvhd, tkhd and mdhd: version and flags, then two times, that are not known and become 0.
Buffer header(Bytes like, std::size_t durationAt32, std::size_t durationAt64, std::uint64_t duration) {
    Buffer box(like.begin(), like.end());
    box.resize(std::max<std::size_t>(box.size(), 24));
    const bool wide = box[0] == 1;
    std::fill_n(box.begin() + 4, std::min<std::size_t>(box.size() - 4, wide ? 16 : 8), std::uint8_t{0});
    set(box, wide ? durationAt64 : durationAt32,
        wide ? duration : std::min<std::uint64_t>(duration, UINT32_MAX), wide ? 8 : 4);
    return box;
}

Buffer media(Bytes like, const TemplateTrack& track, const std::vector<WalkedSample>& samples,
             const Timed& timed, std::int64_t shift) {
    Buffer body;
    BoxWalk walk(like);
    while (const auto box = walk.next()) {
        if (box->type == fourCc("mdhd")) {
            putBox(body, box->type, header(box->body, 16, 24, timed.duration));
        } else if (box->type == fourCc("minf")) {
            Buffer information;
            BoxWalk inner(box->body);
            while (const auto part = inner.next()) {
                if (part->type == fourCc("stbl")) {
                    putBox(information, part->type, sampleTable(part->body, track, samples, timed, shift));
                } else {
                    putBox(information, part->type, part->body);
                }
            }
            putBox(body, box->type, information);
        } else {
            putBox(body, box->type, box->body);
        }
    }
    return body;
}

}  // namespace

std::vector<std::uint8_t> makeIndex(const ClipTemplate& like, const Walked& walked, std::int64_t shift) {
    std::vector<Timed> times(like.tracks.size());
    double sound = 0;  // seconds
    for (const bool pictures : {false, true}) {
        for (std::size_t i = 0; i < like.tracks.size(); ++i) {
            const auto& track = like.tracks[i];
            const auto& samples = walked.tracks[i];
            const bool isPicture = track.coding != isobmff::SampleTrack::Coding::Other;
            if (samples.empty() || isPicture != pictures) continue;
            auto& timed = times[i];
            timed.samples = samples.size();
            if (track.isPlain()) {
                timed.samples = 0;
                for (const auto& sample : samples) timed.samples += sample.size / track.frameBytes;
            }
            timed.delta = track.delta;
            // A recorder whose pictures do not come evenly: what the sound says of the time that has passed.
            if (isPicture && !track.steady && sound > 0) {
                timed.delta = static_cast<std::uint64_t>(
                    std::max(1.0, std::round(sound * track.timescale / static_cast<double>(timed.samples))));
            }
            timed.duration = timed.samples * timed.delta;
            const auto seconds = static_cast<double>(timed.duration) / track.timescale;
            if (!isPicture) sound = std::max(sound, seconds);
            if (isPicture && track.order.lsbBits() > 0) readOrder(samples, timed);
        }
    }
    std::uint64_t longest = 0;
    const auto inMovie = [&](std::size_t i) {
        return static_cast<std::uint64_t>(
            std::llround(static_cast<double>(times[i].duration) / like.tracks[i].timescale * like.timescale));
    };
    for (std::size_t i = 0; i < times.size(); ++i) {
        if (times[i].samples > 0) longest = std::max(longest, inMovie(i));
    }
    if (longest == 0) return {};
    Buffer movie;
    BoxWalk walk(like.movie);
    for (std::size_t number = 0; const auto box = walk.next();) {
        if (box->type == fourCc("mvhd")) putBox(movie, box->type, header(box->body, 16, 24, longest));
        if (box->type != fourCc("trak")) continue;
        const auto i = number++;
        if (i >= times.size() || times[i].samples == 0) continue;
        Buffer body;
        BoxWalk inner(box->body);
        while (const auto part = inner.next()) {
            if (part->type == fourCc("tkhd")) {
                putBox(body, part->type, header(part->body, 20, 28, inMovie(i)));
                const auto old = findBox(box->body, fourCc("edts"));
                const auto entries = old ? findBox(old->body, fourCc("elst")) : std::nullopt;
                if (entries || times[i].lead > 0) {
                    Buffer edit;
                    // The template's, for another length: what is waited for in front, then all of it.
                    auto list = entries ? readEdits(entries->body) : EditList();
                    if (!times[i].offsets.empty()) list.start = static_cast<std::uint64_t>(times[i].lead);
                    putBox(edit, fourCc("elst"), writeEdits(list, inMovie(i)));
                    putBox(body, fourCc("edts"), edit);
                }
            } else if (part->type == fourCc("mdia")) {
                putBox(body, part->type,
                       media(part->body, like.tracks[i], walked.tracks[i], times[i], shift));
            } else if (part->type == fourCc("tapt") || part->type == fourCc("clef")) {
                putBox(body, part->type, part->body);
            }
        }
        putBox(movie, box->type, body);
    }
    Buffer index;
    putBox(index, fourCc("moov"), movie);
    return index;
}

std::vector<std::uint8_t> makeMediaHeader(std::uint64_t length) {
    Buffer box;
    const bool far = length + 8 > UINT32_MAX;
    put(box, far ? 1 : length + 8, 4);
    put(box, fourCc("mdat"), 4);
    if (far) put(box, length + 16, 8);
    return box;
}

}  // namespace dreskel::rebuild
