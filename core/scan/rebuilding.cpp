#include <algorithm>
#include <array>
#include <bit>
#include <deque>
#include <map>
#include <mutex>
#include <set>
#include <thread>

#include "rebuild/photo_joiner.h"
#include "scan/running.h"

namespace dreskel {
namespace {

// How far each round goes for one photo: the simplest answers first, whatever the number of pieces, and of
// these first what lies ahead; then two pieces by anything that fits, and then again with what those leave
// free.
struct Round {
    int pieces, secondBests;
    std::chrono::milliseconds time, forScans;
    bool rough = false;
    std::optional<std::size_t> ahead = {};
};
constexpr std::array kRounds{
    Round{48, 0, std::chrono::milliseconds(400), std::chrono::milliseconds(250), false, 256},
    Round{48, 0, std::chrono::milliseconds(400), std::chrono::milliseconds(250)},
    Round{2, 5, std::chrono::milliseconds(400), std::chrono::milliseconds(0)},
    Round{48, 2, std::chrono::milliseconds(1500), std::chrono::milliseconds(0)},
    Round{48, 5, std::chrono::milliseconds(1200), std::chrono::milliseconds(3000)},
    Round{48, 1, std::chrono::milliseconds(1500), std::chrono::milliseconds(0), true},
};
// All photos of a round together take no longer than kTogether, however many are broken, and holding others
// against what was found, in all rounds, no longer than kForRivals: what is found later stays uncertain. Of
// processor time.
constexpr std::chrono::milliseconds kTogether = std::chrono::minutes(4);
constexpr std::chrono::nanoseconds kForRivals = std::chrono::minutes(10);
constexpr std::chrono::milliseconds kLeast{100}, kOnceMore{150};
constexpr double kConfidence = 0.98, kConfidenceOfShown = 0.995, kConfidenceOfAPart = 0.8;
constexpr const char* kUntold =
    "put together by its coding; the picture does not show for certain that its joins are right";

bool photoInPieces(const Finding& finding) {
    return finding.evidence.family == "jpeg" && finding.evidence.condition != Condition::Whole &&
           !finding.inside && finding.evidence.places.empty();
}

using Told = rebuild::JoinedPhoto::Told;

std::vector<Join> joinsOf(const rebuild::JoinedPhoto& photo) {
    const auto joins = [&](double confidence, const char* why) {
        return joinsBetween(photo.places, confidence, why);
    };
    switch (photo.told) {
        case Told::Whole: {
            auto all = joins(kConfidence,
                             "the coded data go on here, to the end marker at the last block, and the "
                             "picture continues");
            for (std::size_t i = 0; i < std::min(all.size(), photo.shown.size()); ++i) {
                if (!photo.shown[i]) continue;
                all[i].confidence = kConfidenceOfShown;
                all[i].why =
                    "the coded data go on here, to the end marker at the last block, and the picture is what "
                    "its thumbnail shows";
            }
            return all;
        }
        case Told::Untold:
            return joins(kConfidenceOfAPart,
                         "the coded data go on here, to the end marker at the last block; "
                         "the picture does not show for certain that it is here");
        case Told::Part:
            return joins(kConfidenceOfAPart,
                         "the coded data go on here and the picture continues; its end was not found");
    }
    return {};
}

// All photos of a card, put together by as many threads as there are cores. Each begins with what the others
// have left by then; where two want the same place, the one that was done first has it, and the other is
// tried again.
class Settlement {
  public:
    // `lengths`: bytes, of photos that a directory tells of, by their beginning.
    Settlement(CardView& card, rebuild::Pool pool, std::map<std::uint64_t, std::uint64_t> lengths,
               Control& control)
        : card_(card),
          pool_(std::make_shared<const rebuild::Pool>(std::move(pool))),
          lengths_(std::move(lengths)),
          control_(control) {}

    // Tries all of `broken` once; those that were put together are taken out of it. `report` is given each,
    // in the calling thread, and how many are left to try.
    using Report = std::function<Status(const std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>>&,
                                        std::size_t)>;
    Status round(std::vector<std::uint64_t>& broken, const rebuild::PhotoJoinLimits& limits,
                 const Report& report);
    // The best of what could not be completed, or not be proven, as far as no photo that was has taken its
    // places.
    std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>> parts();

