#include "scan/takes.h"

#include <algorithm>
#include <cmath>

#include "base/iso_time.h"

namespace dreskel {
namespace {

constexpr double kApart = 1.5;           // seconds: clocks of clips count whole ones
constexpr double kShortestChapter = 20;  // seconds; shorter ones were started anew by hand
constexpr double kOfOneLength = 0.02;  // share by which twins may differ, and not less than a quarter second
constexpr std::uint64_t kChapter = 1000000000;  // bytes: cameras that date all chapters alike cut by size
constexpr double kProxy = 0.5;                  // of the picture's area at most

struct Take {
    const Finding* file;
    double began;     // seconds
    double duration;  // seconds
};

std::uint64_t areaOf(const Description& about) {
    return std::uint64_t{about.width.value_or(0)} * about.height.value_or(0);
}

bool sameCamera(const Finding& a, const Finding& b) {
    const auto& one = a.description.camera;
    const auto& two = b.description.camera;
    return one.empty() || two.empty() || one == two;
}

// Settings that a camera does not change within a take.
bool alike(const Finding& a, const Finding& b) {
    const auto rate = [](const Finding& f) { return f.description.frameRate.value_or(0); };
    return sameCamera(a, b) && a.format == b.format && a.description.codec == b.description.codec &&
           a.description.width == b.description.width && a.description.height == b.description.height &&
           std::abs(rate(a) - rate(b)) <= 0.01 * rate(a);
}

bool asLong(const Take& a, const Take& b) {
    return std::abs(a.duration - b.duration) <=
           std::max(0.25, kOfOneLength * std::max(a.duration, b.duration));
}

std::vector<Take> datedClips(const std::map<std::int64_t, Finding>& files) {
    std::vector<Take> found;
    for (const auto& [id, file] : files) {
        if (!file.listed() || file.kind != Kind::Video || file.sameAs || file.belongsTo) continue;
        const auto began = secondsOf(file.description.taken, false);
        const auto duration = file.description.duration;
        if (began && duration && *duration > 0)
            found.push_back({&file, static_cast<double>(*began), *duration});
    }
    std::stable_sort(found.begin(), found.end(),
                     [](const Take& a, const Take& b) { return a.began < b.began; });
    return found;
}

class Ties {
  public:
    explicit Ties(const std::vector<Take>& clips) : clips_(clips) {}
    std::map<std::int64_t, Belonging> all() {
        for (std::size_t at = 0; at < clips_.size();) {
            auto end = at + 1;
            while (end < clips_.size() && clips_[end].began <= clips_[at].began) ++end;
            ofOneSecond(at, end);
            at = end;
        }
        for (std::size_t i = 0; i < clips_.size(); ++i) goesOn(i);
        return std::move(found_);
    }

  private:
    bool tied(const Take& take) const { return found_.contains(take.file->id); }
    void tie(const Take& take, const Take& to, std::string why) {
        const auto first = found_.find(to.file->id);
        found_[take.file->id] = {first == found_.end() ? to.file->id : first->second.to, std::move(why)};
    }
    void ofOneSecond(std::size_t from, std::size_t end) {
        if (end - from == 2 && asLong(clips_[from], clips_[from + 1]))
            return pair(clips_[from], clips_[from + 1]);
        if (end - from >= 2) chapters(from, end);
    }
    void pair(const Take& a, const Take& b) {
        const auto one = areaOf(a.file->description), two = areaOf(b.file->description);
        if (!sameCamera(*a.file, *b.file) || one == 0 || two == 0) return;
        if (one == two)
            return tie(b, a, "it was taken in the same second, and is as long and as large: its twin");
        const auto& small = one < two ? a : b;
        const auto& large = one < two ? b : a;
        const auto share = static_cast<double>(std::min(one, two)) / static_cast<double>(std::max(one, two));
        if (share <= kProxy && small.file->size() < large.file->size())
            tie(small, large, "it was taken in the same second, and is as long and smaller: its proxy");
    }
    // All dated alike: cut where they reached a size, all but the last.
    void chapters(std::size_t from, std::size_t end) {
        std::uint64_t largest = 0;
        for (auto i = from; i < end; ++i) largest = std::max(largest, clips_[i].file->size());
        std::size_t full = 0;
        for (auto i = from; i < end; ++i) {
            if (!alike(*clips_[from].file, *clips_[i].file)) return;
            if (clips_[i].file->size() > largest / 10 * 9) ++full;
        }
        if (largest < kChapter || full + 1 < end - from) return;
        for (auto i = from + 1; i < end; ++i)
            tie(clips_[i], clips_[from],
                "it was dated in the same second, and they were cut by size: a chapter of one long take");
    }
    // The one clip that begins when this one ends.
    void goesOn(std::size_t at) {
        const auto& clip = clips_[at];
        if (clip.duration < kShortestChapter) return;
        const Take* next = nullptr;
        const auto ends = clip.began + clip.duration;
        for (auto i = at + 1; i < clips_.size() && clips_[i].began <= ends + kApart; ++i) {
            if (clips_[i].began < ends - kApart || !alike(*clip.file, *clips_[i].file)) continue;
            if (next != nullptr) return;
            next = &clips_[i];
        }
        if (next != nullptr && !tied(*next))
            tie(*next, clip,
                "it begins when file " + std::to_string(clip.file->id) +
                    " ends, with the same settings: the next chapter of a long take");
    }

    const std::vector<Take>& clips_;
    std::map<std::int64_t, Belonging> found_;
};

}  // namespace

std::map<std::int64_t, Belonging> takes(const std::map<std::int64_t, Finding>& files) {
    const auto clips = datedClips(files);
    return Ties(clips).all();
}

}  // namespace dreskel
