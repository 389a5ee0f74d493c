#include "volume/first_look.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <cstring>
#include <mutex>
#include <sstream>
#include <thread>

#include "base/words.h"
#include "volume/tree.h"

namespace dreskel {
namespace {

using Clock = std::chrono::steady_clock;

constexpr std::size_t kPlaces = 96;
constexpr std::size_t kSample = 64U << 10;  // bytes
constexpr double kSlowRead = 1.0;           // seconds for one sample
constexpr std::size_t kCompared = 4096;     // bytes, when looking for repeated content
constexpr std::uint64_t kLeastRepeat = 16ULL << 20;
constexpr int kRepeatsNeeded = 3;

struct Sample {
    std::uint64_t offset = 0;
    bool read = false;
    bool blank = false;
    std::uint8_t value = 0;   // of a blank one
    bool firstBlank = false;  // its first kCompared bytes
    double seconds = 0;
};

bool uniform(Bytes bytes) {
    return bytes.size() > 1 && std::memcmp(bytes.data(), bytes.data() + 1, bytes.size() - 1) == 0;
}

std::string plural(std::uint64_t count, const std::string& what) {
    return grouped(count) + " " + what + (count == 1 ? "" : "s");
}

std::string percent(double share) {
    return std::to_string(static_cast<int>(std::lround(share * 100))) + " %";
}

// One look, in a thread of its own; the result is shared with the one who waits for it.
class Look {
  public:
    Look(std::shared_ptr<Source> source, double seconds)
        : source_(std::move(source)),
          until_(Clock::now() +
                 std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds * 0.9))) {}

    void run() {
        sample();
        auto survey = surveySource(*source_);
        if (survey.volumes.empty()) searchStart(*source_, survey, [this] { return inTime(); });
        {
            const std::lock_guard lock(mutex_);
            look_.survey = std::move(survey);
        }
        readFolders();
        const auto repeat = findRepeat();
        const std::lock_guard lock(mutex_);
        conclude(repeat);
        done_ = true;
        changed_.notify_all();
    }

    FirstLook wait(double seconds) {
        std::unique_lock lock(mutex_);
        if (changed_.wait_for(lock, std::chrono::duration<double>(seconds), [this] { return done_; }))
            return look_;
        auto look = look_;
        look.state = CardState::Failing;
        look.sentence =
            "Failing: a read near byte " + grouped(reading_) + " has not come back after " +
            std::to_string(static_cast<int>(seconds)) +
            " seconds. Copy it before anything else, and do not unplug and replug it without need.";
        look.facts.emplace_back("The look was given up in the middle of a read.");
        return look;
    }

  private:
    bool inTime() const { return Clock::now() < until_; }

    std::size_t read(std::uint64_t offset, MutableBytes into) {
        reading_ = offset;
        return source_->read(offset, into).count;
    }

    void sample() {
        std::vector<std::uint8_t> buffer(kSample);
        const auto size = source_->size();
        const auto count = std::clamp<std::uint64_t>(size / kSample, 1, kPlaces);
        for (std::uint64_t i = 0; i < count && inTime(); ++i) {
            Sample sample;
            // Whole samples from the first byte to the last, on their own multiples.
            sample.offset =
                count == 1 ? 0 : (size - std::min<std::uint64_t>(size, kSample)) / (count - 1) * i;
            sample.offset = sample.offset / kCompared * kCompared;
            const auto began = Clock::now();
            const auto wanted =
                static_cast<std::size_t>(std::min<std::uint64_t>(kSample, size - sample.offset));
            const auto bytes = MutableBytes(buffer).first(wanted);
            sample.read = read(sample.offset, bytes) == wanted;
            sample.seconds = std::chrono::duration<double>(Clock::now() - began).count();
            sample.blank = sample.read && uniform(bytes) && (bytes[0] == 0 || bytes[0] == 0xff);
            sample.value = bytes[0];
            sample.firstBlank = sample.read && uniform(slice(bytes, 0, kCompared));
            samples_.push_back(sample);
        }
    }

    const VolumeSeen* live() const {
        for (const auto& volume : look_.survey.volumes) {
            if (volume.state == VolumeSeen::State::Live) return &volume;
        }
        return nullptr;
    }

