#include "rebuild/playing_clip.h"

#include <algorithm>
#include <cmath>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"
#include "formats/isobmff/movie.h"
#include "rebuild/box_writer.h"
#include "rebuild/edit_list.h"
#include "rebuild/fragment_samples.h"
#include "rebuild/piece_edit.h"
#include "rebuild/track_samples.h"

namespace dreskel::rebuild {
namespace {

using isobmff::BoxWalk;
using isobmff::findBox;
using isobmff::fourCc;

constexpr int kMostTopLevelBoxes = 64;
constexpr std::size_t kMostTracks = 64;

Error cannot(const std::string& why) {
    return {Fault::Failed, why, "", "Save the file as it is"};
}

// What is left of a track.
struct Left {
    std::vector<TimedSample> samples;
    std::uint64_t lead = 0;    // of the timescale, before the first of them
    std::uint64_t length = 0;  // from the first to the end of the track
    std::uint64_t gaps = 0;
    std::uint64_t leftOut = 0;
};

// A picture that builds on a lost one is lost with it, up to the next that can be begun with; and so are
// those that come behind that one but are shown before it, since they may build on both.
Left leave(const std::vector<TimedSample>& samples, const RangeSet& damaged, std::uint64_t size) {
    Left left;
    bool broken = true;
    std::int64_t decodedAt = 0;
    std::int64_t begunWith = INT64_MIN;  // when the picture is shown that was begun with after a gap
    for (const auto& sample : samples) {
        const auto shownAt = decodedAt + sample.shownLater;
        decodedAt += sample.duration;
        const bool there =
            sample.offset + sample.size <= size && !damaged.intersects({sample.offset, sample.size});
        if (broken && there && sample.sync) begunWith = shownAt;
        broken = !there || (broken && !sample.sync);
        if (!broken && shownAt >= begunWith) {
            left.samples.push_back(sample);
            left.length += sample.duration;
            continue;
        }
        ++left.leftOut;
        if (left.samples.empty()) {
            left.lead += sample.duration;
        } else {
            auto& last = left.samples.back();
            last.duration += std::min<std::uint32_t>(sample.duration, UINT32_MAX - last.duration);
            left.length += sample.duration;
            left.gaps += sample.duration;
        }
    }
    return left;
}

struct Header {
    std::uint32_t timescale = 0;
    std::uint64_t duration = 0;
};

// mvhd and mdhd (8.2.2, 8.4.2).
Header readHeader(Bytes body) {
    ByteReader reader(body);
    const bool wide = reader.u8() == 1;
    reader.skip(wide ? 19 : 11);
    Header header;
    header.timescale = reader.u32();
    header.duration = wide ? reader.u64() : reader.u32();
    return reader.ok() ? header : Header{};
}

// With another duration; everything else stays.
BoxBytes withDuration(Bytes body, std::size_t at32, std::size_t at64, std::uint64_t duration) {
    BoxBytes box(body.begin(), body.end());
    const bool wide = !box.empty() && box[0] == 1;
    set(box, wide ? at64 : at32, wide ? duration : std::min<std::uint64_t>(duration, UINT32_MAX),
        wide ? 8 : 4);
    return box;
}

// A box with one of the boxes inside of it replaced.
template <typename Inside>
BoxBytes rewrite(Bytes body, Inside&& inside) {
    BoxBytes made;
    BoxWalk walk(body);
    while (const auto box = walk.next()) {
        if (const auto changed = inside(*box)) {
            putBox(made, box->type, *changed);
        } else {
            putBox(made, box->type, box->body);
        }
    }
    return made;
}

std::optional<Bytes> tableOf(Bytes track) {
    const auto media = findBox(track, fourCc("mdia"));
    const auto information = media ? findBox(media->body, fourCc("minf")) : std::nullopt;
    const auto table = information ? findBox(information->body, fourCc("stbl")) : std::nullopt;
    return table ? std::optional(table->body) : std::nullopt;
}

bool isUniform(Bytes table) {
    const auto box = findBox(table, fourCc("stsz"));
    if (!box) return false;
    ByteReader reader(box->body);
    reader.skip(4);
    return reader.u32() != 0 && reader.ok();
}

Header mediaHeaderOf(Bytes track) {
    const auto media = findBox(track, fourCc("mdia"));
    const auto header = media ? findBox(media->body, fourCc("mdhd")) : std::nullopt;
    return header ? readHeader(header->body) : Header{};
}

// The inside of a trak box for what is left of its samples. `lengths` in the movie's timescale: waiting, and
// all.
BoxBytes writeTrack(Bytes track, const Left& left, std::uint64_t wait, std::uint64_t length) {
    std::optional<isobmff::Box> oldEdits;
    if (const auto list = findBox(track, fourCc("edts"))) oldEdits = findBox(list->body, fourCc("elst"));
    BoxBytes made;
    BoxWalk walk(track);
    while (const auto box = walk.next()) {
        if (box->type == fourCc("edts")) continue;
        if (box->type == fourCc("tkhd")) {
            putBox(made, box->type, withDuration(box->body, 20, 28, wait + length));
            if (oldEdits || wait > 0) {
                BoxBytes list;
                // What is lost at the beginning is waited for; then all of what is left, from where the old
                // list began.
                auto edits = oldEdits ? readEdits(oldEdits->body) : EditList();
                edits.wait += wait;
                putBox(list, fourCc("elst"), writeEdits(edits, length));
                putBox(made, fourCc("edts"), list);
            }
            continue;
        }
        if (box->type != fourCc("mdia")) {
            putBox(made, box->type, box->body);
            continue;
        }
        putBox(made, box->type, rewrite(box->body, [&](const isobmff::Box& part) -> std::optional<BoxBytes> {
                   if (part.type == fourCc("mdhd")) return withDuration(part.body, 16, 24, left.length);
                   if (part.type != fourCc("minf")) return std::nullopt;
                   return rewrite(part.body, [&](const isobmff::Box& inner) -> std::optional<BoxBytes> {
                       if (inner.type != fourCc("stbl")) return std::nullopt;
                       return writeTimedSamples(inner.body, left.samples);
                   });
               }));
    }
    return made;
}

struct TopLevel {
    std::vector<std::uint8_t> movie;  // the inside of the index
    std::uint64_t movieAt = 0;
    std::uint64_t media = 0;        // where the box of the media data that is open begins; only with
    std::uint64_t mediaHeader = 0;  // its header's size, when it reaches beyond the file
};

// Where the boxes can no longer be followed, what comes after is not needed any more once the index is known.
std::optional<TopLevel> readTopLevel(PieceReader& reader) {
    TopLevel top;
    std::vector<std::uint8_t> buffer(16);
    std::uint64_t at = 0;
    for (int i = 0; i < kMostTopLevelBoxes && at < reader.size(); ++i) {
        const auto box = isobmff::readBoxHeader(Bytes(buffer).first(reader.read(at, buffer)));
        if (!box) break;
        const auto end = box->size == 0 ? std::nullopt : checkedAdd(at, box->size);
        if (box->type == fourCc("moov") && end && *end <= reader.size() &&
            box->size <= limits::kLargestIndex) {
            top.movie.resize(static_cast<std::size_t>(box->size - box->headerSize));
            if (reader.read(at + box->headerSize, top.movie) < top.movie.size()) return std::nullopt;
            top.movieAt = at;
        }
        if (!end || *end > reader.size()) {
            if (box->type == fourCc("mdat")) {
                top.media = at;
                top.mediaHeader = box->headerSize;
            }
            break;
        }
        at = *end;
    }
    return top.movie.empty() ? std::nullopt : std::optional(std::move(top));
}

// Of all its tracks, by their order.
std::vector<std::optional<std::vector<TimedSample>>> samplesOf(PieceReader& reader, const TopLevel& top,
                                                               bool fragmented) {
    std::vector<std::optional<std::vector<TimedSample>>> all;
    BoxWalk walk(top.movie);
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trak")) continue;
        const auto table = tableOf(box->body);
        all.push_back(table ? readTimedSamples(*table) : std::nullopt);
    }
    if (!fragmented) return all;
    const auto numbers = isobmff::readTrackNumbers(top.movie);
    std::map<std::uint32_t, std::vector<TimedSample>> before;
    for (std::size_t i = 0; i < std::min(all.size(), numbers.size()); ++i) {
        if (all[i]) before[numbers[i]] = std::move(*all[i]);
    }
    auto gathered =
        readFragmentSamples(reader, top.movieAt + top.movie.size() + 8, top.movie, std::move(before));
    for (std::size_t i = 0; i < std::min(all.size(), numbers.size()); ++i) {
        if (const auto found = gathered.find(numbers[i]); all[i] && found != gathered.end())
            all[i] = std::move(found->second);
    }
    return all;
}

}  // namespace

