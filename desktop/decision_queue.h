// Decisions on their way into the job. About many files they take a moment: that is done in a thread, some at
// a time, so that neither the window nor a search waits for it; always in the order in which they were made.
#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <mutex>
#include <thread>

#include "session/session.h"

namespace dreskel {

using Decisions = std::map<std::int64_t, Decision>;

class DecisionQueue {
  public:
    explicit DecisionQueue(std::shared_ptr<Session> session);
    // Does what is left first.
    ~DecisionQueue();
    DecisionQueue(const DecisionQueue&) = delete;
    DecisionQueue& operator=(const DecisionQueue&) = delete;

    // Whether so many may be decided at once: they are few, and none are on their way.
    bool mayAtOnce(std::size_t files);
    // Done in the thread.
    void later(std::function<void()> work);
    // Stores them some at a time; for the thread, or for few.
    void store(const Decisions& decisions);
    // Returns when nothing is on its way.
    void settle();

  private:
    void run();

    std::shared_ptr<Session> session_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::deque<std::function<void()>> waiting_;  // the first is being done
    bool ending_ = false;
    std::thread thread_;
};

}  // namespace dreskel