    void readFolders() {
        const auto* volume = live();
        if (volume == nullptr || volume->facts.clusterSize == 0) return;
        Allocation allocation(*source_, volume->facts, volume->offset);
        const auto tree = readTree(*source_, *volume, allocation, {}, [this] { return inTime(); });
        std::size_t behind = 0;
        std::size_t filled = 0;
        for (const auto& sample : samples_) {
            const auto cluster = allocation.clusterAt(sample.offset);
            if (!sample.read || !cluster || !inTime() || allocation.isFree(*cluster) != true) continue;
            ++behind;
            filled += sample.blank ? 0 : 1;
        }
        const std::lock_guard lock(mutex_);
        look_.present = tree.present;
        look_.deleted = tree.deleted;
        look_.countComplete = tree.complete;
        look_.filledBehind = behind == 0 ? 0 : static_cast<double>(filled) / static_cast<double>(behind);
        freePlaces_ = behind;
    }

    // The distance at which the content repeats, a power of two; 0 when it does not.
    std::uint64_t findRepeat() {
        std::vector<std::uint8_t> here(kCompared);
        std::vector<std::uint8_t> there(kCompared);
        for (std::uint64_t distance = kLeastRepeat; distance < source_->size() && inTime(); distance *= 2) {
            int same = 0;
            bool differs = false;
            for (const auto& sample : samples_) {
                const auto other = sample.offset + distance;
                if (sample.offset >= distance || other + kCompared > source_->size()) break;
                if (!sample.read || sample.firstBlank) continue;
                if (read(sample.offset, here) < kCompared || read(other, there) < kCompared) continue;
                differs = here != there;
                if (differs || ++same == 4 * kRepeatsNeeded) break;
            }
            if (!differs && same >= kRepeatsNeeded) return distance;
        }
        return 0;
    }

    void conclude(std::uint64_t repeat) {
        std::size_t failed = 0;
        std::size_t blank = 0;
        std::size_t slow = 0;
        std::uint64_t firstFailed = 0;
        double slowest = 0;
        for (const auto& sample : samples_) {
            if (!sample.read && failed++ == 0) firstFailed = sample.offset;
            blank += sample.blank ? 1 : 0;
            slow += sample.seconds > kSlowRead ? 1 : 0;
            slowest = std::max(slowest, sample.seconds);
        }
        look_.places = samples_.size();
        auto& facts = look_.facts;
        facts.push_back("Looked at " + plural(samples_.size(), "place") + " of " + humanSize(kSample) +
                        " each, from the first byte to the last: " + grouped(blank) + " blank, " +
                        grouped(failed) + " unreadable.");
        std::ostringstream timing;
        timing.precision(2);
        timing << "The slowest of these reads took " << slowest * 1000 << " ms.";
        if (slowest > 0.05) facts.push_back(timing.str());
        tellVolumes();

        const bool oneValue = std::all_of(samples_.begin(), samples_.end(), [this](const Sample& sample) {
            return sample.blank && sample.value == samples_.front().value;
        });
        if (failed > 0 || slow > 1) {
            look_.state = CardState::Failing;
            look_.sentence = failed > 0
                                 ? "Failing: " + plural(failed, "place") + " of " + grouped(samples_.size()) +
                                       " could not be read, the first at byte " + grouped(firstFailed) +
                                       ". Copy it before anything else."
                                 : "Failing: " + plural(slow, "read") +
                                       " took longer than a second. Copy it before anything else.";
        } else if (repeat > 0) {
            look_.state = CardState::WrongSize;
            look_.sentence = "Answers as " + humanSize(source_->size()) + ", but its content repeats every " +
                             humanSize(repeat) +
                             ": the card lies about its size. What was written beyond that is lost.";
        } else if (oneValue && look_.present == 0) {
            look_.state = CardState::Blank;
            look_.sentence = std::string("Blank: it reads back as ") +
                             (samples_.front().value == 0 ? "zeros" : "ones") +
                             " everywhere it was looked at. There is nothing to search for.";
        } else if (const auto* volume = live(); volume != nullptr) {
            concludeVolume(*volume);
        } else if (!look_.survey.volumes.empty() || !look_.survey.remains.empty()) {
            look_.state = CardState::DamagedStart;
            const auto& volumes = look_.survey.volumes;
            look_.sentence = "Damaged at the beginning: ";
            look_.sentence += volumes.empty()
                                  ? "no boot sector is left; " + look_.survey.remains.front()
                                  : "a " + volumes.front().facts.kind + " volume of " +
                                        humanSize(volumes.front().facts.size) + "; " + volumes.front().why;
            look_.sentence += ". It can be searched all the same.";
        } else {
            look_.state = CardState::NoVolume;
            look_.sentence =
                "Holds data, but nothing that says how it was laid out: no volume, and no remains of one at "
                "its beginning. It can be searched by signature.";
        }
    }