  private:
    void work(const rebuild::PhotoJoinLimits& limits);
    // The cluster in which a photo begins is its own, whatever else is said of it: old directories reach into
    // it.
    static std::vector<ByteRange> behindItsBeginning(const rebuild::JoinedPhoto& photo,
                                                     std::uint64_t cluster) {
        auto places = photo.places;
        const auto first = std::min(cluster, places[0].length);
        places[0] = {places[0].offset + first, places[0].length - first};
        return places;
    }
    static bool betterThan(const rebuild::JoinedPhoto& a, const rebuild::JoinedPhoto& b) {
        return a.told != b.told ? a.told > b.told : lengthOf(a) > lengthOf(b);
    }
    static std::uint64_t lengthOf(const rebuild::JoinedPhoto& photo) {
        std::uint64_t length = 0;
        for (const auto& place : photo.places) length += place.length;
        return length;
    }

    CardView& card_;
    std::mutex mutex_;
    std::shared_ptr<const rebuild::Pool>
        pool_;  // replaced, never changed: threads go on with the one they have
    std::map<std::uint64_t, std::uint64_t> lengths_;
    Control& control_;
    std::deque<std::uint64_t> waiting_;
    std::size_t inWork_ = 0;
    std::chrono::nanoseconds leftForRivals_ = kForRivals;
    std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>> done_;
    std::map<std::uint64_t, rebuild::JoinedPhoto> parts_;
    std::map<std::uint64_t, std::shared_ptr<rebuild::PhotoTrials>> trials_;  // by the photo's beginning
};

void Settlement::work(const rebuild::PhotoJoinLimits& limits) {
    for (;;) {
        std::unique_lock lock(mutex_);
        if (waiting_.empty()) return;
        const auto start = waiting_.front();
        waiting_.pop_front();
        ++inWork_;
        const auto pool = pool_;
        auto& kept = trials_[start];
        if (!kept) kept = rebuild::newPhotoTrials();
        const auto trials = kept;
        // What all of it is, is known; others' places may have been taken since, and its own be certain now.
        const auto known = parts_.find(start);
        const auto before = rebuild::tookForRivals(*trials);
        const auto forRivals =
            std::clamp(leftForRivals_, std::chrono::nanoseconds(), rebuild::PhotoJoinLimits().forRivals);
        const bool settled = limits.pieces > 2 && known != parts_.end() && known->second.told == Told::Untold;
        lock.unlock();
        auto own = limits;
        own.forRivals = forRivals;
        if (settled) {
            own.secondBests = 0;
            own.time = std::min(own.time, kOnceMore);
            own.forScans = {};
        }
        if (const auto told = lengths_.find(start); told != lengths_.end()) own.bytes = told->second;
        auto joined = control_.proceed() ? rebuild::joinPhoto(card_, start, *pool, control_, own, trials)
                                         : std::nullopt;
        lock.lock();
        --inWork_;
        leftForRivals_ -= rebuild::tookForRivals(*trials) - before;
        if (control_.stopped()) return;
        if (!joined) continue;
        if (joined->told != Told::Whole) {
            auto& part = parts_[start];
            if (betterThan(*joined, part)) part = std::move(*joined);
            continue;
        }
        if (!pool_->allFree(behindItsBeginning(*joined, pool_->cluster()))) {
            // What another has taken meanwhile is left out of the next try.
            if (pool != pool_) waiting_.push_back(start);
            continue;
        }
        auto left = *pool_;
        left.take(joined->places);
        pool_ = std::make_shared<const rebuild::Pool>(std::move(left));
        done_.emplace_back(start, std::move(*joined));
    }
}

Status Settlement::round(std::vector<std::uint64_t>& broken, const rebuild::PhotoJoinLimits& limits,
                         const Report& report) {
    waiting_.assign(broken.begin(), broken.end());
    std::vector<std::thread> threads;
    const auto count = std::clamp(std::thread::hardware_concurrency(), 1U, 8U);
    for (unsigned i = 0; i < count; ++i) threads.emplace_back([&] { work(limits); });
    Status outcome = Done{};
    for (bool over = false; !over && outcome;) {
        std::this_thread::sleep_for(std::chrono::milliseconds(100));
        std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>> done;
        std::size_t left = 0;
        {
            const std::lock_guard lock(mutex_);
            done.swap(done_);
            left = waiting_.size() + inWork_;
            over = left == 0 || control_.stopped();
        }
        for (const auto& [start, photo] : done) {
            std::erase(broken, start);
            parts_.erase(start);
        }
        outcome = report(done, left);
        if (!outcome) control_.stop();
    }
    for (auto& thread : threads) thread.join();
    return outcome;
}

std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>> Settlement::parts() {
    std::vector<std::pair<std::uint64_t, rebuild::JoinedPhoto>> found(parts_.begin(), parts_.end());
    std::sort(found.begin(), found.end(),
              [](const auto& a, const auto& b) { return betterThan(a.second, b.second); });
    auto left = *pool_;
    std::erase_if(found, [&](const auto& part) {
        if (!left.allFree(behindItsBeginning(part.second, left.cluster()))) return true;
        left.take(part.second.places);
        return false;
    });
    return found;
}

}  // namespace

FreeSpace Scanner::freeSpace(const Running& running, bool withBlanks) const {
    return freeSpaceOf(
        running.claims, running.record.span,
        {running.book.structures().ranges(), running.book.present().ranges()},
        withBlanks ? std::vector<ByteRange>() : job_->ranges(RangeKind::Blank),
        [&](const Finding& finding) { return looksWholeOver(finding, running.book.present()); });
}

Status Scanner::rebuildPhotos(Running& running, Control& control) {
    std::vector<std::uint64_t> broken;
    std::map<std::uint64_t, std::uint64_t> lengths;
    for (const auto& [id, finding] : running.claims.all()) {
        if (!photoInPieces(finding)) continue;
        broken.push_back(finding.start());
        const auto& evidence = finding.evidence;
        const auto proven = std::min(evidence.proven, evidence.range.length);
        if (const auto told = running.book.lengthAt(finding.start(), evidence.family, proven))
            lengths[finding.start()] = *told;
    }
    if (broken.empty()) return Done{};
    std::sort(broken.begin(), broken.end());
    running.joining = Running::Joining{broken.size(), 0};
    const auto space = freeSpace(running);
    Settlement settlement(running.card,
                          rebuild::Pool(running.card, space.stretches, space.cluster, space.origin, control),
                          std::move(lengths), control);
    const auto accept = [&](const auto& joined, std::size_t left) -> Status {
        running.joining->left = left;
        std::set<std::uint64_t> untold;
        for (const auto& [start, photo] : joined) {
            running.joins[start] = joinsOf(photo);
            running.examiner.add({start, "jpeg"}, photo.places);
            if (photo.told == Told::Untold) untold.insert(start);
            ++running.joining->joined;
        }
        const auto keep = [&](Examined& examined) {
            if (untold.contains(examined.candidate.offset)) leaveUnproven(examined.measured, kUntold);
            return true;
        };
        if (!running.examiner.sift(keep)) return Done{};
        return store(running, false);
    };
    for (const auto& round : kRounds) {
        if (broken.empty()) break;
        const auto most = std::max(kLeast, std::chrono::milliseconds(kTogether) / std::ssize(broken));
        rebuild::PhotoJoinLimits limits;
        limits.time = std::min(round.time, most);
        limits.forScans = std::min(round.forScans, most);
        limits.pieces = round.pieces;
        limits.secondBests = round.secondBests;
        limits.rough = round.rough;
        limits.ahead = round.ahead;
        if (auto tried = settlement.round(broken, limits, accept); !tried) return tried;
        if (control.stopped()) return Done{};
    }
    const auto told = accept(settlement.parts(), 0);
    running.joining.reset();
    return told;
}

}  // namespace dreskel
