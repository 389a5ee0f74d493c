#include "formats/isobmff/sample_table.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {
namespace {

// Of an AVC or HEVC sample entry (ISO/IEC 14496-15, 5.3.3 and 8.3.3): the decoder's settings, and in them how
// many bytes a NAL unit's length takes.
void readSettings(Bytes entry, std::uint32_t configuration, std::size_t place, SampleTrack& track) {
    constexpr std::size_t kVisualEntry = 78;
    const auto box = findBox(slice(entry, kVisualEntry, entry.size()), configuration);
    if (!box || box->body.size() <= place) return;
    track.lengthBytes = (box->body[place] & 3U) + 1;
    track.settings.assign(box->body.begin(), box->body.end());
}

// Of the codings whose pictures begin with one: start codes (ISO/IEC 13818-2 and 14496-2), the picture start
// code of H.263 (5.1.1), the frame headers of SMPTE RDD 36 (5.1), ST 2019-1 and IEC 61834-2.
std::optional<Mark> markOf(std::uint32_t entry) {
    constexpr Mark startCode{0x00000100, 0xffffff00}, h263{0x00008000, 0xfffffc00},
        proRes{fourCc("icpf"), 0xffffffff, true}, vc3{0x00000280, 0xffffffff}, dv{0x1f07003f, 0xffffff7f};
    if (entry == fourCc("mp4v") || entry == fourCc("m2v1") || entry == fourCc("mpg2")) return startCode;
    if (entry == fourCc("s263") || entry == fourCc("h263")) return h263;
    if (entry == fourCc("AVdn") || entry == fourCc("AVdh")) return vc3;
    // The rest have names by rate and size that begin alike.
    switch (entry >> 16) {
        case fourCc("ap..") >> 16: return proRes;
        case fourCc("dv..") >> 16: return dv;
        case fourCc("xd..") >> 16:
        case fourCc("hd..") >> 16:
        case fourCc("mx..") >> 16: return startCode;
        default: return std::nullopt;
    }
}

void readCoding(Bytes table, SampleTrack& track) {
    const auto description = findBox(table, fourCc("stsd"));
    if (!description) return;
    BoxWalk entries(slice(description->body, 8, description->body.size()));
    const auto entry = entries.next();
    if (!entry) return;
    if (track.kind == TrackKind::Audio) {
        auto sound = readSoundEntry(*entry);
        track.sound = sound.coding;
        track.settings = std::move(sound.settings);
    } else if (entry->type == fourCc("avc1") || entry->type == fourCc("avc3")) {
        track.coding = SampleTrack::Coding::Avc;
        readSettings(entry->body, fourCc("avcC"), 4, track);
    } else if (entry->type == fourCc("hvc1") || entry->type == fourCc("hev1")) {
        track.coding = SampleTrack::Coding::Hevc;
        readSettings(entry->body, fourCc("hvcC"), 21, track);
    } else if (entry->type == fourCc("jpeg") || entry->type == fourCc("mjpg")) {
        track.coding = SampleTrack::Coding::MotionJpeg;
    } else if (entry->type == fourCc("av01")) {
        track.coding = SampleTrack::Coding::Av1;
    } else if (const auto mark = markOf(entry->type)) {
        track.coding = SampleTrack::Coding::Marked;
        track.mark = *mark;
    }
}

bool readTable(Bytes table, SampleTrack& track, std::uint64_t& budget) {
    const auto sizes = findBox(table, fourCc("stsz"));
    const auto toChunk = findBox(table, fourCc("stsc"));
    const auto offsets32 = findBox(table, fourCc("stco"));
    const auto offsets64 = findBox(table, fourCc("co64"));
    if (!sizes || !toChunk || (!offsets32 && !offsets64)) return true;
    ByteReader size(sizes->body);
    size.skip(4);
    const auto uniform = size.u32();
    const std::uint64_t count = size.u32();
    // Samples of one size (PCM) are many and say nothing.
    if (uniform != 0) return true;
    if (!size.ok() || count * 4 > size.left() || count > budget) return false;
    budget -= count;
    ByteReader run(toChunk->body);
    run.skip(4);
    std::uint64_t runsLeft = run.u32();
    ByteReader offset(offsets64 ? offsets64->body : offsets32->body);
    offset.skip(4);
    const std::uint64_t chunks = offset.u32();
    if (!run.ok() || !offset.ok() || runsLeft * 12 > run.left() ||
        chunks * (offsets64 ? 8 : 4) > offset.left() || chunks > limits::kMostChunksOfATrack)
        return false;
    std::uint64_t nextRunAt = runsLeft > 0 ? run.u32() : 0;
    std::uint32_t perChunk = 0;
    for (std::uint64_t chunk = 1; chunk <= chunks && track.samples.size() < count; ++chunk) {
        if (runsLeft > 0 && chunk == nextRunAt) {
            perChunk = run.u32();
            run.skip(4);
            --runsLeft;
            nextRunAt = runsLeft > 0 ? run.u32() : 0;
        }
        if (perChunk == 0) return false;
        auto at = offsets64 ? offset.u64() : std::uint64_t{offset.u32()};
        for (std::uint32_t i = 0; i < perChunk && track.samples.size() < count; ++i) {
            const auto length = size.u32();
            track.samples.push_back({at, length});
            const auto next = checkedAdd(at, length);
            if (!next) return false;
            at = *next;
        }
    }
    return track.samples.size() == count;
}

}  // namespace

std::optional<std::vector<SampleTrack>> readSamples(Bytes body) {
    std::vector<SampleTrack> tracks;
    std::uint64_t budget = limits::kLargestTablesOfAClip;
    BoxWalk walk(body);
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trak") || tracks.size() >= limits::kMostTracks) continue;
        const auto media = findBox(box->body, fourCc("mdia"));
        const auto information = media ? findBox(media->body, fourCc("minf")) : std::nullopt;
        const auto table = information ? findBox(information->body, fourCc("stbl")) : std::nullopt;
        if (!table) continue;
        SampleTrack track;
        if (const auto handler = findBox(media->body, fourCc("hdlr"))) {
            ByteReader reader(handler->body);
            reader.skip(8);
            const auto type = reader.u32();
            if (type == fourCc("vide")) track.kind = TrackKind::Video;
            if (type == fourCc("soun")) track.kind = TrackKind::Audio;
        }
        readCoding(table->body, track);
        if (!readTable(table->body, track, budget)) return std::nullopt;
        tracks.push_back(std::move(track));
    }
    return tracks;
}

}  // namespace dreskel::isobmff
