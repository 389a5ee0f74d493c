#include "rebuild/sample_walk.h"

#include <algorithm>

#include "formats/clip/picture_check.h"

namespace dreskel::rebuild {
namespace {

using Coding = isobmff::SampleTrack::Coding;

constexpr std::size_t kWindow = 1 << 20;
constexpr std::uint64_t kLargestWalkedPicture = 32 << 20;
// No picture is much larger than those before it; foreign bytes are as large as chance has it.
constexpr std::uint64_t kAnyPicture = 1 << 20, kTimesTheLargest = 4;
// A picture whose coding cannot be followed is believed only when something that fits follows it, if it is
// smaller than this; of one that can so many bytes are followed.
constexpr std::uint64_t kSpeaksForItself = 512, kFollowed = 16 << 10;
constexpr std::uint64_t kBreaksAtItsEnd = 64;       // bytes in front of where it was cut
constexpr std::uint64_t kFarthestSkip = 8 << 20;    // over what is no sample of a known track
constexpr std::uint64_t kMostPlainSound = 2 << 20;  // of PCM in one stretch
constexpr std::uint64_t kSoundAtOnce = 128 << 10, kSoundProbe = 8 << 10;
constexpr std::size_t kLeastPictures = 3;
// Bytes looked at for each byte of the media data, and for nothing; hostile data could ask for any number.
constexpr std::uint64_t kMostLooks = 48, kLooksFree = 1 << 30;

// A stretch of the file, read portion by portion.
class Window {
  public:
    Window(PieceReader& file, ByteRange media) : file_(file), media_(media), buffer_(kWindow) {}
    // At most `count` bytes, fewer at the end of the media data.
    Bytes at(std::uint64_t offset, std::size_t count) {
        if (offset >= media_.end()) return {};
        count = static_cast<std::size_t>(std::min<std::uint64_t>({count, media_.end() - offset, kWindow}));
        if (offset < start_ || offset + count > start_ + filled_) {
            const auto want =
                static_cast<std::size_t>(std::min<std::uint64_t>(kWindow, media_.end() - offset));
            filled_ = file_.read(offset, MutableBytes(buffer_).first(want));
            start_ = offset;
        }
        return slice(Bytes(buffer_).first(filled_), offset - start_, count);
    }
    std::uint64_t end() const { return media_.end(); }

  private:
    PieceReader& file_;
    ByteRange media_;
    std::vector<std::uint8_t> buffer_;
    std::uint64_t start_ = 0;
    std::size_t filled_ = 0;
};

struct FoundPicture {
    std::uint64_t length = 0;
    std::optional<SliceHead> head;
    bool sync = true;
};

class Walker {
  public:
    Walker(const ClipTemplate& like, PieceReader& file, ByteRange media, const SoundLengths& lengths,
           const Control& control)
        : like_(like), window_(file, media), media_(media), lengths_(lengths), control_(control) {
        looksLeft_ = kLooksFree + std::min<std::uint64_t>(media.length, UINT64_MAX / 64) * kMostLooks;
        walked_.tracks.resize(like.tracks.size());
        counts_.resize(like.tracks.size());
        follows_.resize(like.tracks.size());
        for (std::size_t i = 0; i < like.tracks.size(); ++i) {
            const auto& track = like.tracks[i];
            if (track.coding != Coding::Other) pictures_.push_back(i);
            walked_.pictures.push_back(track.coding != Coding::Other);
            if (track.sounds()) sounds_.push_back(i);
            plainSound_ = plainSound_ || track.isPlain();
            if (!track.rebuildable())
                others_.insert(others_.end(), track.chunkSizes.begin(), track.chunkSizes.end());
        }
    }
    std::optional<Walked> run();