    void tellVolumes() {
        auto& facts = look_.facts;
        facts.push_back(look_.survey.table.kind == "none"
                            ? "It has no partition table."
                            : "It has a " + look_.survey.table.kind + " with " +
                                  plural(look_.survey.table.partitions.size(), "partition") + ".");
        for (const auto& volume : look_.survey.volumes) {
            auto text = volume.facts.kind + " volume at byte " + grouped(volume.offset) + ", " +
                        humanSize(volume.facts.size);
            if (volume.facts.clusterSize > 0)
                text += ", clusters of " + grouped(volume.facts.clusterSize) + " bytes";
            if (!volume.facts.label.empty()) text += ", named " + volume.facts.label;
            text += std::string(", ") + std::string(toWord(volume.state));
            if (!volume.why.empty()) text += ": " + volume.why;
            facts.push_back(text + ".");
        }
        for (const auto& remains : look_.survey.remains) facts.push_back("Remains: " + remains + ".");
    }

    void concludeVolume(const VolumeSeen& volume) {
        auto& facts = look_.facts;
        if (volume.facts.clusterSize == 0) {
            look_.state = CardState::Present;
            look_.sentence = "Holds a " + volume.facts.kind + " volume of " + humanSize(volume.facts.size) +
                             ", which is searched by signature only.";
            return;
        }
        facts.push_back((look_.countComplete ? "" : "At least ") + plural(look_.present, "present file") +
                        " and " + plural(look_.deleted, "deleted name") +
                        " in the folders that can be reached.");
        if (freePlaces_ > 0)
            facts.push_back("Of the " + grouped(freePlaces_) + " places that no present file uses, " +
                            percent(look_.filledBehind) + " hold data.");
        const bool filled = look_.filledBehind > 0.01;
        const auto behind = filled ? percent(look_.filledBehind) + " of its free space holds data from before"
                                   : std::string("its free space is blank");
        if (look_.present == 0 && look_.deleted == 0) {
            look_.state = CardState::FreshlyFormatted;
            look_.sentence = "Freshly formatted as " + volume.facts.kind + ": no files; " + behind + ".";
            if (!filled) look_.sentence += " Little or nothing can be found on it.";
            return;
        }
        look_.state = CardState::Present;
        look_.sentence = (look_.present == 0 ? "Emptied: no present file"
                                             : "Healthy as far as was looked, with " +
                                                   plural(look_.present, "present file"));
        if (look_.deleted > 0) look_.sentence += ", " + plural(look_.deleted, "deleted one") + " still named";
        look_.sentence += "; " + behind + ".";
    }

    std::shared_ptr<Source> source_;
    Clock::time_point until_;
    std::vector<Sample> samples_;
    std::size_t freePlaces_ = 0;
    std::atomic<std::uint64_t> reading_{0};

    std::mutex mutex_;
    std::condition_variable changed_;
    bool done_ = false;
    FirstLook look_;
};

}  // namespace

std::string_view toWord(CardState state) {
    constexpr std::array<std::string_view, 7> words{
        "failing", "wrong size", "blank", "damaged start", "freshly formatted", "files present", "no volume"};
    return words.at(static_cast<std::size_t>(state));
}

FirstLook lookAtFirst(const std::shared_ptr<Source>& source, double seconds) {
    const auto look = std::make_shared<Look>(source, seconds);
    std::thread([look] { look->run(); }).detach();
    return look->wait(seconds);
}

}  // namespace dreskel
