// How long a search may go on. Counted is the processor time of the thread that searches, so that what is
// found does not depend on what else the machine is doing; a card that keeps it waiting is given up later, by
// the clock. One object a search, used in one thread.
#pragma once

#include <time.h>

#include <chrono>

namespace dreskel {

class Patience {
  public:
    using Duration = std::chrono::nanoseconds;

    explicit Patience(Duration work) : until_(worked() + work), atLatest_(Clock::now() + kSlower * work) {}

    bool over() const { return worked() > until_ || Clock::now() > atLatest_; }
    // What `work` takes does not count.
    template <class Work>
    auto without(Work&& work) {
        const auto before = worked();
        const auto began = Clock::now();
        auto result = work();
        until_ += worked() - before;
        atLatest_ += Clock::now() - began;
        return result;
    }

    // Processor time that this thread has used.
    static Duration worked() {
        timespec time{};
        ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &time);
        return std::chrono::seconds(time.tv_sec) + Duration(time.tv_nsec);
    }

  private:
    using Clock = std::chrono::steady_clock;
    static constexpr int kSlower = 10;

    Duration until_;
    Clock::time_point atLatest_;
};

}  // namespace dreskel
