#include "formats/isobmff/movie.h"

#include <algorithm>
#include <array>
#include <ctime>

#include "base/limits.h"
#include "formats/exif.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {
namespace {

// Seconds since 1904-01-01 UTC (ISO/IEC 14496-12, 8.2.2.3); empty when never set.
std::string isoTime(std::uint64_t since1904) {
    constexpr std::uint64_t kTo1970 = 2082844800;
    if (since1904 <= kTo1970 || since1904 > kTo1970 + 4102444800ULL) return {};
    const auto seconds = static_cast<std::time_t>(since1904 - kTo1970);
    std::tm parts{};
    gmtime_r(&seconds, &parts);
    std::array<char, 32> text{};
    std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts);
    return text.data();
}

struct TimeHeader {
    std::uint64_t created = 0;
    std::uint32_t scale = 0;
    std::uint64_t duration = 0;
};

// mvhd and mdhd begin alike (8.2.2, 8.4.2).
std::optional<TimeHeader> readTimeHeader(Bytes body) {
    ByteReader reader(body);
    TimeHeader header;
    const auto version = reader.u8();
    reader.skip(3);
    const bool wide = version == 1;
    header.created = wide ? reader.u64() : reader.u32();
    reader.skip(wide ? 8 : 4);
    header.scale = reader.u32();
    header.duration = wide ? reader.u64() : reader.u32();
    if (!reader.ok() || header.scale == 0) return std::nullopt;
    return header;
}

double secondsOf(const TimeHeader& header) {
    const bool unknown = header.duration == 0xffffffffULL || header.duration == ~std::uint64_t{0};
    return unknown ? 0 : static_cast<double>(header.duration) / header.scale;
}

// 8.3.2: the matrix tells how the picture is to be turned.
void readTrackHeader(Bytes body, Track& track) {
    ByteReader reader(body);
    const auto version = reader.u8();
    reader.skip(version == 1 ? 3 + 32 : 3 + 20);
    reader.skip(8 + 8);
    const auto a = static_cast<std::int32_t>(reader.u32());
    const auto b = static_cast<std::int32_t>(reader.u32());
    reader.skip(28);
    track.width = reader.u32() >> 16;
    track.height = reader.u32() >> 16;
    if (!reader.ok()) return;
    if (a < 0) track.orientation = 3;
    if (a == 0 && b > 0) track.orientation = 6;
    if (a == 0 && b < 0) track.orientation = 8;
}

// Sample sizes, chunks and offsets (8.7) as ranges of the file.
bool readSampleTable(Bytes table, Track& track) {
    const auto description = findBox(table, fourCc("stsd"));
    if (description) {
        ByteReader reader(description->body);
        reader.skip(12);
        track.codec = reader.u32();
        if (!reader.ok()) track.codec = 0;
    }
    const auto sizes = findBox(table, fourCc("stsz"));
    const auto toChunk = findBox(table, fourCc("stsc"));
    const auto offsets32 = findBox(table, fourCc("stco"));
    const auto offsets64 = findBox(table, fourCc("co64"));
    if (!sizes || !toChunk || (!offsets32 && !offsets64)) return findBox(table, fourCc("stz2")).has_value();

    ByteReader size(sizes->body);
    size.skip(4);
    const auto uniform = size.u32();
    const std::uint64_t count = size.u32();
    if (!size.ok() || (uniform == 0 && count * 4 > size.left())) return false;
    // A uniform size (PCM) makes one sample of each frame of sound; only the sum matters then.
    if (uniform == 0 && count > limits::kLargestTablesOfAClip) return false;
    track.samples = count;

    ByteReader run(toChunk->body);
    run.skip(4);
    const std::uint64_t runs = run.u32();
    if (!run.ok() || runs * 12 > run.left()) return false;
    ByteReader offset(offsets64 ? offsets64->body : offsets32->body);
    offset.skip(4);
    const std::uint64_t chunks = offset.u32();
    if (chunks > limits::kMostChunksOfATrack) return false;
    if (!offset.ok() || chunks * (offsets64 ? 8 : 4) > offset.left()) return false;

    std::uint64_t used = 0;
    std::uint32_t perChunk = 0;
    std::uint64_t nextRunAt = runs > 0 ? run.u32() : 0;
    std::uint64_t runsLeft = runs;
    for (std::uint64_t chunk = 1; chunk <= chunks && used < count; ++chunk) {
        if (runsLeft > 0 && chunk == nextRunAt) {
            perChunk = run.u32();
            run.skip(4);
            --runsLeft;
            nextRunAt = runsLeft > 0 ? run.u32() : 0;
        }
        if (perChunk == 0) return false;
        const std::uint64_t here = std::min<std::uint64_t>(perChunk, count - used);
        std::uint64_t bytes = uniform * here;
        if (uniform == 0) {
            for (std::uint64_t i = 0; i < here; ++i) bytes += size.u32();
        }
        used += here;
        const std::uint64_t at = offsets64 ? offset.u64() : offset.u32();
        if (bytes > 0) track.chunks.push_back({at, bytes});
    }
    return used == count;
}

bool readTrack(Bytes body, Track& track) {
    if (const auto header = findBox(body, fourCc("tkhd"))) readTrackHeader(header->body, track);
    const auto media = findBox(body, fourCc("mdia"));
    if (!media) return false;
    if (const auto box = findBox(media->body, fourCc("mdhd"))) {
        if (const auto header = readTimeHeader(box->body)) track.duration = secondsOf(*header);
    }
    if (const auto handler = findBox(media->body, fourCc("hdlr"))) {
        ByteReader reader(handler->body);
        reader.skip(8);
        const auto type = reader.u32();
        if (reader.ok()) track.handler = type;
        if (type == fourCc("vide")) track.kind = TrackKind::Video;
        if (type == fourCc("soun")) track.kind = TrackKind::Audio;
    }
    const auto information = findBox(media->body, fourCc("minf"));
    if (!information) return false;
    const auto table = findBox(information->body, fourCc("stbl"));
    return table && readSampleTable(table->body, track);
}

