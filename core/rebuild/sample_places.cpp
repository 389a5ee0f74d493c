#include "rebuild/sample_places.h"

#include <algorithm>
#include <cstring>

namespace dreskel::rebuild {
namespace {

using Coding = isobmff::SampleTrack::Coding;

// Units are followed so far ahead of where they begin.
constexpr std::size_t kPlacesPortion = 4 << 20;
constexpr unsigned kMostLengthBytes = 4;
constexpr std::size_t kMostPlaces = 4096;  // of one sample; more tell nothing

std::uint32_t word(const std::uint8_t* bytes) {
    std::uint32_t value = 0;
    std::memcpy(&value, bytes, 4);
    return __builtin_bswap32(value);
}

}  // namespace

SamplePlaces::SamplePlaces(CardView& card, const ClipPool& pool,
                           const std::vector<std::shared_ptr<const LooseIndex>>& indexes,
                           const Control& control)
    : pool_(pool), cluster_(pool.cluster()), longest_(kMostLengthBytes + 1) {
    list(indexes);
    if (sought_.empty()) return;
    std::vector<std::uint8_t> buffer(2 * kPlacesPortion);
    for (const auto& stretch : pool.stretches()) {
        std::size_t have = 0;
        for (auto at = stretch.offset; at < stretch.end() && !control.stopped();) {
            const auto want = std::min<std::uint64_t>(buffer.size(), stretch.end() - at);
            const auto got = card.read(
                at + have, MutableBytes(buffer).subspan(have, static_cast<std::size_t>(want) - have));
            have += got;
            if (have == 0) break;
            const auto upTo = std::min(have, kPlacesPortion);
            lookAt(Bytes(buffer).first(have), upTo, at);
            std::copy(buffer.begin() + static_cast<std::ptrdiff_t>(upTo),
                      buffer.begin() + static_cast<std::ptrdiff_t>(have), buffer.begin());
            have -= upTo;
            at += upTo;
        }
    }
}

const std::vector<std::uint64_t>& SamplePlaces::of(const isobmff::Sample& sample) const {
    static const std::vector<std::uint64_t> kNone;
    const auto known = found_.find(&sample);
    return known == found_.end() ? kNone : known->second;
}

void SamplePlaces::list(const std::vector<std::shared_ptr<const LooseIndex>>& indexes) {
    for (const auto& index : indexes) {
        for (const auto& track : index->tracks) {
            if (track.coding == Coding::Other || track.lengthBytes > kMostLengthBytes) continue;
            pictures_ |= track.coding == Coding::MotionJpeg;
            chunks_ |= track.coding == Coding::RiffChunk;
            av1_ |= track.coding == Coding::Av1;
            const auto sameMark = [&](const isobmff::Mark& mark) {
                return mark.word == track.mark.word && mark.mask == track.mark.mask;
            };
            if (track.coding == Coding::Marked && std::none_of(marks_.begin(), marks_.end(), sameMark))
                marks_.push_back(track.mark);
            const bool units = track.coding == Coding::Avc || track.coding == Coding::Hevc;
            for (const auto& sample : track.samples) {
                if (sample.size <= kTellsNothing) continue;
                sought_.push_back({&track, &sample, static_cast<std::uint32_t>(sample.offset % cluster_)});
                if (!units) continue;
                auto& longest = longest_[track.lengthBytes];
                longest = std::max(longest, sample.size);
            }
        }
    }
    std::sort(sought_.begin(), sought_.end(),
              [](const Sought& a, const Sought& b) { return a.byte < b.byte; });
    firstAt_.resize(cluster_ + 1);
    std::uint32_t next = 0;
    for (std::uint32_t byte = 0; byte <= cluster_; ++byte) {
        while (next < sought_.size() && sought_[next].byte < byte) ++next;
        firstAt_[byte] = next;
    }
}

void SamplePlaces::lookAt(Bytes window, std::size_t upTo, std::uint64_t at) {
    const auto end = window.size() < 4 ? 0 : std::min(upTo, window.size() - 3);
    for (unsigned size = 1; size <= kMostLengthBytes; ++size) {
        const auto longest = longest_[size];
        if (longest == 0) continue;
        const auto shift = 8 * (kMostLengthBytes - size);
        for (std::size_t p = 0; p < end; ++p) {
            if ((word(window.data() + p) >> shift) - 1 < longest) match(window, p, at);
        }
    }
    if (pictures_) {
        for (std::size_t p = 0; p < end; ++p) {
            if (word(window.data() + p) >> 8 == 0xffd8ff) match(window, p, at);
        }
    }
    for (const auto& mark : marks_) {
        const std::size_t behind = mark.behindSize ? 4 : 0;
        for (std::size_t p = 0; p < end && p + behind + 4 <= window.size(); ++p) {
            if ((word(window.data() + p + behind) & mark.mask) == mark.word) match(window, p, at);
        }
    }
    if (av1_) {
        for (std::size_t p = 0; p < end; ++p) {
            if (window[p] != 0 && (window[p] & 0x83U) == 0x02) match(window, p, at);
        }
    }
    if (!chunks_) return;
    for (std::size_t p = 0; p < end; ++p) {
        // Two digits of the stream's number.
        const auto digit = [&](std::size_t i) { return static_cast<std::uint8_t>(window[p + i] - '0') < 10; };
        if (digit(0) && digit(1)) match(window, p, at);
    }
}

void SamplePlaces::match(Bytes window, std::size_t p, std::uint64_t at) {
    const auto place = at + p;
    if (place < pool_.origin()) return;
    const auto byte = static_cast<std::uint32_t>((place - pool_.origin()) % cluster_);
    for (auto i = firstAt_[byte]; i < firstAt_[byte + 1]; ++i) {
        const auto& sought = sought_[i];
        std::uint64_t asked = 0;  // the furthest byte behind the sample's beginning
        const auto looks = isobmff::looksLikeSample(
            *sought.track, *sought.sample, [&](std::uint64_t from, std::size_t count) {
                asked = from;
                return from < window.size() - p ? slice(window, p + static_cast<std::size_t>(from), count)
                                                : Bytes();
            });
        if (looks == isobmff::Looks::Foreign) continue;
        // What contradicts within the cluster is no other piece's.
        if (looks == isobmff::Looks::Begins && byte + asked < cluster_) continue;
        if (!pool_.free(place - byte)) continue;
        if (looks == isobmff::Looks::Exact) taken_.insert(place - byte);
        auto& places = found_[sought.sample];
        if (places.size() < kMostPlaces) places.push_back(place - byte);
    }
}

}  // namespace dreskel::rebuild