Result<PlayingClip> makePlayingClip(CardView& card, const std::vector<Piece>& clip, RangeSet damaged) {
    PieceReader reader(card, clip);
    std::uint64_t at = 0;
    for (const auto& piece : clip) {
        if (piece.from == PieceFrom::Fill) damaged.add({at, piece.length});
        at += piece.length;
    }
    const auto top = readTopLevel(reader);
    if (!top) return cannot("its index is not there");
    const auto movieHeader = findBox(top->movie, fourCc("mvhd"));
    const auto about = isobmff::readMovie(top->movie);
    const auto timescale = movieHeader ? readHeader(movieHeader->body).timescale : 0;
    if (!about || timescale == 0) return cannot("its index cannot be read");
    if (damaged.intersects({top->movieAt, top->movie.size() + 8})) return cannot("its index is damaged");

    PlayingClip playing;
    auto all = samplesOf(reader, *top, about->fragmented);
    BoxBytes movie;
    std::uint64_t longest = 0;
    std::size_t number = 0;
    BoxWalk walk(top->movie);
    while (const auto box = walk.next()) {
        if (box->type == fourCc("mvhd") || box->type == fourCc("mvex")) continue;
        if (box->type != fourCc("trak")) {
            putBox(movie, box->type, box->body);
            continue;
        }
        const auto kind =
            number < about->tracks.size() ? about->tracks[number].kind : isobmff::TrackKind::Other;
        if (++number > kMostTracks) return cannot("its index has more tracks than any camera writes");
        const auto table = tableOf(box->body);
        const auto header = mediaHeaderOf(box->body);
        // Plain sound has as many samples as there are of it a second; it plays on through what is damaged.
        if (kind == isobmff::TrackKind::Audio && table && isUniform(*table)) {
            putBox(movie, box->type, box->body);
            longest = std::max(longest, static_cast<std::uint64_t>(
                                            std::llround(static_cast<double>(header.duration) /
                                                         std::max(1U, header.timescale) * timescale)));
            continue;
        }
        const auto samples = number <= all.size() ? std::move(all[number - 1]) : std::nullopt;
        if (!samples || header.timescale == 0) {
            if (kind == isobmff::TrackKind::Video) return cannot("the tables of its pictures are damaged");
            continue;  // a track that cannot be told is left out
        }
        const auto left = leave(*samples, damaged, reader.size());
        if (kind == isobmff::TrackKind::Video) {
            playing.pictures += left.samples.size();
            playing.leftOut += left.leftOut;
            playing.length =
                std::max(playing.length, static_cast<double>(left.lead + left.length) / header.timescale);
            playing.gaps =
                std::max(playing.gaps, static_cast<double>(left.lead + left.gaps) / header.timescale);
        }
        if (left.samples.empty()) continue;
        const auto inMovie = [&](std::uint64_t units) {
            return static_cast<std::uint64_t>(
                std::llround(static_cast<double>(units) / header.timescale * timescale));
        };
        longest = std::max(longest, inMovie(left.lead + left.length));
        putBox(movie, box->type, writeTrack(box->body, left, inMovie(left.lead), inMovie(left.length)));
    }
    if (playing.pictures == 0) return cannot("none of its pictures is left");
    BoxBytes index;
    BoxBytes inside;
    putBox(inside, fourCc("mvhd"), withDuration(movieHeader->body, 16, 24, longest));
    inside.insert(inside.end(), movie.begin(), movie.end());
    putBox(index, fourCc("moov"), inside);

    playing.pieces = clip;
    if (about->fragmented) {
        // All behind the head becomes media data, whatever is left of the fragments' own boxes.
        BoxBytes data;
        put(data, 1, 4);
        put(data, fourCc("mdat"), 4);
        put(data, reader.size() - top->movieAt, 8);
        replaceBytes(playing.pieces, top->movieAt, data, "all behind the head is media data");
    } else {
        BoxBytes free;
        put(free, fourCc("free"), 4);
        replaceBytes(playing.pieces, top->movieAt + 4, free, "the old index is set aside");
    }
    if (!about->fragmented && top->mediaHeader > 0) {
        BoxBytes size;
        const auto length = reader.size() - top->media;
        if (top->mediaHeader == 8 && length > UINT32_MAX)
            return cannot("it is too long for the header of its data");
        top->mediaHeader == 8 ? put(size, length, 4) : put(size, length, 8);
        replaceBytes(playing.pieces, top->media + (top->mediaHeader == 8 ? 0 : 8), size,
                     "the data end where the file does");
    }
    playing.pieces.push_back(madePiece(std::move(index), "an index for what is left"));
    return playing;
}

}  // namespace dreskel::rebuild
