#include "rebuild/fragment_samples.h"

#include <algorithm>
#include <array>
#include <cstring>

#include "base/limits.h"
#include "formats/isobmff/boxes.h"

namespace dreskel::rebuild {
namespace {

using isobmff::fourCc;

constexpr std::uint64_t kLargestFragmentBox = 4 << 20;  // bytes
constexpr std::size_t kSearchPortion = 1 << 20;
constexpr std::size_t kMostMissing = 100000;  // samples, in one gap
constexpr std::size_t kMark = 16;             // bytes: a moof box with the mfhd box that it begins with

class Gathering {
  public:
    Gathering(PieceReader& reader, Bytes movie, std::map<std::uint32_t, std::vector<TimedSample>> before)
        : reader_(reader), defaults_(isobmff::readDefaults(movie)), samples_(std::move(before)) {
        for (const auto& [track, samples] : samples_) {
            for (const auto& sample : samples) ends_[track] += sample.duration;
        }
    }
    std::map<std::uint32_t, std::vector<TimedSample>> from(std::uint64_t at) {
        for (std::size_t count = 0; count < limits::kMostTopLevelBoxes && !full_; ++count) {
            const auto next = nextFragment(at);
            if (!next) break;
            at = *next + take(*next);
        }
        return std::move(samples_);
    }

  private:
    // Whatever lies between: a box of media data may say that it is longer than what is left of it.
    std::optional<std::uint64_t> nextFragment(std::uint64_t from) {
        std::vector<std::uint8_t> buffer(kSearchPortion + kMark);
        for (auto at = from; at < reader_.size(); at += kSearchPortion) {
            const auto bytes = Bytes(buffer).first(reader_.read(at, buffer));
            for (std::size_t i = 4; i < kSearchPortion + 4 && i < bytes.size();) {
                const auto* hit =
                    static_cast<const std::uint8_t*>(::memmem(bytes.data() + i, bytes.size() - i, "moof", 4));
                if (hit == nullptr) break;
                i = static_cast<std::size_t>(hit - bytes.data());
                if (startsWith(slice(bytes, i + 8, 4), "mfhd")) return at + i - 4;
                ++i;
            }
        }
        return std::nullopt;
    }
    // How many bytes of the file to go on behind.
    std::uint64_t take(std::uint64_t at) {
        std::array<std::uint8_t, 8> head{};
        reader_.read(at, head);
        const auto box = isobmff::readBoxHeader(head);
        if (!box || box->size > kLargestFragmentBox) return kMark;
        std::vector<std::uint8_t> bytes(static_cast<std::size_t>(box->size));
        bytes.resize(reader_.read(at, bytes));
        const auto fragment = isobmff::readFragment(bytes, at, defaults_);
        if (!fragment) return kMark;
        for (const auto& track : fragment->tracks) add(track);
        return box->size;
    }
    void add(const isobmff::TrackFragment& track) {
        auto& all = samples_[track.track];
        auto& end = ends_[track.track];
        if (track.begins && *track.begins > end) {
            miss(track, all, *track.begins - end);
            end = *track.begins;
        }
        taken_ += track.samples.size();
        full_ = full_ || taken_ > limits::kLargestTablesOfAClip;
        if (full_) return;
        all.insert(all.end(), track.samples.begin(), track.samples.end());
        end += track.length;
    }
    // As many samples as there may have been.
    void miss(const isobmff::TrackFragment& like, std::vector<TimedSample>& all, std::uint64_t length) {
        const auto usual = like.samples.empty() ? 0U : like.samples.front().duration;
        const auto count =
            std::min<std::uint64_t>(usual > 0 ? std::max<std::uint64_t>(1, length / usual) : 1, kMostMissing);
        taken_ += static_cast<std::size_t>(count);
        for (std::uint64_t left = count; left > 0; --left) {
            const auto duration = static_cast<std::uint32_t>(
                std::min<std::uint64_t>(left == 1 ? length : length / left, UINT32_MAX));
            all.push_back({kNowhere, 1, duration, 0, false, 1});
            length -= duration;
        }
    }
    static constexpr std::uint64_t kNowhere = UINT64_MAX / 2;

    PieceReader& reader_;
    std::map<std::uint32_t, isobmff::SampleDefaults> defaults_;
    std::map<std::uint32_t, std::vector<TimedSample>> samples_;
    std::map<std::uint32_t, std::uint64_t> ends_;  // of the track's timescale
    std::size_t taken_ = 0;
    bool full_ = false;
};

}  // namespace

std::map<std::uint32_t, std::vector<TimedSample>> readFragmentSamples(
    PieceReader& reader, std::uint64_t from, Bytes movie,
    std::map<std::uint32_t, std::vector<TimedSample>> before) {
    return Gathering(reader, movie, std::move(before)).from(from);
}

}  // namespace dreskel::rebuild