// QuickTime user data: a 16-bit length, a language, the text. 3GPP and others put it elsewhere.
std::string userText(Bytes userData, std::uint32_t type) {
    const auto box = findBox(userData, type);
    if (!box) return {};
    ByteReader reader(box->body);
    const auto length = reader.u16();
    reader.skip(2);
    return reader.text(std::min<std::uint64_t>(length, reader.left()));
}

// The moov/meta box with reverse-domain keys, as QuickTime files of phones carry it.
void readKeys(Bytes meta, Movie& movie) {
    const auto keys = findBox(meta, fourCc("keys"));
    const auto list = findBox(meta, fourCc("ilst"));
    if (!keys || !list) return;
    ByteReader reader(keys->body);
    reader.skip(4);
    const auto count = reader.u32();
    std::vector<std::string> names;
    for (std::uint32_t i = 0; i < count && reader.ok() && names.size() < 256; ++i) {
        const auto size = reader.u32();
        reader.skip(4);
        names.push_back(reader.text(size < 8 ? reader.left() + 1 : size - 8));
    }
    std::string make;
    std::string model;
    BoxWalk walk(list->body);
    while (const auto item = walk.next()) {
        if (item->type == 0 || item->type > names.size()) continue;
        const auto data = findBox(item->body, fourCc("data"));
        if (!data || data->body.size() < 8) continue;
        const auto text = ByteReader(data->body.subspan(8)).text(data->body.size() - 8);
        const auto& name = names[item->type - 1];
        if (name == "com.apple.quicktime.make") make = text;
        if (name == "com.apple.quicktime.model") model = text;
        if (name == "com.apple.quicktime.location.ISO6709") movie.position = positionFrom(text);
        if (name == "com.apple.quicktime.creationdate" && text.size() >= 19) movie.created = text;
    }
    if (!model.empty()) movie.camera = model.rfind(make, 0) == 0 || make.empty() ? model : make + " " + model;
}

}  // namespace

std::optional<Movie> readMovie(Bytes body) {
    const auto headerBox = findBox(body, fourCc("mvhd"));
    if (!headerBox) return std::nullopt;
    const auto header = readTimeHeader(headerBox->body);
    if (!header) return std::nullopt;
    Movie movie;
    movie.duration = secondsOf(*header);
    movie.created = isoTime(header->created);
    BoxWalk walk(body);
    while (const auto box = walk.next()) {
        if (box->type == fourCc("trak") && movie.tracks.size() < limits::kMostTracks) {
            Track track;
            if (!readTrack(box->body, track)) return std::nullopt;
            movie.tracks.push_back(std::move(track));
        } else if (box->type == fourCc("mvex")) {
            movie.fragmented = true;
        } else if (box->type == fourCc("udta")) {
            if (const auto place = userText(box->body, fourCc("\251xyz")); !place.empty())
                movie.position = positionFrom(place);
            const auto make = userText(box->body, fourCc("\251mak"));
            const auto model = userText(box->body, fourCc("\251mod"));
            if (!model.empty()) {
                movie.camera = model.rfind(make, 0) == 0 || make.empty() ? model : make + " " + model;
            }
        } else if (box->type == fourCc("meta")) {
            // QuickTime's meta box has no version field; the ISO one has.
            readKeys(findBox(box->body, fourCc("keys")) ? box->body : slice(box->body, 4, box->body.size()),
                     movie);
        }
    }
    if (movie.tracks.empty()) return std::nullopt;
    return movie;
}

std::string codecName(std::uint32_t codec) {
    constexpr std::array<std::pair<std::uint32_t, const char*>, 28> names{
        {{fourCc("avc1"), "H.264"},       {fourCc("avc3"), "H.264"},       {fourCc("hvc1"), "HEVC"},
         {fourCc("hev1"), "HEVC"},        {fourCc("av01"), "AV1"},         {fourCc("vp09"), "VP9"},
         {fourCc("mp4v"), "MPEG-4"},      {fourCc("s263"), "H.263"},       {fourCc("jpeg"), "Motion JPEG"},
         {fourCc("mjpa"), "Motion JPEG"}, {fourCc("mjpb"), "Motion JPEG"}, {fourCc("apcn"), "ProRes"},
         {fourCc("apch"), "ProRes"},      {fourCc("apcs"), "ProRes"},      {fourCc("apco"), "ProRes"},
         {fourCc("ap4h"), "ProRes"},      {fourCc("mp4a"), "AAC"},         {fourCc("alac"), "ALAC"},
         {fourCc("samr"), "AMR"},         {fourCc("sawb"), "AMR-WB"},      {fourCc("Opus"), "Opus"},
         {fourCc("ac-3"), "AC-3"},        {fourCc("sowt"), "PCM"},         {fourCc("twos"), "PCM"},
         {fourCc("lpcm"), "PCM"},         {fourCc("in24"), "PCM"},         {fourCc("ipcm"), "PCM"},
         {fourCc("ulaw"), "\302\265-law"}}};
    for (const auto& [code, name] : names) {
        if (code == codec) return name;
    }
    std::string text;
    for (int shift = 24; shift >= 0; shift -= 8) {
        const auto byte = static_cast<char>(codec >> shift & 0xff);
        text.push_back(byte >= 0x20 && byte < 0x7f ? byte : '?');
    }
    return text;
}

}  // namespace dreskel::isobmff