  private:
    struct Count {
        std::uint32_t segment = 0;
        std::int64_t high = 0;
        std::uint32_t last = 0;
        bool begun = false;
    };
    std::optional<FoundPicture> pictureAt(std::size_t track, std::uint64_t at);
    std::optional<FoundPicture> unitsAt(const TemplateTrack& track, std::uint64_t at);
    std::optional<FoundPicture> jpegAt(std::uint64_t at);
    // Free of what emulation prevention forbids (H.264, 7.4.1).
    bool wellFormed(std::uint64_t at, std::uint64_t length);
    bool unitBegins(const TemplateTrack& track, std::uint64_t at);
    // Whether the picture's coding can be followed, for so many bytes of it; nothing when that is not told.
    std::optional<bool> isFollowed(std::size_t track, std::uint64_t at, std::uint64_t length,
                                   std::uint64_t most);
    // Whether a picture of any track begins, and is not there by chance; the more so `behindGap`, where many
    // places are asked.
    bool surelyPictureAt(std::uint64_t at, bool behindGap = false);
    bool soundAt(std::uint64_t at);
    std::uint64_t largestPicture() const { return std::max(kAnyPicture, largest_ * kTimesTheLargest); }
    bool takePicture(std::uint64_t& at);
    bool takeSound(std::uint64_t& at);
    bool takePlain(std::size_t track, std::uint64_t& at);
    bool takeCoded(std::size_t track, std::uint64_t& at);
    bool skip(std::uint64_t& at);
    void add(std::size_t track, std::uint64_t at, const FoundPicture& found);

