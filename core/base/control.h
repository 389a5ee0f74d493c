// How long work is paused and stopped from another thread.
#pragma once

#include <condition_variable>
#include <mutex>

namespace dreskel {

// Shared by the one who asks (any thread) and the workers, who call `proceed()` between small steps.
class Control {
  public:
    void stop() {
        const std::lock_guard lock(mutex_);
        stopped_ = true;
        changed_.notify_all();
    }
    void pause() {
        const std::lock_guard lock(mutex_);
        paused_ = true;
    }
    void resume() {
        const std::lock_guard lock(mutex_);
        paused_ = false;
        changed_.notify_all();
    }
    bool stopped() const {
        const std::lock_guard lock(mutex_);
        return stopped_;
    }
    bool paused() const {
        const std::lock_guard lock(mutex_);
        return paused_;
    }
    // Waits while paused. False when the work is to end.
    bool proceed() {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [this] { return stopped_ || !paused_; });
        return !stopped_;
    }

  private:
    mutable std::mutex mutex_;
    std::condition_variable changed_;
    bool stopped_ = false;
    bool paused_ = false;
};

}  // namespace dreskel
