#include "formats/isobmff/fragment.h"

#include <algorithm>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::isobmff {
namespace {

// Of a track fragment (8.8.7) and of a run of samples (8.8.8): which fields there are.
constexpr std::uint32_t kBaseOffset = 1, kDescription = 2, kDefaultDuration = 8, kDefaultSize = 0x10,
                        kDefaultFlags = 0x20, kBaseIsFragment = 0x20000;
constexpr std::uint32_t kDataOffset = 1, kFirstFlags = 4, kDuration = 0x100, kSize = 0x200, kFlags = 0x400,
                        kShownLater = 0x800;
constexpr std::uint32_t kBuildsOnOthers = 0x10000;  // of a sample's flags (8.8.3.1)

class FragmentReader {
  public:
    FragmentReader(std::uint64_t at, const std::map<std::uint32_t, SampleDefaults>& defaults)
        : at_(at), end_(at), defaults_(defaults) {}

    std::optional<Fragment> read(Bytes body) {
        BoxWalk walk(body);
        std::uint64_t walked = 0;
        bool numbered = false;
        while (const auto box = walk.next()) {
            walked += box->body.size() + 8;
            if (box->type == fourCc("mfhd")) {
                ByteReader reader(box->body);
                reader.skip(4);
                fragment_.sequence = reader.u32();
                numbered = reader.ok();
            } else if (box->type == fourCc("traf") && !readTrack(box->body)) {
                return std::nullopt;
            }
        }
        // All of it is boxes.
        if (!numbered || walked != body.size() || fragment_.tracks.empty()) return std::nullopt;
        return std::move(fragment_);
    }

  private:
    bool readTrack(Bytes body) {
        const auto head = findBox(body, fourCc("tfhd"));
        if (!head || fragment_.tracks.size() >= limits::kMostTracks) return false;
        ByteReader reader(head->body);
        const auto flags = reader.u32() & 0xffffffU;
        TrackFragment track;
        track.track = reader.u32();
        const auto known = defaults_.find(track.track);
        if (!reader.ok() || known == defaults_.end()) return false;
        auto like = known->second;
        // Where nothing else is said, the data follow on those of the track before (8.8.7.1).
        auto base = fragment_.tracks.empty() || (flags & kBaseIsFragment) != 0 ? at_ : end_;
        if ((flags & kBaseOffset) != 0) base = reader.u64();
        if ((flags & kDescription) != 0) like.description = reader.u32();
        if ((flags & kDefaultDuration) != 0) like.duration = reader.u32();
        if ((flags & kDefaultSize) != 0) like.size = reader.u32();
        if ((flags & kDefaultFlags) != 0) like.flags = reader.u32();
        if (!reader.ok()) return false;
        if (const auto time = findBox(body, fourCc("tfdt"))) {
            ByteReader when(time->body);
            const bool wide = when.u8() == 1;
            when.skip(3);
            const auto begins = wide ? when.u64() : when.u32();
            if (when.ok()) track.begins = begins;
        }
        end_ = base;
        BoxWalk walk(body);
        while (const auto box = walk.next()) {
            if (box->type == fourCc("trun") && !readRun(box->body, base, like, track)) return false;
        }
        fragment_.tracks.push_back(std::move(track));
        return true;
    }

    bool readRun(Bytes body, std::uint64_t base, const SampleDefaults& like, TrackFragment& track) {
        ByteReader reader(body);
        const auto flags = reader.u32() & 0xffffffU;
        const auto count = reader.u32();
        if ((flags & kDataOffset) != 0) {
            const auto offset = static_cast<std::int32_t>(reader.u32());
            if (offset < 0 && std::uint64_t{0} - static_cast<std::uint64_t>(std::int64_t{offset}) > base)
                return false;
            end_ = base + static_cast<std::uint64_t>(std::int64_t{offset});
        }
        auto firstFlags = like.flags;
        if ((flags & kFirstFlags) != 0) firstFlags = reader.u32();
        std::uint64_t width = 0;
        for (const auto field : {kDuration, kSize, kFlags, kShownLater})
            width += (flags & field) != 0 ? 4U : 0U;
        samples_ += count;
        if (!reader.ok() || count * width > reader.left() || samples_ > limits::kLargestTablesOfAClip)
            return false;
        track.samples.reserve(track.samples.size() + count);
        for (std::uint32_t i = 0; i < count; ++i) {
            TimedSample sample{end_, like.size, like.duration, 0, true, like.description};
            if ((flags & kDuration) != 0) sample.duration = reader.u32();
            if ((flags & kSize) != 0) sample.size = reader.u32();
            auto about = i == 0 ? firstFlags : like.flags;
            if ((flags & kFlags) != 0) about = reader.u32();
            sample.sync = (about & kBuildsOnOthers) == 0;
            if ((flags & kShownLater) != 0) sample.shownLater = static_cast<std::int32_t>(reader.u32());
            const auto next = checkedAdd(end_, sample.size);
            if (!next) return false;
            end_ = *next;
            track.length += sample.duration;
            widen({sample.offset, sample.size});
            track.samples.push_back(sample);
        }
        return reader.ok();
    }
    void widen(const ByteRange& sample) {
        auto& media = fragment_.media;
        if (media.length == 0) {
            media = sample;
            return;
        }
        const auto from = std::min(media.offset, sample.offset);
        media = {from, std::max(media.end(), sample.end()) - from};
    }

    std::uint64_t at_, end_;  // of the file: the fragment, and the end of the data so far
    const std::map<std::uint32_t, SampleDefaults>& defaults_;
    Fragment fragment_;
    std::uint64_t samples_ = 0;
};

}  // namespace

std::map<std::uint32_t, SampleDefaults> readDefaults(Bytes movie) {
    std::map<std::uint32_t, SampleDefaults> defaults;
    const auto extends = findBox(movie, fourCc("mvex"));
    if (!extends) return defaults;
    BoxWalk walk(extends->body);
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trex") || defaults.size() >= limits::kMostTracks) continue;
        ByteReader reader(box->body);
        reader.skip(4);
        const auto track = reader.u32();
        SampleDefaults like{reader.u32(), reader.u32(), reader.u32(), reader.u32()};
        if (reader.ok()) defaults[track] = like;
    }
    return defaults;
}

std::vector<std::uint32_t> readTrackNumbers(Bytes movie) {
    std::vector<std::uint32_t> numbers;
    BoxWalk walk(movie);
    while (const auto box = walk.next()) {
        if (box->type != fourCc("trak") || numbers.size() >= limits::kMostTracks) continue;
        const auto header = findBox(box->body, fourCc("tkhd"));
        ByteReader reader(header ? header->body : Bytes());
        const bool wide = reader.u8() == 1;  // 8.3.2: version, flags, two times, the number
        reader.skip(wide ? 19 : 11);
        const auto number = reader.u32();
        numbers.push_back(reader.ok() ? number : 0);
    }
    return numbers;
}

std::optional<Fragment> readFragment(Bytes box, std::uint64_t at,
                                     const std::map<std::uint32_t, SampleDefaults>& defaults) {
    const auto head = readBoxHeader(box);
    if (!head || head->type != fourCc("moof") || head->size != box.size()) return std::nullopt;
    return FragmentReader(at, defaults).read(box.subspan(head->headerSize));
}

}  // namespace dreskel::isobmff