    const ClipTemplate& like_;
    Window window_;
    ByteRange media_;
    const SoundLengths& lengths_;
    const Control& control_;
    std::vector<std::size_t> pictures_, sounds_;
    std::vector<std::uint64_t> others_;  // usual lengths of what cannot be rebuilt
    std::vector<Count> counts_;
    std::vector<bool> follows_;  // whether pictures of the track can be followed
    std::uint64_t largest_ = 0;  // picture so far, bytes
    bool plainSound_ = false;    // which may look like anything
    std::uint64_t looksLeft_ = 0;
    Walked walked_;
};

bool Walker::wellFormed(std::uint64_t at, std::uint64_t length) {
    if (length > looksLeft_) return false;
    looksLeft_ -= length;
    const auto end = at + length;
    while (at < end) {
        const auto bytes =
            window_.at(at, static_cast<std::size_t>(std::min<std::uint64_t>(end - at, 64 << 10)));
        if (bytes.size() < 3) return bytes.size() == end - at;
        for (std::size_t i = 0; i + 2 < bytes.size();) {
            const auto* zero =
                static_cast<const std::uint8_t*>(std::memchr(bytes.data() + i, 0, bytes.size() - 2 - i));
            if (zero == nullptr) break;
            i = static_cast<std::size_t>(zero - bytes.data());
            if (bytes[i + 1] == 0 && bytes[i + 2] < 3) return false;
            ++i;
        }
        if (at + bytes.size() >= end) return true;
        at += bytes.size() - 2;
    }
    return true;
}

bool Walker::unitBegins(const TemplateTrack& track, std::uint64_t at) {
    const auto head = window_.at(at, track.lengthBytes + 2);
    if (head.size() < track.lengthBytes + 2) return false;
    std::uint64_t length = 0;
    for (unsigned i = 0; i < track.lengthBytes; ++i) length = length << 8 | head[i];
    return length >= 2 && length <= (largest_ > 0 ? largestPicture() : kLargestWalkedPicture) &&
           at + track.lengthBytes + length <= window_.end() &&
           unitKind(track.order.coding(), head.subspan(track.lengthBytes)) != UnitKind::Impossible;
}

std::optional<FoundPicture> Walker::unitsAt(const TemplateTrack& track, std::uint64_t at) {
    constexpr std::size_t kSliceHead = 128;
    FoundPicture found;
    for (;;) {
        const auto here = at + found.length;
        if (!unitBegins(track, here)) break;
        std::uint64_t length = 0;
        for (const auto byte : window_.at(here, track.lengthBytes)) length = length << 8 | byte;
        const auto unit = window_.at(here + track.lengthBytes,
                                     static_cast<std::size_t>(std::min<std::uint64_t>(length, kSliceHead)));
        const auto kind = unitKind(track.order.coding(), unit);
        if (found.head && kind == UnitKind::Leading) break;
        if (kind == UnitKind::Slice) {
            const auto head = track.order.read(unit);
            if (!head || (!found.head && !head->first)) break;
            if (found.head && head->first) {
                // The second field of a frame belongs to the first.
                const bool second = found.head->field && head->field && found.head->bottom != head->bottom &&
                                    found.head->frame == head->frame;
                if (!second) break;
                found.head->field = false;
            }
            if (!found.head) found.head = head;
        }
        if (!wellFormed(here + track.lengthBytes, length)) break;
        found.length += track.lengthBytes + length;
        if (found.length > kLargestWalkedPicture) return std::nullopt;
    }
    if (!found.head || found.length == 0) return std::nullopt;
    found.sync = found.head->sync;
    return found;
}

std::optional<FoundPicture> Walker::jpegAt(std::uint64_t at) {
    const auto head = window_.at(at, 4);
    if (head.size() < 4 || head[0] != 0xff || head[1] != 0xd8 || head[2] != 0xff || head[3] < 0xc0)
        return std::nullopt;
    std::uint64_t place = at + 2;
    // Segments up to the coded data (ITU-T T.81, B.1.1.4), then those to the end marker.
    for (bool coded = false; place - at < kLargestWalkedPicture;) {
        if (!coded) {
            const auto marker = window_.at(place, 4);
            if (marker.size() < 4 || marker[0] != 0xff) return std::nullopt;
            if (marker[1] == 0xff) {
                ++place;
                continue;
            }
            if (marker[1] == 0xd9) return FoundPicture{place + 2 - at, std::nullopt, true};
            coded = marker[1] == 0xda;
            place += 2 + (std::uint64_t{marker[2]} << 8 | marker[3]);
            continue;
        }
        const auto bytes = window_.at(place, 64 << 10);
        if (bytes.size() < 2) return std::nullopt;
        const auto* mark =
            static_cast<const std::uint8_t*>(std::memchr(bytes.data(), 0xff, bytes.size() - 1));
        if (mark == nullptr) {
            place += bytes.size() - 1;
            continue;
        }
        place += static_cast<std::size_t>(mark - bytes.data());
        const auto next = mark[1];
        if (next == 0 || (next >= 0xd0 && next <= 0xd7)) {
            place += 2;
        } else if (next == 0xff) {
            ++place;
        } else {
            coded = false;
        }
    }
    return std::nullopt;
}

std::optional<FoundPicture> Walker::pictureAt(std::size_t track, std::uint64_t at) {
    const auto& about = like_.tracks[track];
    return about.coding == Coding::MotionJpeg ? jpegAt(at) : unitsAt(about, at);
}

std::optional<bool> Walker::isFollowed(std::size_t track, std::uint64_t at, std::uint64_t length,
                                       std::uint64_t most) {
    const auto& about = like_.tracks[track];
    if (about.coding == Coding::MotionJpeg || about.settings.empty()) return std::nullopt;
    // Parameter sets between foreign bytes must not be learnt: each is followed anew.
    const auto check = pictureCheck(about.order.coding(), about.settings);
    const auto bytes = window_.at(at, static_cast<std::size_t>(std::min(length, most)));
    if (bytes.size() == length) {
        const auto fault = check->sample(bytes, about.lengthBytes);
        return fault || check->pictures() > 0 ? std::optional(!fault) : std::nullopt;
    }
    for (std::size_t place = 0; place + about.lengthBytes < bytes.size();) {
        std::uint64_t stated = 0;
        for (const auto byte : slice(bytes, place, about.lengthBytes)) stated = stated << 8 | byte;
        place += about.lengthBytes;
        const auto unit = slice(bytes, place, static_cast<std::size_t>(std::min(stated, most)));
        if (const auto fault = check->unit(unit))
            return place + fault->byte + kBreaksAtItsEnd >= bytes.size();
        place += unit.size();
    }
    return check->pictures() > 0 ? std::optional(true) : std::nullopt;
}

// One frame of sound more or less is nothing: coded sound is asked of its decoder, plain sound cannot be
// told.
bool Walker::soundAt(std::uint64_t at) {
    return std::any_of(sounds_.begin(), sounds_.end(), [&](std::size_t track) {
        const auto& about = like_.tracks[track];
        return about.isPlain() ||
               lengths_({at, std::min<std::uint64_t>(kSoundProbe, window_.end() - at)}, about.settings)
                       .size() > 1;
    });
}

bool Walker::surelyPictureAt(std::uint64_t at, bool behindGap) {
    return std::any_of(pictures_.begin(), pictures_.end(), [&](std::size_t track) {
        const auto& about = like_.tracks[track];
        if (about.coding != Coding::MotionJpeg && !unitBegins(about, at)) return false;
        const auto found = pictureAt(track, at);
        if (!found) return false;
        // Where many places are asked, foreign bytes must not end where it does either.
        const auto most = behindGap ? kWindow : kFollowed;
        const auto followed = isFollowed(track, at, found->length, most);
        if (followed || follows_[track]) return followed.value_or(false);
        const auto next = at + found->length;
        if (found->length >= kSpeaksForItself && !behindGap) return true;
        return next == window_.end() || pictureAt(track, next).has_value() || (behindGap && soundAt(next));
    });
}

void Walker::add(std::size_t track, std::uint64_t at, const FoundPicture& found) {
    largest_ = std::max(largest_, found.length);
    auto& count = counts_[track];
    const auto& order = like_.tracks[track].order;
    WalkedSample sample{at, static_cast<std::uint32_t>(found.length), found.sync, 0, 0};
    if (found.head && found.head->lsb) {
        const auto range = std::int64_t{1} << order.lsbBits();
        const auto lsb = std::int64_t{*found.head->lsb};
        if (found.head->resets || !count.begun) {
            if (count.begun) ++count.segment;
            count.high = 0;
        } else if (lsb < count.last && count.last - lsb >= range / 2) {
            count.high += range;
        } else if (lsb > count.last && lsb - count.last > range / 2) {
            count.high -= range;
        }
        count.last = *found.head->lsb;
        count.begun = true;
        sample.shown = count.high + lsb;
    } else {
        sample.shown = static_cast<std::int64_t>(walked_.tracks[track].size());
    }
    sample.segment = count.segment;
    walked_.tracks[track].push_back(sample);
    if (walked_.tracks[track].size() <= kLeastPictures)
        follows_[track] = follows_[track] || isFollowed(track, at, found.length, kFollowed).value_or(false);
}

bool Walker::takePicture(std::uint64_t& at) {
    for (const auto track : pictures_) {
        const auto found = pictureAt(track, at);
        if (!found) continue;
        // Few bytes may look like a small picture by chance.
        const bool proven = found->length >= kSpeaksForItself || at + found->length == window_.end() ||
                            unitBegins(like_.tracks[track], at + found->length) || sounds_.empty() ||
                            !walked_.tracks[track].empty();
        if (!proven || (plainSound_ && !isFollowed(track, at, found->length, kFollowed).value_or(true)))
            continue;
        add(track, at, *found);
        at += found->length;
        return true;
    }
    return false;
}

bool Walker::takePlain(std::size_t track, std::uint64_t& at) {
    const auto& about = like_.tracks[track];
    const auto take = [&](std::uint64_t length) {
        walked_.tracks[track].push_back({at, static_cast<std::uint32_t>(length), true, 0, 0});
        at += length;
        return true;
    };
    // As long as this recorder's stretches usually are, or as far as the next picture.
    for (const auto length : about.chunkSizes) {
        if (length > 0 && length <= kMostPlainSound && at + length <= window_.end() &&
            surelyPictureAt(at + length))
            return take(length);
    }
    const auto most = std::min(window_.end() - at, kMostPlainSound) / about.frameBytes * about.frameBytes;
    for (std::uint64_t length = about.frameBytes; length < most; length += about.frameBytes) {
        if (control_.stopped()) return false;
        if (surelyPictureAt(at + length, true)) return take(length);
    }
    return false;
}

bool Walker::takeCoded(std::size_t track, std::uint64_t& at) {
    const auto& about = like_.tracks[track];
    const auto usual = std::max_element(about.chunkSizes.begin(), about.chunkSizes.end());
    const auto most = usual == about.chunkSizes.end() ? kSoundAtOnce : *usual * 2 + (16 << 10);
    const auto part = std::min({kSoundAtOnce, most, window_.end() - at});
    bool any = false;
    for (const auto length : lengths_({at, part}, about.settings)) {
        if (length == 0 || at + length > window_.end()) break;
        // Bytes of a picture may decode as sound, too.
        if (any && surelyPictureAt(at)) break;
        walked_.tracks[track].push_back({at, length, true, 0, 0});
        at += length;
        any = true;
    }
    return any;
}

bool Walker::takeSound(std::uint64_t& at) {
    return std::any_of(sounds_.begin(), sounds_.end(), [&](std::size_t track) {
        return like_.tracks[track].isPlain() ? takePlain(track, at) : takeCoded(track, at);
    });
}

bool Walker::skip(std::uint64_t& at) {
    const auto from = at;
    const auto over = [&](std::uint64_t length) {
        walked_.gaps.push_back({from, length});
        at = from + length;
        return true;
    };
    for (const auto length : others_) {
        if (from + length < window_.end() && surelyPictureAt(from + length, true)) return over(length);
    }
    const auto last = std::min(window_.end(), from + kFarthestSkip);
    for (auto place = from + 1; place < last; ++place) {
        if ((place & 0xffff) == 0 && control_.stopped()) return false;
        if (surelyPictureAt(place, true)) return over(place - from);
    }
    return false;
}

std::optional<Walked> Walker::run() {
    auto at = media_.offset;
    while (at < media_.end() && !control_.stopped()) {
        if (takePicture(at) || takeSound(at)) {
            walked_.end = at;
            continue;
        }
        if (!skip(at)) break;
    }
    // A gap behind the last sample is none.
    std::erase_if(walked_.gaps, [&](const ByteRange& gap) { return gap.offset >= walked_.end; });
    const bool found = std::any_of(pictures_.begin(), pictures_.end(), [&](std::size_t track) {
        return walked_.tracks[track].size() >= kLeastPictures;
    });
    return found && !control_.stopped() ? std::optional(std::move(walked_)) : std::nullopt;
}

}  // namespace

std::uint64_t Walked::covered() const {
    std::uint64_t bytes = 0;
    for (const auto& track : tracks) {
        for (const auto& sample : track) bytes += sample.size;
    }
    return bytes;
}

Walked Walked::withoutLastPicture() const {
    auto rest = *this;
    std::uint64_t last = 0;
    for (std::size_t i = 0; i < tracks.size(); ++i) {
        if (pictures[i] && !tracks[i].empty()) last = std::max(last, tracks[i].back().offset);
    }
    rest.end = 0;
    for (auto& track : rest.tracks) {
        std::erase_if(track, [last](const WalkedSample& sample) { return sample.offset >= last; });
        if (!track.empty()) rest.end = std::max(rest.end, track.back().offset + track.back().size);
    }
    std::erase_if(rest.gaps, [&](const ByteRange& gap) { return gap.offset >= rest.end; });
    return rest;
}

std::optional<Walked> walkSamples(const ClipTemplate& like, PieceReader& file, ByteRange media,
                                  const SoundLengths& sound, const Control& control) {
    return Walker(like, file, media, sound, control).run();
}

}  // namespace dreskel::rebuild
