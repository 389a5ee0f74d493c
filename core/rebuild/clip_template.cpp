#include "rebuild/clip_template.h"

#include <algorithm>
#include <map>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::Box;
using isobmff::BoxWalk;
using isobmff::findBox;
using isobmff::fourCc;
using isobmff::SampleTrack;

constexpr std::size_t kVisualEntry = 78;  // bytes in front of an entry's boxes
constexpr std::size_t kMostChunkSizes = 12;
constexpr int kMostTopLevelBoxes = 64;

void readSound(const Box& entry, std::uint32_t statedSize, TemplateTrack& track) {
    auto sound = isobmff::readSoundEntry(entry);
    if (sound.coding == isobmff::SoundCoding::Aac) track.settings = std::move(sound.settings);
    if (sound.coding == isobmff::SoundCoding::Plain) {
        if (statedSize == 0) return;
        track.frameBytes = statedSize > 1 ? statedSize : sound.frameBytes;
        track.statedSize = statedSize;
        if (track.frameBytes == 0 || track.frameBytes >= 1024) return;
    }
    track.sound = sound.coding;
}

// The parameter sets of an avcC or hvcC box (ISO/IEC 14496-15, 5.3.3.1 and 8.3.3.1).
void readParameters(const Box& entry, TemplateTrack& track) {
    const auto boxes = slice(entry.body, kVisualEntry, entry.body.size());
    if (track.coding == SampleTrack::Coding::Avc) {
        const auto box = findBox(boxes, fourCc("avcC"));
        if (!box) return;
        ByteReader reader(box->body);
        reader.skip(5);
        for (int count = reader.u8() & 31; count > 0 && reader.ok(); --count)
            track.order.learn(reader.take(reader.u16()));
        return;
    }
    track.order = PictureOrder(PictureCoding::Hevc);
    const auto box = findBox(boxes, fourCc("hvcC"));
    if (!box) return;
    ByteReader reader(box->body);
    reader.skip(22);
    for (int arrays = reader.u8(); arrays > 0 && reader.ok(); --arrays) {
        reader.skip(1);
        for (int count = reader.u16(); count > 0 && reader.ok(); --count)
            track.order.learn(reader.take(reader.u16()));
    }
}

void readDurations(Bytes table, TemplateTrack& track) {
    const auto box = findBox(table, fourCc("stts"));
    if (!box) return;
    ByteReader reader(box->body);
    reader.skip(4);
    std::map<std::uint32_t, std::uint64_t> counts;
    std::uint64_t all = 0;
    for (auto left = reader.u32(); left > 0 && reader.left() >= 8; --left) {
        const auto count = reader.u32();
        const auto delta = reader.u32();
        all += count;
        // The last one is often longer or shorter.
        if (left == 1 && count == 1 && all > 1)
            --all;
        else
            counts[delta] += count;
    }
    for (const auto& [delta, count] : counts) {
        if (count >= counts[track.delta] || track.delta == 0) track.delta = delta;
    }
    track.steady = counts[track.delta] == all;
}

void readTrack(Bytes body, TemplateTrack& track) {
    const auto media = findBox(body, fourCc("mdia"));
    const auto information = media ? findBox(media->body, fourCc("minf")) : std::nullopt;
    const auto table = information ? findBox(information->body, fourCc("stbl")) : std::nullopt;
    const auto header = media ? findBox(media->body, fourCc("mdhd")) : std::nullopt;
    const auto description = table ? findBox(table->body, fourCc("stsd")) : std::nullopt;
    const auto sizes = table ? findBox(table->body, fourCc("stsz")) : std::nullopt;
    if (!header || !description || !sizes) return;
    track.description.assign(description->body.begin(), description->body.end());
    ByteReader times(header->body);
    const auto version = times.u8();
    times.skip(version == 1 ? 19 : 11);
    track.timescale = times.u32();
    readDurations(table->body, track);
    BoxWalk entries(slice(description->body, 8, description->body.size()));
    const auto entry = entries.next();
    if (!entry || track.timescale == 0 || track.delta == 0) return;
    ByteReader size(sizes->body);
    size.skip(4);
    if (track.kind == isobmff::TrackKind::Audio) readSound(*entry, size.u32(), track);
    if (track.kind == isobmff::TrackKind::Video) readParameters(*entry, track);
}

}  // namespace

std::string settingsOf(const ClipTemplate& like) {
    std::string settings;
    for (const auto& track : like.tracks) {
        settings.append(track.description.begin(), track.description.end());
        settings += ' ' + std::to_string(track.delta);
    }
    return settings;
}

std::optional<ClipTemplate> readTemplate(Bytes movie, std::string name) {
    const auto samples = isobmff::readSamples(movie);
    const auto about = isobmff::readMovie(movie);
    const auto header = findBox(movie, fourCc("mvhd"));
    if (!samples || !about || about->fragmented || !header || about->tracks.size() != samples->size())
        return std::nullopt;
    ClipTemplate result;
    result.name = std::move(name);
    result.movie.assign(movie.begin(), movie.end());
    ByteReader times(header->body);
    const auto version = times.u8();
    times.skip(version == 1 ? 19 : 11);
    result.timescale = times.u32();
    BoxWalk walk(movie);
    std::size_t number = 0;
    bool pictures = false;
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trak")) continue;
        if (number >= samples->size()) return std::nullopt;
        const auto& known = (*samples)[number];
        TemplateTrack track;
        track.kind = known.kind;
        if (known.isFollowed()) track.coding = known.coding;
        track.lengthBytes = known.lengthBytes;
        track.settings = known.settings;
        readTrack(box->body, track);
        std::map<std::uint64_t, std::size_t> counts;
        for (const auto& chunk : about->tracks[number].chunks) ++counts[chunk.length];
        std::vector<std::pair<std::size_t, std::uint64_t>> sizes;
        for (const auto& [bytes, count] : counts) sizes.emplace_back(count, bytes);
        std::sort(sizes.rbegin(), sizes.rend());
        for (const auto& [count, bytes] : sizes) {
            if (track.chunkSizes.size() < kMostChunkSizes) track.chunkSizes.push_back(bytes);
        }
        pictures = pictures || track.coding != SampleTrack::Coding::Other;
        result.tracks.push_back(std::move(track));
        ++number;
    }
    return pictures && result.timescale > 0 ? std::optional(std::move(result)) : std::nullopt;
}

std::optional<ClipTemplate> readTemplate(CardView& card, const std::vector<Piece>& clip, std::string name) {
    PieceReader reader(card, clip);
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t at = 0;
    for (int i = 0; i < kMostTopLevelBoxes; ++i) {
        const auto box = isobmff::readBoxHeader(Bytes(buffer).first(reader.read(at, buffer)));
        if (!box || box->size == 0) return std::nullopt;
        if (box->type == fourCc("moov") && box->size <= limits::kLargestIndex) {
            std::vector<std::uint8_t> movie(static_cast<std::size_t>(box->size - box->headerSize));
            if (reader.read(at + box->headerSize, movie) < movie.size()) return std::nullopt;
            return readTemplate(movie, std::move(name));
        }
        const auto next = checkedAdd(at, box->size);
        if (!next) return std::nullopt;
        at = *next;
    }
    return std::nullopt;
}

}  // namespace dreskel::rebuild
